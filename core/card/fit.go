package card

import (
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/core/teardown"
)

func asReach(err error, into *teardown.ReachUnknown) bool { return errors.As(err, into) }

// part finds a part of the list.
func (m *maker) part(id string) *hw.Part {
	for i := range m.Parts.Parts {
		if m.Parts.Parts[i].ID == id {
			return &m.Parts.Parts[i]
		}
	}
	return &hw.Part{ID: id, Name: "a part that is no longer listed"}
}

// parts lists what has to lie ready, and what is left over of kits.
func (m *maker) parts() {
	for _, b := range m.o.Buy {
		p := m.part(b.Part)
		m.card.Parts = append(m.card.Parts, Part{b.Quantity, p.Name, whereFrom(p, b.Quantity)})
	}
}

func whereFrom(p *hw.Part, n int) string {
	days, told := p.LeadDays.Get()
	switch {
	case p.Brought():
		return "brought by the customer"
	case p.InStock() >= n:
		return "on the shelf"
	case told:
		return fmt.Sprintf("to be ordered, %d days", days)
	}
	return "to be ordered"
}

// fits says for each place and service what is done there.
func (m *maker) fits(s *teardown.Sheet) {
	c := m.card
	for i := range m.o.Actions {
		a := &m.o.Actions[i]
		if a.Do == plan.DoKeep {
			continue
		}
		f := Fit{ID: a.Place, Place: a.Place, What: "comes out"}
		if a.Out != "" {
			f.Out = outWords(a)
			f.Moves = append(f.Moves, Move{Kind: MoveOut, Title: "Out: " + f.Out, Says: "Out: " + f.Out})
		}
		if a.Part != "" {
			p := m.part(a.Part)
			f.What, f.In = p.Name, p
			f.Moves = append(f.Moves, m.fitted(a, p)...)
			f.How = howOf(f.Moves)
			if over := m.leftOver(p); over != "" {
				f.How = append(f.How, over)
			}
		}
		if s != nil {
			if id, ok := s.SwapOnRefit[a.Place]; ok {
				f.How = append(f.How, "Done on the way back, at: "+hw.LowerFirst(m.Chassis.Steps[m.Chassis.StepByID(id)].Undone("")))
			}
		}
		f.How = append(f.How, m.advice(a.Place)...)
		if mi := m.o.Migration; mi != nil && mi.Place == a.Place {
			f.How = append(f.How, m.migration(mi))
		}
		c.Fit = append(c.Fit, f)
		if a.Out != "" {
			c.Old = append(c.Old, Old{a.Place, outWords(a), m.goes(a)})
		}
	}
	for _, id := range m.o.Services {
		f := Fit{ID: id, Place: id, What: id}
		if i := m.Chassis.ServiceByID(id); i >= 0 {
			sv := &m.Chassis.Services[i]
			f.What, f.Place = m.Chassis.ServiceName(id), ""
			if len(sv.Carry) > 0 {
				f.How = append(f.How, "Move over: "+strings.Join(sv.Carry, ", "))
			}
			if uses := append(append([]string{}, sv.Tools...), sv.Consumables...); len(uses) > 0 {
				f.How = append(f.How, "With "+strings.Join(uses, ", "))
			}
		}
		c.Fit = append(c.Fit, f)
	}
}

// howOf is the moves as lines of a card: how a part goes down and what holds it stand with
// how it goes in.
func howOf(moves []Move) []string {
	var out []string
	for _, x := range moves {
		switch {
		case x.Kind == MoveDown && len(out) > 0:
			out[len(out)-1] += ", " + x.Says
		case x.Kind == MoveScrew && len(out) > 0:
			out[len(out)-1] += "; " + x.Says
		default:
			out = append(out, x.Says)
		}
	}
	return out
}

// fitted says how a part goes into its place.
func (m *maker) fitted(a *plan.Action, p *hw.Part) []Move {
	switch {
	case p.Memory != nil:
		return module(p.Memory)
	case a.Place == hw.BatteryPlace:
		return m.pack(a.Do == plan.DoReplace)
	}
	if i := m.Chassis.SlotByID(a.Place); i >= 0 {
		return m.slot(&m.Chassis.Slots[i], p, a.Do == plan.DoReplace)
	}
	if i := m.Chassis.BayByID(a.Place); i >= 0 {
		return m.bay(&m.Chassis.Bays[i], a.Do == plan.DoReplace)
	}
	return nil
}

