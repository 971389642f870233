package reading

import (
	"regexp"
	"strings"

	"yembo/core/hw"
)

// smartctl reads the JSON of smartctl -j.
func (o *Observed) smartctl(text []byte) error {
	all, err := objects(text)
	if err != nil {
		return err
	}
	for _, top := range all {
		for _, v := range list(top) {
			d := Drive{Model: said(str(at(v, "model_name"))), Serial: saidSerial(str(at(v, "serial_number"))),
				source: "smartctl"}
			switch strings.ToUpper(str(at(v, "device", "protocol"))) {
			case "NVME":
				d.Interface = "nvme"
			case "ATA":
				d.Interface = "sata"
			}
			for _, size := range []any{at(v, "user_capacity", "bytes"), at(v, "user_capacity"),
				at(v, "nvme_total_capacity")} {
				if n, ok := whole(size); ok && n > 0 {
					d.Capacity = hw.Known(n)
					break
				}
			}
			if passed, ok := at(v, "smart_status", "passed").(bool); ok {
				d.Healthy = hw.Known(passed)
			}
			if n, ok := small(at(v, "temperature", "current")); ok {
				d.Temperature = hw.Known(n)
			}
			if n, ok := small(at(v, "power_on_time", "hours")); ok && n >= 0 {
				d.PowerOn = hw.Known(n)
			}
			if log, ok := at(v, "nvme_smart_health_information_log").(object); ok {
				d.readLog(log, false)
			} else if rate, _ := small(at(v, "rotation_rate")); rate == 0 {
				d.Wear = ataWear(list(at(v, "ata_smart_attributes", "table")))
			}
			if d.Model == "" && d.Serial == "" && !d.Capacity.IsKnown() && !d.Healthy.IsKnown() {
				o.note("smartctl told nothing of a drive: %s", smartctlSays(v))
				continue
			}
			o.Drives = append(o.Drives, d)
		}
	}
	if len(o.Drives) == 0 && len(o.Notes) == 0 {
		return &Refused{Reason: "the JSON of smartctl holds no drive"}
	}
	return nil
}

// smartctlSays is the first message of smartctl itself.
func smartctlSays(v any) string {
	for _, m := range list(at(v, "smartctl", "messages")) {
		if s := str(at(m, "string")); s != "" {
			return s
		}
	}
	return "no message"
}

// readLog reads an NVMe health log. What the drive told elsewhere stands. kelvin says
// that the temperature is counted from absolute zero.
func (d *Drive) readLog(log object, kelvin bool) {
	for _, name := range []string{"percentage_used", "percent_used"} {
		if n, ok := small(log[name]); ok && n >= 0 {
			d.Wear = hw.Known(n)
			break
		}
	}
	if n, ok := small(log["power_on_hours"]); ok && n >= 0 && !d.PowerOn.IsKnown() {
		d.PowerOn = hw.Known(n)
	}
	if n, ok := small(log["temperature"]); ok && !d.Temperature.IsKnown() {
		if kelvin && n > 200 {
			n -= 273
		}
		if !kelvin || n > -100 {
			d.Temperature = hw.Known(n)
		}
	}
	if d.Healthy.IsKnown() {
		return
	}
	warning := log["critical_warning"]
	if inner, ok := warning.(object); ok {
		warning = inner["value"]
	}
	if n, ok := whole(warning); ok {
		d.Healthy = hw.Known(n == 0)
	}
}

// wearNames find the attribute that tells the life left of a solid-state drive; the first
// that a drive has counts.
var wearNames = []*regexp.Regexp{
	regexp.MustCompile(`(?i)life_?left|lifetime_?rem|rem\w*_?life|percent_life`),
	regexp.MustCompile(`(?i)wearout`),
	regexp.MustCompile(`(?i)wear_level`),
}

// wearIDs are the same by number, for drives whose attributes have no known name.
var wearIDs = []int{231, 233, 202, 169, 177}

