package bench

import (
	"crypto/rand"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"yembo/shop/base"
	"yembo/shop/work"

	"github.com/labstack/echo/v5"

	"yembo/core/card"
	"yembo/core/hw"
	"yembo/core/run"
	"yembo/core/teardown"
	"yembo/web/draw"
	"yembo/web/form"
	"yembo/web/kit"
)

// runView is the page of a run.
type runView struct {
	kit.Tabs
	Label, Model, Customer string
	Actor                  string
	RunID                  int64
	Descent                *draw.Descent
	Map                    *draw.RunMap
	Steps                  []runStep
	At                     int // number of the step that is shown, from 0
	Next                   int // number of the step that is next; past the last when all are done
	Groups                 []runGroup
	Asks                   []runAsk
	State                  string // as JSON, for the script
	Refused                []string
	Changed                bool
	Missing                []string
	Why                    string
	Last                   int64
	Shape                  string
	Bits                   []string
	Plugs                  []hw.Term[string]
	Whats                  []hw.Term[string]
	Verbs                  []hw.Term[string]
	Rests                  []hw.Term[string]
	Fallen                 []run.Event
	OpenPlugs              []string
	UndoStep               string // key of the last step that is done
	UndoN                  int
	Bare                   int    // facts that can be found out at the step that is shown
	Stopped                string // why nothing goes on before the machine is made safe
	StopNext               string // what is done about it now
	Ended                  string
	EndBars                []string
	AllDone                bool
	Hands                  string
	Paused                 bool
	Log                    []runLine
	Offers                 []runOffer
	Others                 []runOther
	Wide                   bool // the descent is wider than a tablet
	Client                 string
	Cautions               []string
	Stays                  []string
	FirstStart             []string
	Closing                []string
}

// OnMat is how many loose screws lie on the mat.
func (v *runView) OnMat() int {
	n := 0
	for i := range v.Groups {
		n += v.Groups[i].Count
	}
	return n
}

// OneTap are the ways of going otherwise that need no more than to be said.
func (v *runView) OneTap() []hw.Term[string] {
	return slices.DeleteFunc(run.Whats.Terms(), func(t hw.Term[string]) bool {
		return !slices.Contains([]run.What{run.ItIsGlued, run.FellIn, run.Stripped, run.ClipBack, run.Broke}, run.What(t.Word))
	})
}

// Held are the ways in which a module of a length is held.
func (v *runView) Held() []hw.Term[string] { return hw.HeldTerms.Terms() }

// Lengths are the usual lengths of modules.
func (v *runView) Lengths() []int { return []int{30, 42, 60, 80, 110} }

// Shown is the step that is shown.
func (v *runView) Shown() *runStep {
	if v.At < len(v.Steps) {
		return &v.Steps[v.At]
	}
	return nil
}

// runStep is one step as the page shows it.
type runStep struct {
	Key, Kind, Title string
	N                int
	How, Mind        []string
	Why              string
	Danger           []string
	Lots             []runLot
	Back             []runLot // that have to go back, counted
	Tick, TickUnder  string
	Zoom             *draw.RunZoom
	Side             string
	Turn             bool
	Bit, BitOut      string
	Fit              *card.Fit
	Cells            []draw.FitCell
	Goes             string
	Serial           bool // what goes in has a serial to be scanned
	Hold             string
	Done, By         string
	Under            string // in the list of what comes then
	Depth            int
	Lays             string // as JSON: what it lays on the mat
	Took             string // what it took in other jobs
	Lasts            string
	Spare            bool
	Closes, Opens    string
	Holding          []string // what may still hold it
	ID               string
}

// runLot is screws of a group that a step turns.
type runLot struct {
	Group, Letter string
	Count         int
	Says          string
	Captive       bool
	MM            float64 // length of the shank
	Length        string
	NotThese      []runScrew // that must not go into their holes
}

// Wide is how wide a screw is drawn, mm.
func (l runLot) Wide() float64 { return l.MM + 3 }