// module says how memory is seated (the usual remedy for one that is not told).
func module(mem *hw.Module) []Move {
	switch mem.Form {
	case "SO-DIMM":
		return []Move{
			{
				Kind:  MoveSeat,
				Title: "In at an angle, notch to the key, until no gold shows",
				Says:  "Notch to the key; in at an angle until no gold shows",
			},
			{Kind: MoveDown, Title: "Down until both arms click", Says: "then down until both arms click"},
		}
	case "CAMM2", "LPCAMM2":
		return []Move{{Kind: MoveDown, Title: "Flat onto its contacts, by the pins", Says: "Flat onto its contacts by the pins"},
			{Kind: MoveScrew, Title: "Its screws, crosswise", Says: "its screws crosswise"}}
	}
	return []Move{{Kind: MoveSeat, Title: "Notch to the key, straight in", Says: "Notch to the key, straight in"},
		{Kind: MoveDown, Title: "Down until both latches close", Says: "then down until both latches close"}}
}

// slot says where the post stands, what holds the module, what goes on it, and the leads of
// a card. was says that a part comes out of it: into an empty place nothing moves over.
func (m *maker) slot(s *hw.Slot, p *hw.Part, was bool) []Move {
	out := m.holds(s, p)
	if was && len(s.CarryOver) > 0 {
		list := strings.Join(s.CarryOver, ", ")
		out = append(
			out,
			Move{Kind: MoveCarry, Title: upper(list) + " from the old part", Says: "Moves over from the old part: " + list},
		)
	}
	seat := Move{
		Kind:  MoveSeat,
		Title: "In at an angle, notch to the key",
		Says:  "In at an angle, notch to the key",
		Key:   s.Key.Or(""),
	}
	if seat.Key != "" {
		seat.Says = "In at an angle, notch to key " + seat.Key
		seat.Title = seat.Says
	}
	held := fixedBy(s.Fixing)
	out = append(
		out,
		seat,
		Move{Kind: MoveDown, Title: "Down flat", Says: "then flat"},
		Move{Kind: MoveScrew, Title: upper(held), Says: held},
	)
	if cool, ok := s.Cooling.Get(); ok && cool != hw.NoCooling && p.Drive != nil {
		what := "The " + hw.Coolings.Says(cool) + " goes back on"
		out = append(out, Move{Kind: MovePad, Title: what, Says: what})
	}
	if p.Wireless != nil {
		out = append(out, antennas(s, p.Wireless))
	}
	return out
}

// holds says what holds a module at its length: where the post stands, or the bracket to it.
func (m *maker) holds(s *hw.Slot, p *hw.Part) []Move {
	length := hw.Maybe[int]{}
	switch {
	case p.Drive != nil:
		length = p.Drive.Length
	case p.Wireless != nil:
		length = p.Wireless.Length
	}
	mm, told := length.Get()
	how := s.Lengths[strconv.Itoa(mm)]
	name, needs := hw.Needs(how)
	now := m.longNow(s.ID)
	post := Move{Kind: MovePost, From: now, To: mm}
	switch {
	case !told:
		post.Says = "The length of the module is not known: look at the post first"
	case needs:
		post.Kind, post.Says = MoveHolder, fmt.Sprintf("%s to %d mm holds it", m.accessory(name), mm)
	case how == hw.HeldMovable && now == mm:
		post.Says = fmt.Sprintf("The post stays at %d mm", mm)
	case how == hw.HeldMovable:
		post.Says = fmt.Sprintf("Move the post to %d mm", mm)
	case how == hw.HeldFitted:
		post.From, post.Says = mm, fmt.Sprintf("The post at %d mm is there", mm)
	case how == hw.HeldByNone:
		post.Says = fmt.Sprintf("Nothing holds %d mm: fix it as agreed", mm)
	default:
		return nil
	}
	post.Title = post.Says
	return []Move{post}
}

func upper(words string) string {
	if words == "" {
		return ""
	}
	return strings.ToUpper(words[:1]) + words[1:]
}

func (m *maker) longNow(place string) int {
	for i := range m.Machine.Fitted.Drives {
		if d := &m.Machine.Fitted.Drives[i]; d.Place == place {
			return d.Drive.Length.Or(0)
		}
	}
	return 0
}

