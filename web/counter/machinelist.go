package counter

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"strings"

	"yembo/shop/base"
	"yembo/shop/jobs"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/exchange"
	"yembo/web/form"
	"yembo/web/kit"
)

// listView is the import of a machine list: the file, then its columns and what each
// row would become, then what was taken.
type listView struct {
	*form.Form
	Upload  int64
	Head    []string
	Columns []kit.ColumnChoice
	Rows    []jobs.ListedMachine
	Aside   []jobs.ListedMachine
	Sound   int
	Taken   int                  // just now
	Before  []jobs.ListedMachine // rows that became machines, now or before
	Most    int
}

func (s *pages) newList(c *echo.Context) error {
	return s.Render(c, http.StatusOK, "machineimport", "Machines from a list", "machines",
		listView{Form: form.New(url.Values{}), Most: exchange.MaxTableRows})
}

// lookAtList keeps the file and shows what its rows would become.
func (s *pages) lookAtList(c *echo.Context) error {
	f, raw, done, err := s.SentList(c)
	if err != nil {
		return err
	}
	defer done()
	if len(raw) == 0 {
		f.Fault("/list", "choose a file, or paste rows including the header line")
		return s.Render(c, http.StatusUnprocessableEntity, "machineimport", "Machines from a list", "machines",
			listView{Form: f, Most: exchange.MaxTableRows})
	}
	upload, err := s.Shop.KeepUpload(c.Request().Context(), raw)
	if err != nil {
		return err
	}
	return s.listPage(c, http.StatusOK, f, upload, nil, 0)
}

// listPage shows a kept list; columns nil proposes them by the names in the head.
func (s *pages) listPage(c *echo.Context, status int, f *form.Form, upload int64, columns map[string]int,
	taken int) error {
	ctx := c.Request().Context()
	v := listView{Form: f, Upload: upload, Taken: taken, Most: exchange.MaxTableRows}
	table, rows, err := s.Shop.LookAtList(ctx, upload, columns)
	if err == nil && columns == nil {
		columns = proposeColumns(table.Head)
		table, rows, err = s.Shop.LookAtList(ctx, upload, columns)
	}
	if err != nil {
		if !f.Take(err) {
			return err
		}
		return s.Render(c, http.StatusUnprocessableEntity, "machineimport", "Machines from a list", "machines",
			listView{Form: f, Most: exchange.MaxTableRows})
	}
	v.Head = table.Head
	for _, x := range jobs.Columns {
		at, ok := columns[x.Name]
		if !ok {
			at = -1
		}
		v.Columns = append(v.Columns, kit.ColumnChoice{Name: x.Name, Words: x.Words, At: at})
	}
	for _, l := range rows {
		if l.Taken != "" {
			v.Before = append(v.Before, l)
			continue
		}
		if l.Fault != "" {
			v.Aside = append(v.Aside, l)
			continue
		}
		v.Sound++
		if len(v.Rows) < kit.MaxPreview {
			v.Rows = append(v.Rows, l)
		}
	}
	return s.Render(c, status, "machineimport", "Machines from a list", "machines", v)
}

// proposeColumns finds the columns by their names.
func proposeColumns(head []string) map[string]int {
	out := map[string]int{}
	for _, x := range []struct{ name, words string }{
		{"serial", "serial"}, {"id", "machine tag|machine id|asset|tag|inventory|id"}, {"customer", "customer|owner|client|name"},
		{"contact", "contact|phone|mail"}, {"model", "model|code|type"}} {
		for _, word := range strings.Split(x.words, "|") {
			for i, h := range head {
				if _, done := out[x.name]; !done && strings.Contains(strings.ToLower(h), word) && !used(out, i) {
					out[x.name] = i
				}
			}
		}
	}
	return out
}

func used(columns map[string]int, at int) bool {
	for _, x := range columns {
		if x == at {
			return true
		}
	}
	return false
}

// takeList shows the rows anew, takes them, or sends those that were kept aside.
func (s *pages) takeList(c *echo.Context) error {
	f, upload, columns, err := kit.ListAgain(c, jobs.Columns)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	switch f.Text("do") {
	case "take":
		token := f.Text("token")
		return s.Aside(c, token, "Machines from a list", func(ctx context.Context, _ func(done, of int)) (kit.Shown, error) {
			n, err := s.Shop.TakeList(ctx, s.Acting(c), token, upload, columns)
			var faults hw.Faults
			if errors.As(err, &faults) {
				err = nil
			}
			return func(c *echo.Context, _ bool) error {
				f, status := form.New(url.Values{}), http.StatusOK
				if faults != nil {
					f.Take(faults)
					status = http.StatusUnprocessableEntity
				}
				return s.listPage(c, status, f, upload, columns, n)
			}, err
		})
	case "aside":
		table, rows, err := s.Shop.LookAtList(ctx, upload, columns)
		if err != nil {
			return err
		}
		out, err := jobs.AsideTable(table, rows)
		if err != nil {
			return echo.ErrBadRequest.Wrap(err)
		}
		return kit.SendFile(c, "kept-aside.csv", "text/csv; charset=utf-8", out)
	}
	return s.listPage(c, http.StatusOK, f, upload, columns, 0)
}

