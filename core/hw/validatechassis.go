package hw

import (
	"fmt"
	"strconv"
	"strings"
)

// ValidateChassis checks ids, references and ranges of a model record. Findings
// are checked by package evidence, which knows what is in force.
func ValidateChassis(ch *Chassis) Faults {
	c := newChecker()
	c.fromIf("/year", ch.Year, 1980, 2100)
	if ch.Outline != nil {
		c.above("/outline/width_mm", ch.Outline.Width, maxMM, "mm")
		c.above("/outline/depth_mm", ch.Outline.Depth, maxMM, "mm")
	}
	c.memory(ch.Mem())
	c.places(ch)
	for i := range ch.Fasteners {
		f := &ch.Fasteners[i]
		at := "/fasteners/" + strconv.Itoa(i)
		c.id(at+"/id", f.ID)
		c.fromIf(at+"/count", f.Count, 1, 1000)
		c.aboveIf(at+"/length_mm", f.Length, 500, "mm")
		c.fastenerOrder(at, f)
	}
	c.steps(ch)
	for i, s := range ch.Services {
		at := "/services/" + strconv.Itoa(i)
		c.id(at+"/id", s.ID)
		c.reach(ch, at+"/reach", s.Reach)
		c.minutes(at+"/minutes", s.Minutes)
	}
	for i, s := range ch.Shapes {
		at := "/shapes/" + strconv.Itoa(i)
		c.id(at+"/id", s.ID)
		c.notNegative(at+"/thickness_mm", s.Thickness, 100, "mm")
		if s.Under != "" {
			_, known := ch.PlaceNamed(s.Under)
			c.ref(at+"/under", s.Under, "place", known)
		}
	}
	for i, s := range ch.Suspected {
		c.id("/suspected/"+strconv.Itoa(i)+"/id", s.ID)
		c.reach(ch, "/suspected/"+strconv.Itoa(i)+"/step", s.Step)
	}
	return c.faults
}

func (c *checker) memory(m *Memory) {
	c.fromIf("/memory/max_speed_mts", m.MaxSpeed, 1, maxSpeedMTs)
	c.fromIf("/memory/channels", m.Channels, 1, maxChannels)
	var soldered Dec
	for i := range m.Soldered {
		s := &m.Soldered[i]
		at := "/memory/soldered/" + strconv.Itoa(i)
		c.id(at+"/id", s.ID)
		c.above(at+"/capacity_gb", s.Capacity, MaxMemoryGB, "GB")
		c.fromIf(at+"/speed_mts", s.Speed, 1, maxSpeedMTs)
		c.fromIf(at+"/ranks", s.Ranks, 1, 16)
		c.channels(at, m, s.Channel, s.Channels)
		soldered += s.Capacity
	}
	for i := range m.Sockets {
		s := &m.Sockets[i]
		at := "/memory/sockets/" + strconv.Itoa(i)
		c.id(at+"/id", s.ID)
		c.aboveIf(at+"/max_module_gb", s.MaxModule, 4096, "GB")
		c.channels(at, m, s.Channel, s.Channels)
	}
	c.aboveIf("/memory/limits/maker_gb", m.Limits.Maker, MaxMemoryGB, "GB")
	c.aboveIf("/memory/limits/controller_gb", m.Limits.Controller, MaxMemoryGB, "GB")
	c.aboveIf("/memory/limits/proven_gb", m.Limits.Proven, MaxMemoryGB, "GB")
	if maker, ok := m.Limits.Maker.Get(); ok && maker > 0 && maker < soldered {
		c.faults.Add("/memory/limits/maker_gb", FaultConflict,
			fmt.Sprintf("the maker's limit is %s GB", maker), fmt.Sprintf("%s GB are soldered already", soldered))
	}
}

// channels checks the channel letters of a place against the machine's number of
// channels.
func (c *checker) channels(at string, m *Memory, one string, several []string) {
	if one != "" && len(several) > 0 {
		c.faults.Add(at+"/channel", FaultConflict, "both channel and channels are given", "a place has one of the two")
		return
	}
	count, known := m.Channels.Get()
	check := func(pointer, letter string) {
		if known && count >= 1 && count <= maxChannels && int(letter[0]-'A') >= count {
			last := string(rune('A' + count - 1))
			c.faults.Add(pointer, FaultReference, quote(letter),
				fmt.Sprintf("channel; the machine has %d, A to %s", count, last))
		}
	}
	if one != "" {
		check(at+"/channel", one)
	}
	seen := map[string]bool{}
	for i, letter := range several {
		pointer := at + "/channels/" + strconv.Itoa(i)
		check(pointer, letter)
		if seen[letter] {
			c.faults.Add(pointer, FaultDuplicate, quote(letter), "each channel once")
		}
		seen[letter] = true
	}
}

