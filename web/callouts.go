package web

import (
	"fmt"
	"math"
	"sort"
	"strconv"
	"strings"

	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/core/storage"
)

// callOut is a fact standing beside the drawing, with its leader.
type callOut struct {
	X, Y     float64
	ID       string
	Kind     string
	Lines    []string
	Source   string
	Date     string
	Disputed bool
	Leader   string
	Top      bool
}

// anchor is a place with the call-out that speaks of it.
type anchor struct {
	r    rect // in mm
	call callOut
}

// leftPart is how much of the width has its call-outs along the top.
const leftPart = 0.6

func onTop(r rect, width float64) bool { return r.x+r.w/2 < width*leftPart }

// anchors lists the call-outs, each with its place. The usual pack and what is large
// carry their facts inside.
func (l *layout) anchors(ch *hw.Chassis) []anchor {
	var out []anchor
	add := func(name string, c callOut) { out = append(out, anchor{l.at[name], c}) }
	for i := range ch.Mem().Soldered {
		add(ch.Memory.Soldered[i].ID, solderedCall(ch, i))
	}
	for i := range ch.Mem().Sockets {
		add(ch.Memory.Sockets[i].ID, socketCall(ch, i))
	}
	for i := range ch.Slots {
		add(ch.Slots[i].ID, slotCall(ch, i))
	}
	for i := range ch.Bays {
		add(ch.Bays[i].ID, bayCall(ch, i))
	}
	for i := range ch.Batteries {
		if i > 0 {
			add("battery:"+ch.Batteries[i].ID, packCall(ch, i))
		}
	}
	return out
}

// placeCalls sets the call-outs: those of the left part of the machine along the
// top, in the order of their places, the rest down the right side. Neither order
// ever lets two leaders cross; those that find no room go into a list beside.
func (d *inside) placeCalls(anchors []anchor, width float64) {
	var top, right []anchor
	for _, a := range anchors {
		onTopEdge := onTop(a.r, width)
		a.r = d.px(a.r)
		if onTopEdge {
			top = append(top, a)
		} else {
			right = append(right, a)
		}
	}
	sort.SliceStable(top, func(i, j int) bool { return top[i].r.x+top[i].r.w/2 < top[j].r.x+top[j].r.w/2 })
	sort.SliceStable(right, func(i, j int) bool { return right[i].r.y < right[j].r.y })
	next := d.X0
	for i, a := range top {
		c := a.call
		at := a.r.x + a.r.w/2
		c.X, c.Y, c.Top = math.Max(next, at), 12, true
		if c.X+callWidth > float64(d.W) {
			d.Beside = append(d.Beside, c)
			continue
		}
		next = c.X + callWidth
		// Later leaders turn lower, so that none crosses an earlier one.
		jog := topGap - 24 + math.Min(float64(i)*4, 16)
		c.Leader = fmt.Sprintf("M%.1f,4 V%.1f H%.1f V%.1f", c.X, jog, at, a.r.y)
		d.Calls = append(d.Calls, c)
	}
	x, y := d.X0+d.OutW+rightGap, d.Y0+12
	for _, a := range right {
		c := a.call
		height := lineH * float64(2+len(c.Lines))
		c.X, c.Y = x, math.Max(y, a.r.y+12)
		if c.Y+height > float64(d.H) {
			d.Beside = append(d.Beside, c)
			continue
		}
		y = c.Y + height + 4
		// From where a straight line leaves the place without crossing it.
		from := math.Min(math.Max(c.Y-4, a.r.y+6), a.r.y+a.r.h-6)
		c.Leader = fmt.Sprintf("M%.1f,%.1f L%.1f,%.1f", a.r.x+a.r.w, from, x-6, c.Y-4)
		d.Calls = append(d.Calls, c)
	}
}

func solderedCall(ch *hw.Chassis, i int) callOut {
	s := &ch.Mem().Soldered[i]
	c := callOut{ID: s.ID, Kind: "soldered", Lines: []string{s.Capacity.String() + " GB, " + channelWords(s.Channel, s.Channels), speedWords(ch.Memory.Type, s.Speed, s.Ranks)}}
	c.mark(ch, "/memory/soldered/"+s.ID, "capacity_gb")
	return c
}

