// Package card says in words, in the order of the hands, everything that an option does to
// a machine: what lies ready, each step down, what is fitted where and how, each step back,
// what to expect at the first start, and where the old parts and the data go.
package card

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/core/teardown"
)

// Card is all of it. Reach is the error of a way in that nobody has recorded; Down and Up
// are empty then.
type Card struct {
	Bits, Tools, Consumables []string
	Parts                    []Part
	Down                     []Step
	Fit                      []Fit
	Up                       []Step
	StaysOut                 []string // what is not put back, and why
	Closing                  []string // what is looked at before the cover goes on
	Cover                    string   // the step of the way back at which that is said, "" for none
	FirstStart               []string
	Old                      []Old
	Reach                    error
	Sheet                    *teardown.Sheet // that it was made from; nil with Reach
}

// Part is something bought or taken from the shelf.
type Part struct {
	Quantity    int
	Name, Where string // "on the shelf", "to be ordered, 4 days"
}

// StepKind tells the steps that no record has from those of the record.
type StepKind string

// The kinds of steps.
const (
	StepRecorded StepKind = ""
	StepHold     StepKind = "hold"  // the power button is held, which cuts the pack
	StepLook     StepKind = "look"  // the pack is looked at
	StepTrial    StepKind = "trial" // a start before the cover goes on
)

// Step is one move of the hands: what is done, the screws it turns, and what to know.
type Step struct {
	ID     string // of the record's step, "" for one that no record has
	Kind   StepKind
	Does   string
	Screws []string
	How    []string // plug, tool, from where
	Mind   []string
	Why    string // from the record's findings
}

// Fit is what happens at one place, or one service.
type Fit struct {
	ID    string // of the place or the service
	Place string
	What  string // the part that goes in, "comes out" or the service
	How   []string
	In    *hw.Part // that goes in, nil for none
	Out   string   // what comes out, in words, "" for nothing
	Moves []Move   // of the hands, in their order; How has them too
}

// MoveKind is what the hands do at a place.
type MoveKind string

// The kinds of moves, in the order in which they are made.
const (
	MoveOut    MoveKind = "out"    // the old part is taken out
	MoveHolder MoveKind = "holder" // a bracket, caddy or cable goes in first
	MovePost   MoveKind = "post"
	MoveCarry  MoveKind = "carry" // something moves over from the old part
	MoveSeat   MoveKind = "seat"  // into the socket, at its angle
	MoveDown   MoveKind = "down"  // until it lies or clicks
	MoveScrew  MoveKind = "screw"
	MovePad    MoveKind = "pad"
	MoveLeads  MoveKind = "leads"
)

// Move is one move of the hands at a place: in a sentence for the card, in a few words for
// the bench, and with what a drawing of it needs.
type Move struct {
	Kind        MoveKind
	Says, Title string
	From, To    int      // mm, where a post stands and is to stand; 0 for not told
	Key         string   // of the socket, "" for not told
	Leads       []string // by post: the colour of its lead
}

// Old is a part that came out.
type Old struct{ Place, What, Goes string }

// Job is what a card is made from beside the option.
type Job struct {
	Chassis *hw.Chassis
	Machine *hw.Machine
	Parts   *hw.Parts
	// Printed says that heat sinks are loosened in the printed order, not in its reverse.
	Printed bool
	// Whole says that every step of the way in was done, whatever the option needs.
	Whole bool
	// Trial is when the machine is started before its cover goes on.
	Trial TrialWhen
}

// TrialWhen is a shop's practice of starting a machine before its cover goes on (docs/rules.md, The way in).
type TrialWhen string

// The practices.
const (
	TrialMore   TrialWhen = "more" // when more than the memory was touched
	TrialAlways TrialWhen = "always"
	TrialNever  TrialWhen = "never"
)

// TrialWhens is the table of practices.
var TrialWhens = hw.Vocabulary[TrialWhen]{{Word: TrialMore, Says: "when more than the memory was touched"},
	{Word: TrialAlways, Says: "always"}, {Word: TrialNever, Says: "never"}}

// Of makes the card of an option.
func Of(ctx context.Context, j Job, o *plan.Option) (*Card, error) {
	c := &Card{}
	m := maker{Job: j, o: o, card: c, facts: evidence.Facts(j.Chassis.Findings)}
	job, targets := plan.JobOf(j.Chassis, j.Machine, o)
	var sheet *teardown.Sheet
	var err error
	if j.Whole {
		sheet = teardown.WholeWay(j.Chassis, job, targets...)
	} else {
		sheet, err = teardown.RunSheet(ctx, j.Chassis, targets, job)
	}
	switch unknown := (teardown.ReachUnknown{}); {
	case err == nil:
		c.Sheet = sheet
		m.ways(sheet)
	case asReach(err, &unknown):
		c.Reach = unknown
	default:
		return nil, err
	}
	m.parts()
	m.fits(sheet)
	m.firstStart()
	return c, nil
}

