package counter

import (
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"strconv"
	"strings"

	"yembo/shop/jobs"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/core/reading"
	"yembo/standin/machine"
	"yembo/web/form"
	"yembo/web/kit"
)

// readingsView is what a machine told so far, with the form that reads more.
type readingsView struct {
	*form.Form
	kit.Tabs
	Model    string
	Readings []readingRow
	Faults   []faultChoice // of the simulated machine; nil where it is not offered
}

type readingRow struct {
	ID              int64
	At, By, Sources string
	Files           []string
	Told            string
	Accepted        string
	Simulated       bool
}

type faultChoice struct {
	Name, Words string
	On          bool
}

// readingView is one reading set against the record, line by line.
type readingView struct {
	OfTag, OfKey, OfWhose string // another machine of ours that this is a reading of
	*form.Form
	kit.Tabs
	Model     string
	ID        int64
	When, By  string
	Sources   string
	Files     []string
	Notes     []string
	Lines     []compareRow
	Choices   []reading.Choice
	Conflicts []conflictRow
	Accepted  string
	Simulated bool
	Differ    int
	Offered   int
	Same      int
}

// compareRow is a line with whether it is ticked. Lines of one key are ticked as one, at the
// first of them.
type compareRow struct {
	reading.Line
	Ticked bool
	First  bool
}

type conflictRow struct{ Path, Values string }

func (s *pages) showReadings(c *echo.Context) error {
	return s.readingsPage(c, http.StatusOK, form.New(url.Values{}))
}

func (s *pages) readingsPage(c *echo.Context, status int, f *form.Form) error {
	ctx := c.Request().Context()
	r, err := s.Shop.Machine(ctx, c.Param("id"))
	if err != nil {
		return err
	}
	list, err := s.Shop.Readings(ctx, r.Machine.ID)
	if err != nil {
		return err
	}
	v := readingsView{Form: f, Tabs: kit.TabsOf(&r, "readings"), Model: r.Chassis.Name()}
	for i := range list {
		v.Readings = append(v.Readings, rowOfReading(&list[i]))
	}
	on := map[string]bool{}
	for _, name := range f.Values["fault"] {
		on[name] = true
	}
	how, err := s.Shop.Settings(ctx)
	if err != nil {
		return err
	}
	for _, n := range machine.Names {
		if n.AtScreen {
			continue
		}
		if how.Simulated {
			v.Faults = append(v.Faults, faultChoice{n.Name, n.Words, on[n.Name]})
		}
	}
	return s.Render(c, status, "readings", "Readings of "+r.Machine.ID, "machines", v)
}

func rowOfReading(r *jobs.ReadingRecord) readingRow {
	return readingRow{ID: r.ID, At: kit.Stamp(r.At), By: r.By, Sources: strings.Join(r.Observed.From, ", "), Files: r.Files,
		Told: toldWords(r.Observed), Accepted: r.Accepted, Simulated: r.Simulated}
}

// toldWords counts what a reading tells.
func toldWords(o *reading.Observed) string {
	var words []string
	if o.Memory != nil {
		total := hw.Dec(0)
		for _, d := range o.Memory.Devices {
			total += d.Capacity.Or(0)
		}
		words = append(words, total.String()+" GB memory")
	}
	for _, x := range []struct {
		n         int
		one, many string
	}{{len(o.Drives), "drive", "drives"}, {len(o.Links), "link", "links"}, {len(o.Batteries), "pack", "packs"},
		{len(o.Conflicts), "contradiction", "contradictions"}} {
		if x.n == 1 {
			words = append(words, "1 "+x.one)
		} else if x.n > 1 {
			words = append(words, strconv.Itoa(x.n)+" "+x.many)
		}
	}
	return strings.Join(words, ", ")
}

