package bench

import (
	"encoding/json"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"yembo/shop/base"
	"yembo/shop/jobs"
	"yembo/shop/work"

	"github.com/labstack/echo/v5"

	"yembo/core/card"
	"yembo/core/hw"
	"yembo/core/proof"
	sim "yembo/standin/machine"
	"yembo/web/draw"
	"yembo/web/form"
	"yembo/web/kit"
)

// proofView is the page on which a job is proven and handed over.
type proofView struct {
	*form.Form
	kit.Tabs
	Label, Model, Customer, Serial string
	Verdict, VerdictUnder          string
	Lines                          []proofLine
	Rows                           []proofLine // as the table shows them
	Ladder                         *ladderView
	Reading                        string
	Foreign                        *jobs.ReadingRecord
	ForeignSerial                  string
	Earlier                        []jobs.ReadingRecord
	Hands                          []proof.Row
	Met                            []metView
	First                          []firstItem
	Measures                       []measureView
	PlanChanged                    bool
	Wanted                         []proof.Measure // that the wish asks for, and nobody took yet
	Froms                          []hw.Term[string]
	Test                           *jobs.MemoryTest
	MemoryTouched                  bool
	TotalGB                        string
	Data                           *jobs.DataDone
	Moves                          bool // data moves to a new drive
	DataWay                        string
	DataSteps                      []dataStep
	DataEstimate                   string
	Old                            []oldView
	Goes                           []hw.Term[string]
	Edges                          []edgeView
	Bars                           []string
	Signed                         *jobs.Signed
	SignedAt                       string
	Hand                           *jobs.Handed
	HandedAt                       string
	Accessories                    []string
	Notes                          []jobs.ProofNote
	Simulated                      bool
	Faults                         []simFault
	RunLink                        string
	RunOpen                        bool
	Missing                        []string // screws that were missing or left over, by the run
	Tried                          []string
	Option                         bool
	AskOn                          string
}

type simFault struct{ Name, Words string }

type proofLine struct {
	ID                 string // of the place
	Place, What, Key   string
	Expected, Observed string
	Part               string // that was to go in
	Standing           string
	Says               string
	Known              string // reading, bench or ""
	At                 string
	ByHand             bool
	Code               proof.Code
}

// ladderView is the open difference with its causes, likeliest first, and what to try.
type ladderView struct {
	Title string
	Line  proofLine
	Rungs []rungView
	Cells []draw.FitCell
	Next  int
	Fit   bool // what the report tells can be taken as what is in
}

type rungView struct {
	N            int
	Says, Cause  string
	Tried        string // when, and what came of it; "" for not yet
	Minutes      string
	Next, Struck bool
}

type metView struct {
	Code         proof.Code
	Says, At, By string
	Mended       string
	Try          []string
}

type firstItem struct {
	ID, Says, At, Note string
	Done, NoTest       bool
	CannotTest         bool
}

type measureView struct {
	proof.Measure
	Slope      *draw.Slope
	Judgement  string
	Under      string
	BeforeRuns string
	AfterRuns  string
	Odd        string
	Better     string
}

type oldView struct {
	work.OldRow
	Told   bool
	Says   string
	Serial string
}

type dataStep struct {
	Word, Says string
	Done       bool
}

type edgeView struct {
	Name string
	Done bool
}

func (s *pages) showProof(c *echo.Context) error {
	return s.proofPage(c, http.StatusOK, form.New(map[string][]string{}))
}

