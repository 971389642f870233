package shelf

import (
	"encoding/json"
	"fmt"
	"net/http"
	"net/url"
	"strconv"
	"strings"

	"yembo/shop/base"
	"yembo/shop/stock"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/exchange"
	"yembo/web/draw"
	"yembo/web/form"
	"yembo/web/kit"
)

// countView is the count of the shelf, on the page and on paper.
type countView struct {
	*form.Form
	Groups  []countGroup
	Printed string
	Counted bool // it was booked
	Kind    string
	Kinds   []hw.Term[hw.PartKind]
}

type countGroup struct {
	Name string
	Rows []countRow
}

type countRow struct {
	ID, Name, Field string
	Shelf           int
	Kept            string
	Pieces          *draw.Pieces
}

func (s *pages) showCount(c *echo.Context) error {
	return s.countPage(c, http.StatusOK, form.New(c.QueryParams()))
}

func (s *pages) countPage(c *echo.Context, status int, f *form.Form) error {
	shelf, err := s.Shop.Shelf(c.Request().Context())
	if err != nil {
		return err
	}
	v := countView{Form: f, Printed: kit.Stamp(s.Shop.Now()), Counted: f.Is("counted", "yes"), Kind: f.Text("kind"),
		Kinds: stock.ShelfKinds}
	for _, k := range stock.ShelfKinds {
		g := countGroup{Name: groupNames[k.Word]}
		if v.Kind != "" && v.Kind != string(k.Word) {
			continue
		}
		for i := range shelf.Lines {
			l := &shelf.Lines[i]
			if l.Part.Kind != k.Word || l.Retired && l.Shelf == 0 || l.Uncounted || l.Part.Brought() && l.Shelf == 0 {
				continue
			}
			row := countRow{ID: l.ID, Name: l.Part.Name, Field: "/count/" + l.ID, Shelf: l.Shelf,
				Pieces: draw.PiecesOf(&l.Part,
					groupsOf(l))}
			if l.Held > 0 {
				row.Kept = fmt.Sprintf("%d of them reserved", l.Held)
			}
			g.Rows = append(g.Rows, row)
		}
		if len(g.Rows) > 0 {
			v.Groups = append(v.Groups, g)
		}
	}
	return s.Render(c, status, "count", "Stock count", "parts", v)
}

// bookCount books what a count differs in. A field left open was not counted.
func (s *pages) bookCount(c *echo.Context) error {
	f, err := form.Sent(c)
	if err != nil {
		return err
	}
	var lines []stock.CountLine
	for _, name := range kit.SortedKeys(f.Values) {
		pointer, isCount := strings.CutPrefix(name, "/count/")
		if !isCount || f.Text(name) == "" {
			continue
		}
		lines = append(lines, stock.CountLine{Part: pointer, Seen: f.Whole("seen:" + name).Or(-1),
			Counts: f.Whole(name).Or(-1)})
	}
	if len(lines) == 0 && f.Count() == 0 {
		f.Fault("/reason", "nothing was counted: write the number of at least one part")
	}
	if f.Count() == 0 {
		err := s.Shop.CountShelf(c.Request().Context(), s.Acting(c), f.Text("token"), lines, f.Text("/reason"))
		switch {
		case err == nil:
			return kit.SeeOther(c, "/parts/count?counted=yes")
		case !f.Take(err):
			return err
		}
	}
	return s.countPage(c, http.StatusUnprocessableEntity, f)
}

// movesView is the list of all movements.
type movesView struct {
	Rows []moveRow
	More bool
}

// mostMoves is how many movements the page lists; the table has them all.
const mostMoves = 300

func (s *pages) showMoves(c *echo.Context) error {
	moves, err := s.Shop.Movements(c.Request().Context(), "", mostMoves+1)
	if err != nil {
		return err
	}
	v := movesView{More: len(moves) > mostMoves}
	for i := range moves[:min(len(moves), mostMoves)] {
		v.Rows = append(v.Rows, moveOf(&moves[i]))
	}
	return s.Render(c, http.StatusOK, "moves", "Movements", "parts", v)
}