func (c *checker) places(ch *Chassis) {
	for i := range ch.Slots {
		s := &ch.Slots[i]
		at := "/slots/" + strconv.Itoa(i)
		c.id(at+"/id", s.ID)
		c.fromIf(at+"/width_mm", s.Width, 1, 100)
		c.fromIf(at+"/pcie_gen", s.Gen, 1, 5)
		c.fromIf(at+"/lanes", s.Lanes, 1, 16)
		c.notNegative(at+"/max_top_mm", s.MaxTop, 100, "mm")
		c.notNegative(at+"/lead_mm", s.LeadMM, 100, "mm")
		c.notNegative(at+"/max_bottom_mm", s.MaxBottom, 100, "mm")
		c.aboveIf(at+"/stated_max_gb", s.StatedMax, MaxDriveGB, "GB")
	}
	for i := range ch.Bays {
		b := &ch.Bays[i]
		at := "/bays/" + strconv.Itoa(i)
		c.id(at+"/id", b.ID)
		c.aboveIf(at+"/height_mm", b.Height, 100, "mm")
		if h, ok := b.Height.Get(); ok && b.Form == FormOptical && h != 9_500_000 && h != 12_700_000 {
			c.faults.Add(at+"/height_mm", FaultRange, h.String(), "an optical bay is 9.5 or 12.7 mm high")
		}
		c.aboveIf(at+"/stated_max_gb", b.StatedMax, MaxDriveGB, "GB")
	}
	numbers := map[string]string{}
	for i := range ch.Batteries {
		b := &ch.Batteries[i]
		at := "/batteries/" + strconv.Itoa(i)
		c.id(at+"/id", b.ID)
		c.aboveIf(at+"/design_wh", b.DesignWh, 10_000, "Wh")
		c.cells(at, b.NominalV, b.Series)
		for j, n := range b.PartNumbers {
			pointer := fmt.Sprintf("%s/part_numbers/%d", at, j)
			if first, twice := numbers[n]; twice {
				c.faults.Add(pointer, FaultDuplicate, quote(n),
					"a part number belongs to one pack; it stands at "+first+" already")
			}
			numbers[n] = pointer
		}
	}
	for _, p := range ch.Places() {
		if p.Kind != InPack {
			c.reach(ch, p.ReachFact(), p.Reach)
		}
		c.excludes(ch, p.Pointer(), p.Name, p.Excludes)
	}
	c.reach(ch, "/battery_reach", ch.BatteryReach)
}

func (c *checker) excludes(ch *Chassis, at, self string, list []string) {
	for i, name := range list {
		pointer := fmt.Sprintf("%s/excludes/%d", at, i)
		exists := false
		for _, p := range ch.Places() {
			exists = exists || p.Kind != InSocket && p.Name == name
		}
		c.ref(pointer, name, "slot, bay or battery:ID", exists)
		if name == self {
			c.faults.Add(pointer, FaultConflict, "the place excludes itself", "it names what cannot be used beside it")
		}
	}
}

func (c *checker) reach(ch *Chassis, pointer, step string) {
	if step == "" {
		return
	}
	i := ch.StepByID(step)
	c.ref(pointer, step, "step", i >= 0)
	if i >= 0 && ch.Steps[i].BackBefore != "" {
		c.faults.Add(pointer, FaultConflict, quote(step)+" is a step of the way back alone",
			"only steps of the way in can be needed or lead to something")
	}
}

func (c *checker) minutes(pointer string, m Maybe[Dec]) {
	c.notNegative(pointer, m, 10_000, "min")
	if v, ok := m.Get(); ok && v%(decScale/100) != 0 {
		c.faults.Add(pointer, FaultRange, v.String(), "minutes have at most two places behind the point")
	}
}

func (c *checker) fastenerOrder(at string, f *Fastener) {
	seen := map[int]bool{}
	for j, n := range f.Order {
		pointer := fmt.Sprintf("%s/order/%d", at, j)
		c.from(pointer, n, 1, f.Count.Or(1000))
		if seen[n] {
			c.faults.Add(pointer, FaultDuplicate, strconv.Itoa(n), "each screw has its own number")
		}
		seen[n] = true
	}
}