type runScrew struct {
	Letter, Length string
	MM             float64
}

// Wide is how wide it is drawn, mm.
func (s runScrew) Wide() float64 { return s.MM + 3 }

// runGroup is a group of screws in the list of what lies on the mat.
type runGroup struct {
	ID, Letter, Says string
	Count            int // that lie there
	Most             int
	Marks            []float64
	Shank            float64
}

// High is how high its marks are drawn.
func (g runGroup) High() float64 { return g.Shank + 5 }

// runAsk is a fact to find out while its place is bare.
type runAsk struct {
	Path, Name, Place, How string
	From, Until            int
	Choices                []runChoice
	Field                  form.FieldSpec
	Unit                   string
	Disputed               bool
	UntilWords             string
}

type runChoice struct{ Value, Says, Source, On string }

// runLine is one line of what happened.
type runLine struct{ At, By, Says, Under string }

// runOffer is something that the run taught, and the record may take.
type runOffer struct{ Client, Says string }

// runOther is another job whose machine is of this model.
type runOther struct{ Label, Machine, Link string }

func (s *pages) runView(c *echo.Context, r *work.Run, shown string) runView {
	p, st := r.State.Plan, r.State
	v := runView{
		Tabs:     kit.TabsOf(&r.Record, "run"),
		Label:    base.Label(r.Record.JobID),
		Model:    p.Chassis.Name(),
		Customer: r.Record.Customer,
		Actor: s.Acting(
			c,
		).Name,
		Descent:    draw.DescentOf(p),
		Map:        draw.RunMapOf(p.Chassis),
		Next:       st.Next,
		Changed:    r.Changed,
		Missing:    r.Missing,
		Why:        r.Why,
		Last:       r.Last,
		Shape:      shapeOf(r),
		Plugs:      hw.Connectors.Terms(),
		Whats:      run.Whats.Terms(),
		Verbs:      hw.VerbWords().Terms(),
		Rests:      run.Rests.Terms(),
		Fallen:     st.Fallen,
		AllDone:    st.Next >= len(p.Steps),
		Paused:     st.Paused,
		Client:     rand.Text(),
		Hands:      minutesWords(st),
		FirstStart: p.Card.FirstStart,
		Closing:    p.Card.Closing,
		Stays:      p.Card.StaysOut,
	}
	v.Wide = v.Descent.W > 1000
	v.At = min(v.Next, max(len(p.Steps)-1, 0))
	if i := p.Index(shown); i >= 0 {
		v.At = i
	}
	for _, plug := range st.Open {
		v.OpenPlugs = append(v.OpenPlugs, plug.Name)
	}
	v.RunID = r.ID
	if st.Stopped != "" {
		v.Stopped, v.StopNext = st.Stopped, kit.StopNext(st.Stopped)
		v.Cautions = kit.DangerCautions(&r.Record)
	}
	if !r.Ended.IsZero() {
		v.Ended = kit.Stamp(r.Ended)
	}
	for _, b := range st.EndBars() {
		v.EndBars = append(v.EndBars, hw.UpperFirst(b.Says))
	}
	letters := draw.Letters(p.Chassis)
	for i := range p.Steps {
		v.Steps = append(v.Steps, stepView(r, i, letters))
	}
	for i := range v.Steps {
		if v.Steps[i].Done != "" {
			v.UndoStep, v.UndoN = v.Steps[i].Key, i+1
		}
	}
	v.groups(st, letters)
	v.asks(p, st)
	for i := range v.Asks {
		if a := &v.Asks[i]; a.From < v.At && v.At <= a.Until {
			v.Bare++
		}
	}
	v.Bits = bitsOf(p.Chassis)
	v.log(r)
	for _, w := range st.Waiting {
		made := hw.Step{Verb: w.Data.Verb, Part: w.Data.Part}
		v.Offers = append(v.Offers, runOffer{w.Client, made.Does()})
	}
	for i := range r.Next {
		b := &r.Next[i]
		v.Others = append(v.Others, runOther{base.Label(b.JobID), b.Record.Machine.ID, runAt(b.JobID)})
	}
	if raw, err := json.Marshal(stateOf(r)); err == nil {
		v.State = string(raw)
	}
	return v
}

