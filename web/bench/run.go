package bench

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"
	"yembo/shop/base"
	"yembo/shop/jobs"
	"yembo/shop/work"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/core/run"
	"yembo/core/teardown"
	"yembo/web/form"
	"yembo/web/kit"
)

// The bench: what lies ready, the run itself, what happens in it, and its news.

// showRun is the run of a job: what is under way or was done last, or what has to lie ready before
// the first screw.
func (s *pages) showRun(c *echo.Context) error {
	id, err := kit.Number(c, "job")
	if err != nil {
		return err
	}
	r, err := s.Shop.Run(c.Request().Context(), id)
	if errors.Is(err, work.ErrNoRun) || err == nil && !r.Ended.IsZero() && c.QueryParam("again") != "" {
		return s.startPage(c, http.StatusOK, id, form.New(nil))
	}
	if err != nil {
		return err
	}
	return s.runPage(c, http.StatusOK, &r, nil)
}

func (s *pages) runPage(c *echo.Context, status int, r *work.Run, refused []string) error {
	if r.First {
		return s.firstPage(c, status, r, refused)
	}
	v := s.runView(c, r, c.QueryParam("step"))
	v.Refused = refused
	return s.Render(c, status, "run", v.Label+" at the bench", "machines", &v)
}

// startView is what is looked at before the first screw.
type startView struct {
	*form.Form
	kit.Tabs
	Label, Model, Customer, Serial string
	Does                           string
	Minutes, Copying               string
	Steps, Screws                  int
	Groups                         []startGroup
	Stops                          []kit.BoxLine
	Benches                        []kit.BenchChoice
	Running                        int // the bench it is on, 0 for none
	Seen                           string
	First                          bool
	Reach                          string
	ModelID                        string
	Danger                         string
	Cautions                       []string
	Here                           map[string]bool
	Again                          bool
	NoPlan                         bool
	MatLink                        string
}

type startGroup struct {
	Says  string
	Needs []work.Need
}

// needWords are the headings of what has to lie ready.
var needWords = hw.Vocabulary[work.NeedKind]{
	{Word: work.NeedPart, Says: "Parts"},
	{Word: work.NeedBit, Says: "Bits"},
	{
		Word: work.NeedTool,
		Says: "Tools",
	},
	{Word: work.NeedUse, Says: "Used up"},
	{Word: work.NeedBackup, Says: "The customer's data"},
	{Word: work.NeedTest, Says: "Tested first"},
}

func (s *pages) startPage(c *echo.Context, status int, id int64, f *form.Form) error {
	ctx := c.Request().Context()
	in, err := s.Shop.LookAtStart(ctx, id)
	if err != nil {
		return err
	}
	how := s.Settings(c)
	rows, err := s.Shop.BenchList(ctx)
	if err != nil {
		return err
	}
	j := &in.Job
	r := &j.MachineRecord
	row := jobs.Stand(*r, j.Lacks, s.Shop.Now())
	v := startView{
		Form:     f,
		Tabs:     kit.TabsOf(r, "run"),
		Label:    base.Label(id),
		Model:    r.Chassis.Name(),
		Customer: r.Customer,
		Serial:   r.Machine.Serial,
		Steps:    in.Steps,
		Screws:   in.Screws,
		Benches:  kit.BenchChoices(rows, &row, how.FloorOf().Benches),
		Seen:     j.Mark(),
		First:    in.First,
		ModelID:  r.Chassis.ID,
		Danger:   r.State.Danger,
		Here:     map[string]bool{},
		NoPlan:   r.Choice == nil,
	}
	if r.State.Running != nil {
		v.Running = r.State.Bench
	}
	if v.Danger != "" {
		v.Cautions = kit.DangerCautions(r)
	}
	for _, x := range f.Values["here"] {
		v.Here[x] = true
	}
	if r.Choice != nil {
		v.Does, v.Copying = kit.ChosenWords(r.Choice), jobs.CopyWords(&r.Choice.Option)
	}
	if in.Plan != nil {
		v.Minutes = in.Plan.Minutes.Shown().String()
	}
	if in.Reach != nil {
		v.Reach = in.Reach.Error()
		var unknown teardown.ReachUnknown
		if errors.As(in.Reach, &unknown) {
			v.Reach = fmt.Sprintf("Access to %s lies", hw.PlaceSays(unknown.Target))
		}
	}
	for _, n := range in.Needs {
		if k := len(v.Groups); k == 0 || v.Groups[k-1].Needs[0].Kind != n.Kind {
			v.Groups = append(v.Groups, startGroup{Says: needWords.Says(n.Kind)})
		}
		g := &v.Groups[len(v.Groups)-1]
		g.Needs = append(g.Needs, n)
	}
	v.Stops = kit.BoxOf(j, &row, s.Shop.Now()).Missing
	return s.Render(c, status, "runstart", v.Label+" before the first screw", "machines", v)
}