func (s *pages) proofPage(c *echo.Context, status int, f *form.Form) error {
	id, err := kit.Number(c, "job")
	if err != nil {
		return err
	}
	p, err := s.Shop.Proof(c.Request().Context(), id)
	if err != nil {
		return err
	}
	how := s.Settings(c)
	r := &p.Job.MachineRecord
	v := proofView{
		Form:        f,
		Tabs:        kit.TabsOf(r, "proof"),
		Label:       base.Label(id),
		Model:       r.Chassis.Name(),
		Customer:    r.Customer,
		Serial:      r.Machine.Serial,
		Foreign:     p.Foreign,
		Hands:       proof.ByHandRows(),
		Test:        p.Doc.Test,
		Data:        p.Doc.Data,
		Goes:        jobs.GoesWays.Terms(),
		Bars:        p.Bars,
		Signed:      p.Doc.Sign,
		Hand:        p.Doc.Hand,
		Accessories: r.Details.Accessories,
		Notes:       p.Doc.Notes,
		Simulated:   how.Simulated,
		Option:      p.Option != nil,
	}
	if p.Foreign != nil {
		v.ForeignSerial = p.Foreign.Observed.System.Serial
	}
	for _, n := range sim.Names {
		v.Faults = append(v.Faults, simFault{n.Name, n.Words})
	}
	for i := range p.Bars {
		v.Bars[i] = strings.TrimSuffix(kit.Sentence(p.Bars[i]), ".")
	}
	v.Earlier = p.Earlier
	if p.Reading != nil {
		v.Reading = kit.Stamp(p.Reading.At)
	}
	v.fillLines(&p)
	v.fillLadder(&p)
	v.verdict(&p)
	v.fillFirst(&p)
	v.fillRest(&p)
	return s.Render(c, status, "proof", v.Label+" proof", "machines", &v)
}

// fillLines puts the lines into words.
func (v *proofView) fillLines(p *work.Proof) {
	for i := range p.Lines {
		l := &p.Lines[i]
		x := proofLine{
			ID:       l.Place,
			Place:    placeWords(l.Place),
			What:     proof.Whats.Says(l.What),
			Key:      l.Place + " " + l.What,
			Expected: lineWords(l.What, l.Expected, l.Place),
			Standing: string(l.Standing),
			Code:     l.Code,
		}
		if l.Observed != nil {
			x.Observed, x.Known = lineWords(l.What, l.Observed, l.Place), "reading"
			x.At = p.Reading.At.Format("15:04")
		}
		if seen, ok := p.Doc.ByHand[x.Key]; ok && l.Observed == nil {
			x.ByHand, x.Known, x.At = true, "bench", seen.At.Format("15:04")
			if x.Observed = seen.Said; x.Observed == "" {
				x.Observed = map[bool]string{true: "as planned, by hand", false: "otherwise"}[seen.Same]
			}
		}
		switch l.Standing {
		case proof.Unseen:
			x.Says = "not seen yet"
		case proof.AsIs:
			x.Says = "same"
		case proof.Open:
			x.Says = l.Code.Row().Says
		case proof.Follows:
			x.Says = "follows"
			if x.Observed == "" {
				x.Observed = "after the mend"
			}
		}
		v.Lines = append(v.Lines, x)
	}
	v.Rows = rowsOf(v.Lines)
	for place, part := range p.Fits() {
		if i := slices.IndexFunc(v.Rows, func(l proofLine) bool { return l.ID == place }); i >= 0 {
			v.Rows[i].Part = part
		}
	}
}

// rowsOf puts the lines of a place that are as planned, and seen in one look, into one row.
func rowsOf(lines []proofLine) []proofLine {
	var out []proofLine
	for _, l := range lines {
		if n := len(out) - 1; n >= 0 && !l.ByHand {
			last := &out[n]
			if last.ID == l.ID && last.Standing == string(proof.AsIs) && l.Standing == last.Standing && last.Known == l.Known &&
				last.At == l.At {
				last.What += ", " + l.What
				last.Expected += ", " + l.Expected
				last.Observed += ", " + l.Observed
				continue
			}
		}
		out = append(out, l)
	}
	return out
}

func placeWords(place string) string {
	switch place {
	case proof.PlaceMachine:
		return "machine"
	case hw.BatteryPlace:
		return "battery"
	case proof.PlaceDrives:
		return "one more drive"
	}
	return hw.PlaceSays(place)
}

