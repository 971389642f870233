package draw

import (
	"fmt"
	"sort"
	"strconv"
	"strings"

	"yembo/core/evidence"
	"yembo/core/hw"
)

// anchors lists the call-outs, each with its place. The usual pack and what is large
// carry their facts inside.
func (l *Layout) anchors(ch *hw.Chassis) []anchor {
	var out []anchor
	add := func(name string, c callOut) { out = append(out, anchor{name, l.At[name], c}) }
	for i := range ch.Mem().Soldered {
		add(ch.Memory.Soldered[i].ID, solderedCall(ch, i))
	}
	for _, p := range ch.Places() {
		switch p.Kind {
		case hw.InSocket:
			add(p.Name, socketCall(ch, p.Index))
		case hw.InSlot:
			add(p.Name, slotCall(ch, p.Index))
		case hw.InBay:
			add(p.Name, bayCall(ch, p.Index))
		case hw.InPack:
			if p.Index > 0 { // the usual pack says it inside itself
				add(p.Name, packCall(ch, p.Index))
			}
		}
	}
	for _, x := range ch.Open() {
		if _, ok := l.At["suspected:"+x.ID]; ok {
			add("suspected:"+x.ID, suspectedCall(x))
		}
	}
	return out
}

func solderedCall(ch *hw.Chassis, i int) callOut {
	s := &ch.Mem().Soldered[i]
	c := callOut{ID: s.ID, Kind: "soldered",
		Lines: []string{s.Capacity.String() + " GB, " + channelWords(s.Channel, s.Channels),
			speedWords(ch.Memory.Type, s.Speed, s.Ranks)}}
	c.mark(ch, "/memory/soldered/"+s.ID, "capacity_gb")
	return c
}

func socketCall(ch *hw.Chassis, i int) callOut {
	s := &ch.Mem().Sockets[i]
	largest := "largest not yet known"
	if gb, ok := s.MaxModule.Get(); ok {
		largest = gb.String() + " GB at most"
	}
	c := callOut{ID: s.ID, Kind: string(s.Form), Lines: []string{channelWords(s.Channel, s.Channels), largest}}
	c.mark(ch, "/memory/sockets/"+s.ID, "form")
	return c
}

func slotCall(ch *hw.Chassis, i int) callOut {
	s := &ch.Slots[i]
	// Short, for the column is narrow: "drive, key M", "wireless, key E".
	what := strings.TrimSuffix(strings.TrimPrefix(hw.Purposes.Says(s.Purpose), "for a "), " card")
	c := callOut{ID: s.ID, Kind: what + ", key " + s.Key.Or("?")}
	link := "link not yet known"
	if gen, ok := s.Gen.Get(); ok {
		link = "gen " + strconv.Itoa(gen)
		if lanes, ok := s.Lanes.Get(); ok {
			link += " ×" + strconv.Itoa(lanes)
		}
	}
	if s.Purpose == hw.ForWireless {
		link = "leads: " + strings.Join(s.Antennas, ", ")
		if s.Antennas == nil {
			link = "leads not yet known"
		}
	} else {
		link += ", " + ProtocolNames(s.Protocols)
	}
	c.Lines = append(c.Lines, link, lengthWords(s))
	c.only(s.OnlyOn)
	c.mark(ch, "/slots/"+s.ID, "key")
	return c
}

// ProtocolNames lists what a slot speaks, in words.
func ProtocolNames(list []hw.Interface) string {
	if list == nil {
		return "protocols not yet known"
	}
	return hw.SaysAll(list)
}

func lengthWords(s *hw.Slot) string {
	if s.Lengths == nil {
		return "lengths not yet known"
	}
	var lengths []int
	for text := range s.Lengths {
		if mm, err := strconv.Atoi(text); err == nil {
			lengths = append(lengths, mm)
		}
	}
	sort.Ints(lengths)
	var words []string
	for _, mm := range lengths {
		words = append(words, strconv.Itoa(mm))
	}
	return "holds " + strings.Join(words, ", ") + " mm"
}

