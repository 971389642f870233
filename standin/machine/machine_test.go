package machine

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"yembo/core/hw"
	"yembo/core/proof"
	"yembo/core/reading"
	"yembo/exchange"
)

// models are the demo's records.
func models(t *testing.T) []*hw.Chassis {
	t.Helper()
	files, err := filepath.Glob("../../shop/demo/*.json")
	if err != nil {
		t.Fatal(err)
	}
	var out []*hw.Chassis
	for _, file := range files {
		raw, err := os.ReadFile(file)
		if err != nil {
			t.Fatal(err)
		}
		if ch, err := exchange.ReadChassis(raw); err == nil {
			out = append(out, ch) // the others are jobs and parts
		}
	}
	if len(out) < 9 {
		t.Fatalf("%d models", len(out))
	}
	return out
}

// filled is a machine of a model with a module in every socket, a drive in every place
// that takes one, and its first pack.
func filled(ch *hw.Chassis) *hw.Machine {
	m := &hw.Machine{Format: hw.FormatMachine, ID: ch.ID + "-01", Chassis: ch.ID, Serial: "S-" + ch.ID}
	m.Fitted.Memory, m.Fitted.Drives = []hw.FittedModule{}, []hw.FittedDrive{}
	for i := range ch.Mem().Sockets {
		so := &ch.Mem().Sockets[i]
		m.Fitted.Memory = append(m.Fitted.Memory,
			hw.FittedModule{Socket: so.ID, Module: hw.Module{Type: ch.Mem().Type.Or(""), Form: so.Form,
				Capacity: hw.Known(hw.DecOf(8)), Speed: hw.Known(2666), Ranks: hw.Known(1)}})
	}
	for i := range ch.Slots {
		if s := &ch.Slots[i]; s.Purpose == "storage" && s.OnlyOn == "" {
			kind := hw.NVMe
			if s.Protocols != nil {
				kind = s.Protocols[0]
			}
			m.Fitted.Drives = append(m.Fitted.Drives,
				hw.FittedDrive{Place: s.ID, Drive: hw.Drive{Interface: kind,
					Capacity: hw.Known(hw.DecOf(512 << len(m.Fitted.Drives)))}})
		}
	}
	if len(ch.Batteries) > 0 {
		m.Fitted.Battery = &hw.FittedBattery{Option: ch.Batteries[0].ID, FullWh: hw.Known(hw.DecOf(30)),
			Cycles: hw.Known(200)}
	}
	return m
}

func told(t *testing.T, ch *hw.Chassis, m *hw.Machine, f Faults) *reading.Observed {
	reports, err := Reports(ch, m, f)
	if err != nil {
		t.Fatal(err)
	}
	var all []*reading.Observed
	for _, r := range reports {
		o, err := reading.Read(r.Data)
		if err != nil {
			t.Fatalf("%s: %v\n%s", r.Name, err, r.Data)
		}
		all = append(all, o)
	}
	return reading.Merge(all)
}

// differing are the lines that are not as believed, as "what: read".
func differing(c *reading.Comparison) string {
	var out []string
	for _, l := range c.Lines {
		if l.How != reading.Same && l.How != reading.More && l.Key != "firmware" {
			out = append(out, l.What+": "+l.Read)
		}
	}
	return strings.Join(out, "; ")
}

// TestFullCircle: what each demo model's machine tells is read back as what it was made
// from; and a machine of which nothing is known is known after its reading was accepted.
func TestFullCircle(t *testing.T) {
	for _, ch := range models(t) {
		m := filled(ch)
		o := told(t, ch, m, Faults{})
		for _, l := range reading.Compare(o, ch, m, nil).Lines {
			fits := strings.HasPrefix(l.Key, "drive") || strings.HasPrefix(l.Key, "memory") ||
				strings.HasPrefix(l.Key, "soldered") || strings.HasPrefix(l.Key, "Battery") || l.Key == "serial" ||
				l.Key == "model"
			if fits && l.How != reading.Same && l.How != reading.More || l.How == reading.Contradicts &&
				l.Key != "/memory/limits/controller_gb" && l.Key != "max_gb" {
				t.Errorf("%s: %s is %s: believed %q, read %q", ch.ID, l.What, l.How, l.Believed, l.Read)
			}
		}
		blank := &hw.Machine{Format: hw.FormatMachine, ID: m.ID, Chassis: ch.ID}
		c := reading.Compare(o, ch, blank, nil)
		accepted := map[string]bool{}
		for _, l := range c.Lines {
			accepted[l.Key] = l.Advised
		}
		got, err := c.Fit(blank, accepted)
		if err != nil {
			t.Fatal(err)
		}
		if again := reading.Compare(o, ch, got, nil); strings.Contains(differing(again), "In ") ||
			strings.Contains(differing(again), "Drive") || strings.Contains(differing(again), "Battery") {
			t.Errorf("%s: after all was accepted there still differs %s", ch.ID, differing(again))
		}
		if len(got.Fitted.Memory) != len(m.Fitted.Memory) || len(got.Fitted.Drives) != len(m.Fitted.Drives) ||
			got.Serial != m.Serial {
			t.Errorf("%s: accepted as %+v", ch.ID, got)
		}
	}
}

