package shelf

import (
	"cmp"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"yembo/shop/base"
	"yembo/shop/jobs"
	"yembo/shop/stock"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/web/draw"
	"yembo/web/form"
	"yembo/web/kit"
)

// shelfView is the shelf: every piece as a mark, what is to be ordered, and the line in which a part is
// entered.
type shelfView struct {
	*form.Form
	Entry                      partEntry
	Says                       string
	Kept                       *stock.ShelfLine // the part that was entered last
	Query, Kind, Show, Sort    string
	Kinds                      []hw.Term[hw.PartKind]
	Groups                     []shelfGroup
	Found, All                 int
	From, Next, Before         int
	Models, Machines           int
	Working                    bool
	Order                      orderList
	Coming                     []comingRow
	ToTest                     []shelfRow
	Finds                      []stock.Find
	Moves                      []moveRow
	Legend                     []legendMark
	Address                    string // of this search, without where it begins
	Currency                   string
	Shows, Sorts               []hw.Term[string]
	NoSupplier, NoPart, Closes bool
}

// TagOf is what people call a machine that something is looked for.
func (v shelfView) TagOf(key string) string {
	for _, f := range v.Finds {
		if f.Machine == key {
			return f.Tag
		}
	}
	return key
}

// shelfGroup is the parts of one kind.
type shelfGroup struct {
	Kind hw.PartKind
	Name string
	Says string
	Unit string // of the price a unit, "" for none
	Rows []shelfRow
}

// shelfRow is one part.
type shelfRow struct {
	ID, Name, Sub       string
	Pieces              *draw.Pieces
	Price, Each         string
	Fits, Perhaps       int
	Helps               []jobs.Help
	Low, Unfit, Retired bool
	Note, ToHave        string // ToHave: when more can be had, where nothing is free
	line                *stock.ShelfLine
	cents, each         int64
}

type legendMark struct {
	Pieces *draw.Pieces
	Says   string
}

// orderList is what should be ordered now.
type orderList struct {
	Jobs, Low []orderRow
	Pieces    int
	Total     string
	JobTotal  string
	JobPieces int
}

type orderRow struct {
	ID, Name, Price, Why string
	N                    int
}

type comingRow struct {
	Order           int64
	What, For, From string
	Late            bool
	Due             string
}

type moveRow struct {
	At, Change, What, Part, Why string
	Job                         int64
	JobLabel                    string
}

// mostRows is how many parts stand on one page.
const mostRows = 60

// mostAsideRows is how many rows of a list stand beside the shelf.
const mostAsideRows = 8

// Choices of what is shown and how it is sorted; the first is the usual one.
var (
	shelfShows = []hw.Term[string]{{Word: "", Says: "all"}, {Word: "low", Says: "below reorder level"},
		{Word: "short", Says: "short for jobs"},
		{Word: "free", Says: "in stock"}, {Word: "coming", Says: "on order"}, {Word: "pulled", Says: "pulled"},
		{Word: "unfit", Says: "fits no recorded model"}, {Word: "brought", Says: "brought by customers"},
		{Word: "retired", Says: "retired"}}
	shelfSorts = []hw.Term[string]{{Word: "", Says: "as entered"}, {Word: "name", Says: "name"},
		{Word: "price", Says: "price"},
		{Word: "each", Says: "price a unit"}, {Word: "fits", Says: "fits most"}, {Word: "helps", Says: "helps most"}}
)

func (s *pages) listParts(c *echo.Context) error {
	return s.shelfPage(c, http.StatusOK, form.New(c.QueryParams()), partEntry{})
}