// addReading takes pasted text, files, or what the simulated machine says.
func (s *pages) addReading(c *echo.Context) error {
	id := c.Param("id")
	sent, err := c.MultipartForm()
	if err != nil {
		return echo.ErrBadRequest.Wrap(err)
	}
	defer sent.RemoveAll()
	done, err := s.LooksAlone(c)
	if err != nil {
		return err
	}
	defer done()
	f := form.Of(c, sent.Value)
	var reports []jobs.Report
	if f.Is("do", "simulate") {
		reports, err = s.simulated(c, id, f.Values["fault"])
	} else {
		reports, err = sentReports(c, f)
	}
	if err != nil {
		return err
	}
	if f.Count() > 0 {
		return s.readingsPage(c, http.StatusUnprocessableEntity, f)
	}
	number, err := s.Shop.AddReading(c.Request().Context(), s.Acting(c), f.Text("token"), id, reports,
		f.Is("do", "simulate"))
	if err == nil {
		return kit.SeeOther(c, "/machines/"+id+"/readings/"+number)
	}
	if !f.Take(err) {
		return err
	}
	return s.readingsPage(c, http.StatusUnprocessableEntity, f)
}

// maxReport is the largest report that is taken over a form, in bytes; a real one has some hundred kB.
const maxReport = 8 << 20

// sentReports are the files of the form, and what was pasted.
func sentReports(c *echo.Context, f *form.Form) ([]jobs.Report, error) {
	var out []jobs.Report
	sent, err := c.MultipartForm()
	if err != nil {
		return nil, err
	}
	whole := int64(0)
	for _, file := range sent.File["report"] {
		if file.Size == 0 && file.Filename == "" {
			continue
		}
		if file.Size > maxReport {
			f.Fault("/reports", fmt.Sprintf("%s: it has more than %d MB", fileName(file.Filename), maxReport>>20))
			continue
		}
		if whole += file.Size; whole > 3*maxReport {
			f.Fault("/reports", fmt.Sprintf("more than %d MB of reports at once", 3*maxReport>>20))
			break
		}
		raw, err := kit.ReadUpload(file, maxReport)
		if err != nil {
			return nil, err
		}
		out = append(out, jobs.Report{Name: fileName(file.Filename), Data: raw})
	}
	text := f.Value("pasted")
	if len(text) > maxReport {
		f.Fault("/reports", fmt.Sprintf("what was pasted has more than %d MB", maxReport>>20))
	} else if strings.TrimSpace(text) != "" {
		out = append(out, jobs.Report{Name: "pasted", Data: []byte(text)})
	}
	return out, nil
}

