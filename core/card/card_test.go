package card

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"yembo/core/hw"
	"yembo/core/plan"
)

const chassis = `{"format":"yembo.chassis/1","id":"tern","maker":"Quillon","model":"Tern","kind":"notebook",
"quirks":["hold_power_to_cut","charger_to_wake","notice_after_memory","no_clock_cell"],"hold_s":10,
"memory":{"sockets":[{"id":"dimm1","form":"SO-DIMM","reach":"plug"}]},
"slots":[{"id":"m2a","purpose":"storage","key":"M","lengths":{"30":"movable","80":"movable","42":"needs:bracket-42"},
"cooling":"pad","carry_over":["pad"],"fixing":{"bit":"PH0","screw":"M2x3","from":"kit"},"reach":"plug"},
 {"id":"wlan","purpose":"wireless","key":"E","lengths":{"30":"fitted"},"antennas":["black","white","grey"],"reach":"plug"}],
"bays":[{"id":"bay","form":"2.5in","caddy":"fitted","connector":"needs:bay-cable","reach":"tray"}],
"batteries":[{"id":"small","part_numbers":["QB-1"],"carry_over":["four screws"]}],"battery_reach":"plug",
"fasteners":[{"id":"long","count":3,"bit":"T5","length_mm":6,"thread":"M2","head":"flat","hidden":"under the rear feet"},
{"id":"short","count":2,"bit":"T5","length_mm":4,"captive":true},{"id":"sink","count":4,"bit":"PH0","order":[1,3,2,4]}],
"services":[{"id":"repaste","name":"Renew thermal paste","reach":"sink","minutes":12,"tools":["brush"],
"consumables":["paste"],"carry":["pads"]}],
"steps":[{"id":"off","verb":"power_down","needs":[]},{"id":"screws","verb":"unscrew","part":"cover","needs":["off"],
"fasteners":[{"group":"long","count":3},{"group":"short","count":2}]},
 {"id":"cover","verb":"unclip","part":"cover","needs":["screws"],"start_at":"the hinge","tool":"pick",
"close_hint":"front edge first"},
 {"id":"plug","verb":"unplug","part":"battery plug","needs":["cover"],"connector":"slide_latch","isolates_power":true},
 {"id":"spacer","verb":"lift","part":"spacer","needs":["plug"],"back":{"place":"bay","state":"empty"}},
 {"id":"tray","verb":"remove","part":"tray","needs":["spacer"],"cautions":["do_not_force"]},
 {"id":"sink","verb":"unscrew","part":"heat sink","needs":["plug"],"fasteners":[{"group":"sink","count":4}]}],
"findings":[{"path":"/steps/plug/isolates_power","value":true,"source":"bench","on":"2026-04-01","by":"R. Okell",
"note":"the plug is reached first"}]}`

const machine = `{"format":"yembo.machine/1","id":"m1","chassis":"tern","fitted":{"memory":[],"drives":[{"place":"m2a",
"drive":{"interface":"nvme","length_mm":30,"capacity_gb":256},"boot":true}],"wireless":{"slot":"wlan","standard":"wifi5"},
"battery":{"option":"small"}}}`

const parts = `{"format":"yembo.parts/1","parts":[{"id":"mem","kind":"memory","name":"Corvane 2 x 8","price_cents":1,
"stock":1,"count":2,"memory":{"type":"DDR4","form":"SO-DIMM"}},
{"id":"d80","kind":"drive","name":"Bexmoor 80","price_cents":1,"lead_days":4,"drive":{"interface":"nvme","length_mm":80}},
{"id":"d30","kind":"drive","name":"Bexmoor 30","price_cents":1,"drive":{"interface":"nvme","length_mm":30}},
{"id":"d42","kind":"drive","name":"Bexmoor 42","price_cents":1,"source":"customer","drive":{"interface":"nvme",
"length_mm":42}},{"id":"d","kind":"drive","name":"Bexmoor","price_cents":1,"drive":{"interface":"nvme"}},
{"id":"d25","kind":"drive","name":"Bexmoor 2.5","price_cents":1,"drive":{"interface":"sata"}},{"id":"card",
"kind":"wireless","name":"Hallam 6","price_cents":1,"wireless":{"length_mm":30,"antennas":2}},
{"id":"pack","kind":"battery","name":"Wexcell","price_cents":1,"battery":{"part_number":"QB-1"}},{"id":"br",
"kind":"accessory","name":"Bracket to 42","price_cents":1,"provides":"bracket-42"},{"id":"ca","kind":"accessory",
"name":"Bay cable","price_cents":1,"provides":"bay-cable"}]}`

