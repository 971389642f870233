package quote

import (
	"fmt"
	"strings"

	"yembo/core/hw"
	"yembo/core/plan"
)

const risk = "A drive can fail while it is read. Without a backup, what is on it may then be lost."

// takes is the kind of part that a place holds.
func takes(ch *hw.Chassis, place string) hw.PartKind {
	if place == hw.BatteryPlace || strings.HasPrefix(place, "battery:") {
		return hw.KindBattery
	}
	for _, p := range ch.Places() {
		if p.ID == place {
			return p.Takes
		}
	}
	return ""
}

func partName(in *Input, id string) string {
	for i := range in.Plan.Parts.Parts {
		if p := &in.Plan.Parts.Parts[i]; p.ID == id {
			return p.Name
		}
	}
	return "a part that is no longer listed"
}

// told is what the customer said, as it was noted.
func told(complaint string) string { return strings.TrimSpace(complaint) }

// percent is a part of a whole in whole per cent; ok is false where the whole is nothing.
func percent(part, whole hw.Dec) (int64, bool) {
	if whole <= 0 {
		return 0, false
	}
	return (int64(part)*200/int64(whole) + 1) / 2, true
}

// found says what was measured, and what was not: memory, the drive, the pack.
func found(in *Input) string {
	var words []string
	m := in.Plan.Machine
	peak, measured := m.Usage.MemoryPeak.Get()
	switch {
	case !measured:
		words = append(words, "Memory use was not measured.")
	case in.Today.Memory == nil:
		words = append(words, fmt.Sprintf("The work takes %s GB of memory; how much the machine has is not known yet.", peak))
	case peak > in.Today.Memory.TotalGB:
		words = append(
			words,
			fmt.Sprintf(
				"The work takes %s GB of memory at once; the machine has %s and fetches the rest from the drive.",
				peak,
				in.Today.Memory.TotalGB,
			),
		)
	default:
		if n, ok := percent(peak, in.Today.Memory.TotalGB); ok {
			words = append(words, fmt.Sprintf("The work takes %s of %s GB of memory, %d %%.", peak, in.Today.Memory.TotalGB, n))
		}
	}
	for i := range m.Fitted.Drives {
		d := &m.Fitted.Drives[i]
		switch {
		case d.Unreadable.Or(false):
			words = append(words, fmt.Sprintf("The drive in %s cannot be read.", d.Place))
		case d.Fails():
			words = append(words, fmt.Sprintf("The drive in %s reports that it is failing.", d.Place))
		}
	}
	if s := batterySays(in); s != "" && m.Fitted.Battery.Swollen.Or(false) {
		words = append(words, "The battery is swollen.")
	}
	return strings.Join(words, " ")
}

// designOf is what the fitted pack held when it was new, where that is recorded.
func designOf(in *Input) (hw.Dec, bool) {
	b := in.Plan.Machine.Fitted.Battery
	if b == nil {
		return 0, false
	}
	if i := in.Plan.Chassis.BatteryByID(b.Option); i >= 0 {
		return in.Plan.Chassis.Batteries[i].DesignWh.Get()
	}
	return 0, false
}

// batterySays is how the pack is, "" where that is not known.
func batterySays(in *Input) string {
	b := in.Plan.Machine.Fitted.Battery
	if b == nil {
		return ""
	}
	full, ok := b.FullWh.Get()
	design, recorded := designOf(in)
	if !ok || !recorded {
		return ""
	}
	n, _ := percent(full, design)
	return fmt.Sprintf("it holds %s of %s Wh, %d %%", full, design, n)
}

// nameOf is what an alternative is called: what is new in it.
func nameOf(in *Input, o *plan.Option) string {
	var words []string
	add := func(word string) {
		for _, w := range words {
			if w == word {
				return
			}
		}
		words = append(words, word)
	}
	for i := range o.Actions {
		a := &o.Actions[i]
		if a.Do != plan.DoAdd && a.Do != plan.DoReplace {
			continue
		}
		switch takes(in.Plan.Chassis, a.Place) {
		case hw.KindMemory:
			add("memory")
		case hw.KindDrive:
			if a.Do == plan.DoAdd {
				add("another drive")
			} else {
				add("a new drive")
			}
		case hw.KindBattery:
			add("a new battery")
		case hw.KindWireless:
			add("a new wireless card")
		case hw.KindAccessory: // they change nothing here
		}
	}
	for _, id := range o.Services {
		add(in.Plan.Chassis.ServiceName(id))
	}
	if len(words) == 0 {
		return "As it is"
	}
	text := words[0]
	if len(words) > 1 {
		text = strings.Join(words[:len(words)-1], ", ") + " and " + words[len(words)-1]
	}
	return strings.ToUpper(text[:1]) + text[1:]
}