// ataWear is 100 less the normalised value of the life attribute.
func ataWear(table []any) hw.Maybe[int] {
	worn := func(row any) (hw.Maybe[int], bool) {
		n, ok := small(at(row, "value"))
		if !ok || n < 0 || n > 100 {
			return hw.Maybe[int]{}, false
		}
		return hw.Known(100 - n), true
	}
	for _, name := range wearNames {
		for _, row := range table {
			if name.MatchString(str(at(row, "name"))) {
				if w, ok := worn(row); ok {
					return w
				}
			}
		}
	}
	for _, id := range wearIDs {
		for _, row := range table {
			if n, ok := small(at(row, "id")); ok && n == id && strings.HasPrefix(str(at(row, "name")), "Unknown") {
				if w, ok := worn(row); ok {
					return w
				}
			}
		}
	}
	return hw.Maybe[int]{}
}

// nvme reads the JSON of nvme-cli: list, id-ctrl and smart-log.
func (o *Observed) nvme(text []byte) error {
	all, err := objects(text)
	if err != nil {
		return err
	}
	for _, top := range all {
		for _, v := range list(top) {
			fields, _ := v.(object)
			switch {
			case fields["Devices"] != nil:
				for _, d := range list(fields["Devices"]) {
					o.nvmeListed(d)
				}
			case fields["sn"] != nil || fields["mn"] != nil:
				d := Drive{Model: said(str(fields["mn"])), Serial: saidSerial(str(fields["sn"])), Interface: "nvme",
					source: "nvme"}
				if n, ok := whole(fields["tnvmcap"]); ok && n > 0 {
					d.Capacity = hw.Known(n)
				}
				o.Drives = append(o.Drives, d)
			case fields["critical_warning"] != nil:
				d := Drive{Interface: "nvme", source: "nvme"}
				d.readLog(fields, true)
				o.bare = append(o.bare, d)
			}
		}
	}
	if len(o.Drives)+len(o.bare) == 0 {
		return &Refused{Reason: "the JSON of nvme holds neither a list, an identify report nor a health log"}
	}
	return nil
}

// nvmeListed reads an entry of nvme list, of the flat and of the nested kind.
func (o *Observed) nvmeListed(v any) {
	if subsystems := list(at(v, "Subsystems")); subsystems != nil {
		for _, s := range subsystems {
			for _, c := range list(at(s, "Controllers")) {
				d := Drive{Model: said(str(at(c, "ModelNumber"))), Serial: saidSerial(str(at(c, "SerialNumber"))),
					Interface: "nvme", source: "nvme"}
				var size int64
				for _, n := range append(list(at(c, "Namespaces")), list(at(s, "Namespaces"))...) {
					if bytes, ok := whole(at(n, "PhysicalSize")); ok && bytes > 0 {
						size += bytes
					}
				}
				if size > 0 {
					d.Capacity = hw.Known(size)
				}
				o.Drives = append(o.Drives, d)
			}
		}
		return
	}
	d := Drive{Model: said(str(at(v, "ModelNumber"))), Serial: saidSerial(str(at(v, "SerialNumber"))),
		Interface: "nvme", source: "nvme"}
	if n, ok := whole(at(v, "PhysicalSize")); ok && n > 0 {
		d.Capacity = hw.Known(n)
	}
	o.Drives = append(o.Drives, d)
}

// ownLog finds the NVMe drive that a log without a name belongs to: the only one there
// is, or the only one that no log has told of yet; -1 where that is not clear.
func (o *Observed) ownLog() int {
	if len(o.bare) != 1 {
		return -1
	}
	only, all, at := -1, 0, -1
	unread := 0
	for i, d := range o.Drives {
		if d.Interface != "nvme" {
			continue
		}
		all++
		at = i
		if !d.Wear.IsKnown() {
			unread++
			only = i
		}
	}
	switch {
	case all == 1:
		return at
	case unread == 1:
		return only
	}
	return -1
}
