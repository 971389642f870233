package reading

import (
	"bytes"
	"encoding/xml"
	"errors"
	"io"
	"regexp"
	"strconv"
	"strings"

	"yembo/core/hw"
)

// upower reads the text of upower -d or -i: packs that power the machine.
func (o *Observed) upower(text []byte) error {
	var now *Battery
	pack, supply, present := false, false, true
	keep := func() {
		if now != nil && pack && supply && present && (now.Design.IsKnown() || now.Full.IsKnown()) {
			o.Batteries = append(o.Batteries, *now)
		}
		now, pack, supply, present = nil, false, false, true
	}
	eachLine(text, func(line string) {
		if strings.HasPrefix(line, "Device:") {
			keep()
			// The display device adds up all packs; it is none of its own.
			if !strings.Contains(line, "DisplayDevice") {
				now = &Battery{source: "upower"}
			}
			return
		}
		if len(line) > 0 && line[0] != ' ' && line[0] != '\t' {
			keep() // "Daemon:" and what follows it
			return
		}
		if now == nil {
			return
		}
		body := strings.TrimSpace(line)
		name, value, field := strings.Cut(body, ":")
		value = strings.TrimSpace(value)
		switch {
		case body == "battery":
			pack = true
		case !field:
		case name == "power supply":
			supply = value == "yes"
		case name == "present":
			present = value == "yes"
		case name == "energy-full-design":
			now.Design = energyOf(value)
		case name == "energy-full":
			now.Full = energyOf(value)
		case name == "charge-cycles":
			if n, ok := leadingInt(value); ok {
				now.Cycles = positive(n)
			}
		case name == "voltage-min-design" || name == "voltage-design":
			if v, _, ok := figure(value); ok {
				now.Voltage = likely(v.Hundredths())
			}
		}
	})
	keep()
	return nil
}

func energyOf(text string) hw.Maybe[hw.Dec] {
	v, unit, ok := figure(text)
	if !ok || unit != "Wh" {
		return hw.Maybe[hw.Dec]{}
	}
	return likely(v.Hundredths())
}

var sysLine = regexp.MustCompile(`(?m)^\S*power_supply/[^/\s]+/[a-z_]+:`)

// sysNames are the attributes that are read, as a file of /sys has them in its name and
// as uevent spells them.
var sysNames = func() wanted {
	w := fields("name", "type", "scope", "present", "cycle_count", "voltage_min_design", "voltage_max_design",
		"energy_full_design", "energy_full", "charge_full_design", "charge_full")
	for name, i := range w {
		w[strings.ToUpper(name)] = i
	}
	return w
}()

// powerSupply reads /sys power_supply text: uevent files one after the other, or lines
// of path:value as grep prints them. Figures are in millionths.
func (o *Observed) powerSupply(text []byte) error {
	var packs []*row
	byName := map[string]*row{}
	var now *row // of the uevent text that is read
	begin := func() *row {
		packs = append(packs, &row{})
		return packs[len(packs)-1]
	}
	eachLine(text, func(line string) {
		line = strings.TrimSpace(line)
		if i := strings.Index(line, "power_supply/"); i >= 0 && !strings.Contains(line[:i], "=") {
			// .../power_supply/BAT0/charge_full:4600000, or a heading with the path alone.
			name, attr, ok := strings.Cut(line[i+len("power_supply/"):], "/")
			attr, value, valued := strings.Cut(attr, ":")
			if !ok || !valued {
				return
			}
			if byName[name] == nil {
				byName[name] = begin()
			}
			if attr == "uevent" {
				attr, value, _ = strings.Cut(strings.TrimPrefix(value, "POWER_SUPPLY_"), "=")
			}
			sysNames.set(byName[name], attr, value)
			return
		}
		name, value, ok := strings.Cut(line, "=")
		attr, ours := strings.CutPrefix(name, "POWER_SUPPLY_")
		if !ok || !ours {
			return
		}
		// A name begins the next supply.
		if now == nil || attr == "NAME" && *now != (row{}) {
			now = begin()
		}
		sysNames.set(now, attr, value)
	})
	for _, p := range packs {
		if b, ok := sysBattery(p); ok {
			o.Batteries = append(o.Batteries, b)
		}
	}
	return nil
}

