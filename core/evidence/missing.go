package evidence

import (
	"strings"

	"yembo/core/hw"
)

// Open is a fact that is not yet known, with how to find it out.
type Open struct {
	Path string // by place id
	How  string // in words
	Step string // the step of the record that exposes it; "" where none is recorded, or none is needed
}

// ToFindOut lists what is not yet known of a model, in the order of its record: the
// facts that plans, run sheets and drawings ask for, and what is suspected. A list
// that was looked at and is empty is known; one that is absent is not.
func ToFindOut(ch *hw.Chassis) []Open {
	var l openList
	l.ask("/outline", ch.Outline != nil, "measure the base: width and depth", "")
	l.memory(ch)
	if ch.Slots == nil {
		l.ask("/slots", false, "open it and look for M.2 slots", "")
	}
	for i := range ch.Slots {
		l.slot(&ch.Slots[i])
	}
	if ch.Bays == nil {
		l.ask("/bays", false, "open it and look for drive bays: a space with no connector is none", "")
	}
	for i := range ch.Bays {
		b := &ch.Bays[i]
		at := "/bays/" + b.ID
		l.ask(at+"/height_mm", b.Height.IsKnown(), "measure the bay", b.Reach)
		l.ask(at+"/interface", b.Interface.IsKnown(), "look at the connector", b.Reach)
		l.ask(at+"/connector", b.Connector.IsKnown(), "look whether the cable or header is there", b.Reach)
		l.ask(at+"/caddy", b.Caddy.IsKnown(), "look whether a caddy is there or needed", b.Reach)
		l.ask(at+"/reach", b.Reach != "", "record the step it lies behind", "")
	}
	if ch.Batteries == nil && ch.Kind != "mini_pc" {
		l.ask("/batteries", false, "read the label of the pack", ch.BatteryReach)
	}
	for i := range ch.Batteries {
		b := &ch.Batteries[i]
		at := "/batteries/" + b.ID
		l.ask(at+"/design_wh", b.DesignWh.IsKnown(), "read the label of the pack", ch.BatteryReach)
		l.ask(at+"/nominal_v", b.NominalV.IsKnown(), "read the label of the pack", ch.BatteryReach)
		l.ask(at+"/series", b.Series.IsKnown(), "nominal volts ÷ 3.5 to 3.9, or the label", ch.BatteryReach)
		l.ask(at+"/part_numbers", b.PartNumbers != nil, "read the label of the pack", ch.BatteryReach)
	}
	l.ask("/battery_reach", ch.BatteryReach != "" || len(ch.Batteries) == 0, "record the step the pack lies behind", "")
	for i := range ch.Fasteners {
		f := &ch.Fasteners[i]
		at := "/fasteners/" + f.ID
		l.ask(at+"/count", f.Count.IsKnown(), "count them", "")
		l.ask(at+"/bit", f.Bit.IsKnown(), "try the bits", "")
		l.ask(at+"/length_mm", f.Length.IsKnown(), "measure one, head not counted", "")
	}
	for _, x := range ch.Open() {
		l.ask("/suspected/"+x.ID, false, "look there", x.Step)
	}
	return l
}

type openList []Open

func (l *openList) ask(path string, known bool, how, step string) {
	if !known {
		*l = append(*l, Open{path, how, step})
	}
}

func (l *openList) memory(ch *hw.Chassis) {
	mem := ch.Mem()
	l.ask("/memory/type", mem.Type.IsKnown(), "read the label of a module, or the chips' marking", "")
	l.ask("/memory/max_speed_mts", mem.MaxSpeed.IsKnown(), "the processor's document states it", "")
	l.ask("/memory/channels", mem.Channels.IsKnown(), "the processor's document states it; a reading shows it in use",
		"")
	l.ask("/memory/limits/maker_gb", mem.Limits.Maker.IsKnown(), "the maker's service sheet or data page", "")
	l.ask("/memory/limits/controller_gb", mem.Limits.Controller.IsKnown(), "the processor's document states it", "")
	l.ask("/memory/limits/proven_gb", mem.Limits.Proven.IsKnown(), "fit more and run a memory test", "")
	l.ask("/memory/soldered", mem.Soldered != nil,
		"open it and look for chips on the board; under a shield it is not known until the shield is off", "")
	for i := range mem.Soldered {
		s := &mem.Soldered[i]
		at := "/memory/soldered/" + s.ID
		l.ask(at+"/channel", len(hw.OnChannels(s.Channel, s.Channels)) > 0,
			"a reading in a machine with one module shows it", "")
		l.ask(at+"/speed_mts", s.Speed.IsKnown(), "read the chips' marking, or a reading", "")
		l.ask(at+"/ranks", s.Ranks.IsKnown(), "a reading tells", "")
	}
	l.ask("/memory/sockets", mem.Sockets != nil,
		"open it and look; memory under a shield is not yet known until the shield is off", "")
	for i := range mem.Sockets {
		s := &mem.Sockets[i]
		at := "/memory/sockets/" + s.ID
		l.ask(at+"/channel", len(hw.OnChannels(s.Channel, s.Channels)) > 0, "a reading with one module fitted shows it",
			s.Reach)
		l.ask(at+"/max_module_gb", s.MaxModule.IsKnown(), "the maker's document, or a module that ran clean", s.Reach)
		l.ask(at+"/reach", s.Reach != "", "record the step it lies behind", "")
	}
}

func (l *openList) slot(s *hw.Slot) {
	at := "/slots/" + s.ID
	l.ask(at+"/key", s.Key.IsKnown(), "look where the socket's notch is", s.Reach)
	l.ask(at+"/lengths", s.Lengths != nil, "measure from the socket to each post", s.Reach)
	l.ask(at+"/protocols", s.Protocols != nil, "the maker's document, or a drive of each kind tried", s.Reach)
	l.ask(at+"/pcie_gen", s.Gen.IsKnown(), "the maker's document, or a reading of the link", s.Reach)
	l.ask(at+"/lanes", s.Lanes.IsKnown(), "the maker's document, or a reading of the link with a four-lane drive in",
		s.Reach)
	switch s.Purpose {
	case "storage":
		l.ask(at+"/max_top_mm", s.MaxTop.IsKnown(),
			"measure the room above; until then modules up to 1.5 mm count as fitting", s.Reach)
		l.ask(at+"/max_bottom_mm", s.MaxBottom.IsKnown(),
			"measure to the slot's floor; until then only single-sided modules count as fitting", s.Reach)
		l.ask(at+"/cooling", s.Cooling.IsKnown(), "look for a pad, spreader or shroud", s.Reach)
	default:
		l.ask(at+"/antennas", s.Antennas != nil, "count the leads and note their colours before they come off", s.Reach)
	}
	l.ask(at+"/reach", s.Reach != "", "record the step it lies behind", "")
}

// byEye are the facts that somebody sees, counts or measures at an open machine; others need
// a document, a reading or a part tried.
var byEye = map[string]bool{"key": true, "lengths": true, "lanes": true, "max_top_mm": true, "max_bottom_mm": true,
	"cooling": true, "antennas": true, "height_mm": true, "interface": true, "connector": true, "caddy": true,
	"design_wh": true, "nominal_v": true, "series": true, "part_numbers": true, "count": true, "bit": true,
	"length_mm": true}

// ByEye reports whether a fact can be seen, counted or measured once its place is bare.
func ByEye(path string) bool { return byEye[path[strings.LastIndexByte(path, '/')+1:]] }