func socketCall(ch *hw.Chassis, i int) callOut {
	s := &ch.Mem().Sockets[i]
	largest := "largest not yet known"
	if gb, ok := s.MaxModule.Get(); ok {
		largest = gb.String() + " GB at most"
	}
	c := callOut{ID: s.ID, Kind: s.Form, Lines: []string{channelWords(s.Channel, s.Channels), largest}}
	c.mark(ch, "/memory/sockets/"+s.ID, "form")
	return c
}

func slotCall(ch *hw.Chassis, i int) callOut {
	s := &ch.Slots[i]
	c := callOut{ID: s.ID, Kind: s.Purpose + ", key " + s.Key.Or("?")}
	link := "link not yet known"
	if gen, ok := s.Gen.Get(); ok {
		link = "gen " + strconv.Itoa(gen)
		if lanes, ok := s.Lanes.Get(); ok {
			link += " ×" + strconv.Itoa(lanes)
		}
	}
	if s.Purpose == "wireless" {
		link = "leads: " + strings.Join(s.Antennas, ", ")
		if s.Antennas == nil {
			link = "leads not yet known"
		}
	} else {
		link += ", " + protocolNames(s.Protocols)
	}
	c.Lines = append(c.Lines, link, lengthWords(s))
	c.mark(ch, "/slots/"+s.ID, "key")
	return c
}

func protocolNames(list []string) string {
	if list == nil {
		return "protocols not yet known"
	}
	words := make([]string, len(list))
	for i, p := range list {
		words[i] = storage.Interface(p)
	}
	return strings.Join(words, " ")
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
	c := callOut{ID: b.ID, Kind: storage.Interface(b.Interface.Or("interface?"))}
	how := b.Connector.Or("")
	name, needed := hw.Needs(how)
	switch {
	case needed:
		how = "needs " + name
	case how == "fitted":
		how = "connector fitted"
	case how == "no_header":
		how = "nothing to plug into"
	default:
		how = "connector not yet known"
	}
	c.Lines = append(c.Lines, bayWords(b), how)
	c.mark(ch, "/bays/"+b.ID, "connector")
	return c
}

func packCall(ch *hw.Chassis, i int) callOut {
	b := &ch.Batteries[i]
	c := callOut{ID: b.ID, Kind: "pack, " + energyWords(b)}
	line := ""
	if v, ok := b.NominalV.Get(); ok {
		line = v.String() + " V"
	}
	if n, ok := b.Series.Get(); ok {
		line += ", " + strconv.Itoa(n) + " in series"
	}
	c.Lines = append(c.Lines, strings.TrimPrefix(line, ", "), strings.Join(b.PartNumbers, ", "))
	c.mark(ch, "/batteries/"+b.ID, "design_wh")
	return c
}

// mark says how a place is known: by the finding on its leading fact, else by the
// strongest on any of its facts; and whether one of them is disputed.
func (c *callOut) mark(ch *hw.Chassis, prefix, leading string) {
	c.Source, c.Date = "unknown", "no source"
	best := len(evidence.Sources)
	for _, f := range evidence.Used(evidence.Facts(ch.Findings), []string{prefix}) {
		c.Disputed = c.Disputed || f.Disputed
		rank := evidence.Rank(f.InForce.Source)
		if f.Path == prefix+"/"+leading {
			rank = -1
		}
		if rank < best {
			best, c.Source, c.Date = rank, f.InForce.Source, day(f.InForce.On)
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

func speedWords(kind hw.Maybe[string], speed, ranks hw.Maybe[int]) string {
	words := kind.Or("type not yet known")
	if mts, ok := speed.Get(); ok {
		words += fmt.Sprintf("-%d", mts)
	}
	if r, ok := ranks.Get(); ok {
		words += fmt.Sprintf(", %dR", r)
	}
	return words
}