func (s *pages) shelfPage(c *echo.Context, status int, f *form.Form, entry partEntry) error {
	ctx := c.Request().Context()
	shelf, err := s.Shop.Shelf(ctx)
	if err != nil {
		return err
	}
	uses, err := s.Shop.Uses(ctx)
	if err != nil {
		return err
	}
	how, err := s.Shop.Settings(ctx)
	if err != nil {
		return err
	}
	v := shelfView{Form: f, Entry: entry, Query: f.Text("q"), Kind: f.Text("kind"), Show: f.Text("show"),
		Sort:  f.Text("sort"),
		Kinds: stock.ShelfKinds, Models: uses.Models, Machines: uses.Machines, Working: uses.Working, Finds: shelf.Finds,
		Currency: shelf.Currency, Shows: shelfShows, Sorts: shelfSorts, Says: saysShelf(shelf),
		NoPart: len(shelf.Lines) == 0}
	v.Entry.Currency, v.Entry.Focus = shelf.Currency, f.Text("kept") != "" || v.NoPart
	shown := v.find(&shelf, &uses, shownPrice(&how))
	v.Found = len(shown)
	for i := range shelf.Lines {
		if l := &shelf.Lines[i]; l.ID == f.Text("kept") {
			v.Kept = l
		}
		if l := &shelf.Lines[i]; l.Part.Pulled() && l.Shelf > l.Tested && len(v.ToTest) < mostAsideRows {
			v.ToTest = append(v.ToTest, rowOf(l, &uses, shownPrice(&how)))
		}
		if !shelf.Lines[i].Retired {
			v.All++
		}
	}
	v.page(shown, &uses, shownPrice(&how))
	v.Order = s.orderList(&shelf, &how)
	if err := s.fillShelfAside(ctx, &v); err != nil {
		return err
	}
	for _, state := range []draw.PieceState{draw.PieceFree, draw.PieceHeld, draw.PieceTested, draw.PieceUntested,
		draw.PieceComing,
		draw.PieceMissing} {
		v.Legend = append(v.Legend, legendMark{draw.PieceSample(state),
			map[draw.PieceState]string{draw.PieceFree: "free",
				draw.PieceHeld: "reserved for a job", draw.PieceTested: "pulled, tested",
				draw.PieceUntested: "pulled, untested",
				draw.PieceComing:   "on order", draw.PieceMissing: "missing"}[state]})
	}
	return s.Render(c, status, "parts", "Parts", "parts", v)
}

// saysShelf says in a sentence what lies there.
func saysShelf(shelf stock.Shelf) string {
	free, held, pulled, coming, cents, kinds := 0, 0, 0, 0, int64(0), 0
	for i := range shelf.Lines {
		l := &shelf.Lines[i]
		if l.Retired {
			continue
		}
		kinds++
		held, coming = held+l.Held, coming+l.UnderWay()
		if l.Part.Pulled() {
			pulled += l.Free()
			continue
		}
		free += l.Free()
		cents += int64(l.Shelf) * l.Part.PriceCents
	}
	if kinds == 0 {
		return "Nothing is entered yet"
	}
	return fmt.Sprintf("%s: %d free, %d reserved, %d pulled, %d on order. Bought stock at list price: %s",
		hw.Count(kinds, "part", "parts"), free, held, pulled, coming, hw.Money(shelf.Currency, cents))
}

// shownPrice is a price as the settings say the shelf shows prices: as it is kept, or with tax.
func shownPrice(how *base.Settings) func(cents int64) int64 {
	return func(cents int64) int64 {
		if how.ShelfTax {
			return kit.WithTax(cents, how.TaxPercent)
		}
		return cents
	}
}

// find filters and sorts what is shown.
func (v *shelfView) find(shelf *stock.Shelf, uses *jobs.Uses, price func(int64) int64) []shelfRow {
	words := strings.Fields(strings.ToLower(v.Query))
	job, isJob := base.JobOfLabel(v.Query)
	var out []shelfRow
	for i := range shelf.Lines {
		l := &shelf.Lines[i]
		if v.Kind != "" && string(l.Part.Kind) != v.Kind || !shows(l, v.Show, uses) || isJob && !forJob(l, job) {
			continue
		}
		if len(words) > 0 && !isJob {
			text := strings.ToLower(l.Part.Name + " " + l.ID + " " + l.OrderNo + " " + l.SupplierName + " " + l.Note +
				" " + l.Part.Provides)
			if !holdsAll(text, words) {
				continue
			}
		}
		row := shelfRow{line: l, Name: l.Part.Name, Fits: uses.Fits[l.ID], Helps: uses.Helps[l.ID],
			cents: price(l.Part.PriceCents)}
		if v.Sort == "each" {
			row.each, _ = eachUnit(&l.Part, row.cents)
		}
		out = append(out, row)
	}
	less := map[string]func(a, b shelfRow) int{
		"name":  func(a, b shelfRow) int { return strings.Compare(strings.ToLower(a.Name), strings.ToLower(b.Name)) },
		"price": func(a, b shelfRow) int { return cmp.Compare(a.cents, b.cents) },
		"each":  func(a, b shelfRow) int { return cmp.Compare(a.each, b.each) },
		"fits":  func(a, b shelfRow) int { return cmp.Compare(b.Fits, a.Fits) },
		"helps": func(a, b shelfRow) int { return cmp.Compare(len(b.Helps), len(a.Helps)) },
	}[v.Sort]
	if less != nil {
		slices.SortStableFunc(out, less)
	}
	return out
}