// beginRun begins the work, or goes on with what is under way.
func (s *pages) beginRun(c *echo.Context) error {
	id, f, err := kit.JobForm(c)
	if err != nil {
		return err
	}
	err = s.Shop.BeginRun(c.Request().Context(), s.Acting(c), f.Text("token"), id,
		work.Begin{Bench: f.Whole("/bench").Or(0), Here: f.Values["here"], Why: f.Text("/why"), Seen: f.Text("seen")})
	switch {
	case err == nil:
		return kit.SeeOther(c, runAt(id))
	case errors.Is(err, base.ErrDanger):
		return s.startPage(c, http.StatusConflict, id, f)
	case !f.Take(err):
		return err
	}
	return s.startPage(c, http.StatusUnprocessableEntity, id, f)
}

func runAt(id int64) string { return fmt.Sprintf("/jobs/%d/run", id) }

// runEvent takes one event from a form, for pages without script.
func (s *pages) runEvent(c *echo.Context) error {
	id, f, err := kit.JobForm(c)
	if err != nil {
		return err
	}
	e, err := readEvent(f)
	if err == nil {
		var refused []work.Refusal
		refused, err = s.Shop.RunEvents(c.Request().Context(), s.Acting(c), id, []work.SentEvent{e})
		if err == nil && len(refused) == 0 {
			return kit.SeeOther(c, runAt(id))
		}
		if err == nil {
			return s.refusedRun(c, id, refused[0].Says)
		}
	}
	var faults hw.Faults
	if !errors.As(err, &faults) {
		return err
	}
	return s.refusedRun(c, id, kit.FaultTexts(faults))
}

func (s *pages) refusedRun(c *echo.Context, id int64, says []string) error {
	r, err := s.Shop.Run(c.Request().Context(), id)
	if err != nil {
		return err
	}
	return s.runPage(c, http.StatusUnprocessableEntity, &r, says)
}

// readEvent reads an event out of the fields of a form. The error is hw.Faults where a value cannot
// be read.
func readEvent(f *form.Form) (work.SentEvent, error) {
	e := work.SentEvent{
		Client: f.Text("client"),
		Run:    int64(f.Whole("run").Or(0)),
		Kind:   run.EventKind(f.Text("kind")),
		Step:   f.Text("step"),
	}
	d := &e.Data
	d.Text, d.Why, d.In, d.Out, d.Goes = f.Text("text"), f.Text("why"), f.Text("in"), f.Text("out"), f.Text("goes")
	d.Word, d.Part, d.Group, d.Of, d.Path = f.Text("word"), f.Text("part"), f.Text("group"), f.Text("of"), f.Text("path")
	d.Rest, d.What, d.Verb = run.Rest(f.Text("rest")), run.What(f.Text("what")), hw.Verb(f.Text("verb"))
	d.Read, d.Skip, d.Kept, d.BackOnly = f.Is("read", "yes"), f.Is("skip", "yes"), f.Is("kept", "yes"), f.Is("back_only", "yes")
	d.N = f.Whole("n").Or(0)
	for name := range f.Values {
		if group, ok := strings.CutPrefix(name, "back/"); ok {
			if d.Back == nil {
				d.Back = map[string]int{}
			}
			d.Back[group] = f.Whole(name).Or(0)
		}
	}
	if e.Kind == run.Found && d.Path != "" {
		if spec, ok := form.FieldAt(d.Path); ok {
			if value := form.ReadField(f, &spec, "value"); value != nil {
				raw, err := json.Marshal(value)
				if err != nil {
					return e, err
				}
				d.Value = raw
			}
		}
	}
	if f.Count() > 0 {
		var faults hw.Faults
		for _, text := range f.AllFaults() {
			faults = append(faults, hw.Fault{Text: text})
		}
		return e, faults
	}
	return e, nil
}

// syncIn is what a bench page sends: what happened there, each with how long ago that was.
type syncIn struct {
	Events []struct {
		Client string            `json:"client"`
		Run    int64             `json:"run"` // that it happened in
		Ago    int64             `json:"ago"` // ms
		By     string            `json:"by"`
		Fields map[string]string `json:"fields"`
	} `json:"events"`
}

// RunState is what a bench page gets: how far the run is.
type RunState struct {
	Last    int64               `json:"last"`
	Shape   string              `json:"shape"` // another one asks for the page anew
	Done    map[string]doneBy   `json:"done"`
	Tray    map[string]int      `json:"tray"`
	Open    []string            `json:"open"`
	Fallen  int                 `json:"fallen"`
	Found   []string            `json:"found"`
	Paused  bool                `json:"paused"`
	Refused map[string][]string `json:"refused,omitempty"`
	Kept    map[string][]string `json:"kept,omitempty"` // came after their run had ended
}