// TestCard: each thing an option does stands on its card, and nothing that it does not do.
func TestCard(t *testing.T) {
	add := func(place, part, out string) plan.Action {
		return plan.Action{Do: plan.DoReplace, Place: place, Part: part, Out: out}
	}
	clone := &plan.Migration{Place: "m2a", How: hw.Clone}
	for name, c := range map[string]struct {
		o         plan.Option
		change    func(ch *hw.Chassis)
		machine   func(m *hw.Machine)
		printed   bool
		want, not []string
	}{
		"memory": {o: plan.Option{Actions: []plan.Action{add("dimm1", "mem", "")},
			Buy: []plan.Buy{{Part: "mem", Quantity: 1}}},
			want: []string{"Bits: T5", "Tools: pick", "1 Corvane 2 x 8, on the shelf",
				"down: Hold the power button for 10 s: it cuts the battery",
				"down: Unscrew the cover | 3 × T5 × 6 mm (M2 flat), hidden: under the rear feet | 2 × T5 × 4 mm, " +
					"captive: they stay in",
				"down: Unclip the cover | with the pick | from the hinge",
				"down: Unplug the battery plug | slide the bar across, then pull | power is disconnected " +
					"from here on | the plug is reached first",
				"fit dimm1: Corvane 2 x 8 | Notch to the key; in at an angle until no gold shows, then down until " +
					"both arms click | One of a kit of 2; 1 left over",
				"up: Press the cover home edge by edge, then check the seam for gaps | front edge first",
				"up: Screw the cover back | 3 × T5 × 6 mm (M2 flat), hidden: under the rear feet, start all, " +
					"then tighten", "up: Charger in, switch on",
				"start: Charger in: without it", "start: Wait some minutes", "start: A “settings changed”",
				"start: The clock is wrong"},
			not: []string{"Old", "spacer", "heat sink", "Initialise a new drive"}},
		"more than was proven": {o: plan.Option{Actions: []plan.Action{add("dimm1", "mem", "")},
			Risk: plan.Risk{Reasons: []plan.Reason{{Code: hw.CodeLimitInferred, Points: 1}}}},
			want: []string{"start: Run a memory test over all of it: so much was never proven here"}},
		"post moves": {o: plan.Option{Actions: []plan.Action{add("m2a", "d80", "256 GB NVMe")}, Migration: clone,
			Buy: []plan.Buy{{Part: "d80", Quantity: 1}}},
			want: []string{"Bits: T5, PH0", "Used: M2x3", "1 Bexmoor 80, to be ordered, 4 days",
				"Out: 256 GB NVMe | Move the post to 80 mm | Moves over from the old part: pad | In at an angle, notch " +
					"to key M, then flat; held by one M2x3, PH0, from the kit | The pad goes back on | Copy the old " +
					"drive onto it",
				"old m2a: 256 GB NVMe, back to the customer with the data on it, or erased, as agreed"},
			not: []string{"Initialise a new drive", "memory training"}},
		"the old drive fails": {o: plan.Option{Actions: []plan.Action{add("m2a", "d30", "256 GB NVMe")}, Migration: clone},
			machine: func(m *hw.Machine) { m.Fitted.Drives[0].Failing = hw.Known(true) },
			want:    []string{"image it before anything else, then put the image onto this one"}},
		"post stays": {o: plan.Option{Actions: []plan.Action{add("m2a", "d30", "256 GB NVMe")}},
			want: []string{"The post stays at 30 mm", "Initialise a new drive"}},
		"bracket": {o: plan.Option{Actions: []plan.Action{add("m2a", "d42", "x")},
			Buy: []plan.Buy{{Part: "d42", Quantity: 1}, {Part: "br", Quantity: 1}}},
			want: []string{"Bracket to 42 to 42 mm holds it", "Bexmoor 42, brought by the customer"}},
		"untold": {o: plan.Option{Actions: []plan.Action{add("m2a", "d", "x")}},
			want: []string{"The length of the module is not known"}},
		"wireless": {o: plan.Option{Actions: []plan.Action{add("wlan", "card", "wifi5")}},
			want: []string{"black on post 1, white on post 2, grey is left over", "fixing not recorded",
				"old wlan: the Wi-Fi 5 card"}},
		"bay": {o: plan.Option{Actions: []plan.Action{{Do: plan.DoAdd, Place: "bay", Part: "d25"}},
			Buy: []plan.Buy{{Part: "ca", Quantity: 1}}},
			want: []string{"down: Remove the tray | do not force it",
				"Bay cable goes in first | Into the caddy that is there",
				"stays: spacer stays out: it goes back only where bay is empty"}, not: []string{"up: Set the spacer"}},
		"bay left empty": {o: plan.Option{Actions: []plan.Action{{Do: plan.DoRemove, Place: "bay", Out: "1 TB SATA"}}},
			want: []string{"fit bay: comes out", "up: Set the spacer back", "old bay: 1 TB SATA"},
			not:  []string{"stays:"}},
		"pack": {o: plan.Option{Actions: []plan.Action{add("battery", "pack", "pack small")},
			Battery: &plan.BatteryState{Option: "small"}},
			want: []string{"Moves over from the old pack: four screws", "battery recycling, its plug taped"}},
		"service": {o: plan.Option{Services: []string{"repaste"}},
			want: []string{"fit : renew thermal paste | Move over: pads | With brush, paste", "loosen 4 2 3 1",
				"start all, then tighten 1 3 2 4, in rounds"}},
		"as printed": {o: plan.Option{Services: []string{"repaste"}}, printed: true,
			want: []string{"loosen 1 3 2 4"}},
		"pushed, and loosened as printed": {o: plan.Option{Services: []string{"repaste"}},
			change: func(ch *hw.Chassis) { ch.Steps[2].Toward, ch.Steps[6].Loosen = hw.TowardHinge, hw.LoosenAsPrinted },
			want:   []string{"down: Unclip the cover | ↑ towards the hinge | with the pick", "loosen 1 3 2 4"}},
		"loosened reversed": {o: plan.Option{Services: []string{"repaste"}}, printed: true,
			change: func(ch *hw.Chassis) { ch.Steps[6].Loosen = hw.LoosenReversed }, want: []string{"loosen 4 2 3 1"}},
		"what the record says there": {o: plan.Option{Actions: []plan.Action{add("dimm1", "mem", ""), add("wlan", "card", "wifi5")}},
			change: func(ch *hw.Chassis) {
				ch.FirmwareKey, ch.Memory.Sockets[0].Advice = "F2", []string{"the left arm is weak"}
				ch.Memory.Sockets[0].Firmware = "1.14"
				ch.Shapes = []hw.Shape{{ID: "pad", What: "pad", Thickness: hw.Known(hw.DecOf(15) / 10), Under: "dimm1"}}
				ch.Slots[ch.SlotByID("wlan")].LeadMM = hw.Known(hw.DecOf(2))
			},
			want: []string{
				"The left arm is weak | It works so from firmware 1.14 on: look which one is in it first | Pad, 1.5 mm, lies under it",
				"The connectors of its leads are 2 mm", "start: Look in the firmware (F2 while it starts), then in the system"}},
		"a way nobody recorded": {o: plan.Option{Actions: []plan.Action{add("dimm1", "mem", "")}},
			change: func(ch *hw.Chassis) { ch.Memory.Sockets[0].Reach = "" },
			want:   []string{"loosen 4 2 3 1 | the way to a place served here is not recorded", "fit dimm1: Corvane"}},
		"no way in": {o: plan.Option{Actions: []plan.Action{add("dimm1", "mem", "")}},
			change: func(ch *hw.Chassis) { ch.Memory.Sockets[0].Reach, ch.Steps = "", nil },
			want:   []string{"reach: the way to dimm1 is not known", "fit dimm1: Corvane"},
			not:    []string{"down:", "up:"}},
		"no battery": {o: plan.Option{Actions: []plan.Action{add("dimm1", "mem", "")}},
			change: func(ch *hw.Chassis) { ch.Batteries, ch.Quirks = []hw.Battery{}, nil },
			not:    []string{"battery that was", "start: Charger in", "nothing isolates"}},
	} {
		job := Job{Chassis: &hw.Chassis{}, Machine: &hw.Machine{}, Parts: &hw.Parts{}, Printed: c.printed}
		for _, doc := range []struct {
			raw  string
			into any
		}{{chassis, job.Chassis}, {machine, job.Machine}, {parts, job.Parts}} {
			if err := json.Unmarshal([]byte(doc.raw), doc.into); err != nil {
				t.Fatal(err)
			}
		}
		if c.change != nil {
			c.change(job.Chassis)
		}
		if c.machine != nil {
			c.machine(job.Machine)
		}
		made, err := Of(t.Context(), job, &c.o)
		if err != nil {
			t.Fatalf("%s: %v", name, err)
		}
		said := told(made)
		for _, want := range c.want {
			if !strings.Contains(said, want) {
				t.Errorf("%s: it does not say %q:\n%s", name, want, said)
			}
		}
		for _, not := range c.not {
			if strings.Contains(said, not) {
				t.Errorf("%s: it says %q:\n%s", name, not, said)
			}
		}
	}
}