func holdsAll(text string, words []string) bool {
	for _, w := range words {
		if !strings.Contains(text, w) {
			return false
		}
	}
	return true
}

func forJob(l *stock.ShelfLine, job int64) bool {
	is := func(h stock.HoldFor) bool { return h.Job == job }
	return slices.ContainsFunc(l.Holds, is) || slices.ContainsFunc(l.Short, is)
}

// shows reports whether a part is among those that are asked for.
func shows(l *stock.ShelfLine, show string, uses *jobs.Uses) bool {
	if l.Retired != (show == "retired") || l.Part.Brought() != (show == "brought") {
		return false
	}
	switch show {
	case "low":
		return l.Missing() > 0
	case "short":
		return len(l.Short) > 0
	case "free":
		return l.Free() > 0 || l.Uncounted
	case "coming":
		return l.UnderWay() > 0
	case "pulled":
		return l.Part.Pulled()
	case "unfit":
		return isUnfit(l, uses)
	}
	return true
}

// isUnfit reports whether a part fits no recorded model, not even perhaps.
func isUnfit(l *stock.ShelfLine, uses *jobs.Uses) bool {
	return uses.Models > 0 && hw.PartKinds.Index(l.Part.Kind) >= 0 && uses.Fits[l.ID] == 0 && uses.Perhaps[l.ID] == 0
}

// rowOf is one part as the shelf shows it.
func rowOf(l *stock.ShelfLine, uses *jobs.Uses, price func(int64) int64) shelfRow {
	p := &l.Part
	row := shelfRow{ID: l.ID, line: l, Name: p.Name, Sub: l.ID, Fits: uses.Fits[l.ID], Perhaps: uses.Perhaps[l.ID],
		Helps: uses.Helps[l.ID],
		Low:   l.Missing() > 0, Unfit: isUnfit(l, uses), Retired: l.Retired, Note: l.Note, cents: price(p.PriceCents),
		Price: "–", Each: "–"}
	if l.SupplierName != "" {
		row.Sub += ", " + l.SupplierName
		if l.OrderNo != "" {
			row.Sub += " " + l.OrderNo
		}
	}
	if p.PriceCents > 0 {
		row.Price = plainMoney(row.cents)
		row.each, row.Each = eachUnit(p, row.cents)
	}
	row.Pieces = draw.PiecesOf(p, groupsOf(l))
	if l.Free() <= 0 && !l.Uncounted && !l.Retired && !p.Brought() && !p.Pulled() {
		row.ToHave = toHave(l)
	}
	return row
}

// toHave says when more of a part can be had.
func toHave(l *stock.ShelfLine) string {
	days, told := l.Part.LeadDays.Get()
	switch {
	case told:
		return fmt.Sprintf("lead time %s", hw.Count(days, "day", "days"))
	case l.Orderable:
		return "can be ordered, lead time not known"
	}
	return "not available"
}

// plainMoney is an amount without its currency, which stands over the column.
func plainMoney(cents int64) string { return strings.TrimSpace(hw.Money("", cents)) }

// eachUnit is a price a GB or Wh, in thousandths of a cent to sort by and in words.
func eachUnit(p *hw.Part, cents int64) (int64, string) {
	units := hw.Dec(0)
	switch {
	case p.Memory != nil:
		units = p.Memory.Capacity.Or(0) * hw.Dec(p.Pieces())
	case p.Drive != nil:
		units = p.Drive.Capacity.Or(0)
	case p.Battery != nil:
		units = p.Battery.DesignWh.Or(0)
	}
	if units <= 0 {
		return 1 << 60, "–"
	}
	milli := (cents*1000*int64(hw.DecOf(1)) + int64(units)/2) / int64(units) // thousandths of a cent
	if milli < 100_000 {
		return milli, fmt.Sprintf("0.%03d", (milli+50)/100)
	}
	return milli, plainMoney((milli + 500) / 1000)
}