// lineWords is a value of a line as pages have it.
func lineWords(what string, raw json.RawMessage, place string) string {
	if string(raw) == "null" {
		return "empty"
	}
	var link struct{ Gen, Lanes int }
	var drive hw.Drive
	var text string
	switch what {
	case "capacity_gb":
		if n, ok := proof.Number(raw); ok {
			if n == 0 {
				return "empty"
			}
			return n.String() + " GB"
		}
	case "speed_mts":
		return string(raw) + " MT/s"
	case "design_wh", "full_wh":
		return string(raw) + " Wh"
	case "link":
		if json.Unmarshal(raw, &link) == nil {
			var words []string
			if link.Gen > 0 {
				words = append(words, fmt.Sprintf("generation %d", link.Gen))
			}
			if link.Lanes > 0 {
				words = append(words, fmt.Sprintf("%d lanes", link.Lanes))
			}
			return strings.Join(words, ", ")
		}
	case "drive":
		if json.Unmarshal(raw, &drive) == nil {
			gb := "a drive"
			if n, ok := drive.Capacity.Get(); ok {
				gb = n.String() + " GB"
			}
			return strings.TrimSpace(gb + " " + hw.Interfaces.Says(drive.Interface))
		}
	}
	if json.Unmarshal(raw, &text) == nil {
		return hw.ValueSays(what, text)
	}
	return string(raw)
}

// fillLadder takes the first open difference with what was tried against it, and what comes next.
func (v *proofView) fillLadder(p *work.Proof) {
	for i := range p.Lines {
		l := &p.Lines[i]
		if l.Standing != proof.Open {
			continue
		}
		row := l.Code.Row()
		line := v.Lines[i]
		d := &ladderView{Line: line, Next: -1, Title: fmt.Sprintf("%s: %s", line.Place, row.Says)}
		d.Fit = p.Reading != nil && l.Observed != nil && p.Job.Chassis.HasPlace(l.Place) && l.Place != hw.BatteryPlace
		causes := l.Causes()
		for k, n := range l.Tries() {
			r := rungView{N: n, Says: row.Try[n]}
			if k < len(causes) {
				r.Cause = causes[k]
			}
			if row.Minutes[n] > 0 {
				r.Minutes = fmt.Sprintf("%d min", row.Minutes[n])
			}
			for _, t := range p.Doc.Tried {
				if t.Code == l.Code && t.Place == l.Place && t.Try == n {
					r.Tried, r.Struck = strings.TrimSuffix(t.At.Format("15:04")+" "+t.Said, " "), true
				}
			}
			if !r.Struck && d.Next < 0 {
				d.Next, r.Next = n, true
			}
			d.Rungs = append(d.Rungs, r)
		}
		if row.Figure == proof.FigureSeat || row.Figure == proof.FigureSlot {
			long := row.Figure == proof.FigureSlot
			for k, m := range []card.Move{{Kind: card.MoveSeat, Title: "In at its angle, until no gold shows"},
				{Kind: card.MoveDown, Title: map[bool]string{true: "Down, and its screw", false: "Down until both arms click"}[long]}} {
				d.Cells = append(d.Cells, draw.FitCell{N: k + 1, Title: m.Title, Kind: m.Kind, Long: long, End: 148, Wide: 128})
			}
		}
		v.Ladder = d
		return
	}
}

// verdict says in a sentence how it stands.
func (v *proofView) verdict(p *work.Proof) {
	count := map[proof.Standing]int{}
	for i := range p.Lines {
		count[p.Lines[i].Standing]++
	}
	same := fmt.Sprintf("%d values are as planned", count[proof.AsIs])
	if count[proof.AsIs] == 1 {
		same = "1 value is as planned"
	}
	switch {
	case v.Signed != nil && v.Hand != nil:
		v.Verdict = fmt.Sprintf("Proven, and handed over to %s", v.Hand.To)
	case v.Signed != nil:
		v.Verdict = "Proven and signed"
	case len(p.Lines) == 0:
		v.Verdict, same = "Nothing to compare yet", "fitted parts not known, no report read"
	case count[proof.Open] == 1:
		v.Verdict = "One difference is open: " + v.Ladder.Line.Place + ", " + v.Ladder.Line.Says
	case count[proof.Open] > 1:
		v.Verdict = fmt.Sprintf("%d differences are open", count[proof.Open])
	case count[proof.Unseen] > 0 && count[proof.AsIs] == 0:
		v.Verdict, same = "Not checked yet", fmt.Sprintf("%d values to look at", count[proof.Unseen])
		if count[proof.Unseen] == 1 {
			same = "1 value to look at"
		}
	case count[proof.Unseen] == 1:
		v.Verdict = "One value not checked"
	case count[proof.Unseen] > 0:
		v.Verdict = fmt.Sprintf("%d values not checked", count[proof.Unseen])
	default:
		v.Verdict = "Everything is as planned"
	}
	v.VerdictUnder = hw.UpperFirst(same) + "."
	if p.Run == nil && v.Signed == nil {
		v.VerdictUnder += " No work is noted at the bench yet."
	}
}