// told writes a card out, a line for each thing.
func told(c *Card) string {
	var out []string
	line := func(parts ...string) { out = append(out, strings.Join(parts, " | ")) }
	line("Bits: " + strings.Join(c.Bits, ", "))
	line("Tools: " + strings.Join(c.Tools, ", "))
	line("Used: " + strings.Join(c.Consumables, ", "))
	for _, p := range c.Parts {
		line(fmt.Sprintf("%d %s, %s", p.Quantity, p.Name, p.Where))
	}
	for _, way := range []struct {
		name  string
		steps []Step
	}{{"down: ", c.Down}, {"up: ", c.Up}} {
		for _, s := range way.steps {
			all := append(append(append([]string{way.name + s.Does}, s.Screws...), s.How...), s.Mind...)
			if s.Why != "" {
				all = append(all, s.Why)
			}
			line(all...)
		}
	}
	for _, f := range c.Fit {
		line(append([]string{"fit " + f.Place + ": " + f.What}, f.How...)...)
	}
	for _, s := range c.StaysOut {
		line("stays: " + s)
	}
	for _, s := range c.FirstStart {
		line("start: " + s)
	}
	for _, o := range c.Old {
		line("old " + o.Place + ": " + o.What + ", " + o.Goes)
	}
	if c.Reach != nil {
		line("reach: " + c.Reach.Error())
	}
	return strings.Join(out, "\n")
}
