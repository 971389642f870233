package shelf

import (
	"context"
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
	"yembo/web/form"
	"yembo/web/kit"
)

// ordersView is all orders.
type ordersView struct {
	Open, Closed []comingRow
}

func (s *pages) listOrders(c *echo.Context) error {
	orders, err := s.Shop.Orders(c.Request().Context())
	if err != nil {
		return err
	}
	var v ordersView
	for i := range orders {
		o := &orders[i]
		row := comingOf(o)
		if !o.Closed {
			v.Open = append(v.Open, row)
			continue
		}
		row.Due = "ordered " + kit.Stamp(o.At)
		row.What = hw.Count(len(o.Lines), "part", "parts")
		v.Closed = append(v.Closed, row)
	}
	return s.Render(c, http.StatusOK, "orders", "Orders", "parts", v)
}

// newOrderView is what should be ordered, a form for each supplier.
type newOrderView struct {
	Here string // its own address
	*form.Form
	Groups    []orderGroup
	Suppliers []stock.Supplier
	Currency  string
	OnlyJobs  bool
	Parts     []kit.PartChoice
	Group     string // of the form that was sent
	Asks      bool   // a supplier's service is named
	AskFailed string
}

type orderGroup struct {
	Supplier *stock.Supplier // nil where none is told
	Key      string
	Lines    []newOrderLine
	Closes   string // what is known of when orders go out
}

type newOrderLine struct {
	ID, Name, Why, Number string
	N                     int
	Price                 string // what the shop paid for one last time, "" where it never said
	Sold                  string // what a customer pays for one
	Coming                int
	Offer                 string // what the supplier's service says of it, where that is another price
}

func (s *pages) newOrder(c *echo.Context) error {
	return s.newOrderPage(c, http.StatusOK, form.New(c.QueryParams()))
}

func (s *pages) newOrderPage(c *echo.Context, status int, f *form.Form) error {
	ctx := c.Request().Context()
	shelf, err := s.Shop.Shelf(ctx)
	if err != nil {
		return err
	}
	suppliers, err := s.Shop.Suppliers(ctx)
	if err != nil {
		return err
	}
	paid, err := s.Shop.PaidLast(ctx)
	if err != nil {
		return err
	}
	v := newOrderView{Form: f, Currency: shelf.Currency, OnlyJobs: f.Is("only", "jobs"), Group: f.Text("group")}
	lines := map[int64][]newOrderLine{}
	needs := s.Shop.ToOrder(shelf.Lines)
	want := map[string]int{}
	add := func(n *stock.OrderNeed, why string) {
		if at, twice := want[n.ID]; twice {
			lines[n.Supplier][at].N += n.N
			lines[n.Supplier][at].Why += "; " + why
			return
		}
		want[n.ID] = len(lines[n.Supplier])
		line := newOrderLine{ID: n.ID, Name: n.Part.Name, Why: why, Number: n.OrderNo, N: n.N, Coming: n.UnderWay()}
		if cents := paid[n.ID]; cents > 0 {
			line.Price = plainMoney(cents)
		}
		if n.Part.PriceCents > 0 {
			line.Sold = hw.Money(shelf.Currency, n.Part.PriceCents)
		}
		lines[n.Supplier] = append(lines[n.Supplier], line)
	}
	for i := range needs.Jobs {
		var who []string
		for _, h := range needs.Jobs[i].For {
			who = append(who, base.Label(h.Job)+", "+h.Tag)
		}
		add(&needs.Jobs[i], "for "+strings.Join(who, "; "))
	}
	for i := range needs.Low {
		if !v.OnlyJobs {
			add(&needs.Low[i], fmt.Sprintf("%d free, reorder level %d", needs.Low[i].Free(), needs.Low[i].Low))
		}
	}
	for i := range suppliers {
		x := &suppliers[i]
		if x.Retired {
			continue
		}
		v.Suppliers = append(v.Suppliers, *x)
		if lines[x.ID] != nil {
			g := orderGroup{Supplier: x, Key: fmt.Sprint(x.ID), Lines: lines[x.ID]}
			if x.Closes != "" {
				g.Closes = "order cut-off " + x.Closes
			}
			v.Groups = append(v.Groups, g)
		}
	}
	other := orderGroup{Key: "0", Lines: lines[0]}
	if lines[0] != nil || len(v.Groups) == 0 {
		v.Groups = append(v.Groups, other)
	}
	for i := range shelf.Lines {
		if l := &shelf.Lines[i]; l.CanBeOrdered() || !l.Retired && l.Shelf == 0 && !l.Part.Brought() &&
			!l.Part.Pulled() {
			v.Parts = append(v.Parts, kit.PartChoice{ID: l.ID, Name: l.Part.Name})
		}
	}
	state, err := s.Shop.Asking(ctx)
	if err != nil {
		return err
	}
	v.Asks, v.AskFailed = state.On, state.Failed
	offers := s.Shop.Offers()
	for g := range v.Groups {
		for i := range v.Groups[g].Lines {
			l := &v.Groups[g].Lines[i]
			switch o, known := offers[l.ID]; {
			case !known:
			case o.Missing:
				l.Offer = "the supplier's service does not sell it"
			case plainMoney(o.Cents) != l.Price:
				l.Offer = fmt.Sprintf("the supplier's service said %s, %s", hw.Money(v.Currency, o.Cents),
					kit.AgoWords(s.Shop.Now(), o.At))
			}
		}
	}
	v.Here = c.Request().URL.RequestURI()
	return s.Render(c, status, "neworder", "Order", "parts", v)
}

