package form

import (
	"encoding/json"
	"net/url"
	"reflect"
	"testing"

	"yembo/core/hw"
)

// TestMachineForm: what is in a machine survives document → form → document, every field that a
// document can have.
func TestMachineForm(t *testing.T) {
	ch := &hw.Chassis{Memory: &hw.Memory{Sockets: []hw.Socket{{ID: "a", Form: "SO-DIMM"}},
		Soldered: []hw.Soldered{
			{ID: "onboard"},
		}}, Slots: []hw.Slot{{ID: "m2a", Purpose: hw.ForStorage}, {ID: "wlan", Purpose: hw.ForWireless}},
		Batteries: []hw.Battery{{ID: "long"}}}
	want := hw.Fitted{SolderedGB: map[string]hw.Dec{"onboard": hw.DecOf(8)},
		Memory: []hw.FittedModule{{Socket: "a"}}, Drives: []hw.FittedDrive{{Place: "m2a"}}, Battery: &hw.FittedBattery{},
		Wireless: &hw.FittedWireless{}}
	for _, part := range []any{&want.Memory[0].Module, &want.Drives[0].Drive, &want.Drives[0], want.Battery, want.Wireless} {
		fillKnown(reflect.ValueOf(part).Elem())
	}
	want.Memory[0].Module.Type, want.Memory[0].Module.Form = "DDR4", "SO-DIMM"
	d := &want.Drives[0]
	d.Place, d.PartitionTable, d.Drive.Interface, d.Drive.Form = "m2a", hw.Known("gpt"), "nvme", "2.5in"
	want.Battery.Option, want.Wireless.Slot = "long", "wlan"
	want.Wireless.Standard, want.Wireless.Interface = hw.Known[hw.Standard]("wifi6"), hw.Known[hw.Interface]("pcie")
	f := New(MachineTyped(ch, &hw.Machine{Fitted: want}))
	got := f.Fitted(ch)
	if f.Count() > 0 || !reflect.DeepEqual(got, want) {
		t.Errorf("%v\n%+v\n%+v", f.Faults, got, want)
	}
}

// fillKnown gives every field of a part that can be told a value.
func fillKnown(part reflect.Value) {
	for i := range part.NumField() {
		switch f := part.Field(i).Addr().Interface().(type) {
		case *string:
			*f = part.Type().Field(i).Name
		case *hw.Maybe[hw.Dec]:
			*f = hw.Known(hw.DecOf(i + 2))
		case *hw.Maybe[int]:
			*f = hw.Known(i + 2)
		case *hw.Maybe[bool]:
			*f = hw.Known(i%2 == 0)
		case *hw.Maybe[string]:
			*f = hw.Known("M")
		}
	}
}

// TestFittedLists: a list of what is fitted is told whole or not at all.
func TestFittedLists(t *testing.T) {
	ch := &hw.Chassis{Memory: &hw.Memory{Sockets: []hw.Socket{{ID: "a", Form: "SO-DIMM"}, {ID: "b", Form: "SO-DIMM"}}}}
	for name, c := range map[string]struct {
		typed url.Values
		want  string
		fault string
	}{
		"nothing told": {url.Values{}, `{}`, ""},
		"both empty":   {url.Values{"/fitted/memory/0/is": {"empty"}, "/fitted/memory/1/is": {"empty"}}, `{"memory":[]}`, ""},
		"told by its figure": {url.Values{"/fitted/memory/0/capacity_gb": {"8"}, "/fitted/memory/1/is": {"empty"}},
			`{"memory":[{"socket":"a","module":{"form":"SO-DIMM","capacity_gb":8}}]}`, ""},
		"one left open": {url.Values{"/fitted/memory/1/is": {"part"}}, "", "/fitted/memory/0/is"},
	} {
		f := New(c.typed)
		got := f.Fitted(ch)
		if c.fault != "" {
			if len(f.Faults[c.fault]) == 0 {
				t.Errorf("%s: %v", name, f.Faults)
			}
			continue
		}
		raw, err := json.Marshal(got)
		if err != nil || f.Count() > 0 || string(raw) != c.want {
			t.Errorf("%s: %v %v, %s", name, err, f.Faults, raw)
		}
	}
}