// OfWay is the card of a look inside: every step of the way in and back, and nothing fitted.
func OfWay(j Job) *Card {
	is := teardown.InsideOf(j.Chassis, j.Machine)
	c := &Card{Sheet: teardown.WholeWay(j.Chassis, teardown.Job{Is: is, Ends: is})}
	m := maker{Job: j, o: &plan.Option{}, card: c, facts: evidence.Facts(j.Chassis.Findings), inside: true}
	m.ways(c.Sheet)
	m.firstStart()
	return c
}

// maker makes one card.
type maker struct {
	Job
	o      *plan.Option
	card   *Card
	facts  []evidence.Fact
	inside bool // a look inside, without an option
}

// ways writes out the way in and the way back.
func (m *maker) ways(s *teardown.Sheet) {
	c, ch := m.card, m.Chassis
	c.Bits, c.Tools, c.Consumables = s.Kit.Bits, s.Kit.Tools, s.Kit.Consumables
	minds := map[string][]string{}
	for _, x := range s.Cautions {
		minds[x.Step] = append(minds[x.Step], hw.Cautions.Says(x.Code))
	}
	var down []int
	look := teardown.LookAfter(ch, s.Down)
	if look == -1 {
		c.Down = append(c.Down, looked())
	}
	for n, id := range s.Down {
		i := ch.StepByID(id)
		down = append(down, i)
		st := &ch.Steps[i]
		step := Step{ID: id, Does: bare(st), Screws: m.screws(st, true), Mind: minds[id]}
		step.How = m.how(st)
		if st.StartAt != "" {
			step.How = append(step.How, startWords(st.StartAt))
		}
		if st.IsolatesPwr.Or(false) {
			step.Mind = append(step.Mind, "power is disconnected from here on")
		}
		for _, f := range evidence.Used(m.facts, []string{"/steps/" + id}) {
			if f.InForce.Note != "" && step.Why == "" {
				step.Why = f.InForce.Note
			}
		}
		c.Down = append(c.Down, step)
		if st.Verb == hw.PowerDown && has(ch.Quirks, hw.HoldPowerToCut) {
			c.Down = append(c.Down, m.hold())
		}
		if n == look {
			c.Down = append(c.Down, looked())
		}
	}
	c.Closing, c.Cover = teardown.Closing(ch, s.Up), teardown.CoverOn(ch, s.Up)
	trial := ""
	if m.Trial == TrialAlways || m.Trial != TrialNever && m.touchesMore() {
		trial = c.Cover
	}
	back := map[string]bool{}
	for _, id := range s.Up {
		back[id] = true
		st := &ch.Steps[ch.StepByID(id)]
		if id == trial {
			c.Up = append(c.Up, Step{Kind: StepTrial, Does: "Trial start, with the cover off",
				How: []string{"charger in, hands and tools away, then start it",
					"it must see what was fitted: what it does not see is mended now, with the cover off",
					"off again, charger out, before the next step"}})
		}
		step := Step{ID: id}
		if st.BackBefore != "" {
			step.Does, step.Mind, step.How = bare(st), minds[id], m.how(st)
			step.Screws = m.screws(st, false)
		} else {
			step.Screws = m.screws(st, false)
			step.Does = undone(st, len(step.Screws) > 0)
		}
		if st.CloseHint != "" {
			step.How = append(step.How, st.CloseHint)
		}
		for place, at := range s.SwapOnRefit {
			if at == id {
				step.Mind = append(step.Mind, "with "+place+" filled as below")
			}
		}
		if id == c.Cover && len(c.Closing) > 0 {
			step.Mind = append([]string{"before it goes on: " + strings.Join(c.Closing, "; ")}, step.Mind...)
		}
		c.Up = append(c.Up, step)
	}
	for _, i := range down {
		if st := &ch.Steps[i]; !back[st.ID] {
			c.StaysOut = append(c.StaysOut, m.stays(st))
		}
	}
}

// startWords say where a step begins, in the words of the record: a place by its name, or by where it
// lies.
func startWords(at string) string {
	first, _, _ := strings.Cut(strings.ToLower(at), " ")
	if slices.Contains(
		[]string{"at", "beside", "near", "under", "behind", "above", "below", "between", "on", "in", "by", "along", "next", "from"},
		first,
	) {
		return "begin " + at
	}
	return "from the " + strings.TrimPrefix(at, "the ")
}