func (s *pages) placeOrder(c *echo.Context) error {
	f, err := form.Sent(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	how, err := s.Shop.Settings(ctx)
	if err != nil {
		return err
	}
	if f.Is("do", "ask") {
		if err := s.Shop.AskSupplier(ctx, f.Values["line"]); err != nil {
			f.Fault("/lines", err.Error())
			return s.newOrderPage(c, http.StatusUnprocessableEntity, f)
		}
		return kit.SeeOther(c, "/orders/new")
	}
	more := ""
	if text := f.Text("more"); text != "" {
		shelf, err := s.Shop.Shelf(ctx)
		if err != nil {
			return err
		}
		if more = partNamed(shelf.Lines, text); more == "" {
			f.Fault("more", "no part is called "+strconv.Quote(text)+": say its name as the shelf has it, or its number")
		}
	}
	var lines []stock.Wanted
	for _, id := range append(f.Values["line"], more) {
		n := f.Whole("/n/" + id).Or(0)
		if id == more {
			n = f.Whole("/more").Or(1)
		}
		if id == "" || n == 0 {
			continue
		}
		w := stock.Wanted{Part: id, N: n, Coming: f.Whole("coming:" + id).Or(0)}
		price, at := "/price/"+id, "/n/"+id
		if id == more {
			price, at = "/moreprice", "/moreprice"
		}
		if text := f.Text(price); text != "" {
			if w.Cents, err = hw.ParseMoney(text, how.Currency); err != nil {
				f.Fault(at, err.Error())
			}
		}
		lines = append(lines, w)
	}
	delivery := s.deliveryOf(f)
	if f.Count() == 0 {
		id, err := s.Shop.PlaceOrder(ctx, s.Acting(c), f.Text("token"), int64(f.Whole("supplier").Or(0)), lines, delivery)
		switch {
		case err == nil:
			return kit.SeeOther(c, fmt.Sprintf("/orders/%d", id))
		case !f.Take(err):
			return err
		}
	}
	return s.newOrderPage(c, http.StatusUnprocessableEntity, f)
}

// partNamed is the id of the part that a text names: by its name, the supplier's number or the id; "" for
// none, or where several are called so.
func partNamed(lines []stock.ShelfLine, text string) string {
	found := ""
	for i := range lines {
		l := &lines[i]
		if l.ID == text || l.OrderNo != "" && strings.EqualFold(l.OrderNo, text) {
			return l.ID
		}
		if strings.EqualFold(l.Part.Name, text) {
			if found != "" {
				return ""
			}
			found = l.ID
		}
	}
	return found
}

// deliveryOf is what a form says of when an order comes.
func (s *pages) deliveryOf(f *form.Form) stock.Delivery {
	return stock.Delivery{Expected: kit.DueOf(f, "/expected", s.Shop.Now()), Confirmed: f.Text("/confirmed") != "",
		Note: f.Text("/note")}
}

// breaks says which promises would not be kept if an order came then, "" for none.
func (s *pages) breaks(ctx context.Context, order int64, due base.Due) (string, error) {
	rows, err := s.Shop.BrokenBy(ctx, order, due)
	var words []string
	for i := range rows {
		r := &rows[i]
		says := fmt.Sprintf("%s was promised for %s", r.Record.Machine.ID, base.TimeWords(r.Record.Promised))
		if r.Plan != nil {
			says += ", and would be ready " + base.TimeWords(r.Ready)
		}
		words = append(words, says)
	}
	if len(words) == 0 {
		return "", err
	}
	return "it breaks a promise: " + strings.Join(words, "; ") + ". Nothing is saved yet", err
}

// orderView is one order: what was ordered, what came.
type orderView struct {
	*form.Form
	stock.Order
	Currency, Total, At, Due string
	Rows                     []orderLineRow
	Open                     bool
	Took                     string
}

type orderLineRow struct {
	stock.OrderLine
	Price, Sum, Whom string
	Field            string
}

func (s *pages) showOrder(c *echo.Context) error {
	return s.orderPage(c, http.StatusOK, form.New(c.QueryParams()))
}

func (s *pages) orderPage(c *echo.Context, status int, f *form.Form) error {
	ctx := c.Request().Context()
	id, err := kit.Number(c, "order")
	if err != nil {
		return err
	}
	o, err := s.Shop.Order(ctx, id)
	if err != nil {
		return err
	}
	how, err := s.Shop.Settings(ctx)
	if err != nil {
		return err
	}
	v := orderView{Form: f, Order: o, Currency: how.Currency, Total: hw.Money(how.Currency, o.Cents), At: kit.Stamp(o.At),
		Open: !o.Closed,
		Due:  "date not known", Took: f.Text("took")}
	if o.Expected != "" {
		v.Due = o.Expected.Sheet()
	}
	if f.Text("/expected") == "" && f.Count() == 0 {
		f.Values.Set("/expected", string(o.Expected))
		f.Values.Set("/note", o.Note)
		if o.Confirmed {
			f.Values.Set("/confirmed", "yes")
		}
	}
	for _, l := range o.Lines {
		if l.Cents == 0 && l.N > l.Gone {
			v.Total = hw.Money(how.Currency, o.Cents) + ", without what has no price"
		}
		row := orderLineRow{OrderLine: l, Price: "not known", Field: fmt.Sprintf("/n/%d", l.ID)}
		if l.Cents > 0 {
			row.Price, row.Sum = plainMoney(l.Cents), plainMoney(int64(l.N-l.Gone)*l.Cents)
		}
		var whom []string
		for _, h := range l.For {
			whom = append(whom, base.Label(h.Job)+", "+h.Tag)
		}
		row.Whom = strings.Join(whom, "; ")
		v.Rows = append(v.Rows, row)
	}
	return s.Render(c, status, "order", fmt.Sprintf("Order %d", id), "parts", v)
}

// changeOrder takes in what came, one piece by a scan or what the form says, or says when it is expected.
func (s *pages) changeOrder(c *echo.Context) error {
	f, err := form.Sent(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	id, err := kit.Number(c, "order")
	if err != nil {
		return err
	}
	o, err := s.Shop.Order(ctx, id)
	if err != nil {
		return err
	}
	token, version, to := f.Text("token"), f.Whole("version").Or(-1), fmt.Sprintf("/orders/%d", id)
	switch f.Text("do") {
	case "scan":
		var took string
		took, err = s.scanDelivery(c, f, &o)
		to += "?took=" + url.QueryEscape(took)
	case "expect":
		delivery := s.deliveryOf(f)
		if f.Count() == 0 && delivery.Expected != o.Expected && !f.Is("/so", "yes") {
			breaks, err := s.breaks(ctx, id, delivery.Expected)
			if err != nil {
				return err
			}
			if breaks != "" {
				f.Fault("/expected", breaks)
				f.Values.Set("/asks", "yes")
			}
		}
		if f.Count() == 0 {
			err = s.Shop.Expect(ctx, s.Acting(c), token, id, version, delivery)
		}
	default:
		var came []stock.Arrival
		for _, l := range o.Lines {
			at := fmt.Sprintf("/n/%d", l.ID)
			a := stock.Arrival{Line: l.ID, N: f.Whole(at).Or(0), Gone: f.Whole(fmt.Sprintf("/gone/%d", l.ID)).Or(0),
				Serials: kit.SerialsOf(f.Text(fmt.Sprintf("/serials/%d", l.ID)))}
			if a.N != 0 || a.Gone != 0 {
				came = append(came, a)
			}
		}
		if len(came) == 0 && f.Count() == 0 {
			f.Fault("/came", "say how many came of at least one part")
		}
		if f.Count() == 0 {
			err = s.Shop.Deliver(ctx, s.Acting(c), token, id, version, came)
		}
	}
	switch {
	case err == nil && f.Count() == 0:
		return kit.SeeOther(c, to)
	case err != nil && !f.Take(err):
		return err
	}
	return s.orderPage(c, http.StatusUnprocessableEntity, f)
}

// scanDelivery takes in one piece of the part whose label, number or name was scanned.
func (s *pages) scanDelivery(c *echo.Context, f *form.Form, o *stock.Order) (took string, err error) {
	look, err := s.Shop.LookAtPart(c.Request().Context(), f.Text("scan"))
	if err != nil {
		return "", err
	}
	found := map[string]bool{}
	if look.Same != nil {
		found[look.Same.ID] = true
	}
	for i := range look.Like {
		found[look.Like[i].ID] = true
	}
	for _, l := range o.Lines {
		if found[l.Part] && l.Open() > 0 {
			err := s.Shop.Deliver(c.Request().Context(), s.Acting(c), f.Text("token"), o.ID, o.Version,
				[]stock.Arrival{{Line: l.ID, N: 1}})
			return l.Name, err
		}
	}
	f.Fault("scan", fmt.Sprintf("%q is nothing that this order still waits for", f.Text("scan")))
	return "", nil
}

// exportOrder sends an order as a table, as a supplier takes it.
func (s *pages) exportOrder(c *echo.Context) error {
	id, err := strconv.ParseInt(strings.TrimSuffix(c.Param("order"), ".csv"), 10, 64)
	if err != nil {
		return base.ErrNotFound
	}
	o, err := s.Shop.Order(c.Request().Context(), id)
	if err != nil {
		return err
	}
	rows := make([][]string, len(o.Lines))
	for i, l := range o.Lines {
		rows[i] = []string{l.OrderNo, l.Name, strconv.Itoa(l.N - l.Gone), "", ""}
		if l.Cents > 0 {
			rows[i][3], rows[i][4] = plainMoney(l.Cents), plainMoney(int64(l.N-l.Gone)*l.Cents)
		}
	}
	out, err := exchange.WriteTable([]string{"number", "part", "pieces", "each", "sum"}, rows)
	if err != nil {
		return err
	}
	return kit.SendFile(c, fmt.Sprintf("order-%d.csv", id), "text/csv; charset=utf-8", out)
}
