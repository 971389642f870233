package counter

import (
	"fmt"
	"maps"
	"net/http"
	"net/url"
	"slices"
	"strconv"

	"yembo/shop/base"
	"yembo/shop/jobs"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/web/form"
	"yembo/web/kit"
)

// jobCorrectView is the form in which what was said and agreed for a job is corrected.
type jobCorrectView struct {
	counterView
	kit.Tabs
	Label  string
	Signed string // by whom and when, "" where nobody did
}

func (s *pages) editJob(c *echo.Context) error {
	return s.jobCorrectPage(c, http.StatusOK, form.New(url.Values{}))
}

func (s *pages) jobCorrectPage(c *echo.Context, status int, f *form.Form) error {
	id, err := kit.Number(c, "job")
	if err != nil {
		return err
	}
	j, err := s.Shop.Job(c.Request().Context(), id)
	if err != nil {
		return err
	}
	if status == http.StatusOK {
		f.Values = agreementTyped(&j.MachineRecord, s.Settings(c).Currency)
		f.Values.Set("/signed", "yes")
		f.Opens()
	}
	customers, err := s.Shop.CustomerNames(c.Request().Context())
	if err != nil {
		return err
	}
	v := jobCorrectView{counterView: counterOf(f, j.Chassis, customers), Tabs: kit.TabsOf(&j.MachineRecord, "job"),
		Label: base.Label(id)}
	if g := j.Details.Signature; g != nil {
		v.Signed = kit.OrDash(g.Name, "the customer") + ", " + kit.Stamp(g.At)
	}
	return s.Render(c, status, "jobcorrect", "Correct "+v.Label, "machines", v)
}

