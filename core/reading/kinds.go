package reading

import (
	"bytes"
	"errors"

	"yembo/core/hw"
	"yembo/core/label"
)

type reader func(o *Observed, text []byte) error

// kindOf recognises a text report. Only its first part is looked at for words that
// stand at the beginning; JSON and XML are told apart by what they hold.
func kindOf(text []byte) (reader, string) {
	head := text[:min(len(text), 64<<10)]
	start := bytes.TrimSpace(head)
	switch {
	case len(start) == 0:
		return nil, ""
	case start[0] == '{' || start[0] == '[':
		return kindOfJSON(text)
	case start[0] == '<':
		if bytes.Contains(head, []byte("<BatteryReport")) {
			return (*Observed).batteryReport, "battery_report"
		}
		return nil, ""
	case bytes.HasPrefix(start, []byte("# dmidecode")) || dmiHandle.Match(head) || dmiQuiet.Match(head):
		return (*Observed).dmidecode, "dmidecode"
	case bytes.Contains(head, []byte("/org/freedesktop/UPower")):
		return (*Observed).upower, "upower"
	case bytes.Contains(head, []byte("POWER_SUPPLY_")) || sysLine.Match(head):
		return (*Observed).powerSupply, "power_supply"
	case pciHead.Match(head):
		return (*Observed).lspci, "lspci"
	}
	return nil, ""
}

func isSPD(data []byte) bool {
	if label.IsSPD(data) {
		return true
	}
	// One that is cut short, or too long, is told apart from a text by its bytes.
	_, err := label.ReadSPD(data)
	return err != nil && errors.Is(err, label.ErrNotSPD) && err != label.ErrNotSPD && bytes.IndexByte(data, 0) >= 0
}

// spd reads the image of a module's own description.
func (o *Observed) spd(data []byte) error {
	s, err := label.ReadSPD(data)
	if err != nil {
		return &Refused{Reason: err.Error()}
	}
	d := Device{Form: s.Form, Type: s.Type, Capacity: hw.Known(s.Capacity), Rated: positive(s.SpeedMTs),
		Soldered: hw.Known(false), PartNumber: said(s.PartNumber), Serial: s.Serial,
		Ranks: positive(s.Ranks), ChipWidth: positive(s.ChipWidth), CAS: positive(s.CAS),
		ChecksumOK: hw.Known(s.ChecksumOK), source: "spd"}
	if s.Voltage > 0 {
		d.Voltage = hw.Known(s.Voltage)
	}
	if !s.ChecksumOK {
		o.note("the checksum of the SPD image is wrong: what it says may be wrong too")
	}
	o.From = []string{"spd"}
	o.memory().Devices = []Device{d}
	return nil
}