// data says what becomes of what is on the drives.
func data(o *plan.Option) string {
	switch {
	case o.Migration == nil:
		return "Not touched."
	case o.Migration.How != hw.Clone:
		return "A clean installation on the new drive. The old one is only read, and nothing is copied from it unless you ask."
	}
	how := "All copied to the new drive"
	if min, ok := o.Migration.Minutes.Get(); ok {
		how += ", about " + min.String() + " min"
	}
	return how + ". The old one is only read."
}

// ready says when it can be had, by what the shop could promise and until when it is accepted for that; "" where it could
// promise nothing.
func ready(o *plan.Option, promise string) string {
	days, ok := o.ReadyInDays.Get()
	switch {
	case !ok:
		return "when the parts arrive; date not known"
	case promise == "":
		return "no date yet; we will tell you"
	case days == 0:
		return promise
	}
	return fmt.Sprintf("%s: the parts are ordered then and take %s", promise, daysWords(days))
}

func daysWords(n int) string {
	if n == 1 {
		return "a day"
	}
	return fmt.Sprintf("%d days", n)
}

// changes fills in what is better, each on one scale with today.
func (a *Alternative) changes(in *Input, o *plan.Option) {
	m := in.Plan.Machine
	if o.Memory != nil {
		c := &Change{Unit: "GB", Then: hw.Known(o.Memory.TotalGB), Mark: m.Usage.MemoryPeak}
		if in.Today.Memory != nil {
			c.Today = hw.Known(in.Today.Memory.TotalGB)
		}
		c.Says = memorySays(c)
		a.Memory = c
	}
	if o.Storage != nil {
		c := &Change{Unit: "GB", Then: hw.Known(o.Storage.TotalGB)}
		if in.Today.Storage != nil {
			c.Today = hw.Known(in.Today.Storage.TotalGB)
		}
		used, known := hw.Dec(0), len(m.Fitted.Drives) > 0
		for i := range m.Fitted.Drives {
			gb, ok := m.Fitted.Drives[i].UsedGB.Get()
			used, known = used+gb, known && ok
		}
		if known {
			c.Used = hw.Known(used)
			if n, ok := percent(used, o.Storage.TotalGB); ok {
				c.Says = fmt.Sprintf("%d %% full.", n)
			}
		}
		if same(c) {
			c.Says = strings.TrimSpace("Stays as it is. " + c.Says)
		}
		a.Storage = c
	}
	if o.Battery != nil {
		c := &Change{Unit: "h", Then: o.Battery.RuntimeH}
		if in.Today.Battery != nil {
			c.Today = in.Today.Battery.RuntimeH
		}
		if !c.Then.IsKnown() {
			c.Unit, c.Then = "Wh", o.Battery.FullWh
			if in.Today.Battery != nil {
				c.Today = in.Today.Battery.FullWh
			}
		}
		if o.Battery.AtLeast && c.Unit == "h" {
			c.Says = "At the least: what the pack holds today was not read."
		}
		if !same(c) {
			a.Battery = c
		}
	}
}

// same reports whether nothing changes, as far as it is known.
func same(c *Change) bool {
	today, known := c.Today.Get()
	then, set := c.Then.Get()
	return known && set && today == then || !set
}

// memorySays compares what the work takes with what there is then.
func memorySays(c *Change) string {
	then, _ := c.Then.Get()
	peak, measured := c.Mark.Get()
	switch {
	case same(c):
		return "Stays as it is."
	case !measured:
		return "Memory use was not measured."
	case peak > then:
		return fmt.Sprintf("Of the work's %s GB not all fits at once.", peak)
	}
	n, _ := percent(then-peak, then)
	return fmt.Sprintf("All of it fits at once, with %d %% to spare.", n)
}

// left says what is left alone, and why.
func left(in *Input) []string {
	out := []string{}
	touched := map[hw.PartKind]bool{}
	for i := range in.Options {
		for k := range in.Options[i].Actions {
			if a := &in.Options[i].Actions[k]; a.Do != plan.DoKeep {
				touched[takes(in.Plan.Chassis, a.Place)] = true
			}
		}
	}
	if says := batterySays(in); says != "" && !touched[hw.KindBattery] {
		out = append(out, "Battery: "+says+".")
	}
	for _, id := range in.Plan.Request.Keep {
		out = append(out, strings.ToUpper(hw.PlaceSays(id)[:1])+hw.PlaceSays(id)[1:]+": as you asked.")
	}
	if len(in.Plan.Chassis.Fixed) > 0 {
		words := strings.Join(in.Plan.Chassis.Fixed, ", ")
		out = append(out, strings.ToUpper(words[:1])+words[1:]+": part of the main board.")
	}
	return out
}