// correctJob stores what was really said and agreed.
func (s *pages) correctJob(c *echo.Context) error {
	id, f, err := kit.JobForm(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	j, err := s.Shop.Job(ctx, id)
	if err != nil {
		return err
	}
	f.Pick()
	now := agreementTyped(&j.MachineRecord, f.Currency)
	now.Set("/signed", "yes")
	if f.CatchUp(now) {
		return s.jobCorrectPage(c, http.StatusConflict, f)
	}
	next := readAgreement(f, j.Chassis, s.Shop.Now(), s.Settings(c), j.Promised)
	keepCharges(j.Wish, next.Wish)
	if f.Count() == 0 {
		err = s.Shop.CorrectJob(ctx, s.Acting(c), f.Text("token"), id, j.JobVer, next, f.Is("/signed", "yes"))
		if err == nil {
			return kit.SeeOther(c, fmt.Sprintf("/jobs/%d?kept=yes", id))
		}
		if !f.Take(err) {
			return err
		}
	}
	return s.jobCorrectPage(c, http.StatusUnprocessableEntity, f)
}

// putJobBack undoes a correction of a job.
func (s *pages) putJobBack(c *echo.Context) error {
	id, f, err := kit.JobForm(c)
	if err != nil {
		return err
	}
	j, err := s.Shop.Job(c.Request().Context(), id)
	if err != nil {
		return err
	}
	entry, err := strconv.ParseInt(f.Text("entry"), 10, 64)
	if err != nil {
		return base.ErrNotFound
	}
	return s.answerJob(c, f, id, s.Shop.PutJobBack(c.Request().Context(), s.Acting(c), f.Text("token"), id, j.JobVer, entry))
}

// machineCorrectView is the form in which a machine is corrected.
type machineCorrectView struct {
	*form.Form
	kit.Tabs
	Chassis   *hw.Chassis
	Another   bool // the model is not the one on record
	Models    []modelChoice
	Customers []jobs.Customer
	Groups    []form.MachineGroup
	Variants  []string
	OpenJob   string // that goes along with another owner
	Lost      []string
}

func (s *pages) editMachine(c *echo.Context) error {
	return s.machineCorrectPage(c, http.StatusOK, form.New(url.Values{}))
}

func (s *pages) machineCorrectPage(c *echo.Context, status int, f *form.Form) error {
	ctx := c.Request().Context()
	r, err := s.Shop.Machine(ctx, c.Param("id"))
	if err != nil {
		return err
	}
	v := machineCorrectView{Form: f, Tabs: kit.TabsOf(&r, "history"), Chassis: r.Chassis}
	model := f.Text("/chassis")
	if asked := c.QueryParam("model"); asked != "" && status == http.StatusOK {
		if model, err = s.ModelNamed(c.Request().Context(), asked); err != nil {
			return err
		}
		if model == "" {
			f.Fault("model", fmt.Sprintf("no record of %q: choose one of the list, or record that model first", asked))
		}
	}
	if model != "" && model != r.Chassis.ID {
		other, err := s.Shop.Model(ctx, model)
		if err != nil {
			return err
		}
		v.Chassis, v.Another = other.Chassis, true
		v.Lost = placesLost(r.Machine, other.Chassis)
	}
	if status == http.StatusOK {
		f.Values = machineTyped(v.Chassis, &r)
		f.Opens()
	}
	f.Values.Set("/chassis", v.Chassis.ID)
	models, err := s.Shop.Briefs(ctx, "", kit.MaxProposed)
	if err != nil {
		return err
	}
	for _, m := range models {
		v.Models = append(v.Models, modelChoice{m.ID, m.Name, m.Code, kit.MemorySummary(m)})
	}
	customers, err := s.Shop.CustomerNames(ctx)
	if err != nil {
		return err
	}
	v.Customers = customers[:min(len(customers), kit.MaxProposed)]
	v.Groups, v.Variants = form.MachineGroups(v.Chassis), v.Chassis.Variants()
	if r.JobID != 0 && r.Closed.IsZero() {
		v.OpenJob = base.Label(r.JobID)
	}
	return s.Render(c, status, "machinecorrect", "Correct "+r.Machine.ID, "machines", v)
}

// placesLost are the fitted parts whose place a model does not have.
func placesLost(m *hw.Machine, ch *hw.Chassis) []string {
	var out []string
	has := map[string]bool{}
	for _, p := range ch.Places() {
		has[p.ID] = true
	}
	for i := range m.Fitted.Memory {
		if at := m.Fitted.Memory[i].Socket; !has[at] {
			out = append(out, at)
		}
	}
	for i := range m.Fitted.Drives {
		if at := m.Fitted.Drives[i].Place; !has[at] {
			out = append(out, at)
		}
	}
	if b := m.Fitted.Battery; b != nil && b.Option != "" && !has[b.Option] {
		out = append(out, hw.PackSays(b.Option))
	}
	return out
}

// machineTyped is a machine as the form of a correction has it, on a model.
func machineTyped(ch *hw.Chassis, r *jobs.MachineRecord) url.Values {
	m := r.Machine
	out := form.MachineTyped(ch, m)
	maps.Copy(out, usageTyped(&m.Usage))
	out.Set("/serial", m.Serial)
	out.Set("/customer", r.Customer)
	if m.Variant != nil {
		out.Set("/variant/known", "yes")
	}
	for i, word := range ch.Variants() {
		if slices.Contains(m.Variant, word) {
			out.Set(fmt.Sprintf("/variant/%d", i), "yes")
		}
	}
	return out
}

// usageTyped is what was measured as forms have it.
func usageTyped(u *hw.Usage) url.Values {
	return url.Values{"/usage/memory_peak_gb": {kit.DecWords(u.MemoryPeak)}, "/usage/draw_w": {kit.DecWords(u.DrawW)},
		"/usage/runtime_h": {kit.DecWords(u.RuntimeH)}, "/usage/runtime_profile": {u.RuntimeProfile},
		"/usage/disk_growth_gb_month": {kit.DecWords(u.DiskGrowth)}}
}

// readUsage reads what was measured.
func readUsage(f *form.Form) hw.Usage {
	return hw.Usage{MemoryPeak: f.Dec("/usage/memory_peak_gb"), DrawW: f.Dec("/usage/draw_w"),
		RuntimeH: f.Dec("/usage/runtime_h"), RuntimeProfile: f.Text("/usage/runtime_profile"),
		DiskGrowth: f.Dec("/usage/disk_growth_gb_month")}
}

// correctMachine stores what a machine really is.
func (s *pages) correctMachine(c *echo.Context) error {
	f, err := form.Sent(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	r, err := s.Shop.Machine(ctx, c.Param("id"))
	if err != nil {
		return err
	}
	ch := r.Chassis
	if id := f.Text("/chassis"); id != "" && id != ch.ID {
		other, err := s.Shop.Model(ctx, id)
		if err != nil {
			return err
		}
		ch = other.Chassis
	}
	f.Pick()
	if f.CatchUp(machineTyped(ch, &r)) {
		return s.machineCorrectPage(c, http.StatusConflict, f)
	}
	m := *r.Machine
	m.Chassis, m.Serial, m.Fitted, m.Usage = ch.ID, f.Text("/serial"), f.Fitted(ch), readUsage(f)
	m.Variant = readVariant(f, ch, r.Machine.Variant)
	if f.Text("/customer") == "" {
		f.Fault("/customer", hw.Word(hw.FaultMissing, "", "the customer's name"))
	}
	if f.Count() == 0 {
		err = s.Shop.CorrectMachine(ctx, s.Acting(c), f.Text("token"), r.Key, r.MachineVer,
			jobs.MachineCorrection{Machine: &m, Customer: f.Text("/customer"), Contact: f.Text("/contact")})
		if err == nil {
			return kit.SeeOther(c, "/machines/"+r.Key+"/history?kept=yes")
		}
		if !f.Take(err) {
			return err
		}
	}
	return s.machineCorrectPage(c, http.StatusUnprocessableEntity, f)
}

// readVariant reads which configuration a machine is of; where the record names none, nothing was asked
// and it stays as it was.
func readVariant(f *form.Form, ch *hw.Chassis, was []string) []string {
	words := ch.Variants()
	if len(words) == 0 {
		return was
	}
	if !f.Is("/variant/known", "yes") {
		return nil
	}
	out := slices.DeleteFunc(append([]string{}, was...), func(word string) bool { return slices.Contains(words, word) })
	for i, word := range words {
		if f.Is(fmt.Sprintf("/variant/%d", i), "yes") {
			out = append(out, word)
		}
	}
	return out
}

// putMachineBack makes a machine what it was before an entry of its history.
func (s *pages) putMachineBack(c *echo.Context) error {
	f, err := form.Sent(c)
	if err != nil {
		return err
	}
	r, err := s.Shop.Machine(c.Request().Context(), c.Param("id"))
	if err != nil {
		return err
	}
	entry, err := strconv.ParseInt(f.Text("entry"), 10, 64)
	if err != nil {
		return base.ErrNotFound
	}
	err = s.Shop.PutMachineBack(c.Request().Context(), s.Acting(c), f.Text("token"), r.Key, r.MachineVer, entry)
	if err == nil {
		return kit.SeeOther(c, "/machines/"+r.Key+"/history")
	}
	if !f.Take(err) {
		return err
	}
	return s.historyPage(c, http.StatusUnprocessableEntity, f)
}