// groupsOf is a part's pieces by how they stand: free, the line, kept, on order.
func groupsOf(l *stock.ShelfLine) []draw.PieceGroup {
	var out []draw.PieceGroup
	free := l.Free()
	switch {
	case l.Uncounted:
		return []draw.PieceGroup{{State: draw.PieceFree, N: 1, Label: "in stock, not counted"}}
	case l.Part.Pulled():
		tested := min(l.Tested, free)
		out = append(out, draw.PieceGroup{State: draw.PieceTested, N: tested},
			draw.PieceGroup{State: draw.PieceUntested, N: free - tested})
	case l.Low > 0:
		out = append(out, draw.PieceGroup{State: draw.PieceFree, N: min(free, l.Low)},
			draw.PieceGroup{State: draw.PieceMissing, N: max(0, l.Low-free), Line: l.Low},
			draw.PieceGroup{State: draw.PieceFree, N: max(0, free-l.Low)})
		if free >= l.Low {
			out = []draw.PieceGroup{{State: draw.PieceFree, N: l.Low, Line: l.Low},
				{State: draw.PieceFree, N: free - l.Low}}
		}
	default:
		out = append(out, draw.PieceGroup{State: draw.PieceFree, N: free})
	}
	for _, h := range l.Holds {
		out = append(out, draw.PieceGroup{State: draw.PieceHeld, N: h.N, Label: base.Label(h.Job)})
	}
	for _, c := range l.Coming {
		due := "date not known"
		if c.Due != "" {
			due = c.Due.Sheet()
		}
		out = append(out, draw.PieceGroup{State: draw.PieceComing, N: c.N, Label: due})
	}
	for _, h := range l.Short {
		out = append(out, draw.PieceGroup{State: draw.PieceMissing, N: h.N, Label: "short, " + base.Label(h.Job)})
	}
	return out
}

// page cuts out the rows of one page and groups them by kind, where they are not sorted otherwise.
func (v *shelfView) page(rows []shelfRow, uses *jobs.Uses, price func(int64) int64) {
	kept := url.Values{}
	for name, value := range map[string]string{"q": v.Query, "kind": v.Kind, "show": v.Show, "sort": v.Sort} {
		if value != "" {
			kept.Set(name, value)
		}
	}
	v.Address = kept.Encode()
	v.From, _ = strconv.Atoi(v.Text("from"))
	v.From = max(0, min(v.From, len(rows)-1))
	v.From -= v.From % mostRows
	if v.From+mostRows < len(rows) {
		v.Next = v.From + mostRows
	}
	v.Before = v.From - mostRows
	rows = rows[v.From:min(len(rows), v.From+mostRows)]
	for i := range rows { // only what is shown is drawn
		rows[i] = rowOf(rows[i].line, uses, price)
	}
	if v.Sort != "" {
		if len(rows) > 0 {
			v.Groups = []shelfGroup{{Name: "Sorted", Rows: rows}}
		}
		return
	}
	v.group(rows)
}

// groupNames are the headings of the kinds of part.
var groupNames = map[hw.PartKind]string{hw.KindMemory: "Memory", hw.KindDrive: "Drives", hw.KindBattery: "Batteries",
	hw.KindWireless: "Wireless", hw.KindAccessory: "Accessories", stock.KindConsumable: "Consumables",
	stock.KindTool: "Tools and bits"}

func (v *shelfView) group(rows []shelfRow) {
	byKind := map[hw.PartKind]*shelfGroup{}
	for _, k := range stock.ShelfKinds {
		byKind[k.Word] = &shelfGroup{Kind: k.Word, Name: groupNames[k.Word],
			Unit: map[hw.PartKind]string{hw.KindMemory: "a GB",
				hw.KindDrive: "a GB", hw.KindBattery: "a Wh"}[k.Word]}
	}
	for _, r := range rows {
		byKind[r.line.Part.Kind].Rows = append(byKind[r.line.Part.Kind].Rows, r)
	}
	for _, k := range stock.ShelfKinds {
		if g := byKind[k.Word]; len(g.Rows) > 0 {
			v.Groups = append(v.Groups, *g)
		}
	}
}