// accessory is an accessory by the name of the part that provides it.
func (m *maker) accessory(name string) string {
	for _, b := range m.o.Buy {
		if p := m.part(b.Part); p.Provides == name {
			return p.Name
		}
	}
	return "The " + strings.ReplaceAll(name, "-", " ")
}

func antennas(s *hw.Slot, card *hw.Card) Move {
	if len(s.Antennas) == 0 {
		look := "Note which lead sits on which post before it comes off"
		return Move{Kind: MoveLeads, Title: look, Says: look}
	}
	posts := make([]string, 0, len(s.Antennas))
	leads := Move{Kind: MoveLeads}
	for i, colour := range s.Antennas {
		if n, told := card.Antennas.Get(); told && i >= n {
			posts = append(posts, colour+" is left over: insulate its end")
			continue
		}
		posts = append(posts, fmt.Sprintf("%s on post %d", colour, i+1))
		leads.Leads = append(leads.Leads, colour)
	}
	leads.Title = "Leads straight down: " + strings.Join(posts, ", ")
	leads.Says = "Leads straight down until they snap: " + strings.Join(posts, ", ")
	return leads
}

func fixedBy(f *hw.Fixing) string {
	if f == nil {
		return "fixing not recorded: reuse the old screw"
	}
	words := "held by"
	switch {
	case f.Screw != "":
		words += " one " + f.Screw
	case f.From != "" || f.Bit.IsKnown():
		words += " a screw"
	}
	if bit, ok := f.Bit.Get(); ok {
		words += ", " + bit
	}
	if f.From != "" {
		words += ", " + hw.FixingsFrom.Says(f.From)
	}
	return words
}

func (m *maker) bay(b *hw.Bay, was bool) []Move {
	var out []Move
	say := func(kind MoveKind, says string) { out = append(out, Move{Kind: kind, Title: upper(says), Says: says}) }
	for _, how := range []string{b.Caddy.Or(""), b.Connector.Or("")} {
		if name, needs := hw.Needs(how); needs {
			say(MoveHolder, m.accessory(name)+" goes in first")
		}
	}
	if b.Caddy.Or("") == hw.HeldFitted {
		say(MoveHolder, "Into the caddy that is there")
	}
	say(MoveSeat, "Slide it until the plug seats")
	say(MoveScrew, fixedBy(b.Fixing))
	if was && len(b.CarryOver) > 0 {
		say(MoveCarry, "Moves over from the old part: "+strings.Join(b.CarryOver, ", "))
	}
	return out
}

func (m *maker) pack(was bool) []Move {
	lay := "Flat into its place, never bent or pressed; its plug goes in on the way back"
	out := []Move{{Kind: MoveSeat, Title: "Flat into its place, never bent or pressed", Says: lay}}
	if !was || m.o.Battery == nil {
		return out
	}
	if i := m.Chassis.BatteryByID(m.o.Battery.Option); i >= 0 && len(m.Chassis.Batteries[i].CarryOver) > 0 {
		list := strings.Join(m.Chassis.Batteries[i].CarryOver, ", ")
		out = append(
			out,
			Move{Kind: MoveCarry, Title: upper(list) + " from the old pack", Says: "Moves over from the old pack: " + list},
		)
	}
	return out
}

// leftOver says what is left of a kit that is not used up.
func (m *maker) leftOver(p *hw.Part) string {
	if p.Pieces() == 1 {
		return ""
	}
	used := 0
	for i := range m.o.Actions {
		if m.o.Actions[i].Part == p.ID {
			used++
		}
	}
	if left := p.Purchases(used)*p.Pieces() - used; left > 0 {
		return fmt.Sprintf("One of a kit of %d; %d left over, to the customer or the shelf", p.Pieces(), left)
	}
	return ""
}

// migration says how the system gets onto the new drive; one that fails is imaged before it is asked for anything
// else, and one that cannot be read gives nothing.
func (m *maker) migration(mi *plan.Migration) string {
	var old hw.FittedDrive
	for i := range m.Machine.Fitted.Drives {
		if m.Machine.Fitted.Drives[i].Place == mi.Place {
			old = m.Machine.Fitted.Drives[i]
		}
	}
	words := "A clean installation; the customer's data comes from the backup"
	switch {
	case mi.How == hw.Clone && old.Fails():
		words = "The old drive is failing: image it before anything else, then put the image onto this one; how long " +
			"it takes is not known"
	case mi.How == hw.Clone:
		words = "Copy the old drive onto it"
	}
	if minutes, ok := mi.Minutes.Get(); ok {
		words += ", about " + minutes.String() + " min beside the bench"
	}
	return words
}