func (c *checker) steps(ch *Chassis) {
	for i := range ch.Steps {
		s := &ch.Steps[i]
		at := "/steps/" + strconv.Itoa(i)
		c.id(at+"/id", s.ID)
		c.minutes(at+"/minutes", s.Minutes)
		for j, need := range s.Needs {
			c.reach(ch, fmt.Sprintf("%s/needs/%d", at, j), need)
		}
		for j, f := range s.Fasteners {
			pointer := fmt.Sprintf("%s/fasteners/%d", at, j)
			group := ch.FastenerByID(f.Group)
			c.ref(pointer+"/group", f.Group, "screw group", group >= 0)
			c.from(pointer+"/count", f.Count, 1, 1000)
			if group >= 0 {
				if n, ok := ch.Fasteners[group].Count.Get(); ok && f.Count > n {
					c.faults.Add(pointer+"/count", FaultConflict,
						fmt.Sprintf("%d screws are turned", f.Count), fmt.Sprintf("the group %s has %d", f.Group, n))
				}
			}
		}
		c.condition(ch, at+"/when", s.When)
		c.condition(ch, at+"/back", s.Back)
		if s.BackBefore != "" {
			j := ch.StepByID(s.BackBefore)
			c.ref(at+"/back_before", s.BackBefore, "step", j >= 0)
			if j >= 0 && ch.Steps[j].BackBefore != "" {
				c.faults.Add(at+"/back_before", FaultConflict,
					quote(s.BackBefore)+" is itself a step of the way back alone", "it names a step of the way in")
			}
			if len(s.Needs) > 0 {
				c.faults.Add(at+"/needs", FaultConflict, "a step of the way back alone needs nothing",
					"its needs are an empty list")
			}
		}
		if s.BackBefore == "" && s.Verb.Row().BackOnly {
			c.faults.Add(at+"/verb", FaultConflict, quote(string(s.Verb))+" belongs to the way back alone",
				"it says before which step it is done (back_before)")
		}
		if s.Place != "" {
			_, known := ch.PlaceNamed(s.Place)
			c.ref(at+"/place", s.Place, "place", known || s.Place == BatteryPlace)
		}
	}
	if circle := ch.StepCircle(); circle != nil {
		at := fmt.Sprintf("/steps/%d/needs", ch.StepByID(circle[0]))
		c.faults.Add(at, FaultConflict, "the steps need each other in a circle: "+strings.Join(circle, " → "),
			"a step can only need what is done before it")
	}
}

// condition checks what a step asks of a place: filled or empty, for the pack a battery's id.
func (c *checker) condition(ch *Chassis, at string, x *Condition) {
	if x == nil {
		return
	}
	if x.Place == BatteryPlace {
		c.ref(at+"/state", x.State, "battery", ch.BatteryByID(x.State) >= 0)
		return
	}
	_, known := ch.PlaceNamed(x.Place)
	c.ref(at+"/place", x.Place, "place", known)
	if x.State != StateFilled && x.State != StateEmpty {
		c.faults.Add(at+"/state", FaultChoice, quote(x.State), StateFilled+", "+StateEmpty)
	}
}

// StepCircle returns the ids of a circle in the steps' needs, first id repeated
// at the end, or nil when there is none. Needs that name no step are passed over.
func (c *Chassis) StepCircle() []string {
	const white, grey, black = 0, 1, 2
	index := make(map[string]int, len(c.Steps))
	for i := range c.Steps {
		index[c.Steps[i].ID] = i
	}
	state := make([]int, len(c.Steps))
	var path []string
	var visit func(i int) []string
	visit = func(i int) []string {
		state[i] = grey
		path = append(path, c.Steps[i].ID)
		for _, need := range c.Steps[i].Needs {
			j, ok := index[need]
			if !ok || state[j] == black {
				continue
			}
			if state[j] == grey {
				for k, id := range path {
					if id == need {
						return append(append([]string{}, path[k:]...), need)
					}
				}
			}
			if circle := visit(j); circle != nil {
				return circle
			}
		}
		state[i] = black
		path = path[:len(path)-1]
		return nil
	}
	for i := range c.Steps {
		if state[i] == white {
			if circle := visit(i); circle != nil {
				return circle
			}
		}
	}
	return nil
}

// EscapePointer escapes one token of a JSON Pointer.
func EscapePointer(token string) string {
	return strings.ReplaceAll(strings.ReplaceAll(token, "~", "~0"), "/", "~1")
}
