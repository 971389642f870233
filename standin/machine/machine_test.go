package machine

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"yembo/core/hw"
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
		if seen[n.Name] == sound {
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