func minutesWords(st *run.State) string {
	return hw.Minutes(st.Hands.Milliseconds() * 1000 / 60000).Shown().String()
}

// stepView puts a step into words and drawings.
func stepView(r *work.Run, i int, letters map[string]string) runStep {
	p, st := r.State.Plan, r.State
	x := &p.Steps[i]
	v := runStep{Key: x.Key, Kind: string(x.Kind), ID: x.ID, Title: x.Does, N: i + 1, How: x.How, Mind: x.Mind, Why: x.Why,
		Zoom: draw.ZoomOf(p.Chassis, x), Turn: x.Turns, Bit: x.Bit, BitOut: x.BitOut, Fit: x.Fit, Goes: x.Goes, Depth: x.Depth,
		Lasts: x.Lasts.Shown().String(), Spare: x.Kind.Spare(), Closes: x.Closes, Opens: x.Opens}
	if x.Side != "" {
		v.Side = hw.Sides.Says(x.Side)
	}
	for _, c := range x.Danger {
		v.Danger = append(v.Danger, hw.UpperFirst(hw.Cautions.Says(c)))
		v.Mind = slices.DeleteFunc(slices.Clone(v.Mind), func(m string) bool { return m == hw.Cautions.Says(c) })
	}
	if tick, done := st.Done[x.Key]; done {
		v.Done, v.By = tick.At.Format("15:04"), tick.By
	}
	if x.Kind == run.Down {
		v.Took = kit.TookWords(r.Times[x.ID])
	}
	screws := 0
	for _, l := range x.Lays {
		lot := lotView(p.Chassis, l, st.Counted(x.Key, l), letters)
		screws += lot.Count
		v.Lots = append(v.Lots, lot)
	}
	for _, l := range x.Takes {
		lot := lotView(p.Chassis, l, st.Counted(x.Key, l), letters)
		screws += lot.Count
		if l.Captive || l.Own {
			v.Lots = append(v.Lots, lot)
		} else {
			v.Back = append(v.Back, lot)
		}
	}
	if s := p.Chassis.StepByID(x.ID); s >= 0 && (x.Kind == run.Down || x.Kind == run.Up) {
		step := &p.Chassis.Steps[s]
		v.Tick = step.Ticked(x.Kind == run.Up && step.BackBefore == "", screws)
		v.Holding = holding(p, x, step)
	}
	switch x.Kind {
	case run.Look:
		v.Tick, v.TickUnder = "Battery OK", "not swollen, dented, hot or leaking"
	case run.Hold:
		v.Tick = "Held, no light on"
		if n, ok := x.Hold.Get(); ok {
			v.Hold = n.String()
		}
	case run.Trial:
		v.Tick, v.TickUnder = "Starts and detects the new parts", "off again, charger out"
	case run.Detour:
		v.Tick = (&hw.Step{Verb: verbOf(st, x.ID)}).Ticked(false, 0)
	case run.Return:
		v.Tick = (&hw.Step{Verb: verbOf(st, x.ID)}).Ticked(true, 0)
	case run.Service:
		v.Tick = "It is done"
	case run.Fit:
		v.fit(p, x)
	case run.Down, run.Up: // they change nothing here
	}
	v.Under = underWords(&v)
	lays := map[string]int{}
	for _, l := range v.Lots {
		if !l.Captive && x.Kind == run.Down {
			lays[l.Group] = l.Count
		}
	}
	if raw, err := json.Marshal(lays); err == nil {
		v.Lays = string(raw)
	}
	return v
}

func verbOf(st *run.State, client string) hw.Verb {
	for _, w := range st.Puts() {
		if w.Client == client {
			return w.Data.Verb
		}
	}
	return hw.Remove
}