// fileName is the last part of a name, on one line.
func fileName(name string) string {
	name = name[strings.LastIndexAny(name, `/\`)+1:]
	name = strings.Map(func(r rune) rune {
		if r < ' ' || r == 0x7f {
			return -1
		}
		return r
	}, name)
	if len([]rune(name)) > 120 {
		name = string([]rune(name)[:120])
	}
	return kit.OrDash(name, "file")
}

// simulated reads the small machine that ships with Yembo, made from this very record.
func (s *pages) simulated(c *echo.Context, id string, names []string) ([]jobs.Report, error) {
	r, err := s.Shop.Machine(c.Request().Context(), id)
	if err != nil {
		return nil, err
	}
	faults, err := machine.FaultsOf(names)
	if err != nil {
		return nil, echo.ErrBadRequest.Wrap(err)
	}
	made, err := machine.Reports(r.Chassis, r.Machine, faults)
	if err != nil {
		return nil, err
	}
	var out []jobs.Report
	for _, m := range made {
		out = append(out, jobs.Report{Name: "simulated " + m.Name, Data: m.Data})
	}
	return out, nil
}

// placesOf are the places chosen in an address or a form: place:drive-0=m2b.
func placesOf(values url.Values) map[string]string {
	out := map[string]string{}
	for name := range values {
		if key, ok := strings.CutPrefix(name, "place:"); ok {
			out[key] = values.Get(name)
		}
	}
	return out
}

func (s *pages) showReading(c *echo.Context) error {
	return s.readingPage(c, http.StatusOK, form.New(c.QueryParams()))
}

func (s *pages) readingPage(c *echo.Context, status int, f *form.Form) error {
	number, err := kit.Number(c, "reading")
	if err != nil {
		return err
	}
	cmp, err := s.Shop.CompareReading(c.Request().Context(), c.Param("id"), number, placesOf(f.Values))
	if err != nil {
		return err
	}
	r := &cmp.Reading
	v := readingView{Form: f, Tabs: kit.TabsOf(&cmp.Record, "readings"), Model: cmp.Record.Chassis.Name(), ID: r.ID,
		When: kit.Stamp(r.At), By: r.By,
		Sources: strings.Join(r.Observed.From, ", "), Files: r.Files, Notes: r.Notes, Choices: cmp.Comparison.Choices,
		Accepted: r.Accepted, Simulated: r.Simulated}
	ticked := map[string]bool{}
	for _, key := range f.Values["take"] {
		ticked[key] = true
	}
	// What another machine of ours says is ticked by nobody but a person.
	v.Lines = compareRows(cmp.Comparison.Lines, ticked, status == http.StatusOK && cmp.Of == nil)
	if o := cmp.Of; o != nil {
		v.OfTag, v.OfKey, v.OfWhose = o.Machine.ID, o.Key, o.Customer
	}
	for i := range v.Lines {
		switch l := &v.Lines[i]; {
		case l.How == reading.Same || l.How == reading.More:
			v.Same++
		case l.How == reading.Contradicts:
			v.Differ++
		}
		if v.Lines[i].Offered {
			v.Offered++
		}
	}
	for _, x := range r.Observed.Conflicts {
		var values []string
		for i := range x.Values {
			values = append(values, string(x.Values[i])+" ("+x.From[i]+")")
		}
		v.Conflicts = append(v.Conflicts, conflictRow{x.Path, strings.Join(values, ", ")})
	}
	return s.Render(c, status, "reading", "Reading of "+v.MachineID, "machines", v)
}

// compareRows puts contradictions first, then what is new, then what agrees, with detail before without; lines of one
// key stay together, and have one box for all.
func compareRows(lines []reading.Line, ticked map[string]bool, fresh bool) []compareRow {
	order := map[string]int{reading.Contradicts: 0, reading.New: 1, reading.More: 2, reading.Same: 3}
	first := map[string]int{} // the best rank of a key
	for _, l := range lines {
		if rank, seen := first[l.Key]; !seen || order[l.How] < rank {
			first[l.Key] = order[l.How]
		}
	}
	advised, offered := map[string]bool{}, map[string]bool{}
	for _, l := range lines {
		if _, seen := advised[l.Key]; !seen {
			advised[l.Key] = true
		}
		if l.Offered {
			offered[l.Key] = true
			advised[l.Key] = advised[l.Key] && l.Advised
		}
	}
	var out []compareRow
	done := map[string]bool{}
	for rank := range 4 {
		for _, l := range lines {
			if first[l.Key] != rank {
				continue
			}
			row := compareRow{Line: l, First: !done[l.Key] && offered[l.Key]}
			done[l.Key] = true
			row.Ticked = offered[l.Key] && (ticked[l.Key] || fresh && advised[l.Key])
			out = append(out, row)
		}
	}
	return out
}

func (s *pages) acceptReading(c *echo.Context) error {
	number, err := kit.Number(c, "reading")
	if err != nil {
		return err
	}
	f, err := form.Sent(c)
	if err != nil {
		return err
	}
	id := c.Param("id")
	err = s.Shop.AcceptReading(c.Request().Context(), s.Acting(c), f.Text("token"), id, number, placesOf(f.Values),
		f.Values["take"])
	var faults hw.Faults
	switch {
	case err == nil:
		return kit.SeeOther(c, fmt.Sprintf("/machines/%s/readings/%d", id, number))
	case errors.As(err, &faults):
		for _, x := range faults {
			f.Fault("take", strings.TrimPrefix(x.Pointer+": "+x.Text, ": "))
		}
		return s.readingPage(c, http.StatusUnprocessableEntity, f)
	}
	return err
}