func (s *pages) exportMachines(c *echo.Context) error {
	out, err := s.Shop.MachineTable(c.Request().Context())
	if err != nil {
		return err
	}
	return kit.SendFile(c, "machines.csv", "text/csv; charset=utf-8", out)
}

func (s *pages) exportMachine(c *echo.Context) error {
	out, err := s.Shop.MachineDocument(c.Request().Context(), c.Param("id"))
	if err != nil {
		return err
	}
	return kit.SendFile(c, c.Param("id")+".machine.json", "application/json", out)
}

// historyView is everything that happened to one machine.
type historyView struct {
	*form.Form
	kit.Tabs
	Model, Customer string
	CustomerID      int64
	Jobs            []jobRow
	Readings        []readingRow
	Fitted          []string
	Before          []fittedBefore
	History         []base.Change
}

// fittedBefore is what was in a machine until some time.
type fittedBefore struct {
	Entry      int64
	Until, Why string
	Fitted     []string
}

type jobRow struct {
	ID                             int64
	Label, TakenIn, Complaint      string
	Wish, Chosen, Closed, Promised string
}

func (s *pages) showHistory(c *echo.Context) error {
	return s.historyPage(c, http.StatusOK, form.New(url.Values{}))
}

func (s *pages) historyPage(c *echo.Context, status int, f *form.Form) error {
	h, err := s.Shop.MachineHistory(c.Request().Context(), c.Param("id"))
	if err != nil {
		return err
	}
	r := &h.Record
	if status == http.StatusOK {
		f.Values.Set("/tag", r.Machine.ID)
	}
	v := historyView{Form: f, Tabs: kit.TabsOf(r, "history"), Model: r.Chassis.Name(), Customer: r.Customer,
		CustomerID: r.CustomerID, History: r.History, Fitted: fittedWords(r.Machine)}
	for i := range h.Jobs {
		j := &h.Jobs[i]
		row := jobRow{ID: j.JobID, Label: base.Label(j.JobID), TakenIn: kit.Stamp(j.TakenIn), Complaint: j.Complaint,
			Wish: kit.WishWords(j.Wish, r.Chassis)}
		if j.Choice != nil {
			row.Chosen = fmt.Sprintf("%s, %s", kit.ChosenWords(j.Choice),
				hw.Money(j.Choice.Currency, j.Choice.Option.TotalCents))
		}
		if !j.Closed.IsZero() {
			row.Closed = kit.Stamp(j.Closed)
		}
		v.Jobs = append(v.Jobs, row)
	}
	for i := range h.Readings {
		v.Readings = append(v.Readings, rowOfReading(&h.Readings[i]))
	}
	last := strings.Join(v.Fitted, "; ")
	for _, b := range h.Before {
		// A change of the use, or of the serial, is not one of what is fitted.
		if words := fittedWords(b.Machine); strings.Join(words, "; ") != last {
			v.Before = append(v.Before, fittedBefore{b.Entry, kit.Stamp(b.Until), b.Why, words})
			last = strings.Join(words, "; ")
		}
	}
	return s.Render(c, status, "history", "History of "+r.Machine.ID, "machines", v)
}

// fittedWords lists what is in a machine, as far as it is known.
func fittedWords(m *hw.Machine) []string {
	var out []string
	switch {
	case m.Fitted.Memory == nil:
		out = append(out, "memory in the sockets: not yet known")
	case len(m.Fitted.Memory) == 0:
		out = append(out, "sockets empty")
	}
	for i := range m.Fitted.Memory {
		f := &m.Fitted.Memory[i]
		words := kit.GBWords(f.Module.Capacity)
		if f.Module.Type != "" {
			words += " " + string(f.Module.Type)
		}
		out = append(out, f.Socket+": "+words)
	}
	if m.Fitted.Drives == nil {
		out = append(out, "drives: not yet known")
	}
	for i := range m.Fitted.Drives {
		f := &m.Fitted.Drives[i]
		words := kit.GBWords(f.Drive.Capacity) + " " + hw.Interfaces.Says(f.Drive.Interface)
		switch {
		case f.Unreadable.Or(false):
			words += ", cannot be read"
		case f.Fails():
			words += ", failing"
		}
		out = append(out, f.Place+": "+strings.TrimSpace(words))
	}
	if b := m.Fitted.Battery; b != nil {
		words := "the pack " + kit.OrDash(b.PartNumber, "not yet known")
		if b.Option != "" {
			words = hw.PackSays(b.Option)
		}
		if wh, ok := b.FullWh.Get(); ok {
			words += ", " + wh.String() + " Wh when full"
		}
		if n, ok := b.Cycles.Get(); ok {
			words += fmt.Sprintf(", %d cycles", n)
		}
		if b.Swollen.Or(false) {
			words += ", swollen"
		}
		out = append(out, words)
	}
	return out
}