func bayCall(ch *hw.Chassis, i int) callOut {
	b := &ch.Bays[i]
	c := callOut{ID: b.ID, Kind: hw.Interfaces.Says(b.Interface.Or("interface?")), Lines: b.Words()}
	if b.Form == hw.FormOptical {
		c.Kind = "optical, " + c.Kind
	}
	c.only(b.OnlyOn)
	c.mark(ch, "/bays/"+b.ID, "connector")
	return c
}

func packCall(ch *hw.Chassis, i int) callOut {
	b := &ch.Batteries[i]
	c := callOut{ID: b.ID, Kind: "pack, " + EnergyWords(b)}
	line := ""
	if v, ok := b.NominalV.Get(); ok {
		line = v.String() + " V"
	}
	if n, ok := b.Series.Get(); ok {
		line += ", " + strconv.Itoa(n) + " in series"
	}
	c.Lines = append(c.Lines, strings.TrimPrefix(line, ", "), strings.Join(b.PartNumbers, ", "))
	c.only(b.OnlyOn)
	c.mark(ch, "/batteries/"+b.ID, "design_wh")
	return c
}

// only says on which configuration alone a place is there.
func (c *callOut) only(configuration string) {
	if configuration != "" {
		c.Lines = append(c.Lines, wrap("only: "+configuration, 24, 1)...)
	}
}

func suspectedCall(x *hw.Suspected) callOut {
	c := callOut{ID: x.ID, Kind: "not yet seen", Lines: wrap(x.Text, 26, 2), Source: "unknown", Date: "look there"}
	if x.Step != "" {
		c.Date = "shown by " + x.Step
	}
	return c
}

// wrap breaks a text into at most so many lines; what is left over is cut with an
// ellipsis (the list of what to find out has it whole).
func wrap(text string, width, lines int) []string {
	var out []string
	line := ""
	for _, word := range strings.Fields(text) {
		switch {
		case line == "":
			line = word
		case len([]rune(line))+1+len([]rune(word)) <= width:
			line += " " + word
		default:
			out = append(out, line)
			line = word
		}
	}
	if line != "" {
		out = append(out, line)
	}
	if len(out) > lines {
		out = out[:lines]
		out[lines-1] += " …"
	}
	for i, l := range out {
		if r := []rune(l); len(r) > width+2 {
			out[i] = string(r[:width]) + "…"
		}
	}
	return out
}

// mark says how a place is known: by the finding on its leading fact, else by the
// strongest on any of its facts; and whether one of them is disputed.
func (c *callOut) mark(ch *hw.Chassis, prefix, leading string) {
	c.Source, c.Date = "unknown", "no source"
	best := len(hw.Sources)
	for _, f := range evidence.Used(evidence.Facts(ch.Findings), []string{prefix}) {
		c.Disputed = c.Disputed || f.Disputed
		rank := evidence.Rank(f.InForce.Source)
		if f.Path == prefix+"/"+leading {
			rank = -1
		}
		if rank < best {
			best, c.Source, c.Date = rank, string(f.InForce.Source), hw.Day(f.InForce.On)
		}
	}
}

func channelWords(one string, several []string) string {
	switch letters := hw.OnChannels(one, several); len(letters) {
	case 0:
		return "channel not yet known"
	case 1:
		return "channel " + letters[0]
	default:
		return "channels " + strings.Join(letters, ", ")
	}
}

func speedWords(kind hw.Maybe[hw.MemoryType], speed, ranks hw.Maybe[int]) string {
	words := string(kind.Or("type not yet known"))
	if mts, ok := speed.Get(); ok {
		words += fmt.Sprintf("-%d", mts)
	}
	if r, ok := ranks.Get(); ok {
		words += fmt.Sprintf(", %dR", r)
	}
	return words
}