func (s *pages) exportMoves(c *echo.Context) error {
	moves, err := s.Shop.Movements(c.Request().Context(), "", 1_000_000)
	if err != nil {
		return err
	}
	rows := make([][]string, len(moves))
	for i := range moves {
		m := &moves[i]
		job := ""
		if m.JobID != nil {
			job = base.Label(*m.JobID)
		}
		rows[i] = []string{m.At.Format("2006-01-02 15:04"), m.By, m.PartID, m.Name,
			stock.MoveKinds.Says(stock.MoveKind(m.Kind)),
			strconv.Itoa(m.Shelf), strconv.Itoa(m.Held), plainMoney(m.Cents), job, m.Tag, m.Note}
	}
	out, err := exchange.WriteTable([]string{"when", "by", "part", "name", "what", "shelf", "kept", "cents each", "job",
		"machine", "note"},
		rows)
	if err != nil {
		return err
	}
	return kit.SendFile(c, "movements.csv", "text/csv; charset=utf-8", out)
}

// exportParts sends the parts as yembo.parts: what is free of each.
func (s *pages) exportParts(c *echo.Context) error {
	parts, err := s.Shop.Parts(c.Request().Context())
	if err != nil {
		return err
	}
	doc, err := json.MarshalIndent(parts, "", "  ")
	if err != nil {
		return err
	}
	return kit.SendFile(c, "parts.json", "application/json", append(doc, '\n'))
}

func (s *pages) exportPartTable(c *echo.Context) error {
	shelf, err := s.Shop.Shelf(c.Request().Context())
	if err != nil {
		return err
	}
	var rows [][]string
	for i := range shelf.Lines {
		l := &shelf.Lines[i]
		if l.Retired {
			continue
		}
		days := ""
		if n, ok := l.Part.LeadDays.Get(); ok {
			days = strconv.Itoa(n)
		}
		rows = append(rows, []string{l.ID, stock.ShelfKinds.Says(l.Part.Kind), l.Part.Name,
			plainMoney(l.Part.PriceCents), shelf.Currency,
			strconv.Itoa(
				l.Shelf,
			), strconv.Itoa(l.Free()), strconv.Itoa(l.UnderWay()), strconv.Itoa(l.Low), days, l.SupplierName, l.OrderNo, l.Note})
	}
	out, err := exchange.WriteTable([]string{"id", "kind", "name", "price", "currency", "on the shelf", "free",
		"on order", "reorder level",
		"days", "supplier", "number there", "note"}, rows)
	if err != nil {
		return err
	}
	return kit.SendFile(c, "shelf.csv", "text/csv; charset=utf-8", out)
}

// findDone takes something off the list to find.
func (s *pages) findDone(c *echo.Context) error {
	id, err := kit.Number(c, "find")
	if err != nil {
		return err
	}
	if err := s.Shop.Found(c.Request().Context(), c.FormValue("token"), id); err != nil {
		return err
	}
	return kit.SeeOther(c, "/parts")
}

// findIt puts something on the list to find, from a plan.
func (s *pages) findIt(c *echo.Context) error {
	f, err := form.Sent(c)
	if err != nil {
		return err
	}
	err = s.Shop.FindIt(c.Request().Context(), s.Acting(c), f.Text("token"),
		stock.Find{Kind: hw.PartKind(f.Text("kind")), Wanted: f.Text("wanted"),
			Gives: f.Text("gives"), Doubt: f.Text("doubt"), Machine: c.Param("id")})
	if err != nil {
		return err
	}
	return kit.SeeOther(c, "/machines/"+url.PathEscape(c.Param("id"))+"?found="+url.QueryEscape(f.Text("wanted")))
}