// TestFaults: each fault is seen where it is, with what it reads as.
func TestFaults(t *testing.T) {
	var ch *hw.Chassis
	for _, x := range models(t) {
		if x.ID == "pellam-drover-15" {
			ch = x
		}
	}
	m := filled(ch)
	sound := differing(reading.Compare(told(t, ch, m, Faults{}), ch, m, nil))
	seen := map[string]string{}
	for _, n := range Names {
		f, err := FaultsOf([]string{n.Name})
		if err != nil {
			t.Fatal(err)
		}
		seen[n.Name] = differing(reading.Compare(told(t, ch, m, f), ch, m, nil))
		// What runs slower, or was used before, is set against a plan, and not against the record.
		if seen[n.Name] == sound && !n.AtScreen && n.Name != "slower" && n.Name != "used_drive" {
			t.Errorf("%s is not seen", n.Words)
		}
	}
	for name, want := range map[string]string{"unseated": "In dimm2: empty", "empty_channel": "In dimm2: empty",
		"fewer_lanes": "× 1", "worn_battery": "1100 cycles", "drive_absent": "no report of it",
		"lying_firmware": "sockets, by firmware: 4"} {
		if !strings.Contains(seen[name], want) {
			t.Errorf("%s reads as %q; want …%s…", name, seen[name], want)
		}
	}
	if whole, less := len(told(t, ch, m, Faults{}).Drives),
		len(told(t, ch, m, Faults{DriveAbsent: true}).Drives); less != whole-1 {
		t.Errorf("with a drive absent %d of %d drives answer", less, whole)
	}
	if _, err := FaultsOf([]string{"haunted"}); err == nil {
		t.Error("a fault that there is not is switched on")
	}
}

// TestEveryDifference: the simulated machine shows each row of the table of differences, by what it
// tells or at its screen, and in none but that.
func TestEveryDifference(t *testing.T) {
	ch := &hw.Chassis{
		ID:    "tern",
		Kind:  hw.Notebook,
		Maker: "Quillon",
		Model: "Tern",
		Memory: &hw.Memory{Type: hw.Known[hw.MemoryType]("DDR4"), MaxSpeed: hw.Known(3200), Channels: hw.Known(2),
			Soldered: []hw.Soldered{}, Sockets: []hw.Socket{{ID: "dimm1", Form: "SO-DIMM", Channel: "A"}, {ID: "dimm2",
				Form: "SO-DIMM", Channel: "B"}}},
		Slots:     []hw.Slot{{ID: "m2a", Purpose: "storage", Gen: hw.Known(4), Lanes: hw.Known(4)}},
		Bays:      []hw.Bay{{ID: "bay", Form: hw.Form25}},
		Batteries: []hw.Battery{{ID: "small", DesignWh: hw.Known(hw.DecOf(50))}}}
	module := hw.Module{Type: "DDR4", Form: "SO-DIMM", Capacity: hw.Known(hw.DecOf(8)), Speed: hw.Known(3200), Serial: "M1"}
	m := &hw.Machine{
		ID:      "m1",
		Chassis: "tern",
		Serial:  "Q-1",
		Fitted: hw.Fitted{Memory: []hw.FittedModule{{Socket: "dimm1", Module: module}, {Socket: "dimm2", Module: module}},
			Drives: []hw.FittedDrive{
				{
					Place: "m2a",
					New:   hw.Known(true),
					Drive: hw.Drive{
						Interface: "nvme",
						Capacity:  hw.Known(hw.DecOf(1000)),
						Gen:       hw.Known(4),
						Lanes:     hw.Known(4),
						Serial:    "D1",
					},
				},
				{Place: "bay", Drive: hw.Drive{Interface: "sata", Capacity: hw.Known(hw.DecOf(2000))}},
			},
			Battery: &hw.FittedBattery{Option: "small", FullWh: hw.Known(hw.DecOf(50))}},
	}
	want := map[string]string{
		"":               "",
		"unseated":       "module_absent module_absent",
		"empty_channel":  "module_absent module_absent",
		"fewer_lanes":    "link",
		"drive_absent":   "drive_absent",
		"worn_battery":   "battery_low",
		"lying_firmware": "",
		"slower":         "slower",
		"other_module":   "other_module other_module",
		"other_drive":    "other_drive",
		"failing_drive":  "drive_failing",
		"used_drive":     "drive_used drive_used",
		"other_pack":     "other_battery",
		"other_serial":   "serial",
		"one_channel":    "one_channel",
		"no_volume":      "no_volume",
		"no_start":       "no_start",
		"message":        "message",
	}
	seen := map[proof.Code]bool{}
	for name, codes := range want {
		var f Faults
		var err error
		if name != "" {
			if f, err = FaultsOf([]string{name}); err != nil {
				t.Fatal(err)
			}
		}
		reports, err := Reports(ch, m, f)
		if err != nil {
			t.Fatal(err)
		}
		var read []*reading.Observed
		for _, r := range reports {
			o, err := reading.Read(r.Data)
			if err != nil {
				t.Fatal(err)
			}
			read = append(read, o)
		}
		var got []string
		for _, d := range proof.DifferencesOf(ch, m, proof.Compare(ch, m, reading.Merge(read))).Differences {
			got = append(got, strings.TrimPrefix(string(d.Code), "proof."))
			seen[d.Code] = true
		}
		for _, c := range Screen(f) {
			got = append(got, strings.TrimPrefix(string(c), "proof."))
			seen[c] = true
		}
		if text := strings.Join(got, " "); text != codes {
			t.Errorf("%q shows %q, not %q", name, text, codes)
		}
	}
	for _, row := range proof.Table {
		if !seen[row.Code] {
			t.Errorf("%s is never shown", row.Code)
		}
	}
	if len(want) != len(Names)+1 {
		t.Errorf("%d faults, %d tried", len(Names), len(want)-1)
	}
}