// fit fills what is fitted at a place.
func (v *runStep) fit(p *run.Plan, x *run.Step) {
	v.Cells = draw.FitCellsOf(p.Chassis, x.Fit)
	v.How = nil
	switch {
	case x.Fit.In == nil:
		v.Tick = "It is out"
	case x.ID == hw.BatteryPlace:
		v.Tick, v.Serial = "The pack is in", true
	case x.Fit.In.Memory != nil:
		v.Tick, v.Serial = "It clicked, both arms", true
	case x.Fit.In.Wireless != nil:
		v.Tick, v.Serial = "The card is in, its leads are on", true
	default:
		v.Tick, v.Serial = "The drive is in", true
	}
}

// underWords says in a line what matters of a step that comes later.
func underWords(v *runStep) string {
	var words []string
	for _, l := range append(slices.Clone(v.Lots), v.Back...) {
		words = append(words, fmt.Sprintf("%d × %s", l.Count, l.Letter))
	}
	if v.Bit != "" {
		words = append(words, v.Bit+" in")
	}
	if v.Turn {
		words = append(words, "turn it over")
	}
	if v.Fit != nil && v.Fit.In != nil {
		words = append(words, v.Fit.In.Name)
	}
	if len(v.How) > 0 && len(words) == 0 {
		words = append(words, v.How[0])
	}
	return strings.Join(words, ", ")
}

func lotView(ch *hw.Chassis, l run.Lot, count int, letters map[string]string) runLot {
	out := runLot{Group: l.Group, Letter: kit.OrNothing(letters[l.Group], "?"), Count: count, Captive: l.Captive}
	i := ch.FastenerByID(l.Group)
	if i < 0 {
		out.Says = "not recorded which"
		return out
	}
	g := &ch.Fasteners[i]
	var words []string
	if g.Thread != "" {
		words = append(words, g.Thread)
	}
	if mm, ok := g.Length.Get(); ok {
		out.MM, out.Length = mm.Float(), mm.String()+" mm"
		words = append(words, out.Length)
	} else {
		words = append(words, "length not known")
	}
	if bit, ok := g.Bit.Get(); ok {
		words = append(words, bit)
	}
	if g.Head != "" {
		words = append(words, g.Head)
	}
	out.Says = strings.Join(words, ", ")
	if g.Hidden != "" {
		out.Says += ", hidden: " + g.Hidden
	}
	for _, m := range teardown.MixUps(ch) {
		other := ""
		switch l.Group {
		case m.Long:
			other = m.Short
		case m.Short:
			other = m.Long
		}
		k := ch.FastenerByID(other)
		if k < 0 || len(out.NotThese) > 2 {
			continue
		}
		if mm, ok := ch.Fasteners[k].Length.Get(); ok {
			out.NotThese = append(out.NotThese, runScrew{letters[other], mm.String() + " mm", mm.Float()})
		}
	}
	return out
}

// holding lists what may still hold what will not move: hidden screws, clips, what it comes after.
func holding(p *run.Plan, x *run.Step, step *hw.Step) []string {
	var out []string
	for i := range p.Chassis.Fasteners {
		g := &p.Chassis.Fasteners[i]
		if g.Hidden != "" {
			out = append(out, fmt.Sprintf("%s screws, hidden: %s", draw.Letters(p.Chassis)[g.ID], g.Hidden))
		}
	}
	if step.StartAt != "" {
		out = append(out, "its clips: begin at "+step.StartAt)
	} else if step.Verb == hw.Unclip {
		out = append(out, "its clips: go round the edge, slowly")
	}
	if teardown.Glued(step) {
		out = append(out, "glue: warmth, where the maker allows it")
	}
	for i := range p.Steps {
		before := &p.Steps[i]
		if before.Key == x.Key {
			break
		}
		if before.Kind == run.Down && slices.Contains(step.Needs, before.ID) {
			out = append(out, "done before it: "+hw.LowerFirst(before.Does))
		}
	}
	return append(out, "one screw or clip more than anybody recorded")
}