func (v *proofView) fillFirst(p *work.Proof) {
	for _, f := range p.First {
		x := firstItem{ID: f.ID, Says: f.Says, NoTest: f.NoTest}
		if d, done := p.Doc.First[f.ID]; done {
			x.Done, x.At, x.Note, x.CannotTest = true, d.At.Format("15:04"), d.Note, d.Answer == jobs.FirstNoTest
		}
		v.First = append(v.First, x)
	}
	for _, m := range p.Doc.Met {
		x := metView{Code: m.Code, Says: hw.UpperFirst(m.Code.Row().Says), At: m.At.Format("15:04"), By: m.By, Try: m.Code.Row().Try}
		if m.Mended != nil {
			x.Mended = m.Mended.Format("15:04")
		}
		v.Met = append(v.Met, x)
	}
}

// fillRest fills what was measured, tested, copied, looked round and taken out.
func (v *proofView) fillRest(p *work.Proof) {
	for i := range p.Doc.Measures {
		v.Measures = append(v.Measures, measureOf(&p.Doc.Measures[i]))
	}
	v.PlanChanged = p.PlanChanged && v.Signed == nil
	v.Wanted, v.Froms = p.Unmeasured(), proof.Froms.Terms()
	if p.Option != nil {
		v.MemoryTouched = p.Option.Memory != nil
		if gb, known := p.Total(); known {
			v.TotalGB = gb.String()
		}
		if mi := p.Option.Migration; mi != nil {
			v.Moves, v.DataWay = true, hw.Migrations.Says(mi.How)
			for _, step := range jobs.DataSteps[mi.How] {
				v.DataSteps = append(
					v.DataSteps,
					dataStep{step.Word, step.Says, p.Doc.Data != nil && slices.Contains(p.Doc.Data.Steps, step.Word)},
				)
			}
			if n, ok := mi.Minutes.Get(); ok {
				v.DataEstimate = n.String()
			}
		}
	}
	for _, old := range p.Old {
		x := oldView{OldRow: old}
		if d, told := p.Doc.Old[old.Place]; told {
			x.Told, x.Says, x.Serial = true, d.Words(), d.Serial
		} else if p.Run != nil {
			x.Serial = p.Run.State.Done["fit:"+old.Place].Data.Out
		}
		v.Old = append(v.Old, x)
	}
	for _, e := range jobs.SeamEdges {
		_, done := p.Doc.Seam[e]
		v.Edges = append(v.Edges, edgeView{e, done})
	}
	if p.Run != nil {
		v.RunLink, v.RunOpen = runAt(v.JobID), p.Run.Ended.IsZero()
		for _, e := range p.Run.Events {
			if e.Data.Rest != "" {
				v.Missing = append(v.Missing, eventWords(p.Run.State.Plan, &e.Event))
			}
		}
	}
	if v.Signed != nil {
		v.SignedAt = kit.Stamp(v.Signed.At)
	}
	if v.Hand != nil {
		v.HandedAt = kit.Stamp(v.Hand.At)
	}
	for _, t := range p.Doc.Tried {
		v.Tried = append(
			v.Tried,
			strings.TrimSpace(
				fmt.Sprintf("%s %s: %s %s", t.At.Format("15:04"), placeWords(t.Place), t.Code.Row().Try[t.Try], t.Said),
			),
		)
	}
}

// EdgesLeft are those of the seam that nobody has looked along yet.
func (v *proofView) EdgesLeft() []string {
	var out []string
	for _, e := range v.Edges {
		if !e.Done {
			out = append(out, e.Name)
		}
	}
	return out
}

// IsOpen reports whether a form of the page came back with faults at one of its fields.
func (v *proofView) IsOpen(names ...string) bool {
	return slices.ContainsFunc(names, func(n string) bool { return len(v.Errors(n)) > 0 })
}