// sysBattery reads one supply; ok is false for one that is no pack of the machine.
func sysBattery(p *row) (Battery, bool) {
	b := Battery{source: "power_supply"}
	get := func(name string) string { return sysNames.get(p, name) }
	if kind := get("type"); kind != "" && kind != "Battery" || strings.EqualFold(get("scope"), "device") ||
		get("present") == "0" {
		return b, false
	}
	millionths := func(name string) int64 {
		n, err := strconv.ParseInt(get(name), 10, 64)
		if err != nil || n <= 0 || n > 1e12 {
			return 0
		}
		return n
	}
	volts := millionths("voltage_min_design")
	if volts == 0 {
		volts = millionths("voltage_max_design")
	}
	energy := func(wh, ah string) hw.Maybe[hw.Dec] {
		if n := millionths(wh); n > 0 {
			return likely(hw.Dec(n).Hundredths())
		}
		if n := millionths(ah); n > 0 && volts > 0 {
			// µAh × µV: to millionths of a Wh.
			return likely(hw.Dec(n / 1000 * (volts / 1000)).Hundredths())
		}
		return hw.Maybe[hw.Dec]{}
	}
	b.Design, b.Full = energy("energy_full_design", "charge_full_design"), energy("energy_full", "charge_full")
	if volts > 0 {
		b.Voltage = likely(hw.Dec(volts).Hundredths())
	}
	if n, ok := leadingInt(get("cycle_count")); ok {
		b.Cycles = positive(n)
	}
	return b, b.Design.IsKnown() || b.Full.IsKnown()
}

// report is the battery report of the common desktop system, as XML. Capacities are mWh.
type report struct {
	System struct {
		Maker    string `xml:"SystemManufacturer"`
		Model    string `xml:"SystemProductName"`
		Firmware string `xml:"BIOSVersion"`
	} `xml:"SystemInformation"`
	Batteries []struct {
		Design   string `xml:"DesignCapacity"`
		Full     string `xml:"FullChargeCapacity"`
		Cycles   string `xml:"CycleCount"`
		Relative string `xml:"RelativeCapacity"`
	} `xml:"Batteries>Battery"`
}

// batteryReport reads that report. Nothing outside the text is followed: the decoder
// knows no entities of its own.
func (o *Observed) batteryReport(text []byte) error {
	d := xml.NewDecoder(bytes.NewReader(text))
	// The text is UTF-8 by now, whatever its first line says.
	d.CharsetReader = func(_ string, in io.Reader) (io.Reader, error) { return in, nil }
	var r report
	if err := d.Decode(&r); err != nil {
		line, column := d.InputPos()
		reason := "the battery report is not whole XML"
		var syntax *xml.SyntaxError
		if errors.As(err, &syntax) {
			reason = "the battery report is not whole XML: " + syntax.Msg
		}
		return &Refused{reason, line, column}
	}
	o.system().Maker, o.system().Model, o.system().Firmware = said(r.System.Maker), said(r.System.Model),
		said(r.System.Firmware)
	for _, x := range r.Batteries {
		if strings.TrimSpace(x.Relative) == "1" {
			o.note("a pack of the battery report tells its capacity in parts, not in Wh; it is left out")
			continue
		}
		b := Battery{source: "battery_report"}
		if n, ok := leadingInt(x.Design); ok {
			b.Design = likely(fromMilli(int64(n)))
		}
		if n, ok := leadingInt(x.Full); ok {
			b.Full = likely(fromMilli(int64(n)))
		}
		if n, ok := leadingInt(x.Cycles); ok {
			b.Cycles = positive(n)
		}
		if b.Design.IsKnown() || b.Full.IsKnown() {
			o.Batteries = append(o.Batteries, b)
		}
	}
	return nil
}