// stays says why what a step took away does not go back.
func (m *maker) stays(st *hw.Step) string {
	what := st.Part
	if what == "" {
		what = st.Place
	}
	switch {
	case st.Back != nil && st.Back.Place == hw.BatteryPlace:
		return fmt.Sprintf("%s stays out: it goes back only beside the %s pack", what, st.Back.State)
	case st.Back != nil:
		return fmt.Sprintf("%s stays out: it goes back only where %s is %s", what, st.Back.Place, st.Back.State)
	}
	return what + " stays out: " + st.Place + " ends empty"
}

// looked is the look at the pack before it is unplugged (docs/rules.md, battery).
func looked() Step {
	return Step{Kind: StepLook, Does: "Look at the pack", How: []string{"before it is unplugged: swollen, dented, hot, or leaking?"}}
}

// touchesMore reports whether more than the memory is touched; a look inside touches all.
func (m *maker) touchesMore() bool {
	if m.inside || len(m.o.Services) > 0 {
		return true
	}
	for _, a := range m.o.Actions {
		if a.Do != plan.DoKeep && m.Chassis.SocketByID(a.Place) < 0 {
			return true
		}
	}
	return false
}

// hold is the step that cuts the pack by the power button.
func (m *maker) hold() Step {
	step := Step{Kind: StepHold, Does: "Hold the power button: it cuts the battery", How: []string{"how long is not recorded"}}
	if s, ok := m.Chassis.HoldSeconds.Get(); ok {
		step.Does, step.How = "Hold the power button for "+s.String()+" s: it cuts the battery", nil
	}
	return step
}

// screws says every group that a step turns: count × bit × length, the thread and head, and
// where they hide. Down or back decides the order of those with a tightening order.
func (m *maker) screws(st *hw.Step, down bool) []string {
	var out []string
	for _, f := range st.Fasteners {
		words := fmt.Sprintf("%d", f.Count)
		i := m.Chassis.FastenerByID(f.Group)
		if i < 0 {
			out = append(out, words+" screws")
			continue
		}
		g := &m.Chassis.Fasteners[i]
		bit, told := g.Bit.Get()
		if !told {
			bit = st.Bit.Or("bit not known")
		}
		words += " × " + bit
		if mm, ok := g.Length.Get(); ok {
			words += " × " + mm.String() + " mm"
		}
		if more := strings.TrimSpace(g.Thread + " " + g.Head); more != "" {
			words += " (" + more + ")"
		}
		if down && g.Captive.Or(false) {
			words += ", captive: they stay in"
		}
		if g.Hidden != "" {
			words += ", hidden: " + g.Hidden
		}
		if order := m.turned(st, g, down); order != "" {
			words += ", " + order
		}
		out = append(out, words)
	}
	return out
}

// turned is the order in which a group with a tightening order is turned.
func (m *maker) turned(st *hw.Step, g *hw.Fastener, down bool) string {
	if len(g.Order) == 0 {
		if !down && g.Count.Or(0) > 1 {
			return "start all, then tighten"
		}
		return ""
	}
	printed := st.Loosen == hw.LoosenAsPrinted || st.Loosen == "" && m.Printed
	order := make([]string, len(g.Order))
	for i, n := range g.Order {
		at := i
		if down && !printed {
			at = len(order) - 1 - i
		}
		order[at] = fmt.Sprint(n)
	}
	if down {
		return "loosen " + strings.Join(order, " ")
	}
	return "start all, then tighten " + strings.Join(order, " ") + ", in rounds"
}

// how says the plug by its kind and the tool.
func (m *maker) how(st *hw.Step) []string {
	var out []string
	if st.Connector != "" {
		out = append(out, hw.Connectors.Says(st.Connector))
	}
	if st.Toward != "" {
		out = append(out, hw.TowardArrows[st.Toward]+" "+hw.Towards.Says(st.Toward))
	}
	if st.Tool != "" {
		out = append(out, "with the "+st.Tool)
	}
	return out
}

// bare is what a step does, without a part nobody named.
func bare(st *hw.Step) string { return strings.TrimSuffix(st.Does(), " it") }

// undone is how a step is undone; where its screws are listed they say how they are turned,
// and what comes after the start stands under the first start.
func undone(st *hw.Step, screws bool) string {
	if st.Verb == hw.PowerDown {
		return "Charger in, switch on"
	}
	words := st.Undone("")
	if first, _, more := strings.Cut(words, ": "); more && screws {
		words = first
	}
	return words
}

func has[W comparable](list []W, word W) bool {
	for _, x := range list {
		if x == word {
			return true
		}
	}
	return false
}