// outWords is what comes out; a wireless card is known by its standard.
func outWords(a *plan.Action) string {
	if hw.Standards.Index(hw.Standard(a.Out)) >= 0 {
		return "the " + hw.Standards.Says(hw.Standard(a.Out)) + " card"
	}
	return a.Out
}

// goes says where an old part goes (docs/rules.md, Proof and hand-over).
func (m *maker) goes(a *plan.Action) string {
	if a.Place == hw.BatteryPlace {
		return "battery recycling, its plug taped"
	}
	for i := range m.Machine.Fitted.Drives {
		if m.Machine.Fitted.Drives[i].Place == a.Place {
			return "back to the customer with the data on it, or erased, as agreed"
		}
	}
	return "back to the customer, or the shelf, as agreed"
}

// firstStart says what to expect and to do at the first start (docs/rules.md, Proof and hand-over), from
// what changed and from the record's quirks.
func (m *maker) firstStart() {
	say := func(words string) { m.card.FirstStart = append(m.card.FirstStart, words) }
	quirks := m.Chassis.Quirks
	memory, drive := false, false
	for i := range m.o.Actions {
		a := &m.o.Actions[i]
		if a.Do == plan.DoKeep {
			continue
		}
		memory = memory || m.Chassis.SocketByID(a.Place) >= 0
		drive = drive || a.Part != "" && m.part(a.Part).Drive != nil
	}
	if m.Chassis.Batteries == nil || len(m.Chassis.Batteries) > 0 {
		if has(quirks, hw.ChargerToWake) {
			say("Charger in: without it this model does not start once the battery was unplugged")
		} else {
			say("Charger in: many machines do not start from a battery that was unplugged")
		}
	}
	if memory {
		say("Wait some minutes: memory training, screen stays dark")
	}
	if memory && has(quirks, hw.NoticeAfterMemory) {
		say("A “settings changed” message appears once: confirm it")
	}
	if has(quirks, hw.LidPowersOn) {
		say("Opening the lid switches it on: fit the cover first")
	}
	if has(quirks, hw.NoClockCell) {
		say("The clock is wrong: set it")
	}
	if mi := m.o.Migration; drive && (mi == nil || mi.How != hw.Clone) {
		say("Initialise a new drive that is not the boot drive")
	}
	if slices.ContainsFunc(m.o.Risk.Reasons, func(r plan.Reason) bool {
		return r.Code == hw.CodeLimitInferred || r.Code == hw.CodeBeyondMaker
	}) {
		say("Run a memory test over all of it: so much was never proven here, the test decides, and what does not run is taken back")
	}
	page := "the firmware"
	if key := m.Chassis.FirmwareKey; key != "" {
		page += " (" + key + " while it starts)"
	}
	say("Look in " + page + ", then in the system, that every new part shows at the right size and speed")
}

// advice is what the record says to whoever works at a place: bits of advice, the firmware that it needs, what lies under
// its part, and the connectors of its leads.
func (m *maker) advice(place string) []string { return Advice(m.Chassis, place) }

// Advice is what a record says to whoever works at a place, a line each.
func Advice(ch *hw.Chassis, place string) []string {
	var out []string
	for _, p := range ch.Places() {
		if p.ID != place && !(place == hw.BatteryPlace && p.Kind == hw.InPack) {
			continue
		}
		for _, text := range p.Advice {
			out = append(out, upper(text))
		}
		if p.Firmware != "" {
			out = append(out, "It works so from firmware "+p.Firmware+" on: look which one is in it first")
		}
		if p.Kind == hw.InSlot {
			if mm, told := ch.Slots[p.Index].LeadMM.Get(); told {
				out = append(out, fmt.Sprintf("The connectors of its leads are %s mm: those of the card are as wide", mm))
			}
		}
	}
	for i := range ch.Shapes {
		s := &ch.Shapes[i]
		if s.Under != place {
			continue
		}
		what := s.What
		if what == "" {
			what = s.ID
		}
		if mm, told := s.Thickness.Get(); told {
			what += ", " + mm.String() + " mm"
		}
		out = append(out, upper(what)+", lies under it: it stays, and is not torn")
	}
	return out
}