type doneBy struct {
	By string `json:"by"`
	At string `json:"at"`
}

// stateOf is the state of a run as a page gets it.
func stateOf(r *work.Run) RunState {
	st := r.State
	out := RunState{Last: r.Last, Shape: shapeOf(r), Done: map[string]doneBy{}, Tray: trayOf(st), Open: []string{},
		Fallen: len(st.Fallen), Found: []string{}, Paused: st.Paused}
	for key, tick := range st.Done {
		out.Done[key] = doneBy{tick.By, tick.At.Format("15:04")}
	}
	for _, p := range st.Open {
		out.Open = append(out.Open, p.Name)
	}
	for path := range st.Found {
		out.Found = append(out.Found, path)
	}
	for path := range st.Later {
		out.Found = append(out.Found, path)
	}
	return out
}

// trayOf counts what lies on the mat, by group.
func trayOf(st *run.State) map[string]int {
	out := map[string]int{}
	for _, t := range st.Tray {
		out[t.Group] += t.Count
	}
	return out
}

// shapeOf tells one page of a run from another: its steps, and whether it goes on.
func shapeOf(r *work.Run) string {
	words := []string{strconv.FormatInt(r.ID, 10), strconv.Itoa(len(r.State.Plan.Steps)), strconv.FormatBool(r.First)}
	if r.State.Stopped != "" {
		words = append(words, "stopped")
	}
	if !r.Ended.IsZero() {
		words = append(words, "ended")
	}
	if r.First {
		words = append(words, strconv.FormatInt(r.Last, 10))
	}
	return strings.Join(words, "-")
}

// syncRun takes what a bench page sends, and answers with how far the run is.
func (s *pages) syncRun(c *echo.Context) error {
	id, err := kit.Number(c, "job")
	if err != nil {
		return err
	}
	var in syncIn
	if err := json.NewDecoder(c.Request().Body).Decode(&in); err != nil {
		return echo.ErrBadRequest.Wrap(err)
	}
	actor, how := s.Acting(c), s.Settings(c)
	refused := map[string][]string{}
	var sent []work.SentEvent
	for _, x := range in.Events {
		f := form.New(nil)
		f.Values = map[string][]string{"client": {x.Client}}
		for name, value := range x.Fields {
			if !kit.IsText(name) || !kit.IsText(value) {
				value = kit.TextOf(value)
			}
			f.Values.Set(name, value)
		}
		f.Values.Set("client", x.Client)
		e, err := readEvent(f)
		var faults hw.Faults
		if errors.As(err, &faults) {
			refused[x.Client] = kit.FaultTexts(faults)
			continue
		}
		if err != nil {
			return err
		}
		e.Ago = time.Duration(min(max(x.Ago, 0), int64(14*24*time.Hour/time.Millisecond))) * time.Millisecond
		if me := kit.VisitorOf(c); me != nil && x.By != "" && x.By != me.Name {
			// What a colleague ticked goes in as theirs, when they are here with their PIN.
			return s.AskFor(c, x.By)
		}
		if slices.Contains(how.Technicians, x.By) {
			e.By = x.By
		}
		e.Run = x.Run
		sent = append(sent, e)
	}
	not, err := s.Shop.RunEvents(c.Request().Context(), actor, id, sent)
	if errors.Is(err, base.ErrNotFound) {
		return kit.ErrNoJob
	}
	if err != nil {
		return err
	}
	kept := map[string][]string{}
	for _, x := range not {
		if x.Kept {
			kept[x.Client] = x.Says
		} else {
			refused[x.Client] = x.Says
		}
	}
	r, err := s.Shop.Run(c.Request().Context(), id)
	if err != nil {
		return err
	}
	out := stateOf(&r)
	out.Refused, out.Kept = refused, kept
	return c.JSON(http.StatusOK, out)
}

// waitForNews is how long a page is let wait for news of a run.
const waitForNews = 20 * time.Second

// runNews answers when something happened in a run after an event, or after a while.
func (s *pages) runNews(c *echo.Context) error {
	id, err := kit.Number(c, "job")
	if err != nil {
		return err
	}
	after, err := strconv.ParseInt(c.QueryParam("after"), 10, 64)
	if err != nil {
		after = 0
	}
	ctx, cancel := context.WithCancel(c.Request().Context())
	defer cancel()
	go func() { // whoever waits does not hold the application up when it stops
		select {
		case <-kit.Stopping(ctx):
			cancel()
		case <-ctx.Done():
		}
	}()
	if _, err := s.Shop.WaitRun(ctx, id, after, waitForNews); errors.Is(err, base.ErrNotFound) {
		return kit.ErrNoJob
	} else if err != nil {
		return err
	}
	r, err := s.Shop.Run(c.Request().Context(), id)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, stateOf(&r))
}
