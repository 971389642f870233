package shelf

import (
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"strconv"

	"yembo/shop/base"
	"yembo/shop/jobs"
	"yembo/shop/stock"
	"yembo/shop/work"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/web/draw"
	"yembo/web/form"
	"yembo/web/kit"
)

// partView is one part: what it is, where its pieces are, what became of them.
type partView struct {
	*form.Form
	ID, Name, Kind string
	New            bool
	Kinds          []hw.Term[hw.PartKind]
	KindIs         hw.PartKind
	Fields         []form.PartField
	Suppliers      []stock.Supplier
	Origins        []hw.Term[string]
	Currency       string
	Line           *stock.ShelfLine
	Pieces         *draw.Pieces
	Serials        []string
	Out            []work.PieceOut
	Moves          []moveRow
	History        []base.Change
	Fits, Perhaps  int
	Models         int
	Helps          []jobs.Help
	Ways           []hw.Term[string] // what can be booked
	Price          string
	IsDrive        bool
	Machine        string // the key of the machine that it is brought for
	MachineTag     string
	Shelf          bool // a part of the shelf, not one that a customer brings
	Offer          *offerView
}

// offerView is what a supplier's service says of a part.
type offerView struct {
	Asked, Failed, Says string
	Cents               int64
	Take                bool // it is another price or another number of days
}

// offerOf is what the supplier's service said of a part; nil where nobody is asked.
func (s *pages) offerOf(c *echo.Context, l *stock.ShelfLine, currency string) (*offerView, error) {
	state, err := s.Shop.Asking(c.Request().Context())
	if err != nil || !state.On || l.Part.Brought() || l.Part.Pulled() {
		return nil, err
	}
	v := &offerView{Failed: state.Failed}
	o, known := s.Shop.Offers()[l.ID]
	switch {
	case !known:
		return v, nil
	case o.Missing:
		v.Says = "it does not sell this part"
	default:
		v.Says = fmt.Sprintf("%s, %d there, %s", hw.Money(currency, o.Cents), o.Stock, hw.Count(o.Days, "day", "days"))
		if o.Cents != l.Part.PriceCents {
			v.Says += fmt.Sprintf("; here it is kept at %s", hw.Money(currency, l.Part.PriceCents))
		}
		days, told := l.Part.LeadDays.Get()
		v.Cents, v.Take = o.Cents, o.Cents != l.Part.PriceCents || !told || days != o.Days
	}
	v.Asked = kit.AgoWords(s.Shop.Now(), o.At)
	return v, nil
}

// bookable are the movements that a page offers, by where the part comes from.
func bookable(l *stock.ShelfLine) []hw.Term[string] {
	kinds := []stock.MoveKind{stock.Bought, stock.SentBack, stock.Scrapped, stock.Fitted, stock.Unfitted}
	switch {
	case l.Part.Pulled():
		kinds = []stock.MoveKind{stock.Pulled, stock.Tested, stock.Returned, stock.Scrapped, stock.Fitted, stock.Unfitted}
	case l.Part.Brought():
		kinds = []stock.MoveKind{stock.Brought, stock.Returned, stock.Fitted, stock.Unfitted}
	}
	var out []hw.Term[string]
	for _, k := range kinds {
		out = append(out, hw.Term[string]{Word: string(k), Says: stock.MoveKinds.Says(k)})
	}
	return out
}

func (s *pages) newPart(c *echo.Context) error {
	f := form.New(c.QueryParams())
	kind := hw.PartKind(f.Text("kind"))
	if from := f.Text("copy"); from != "" {
		r, err := s.Shop.Part(c.Request().Context(), from)
		if err != nil {
			return err
		}
		f = form.New(partTyped(&r.ShelfLine))
		f.Values.Set("/name", r.Part.Name+", another")
		kind = r.Part.Kind
	}
	f.Values.Set("/pieces", "1")
	return s.partForm(c, http.StatusOK, f, kind)
}

// partForm is the form for a new part of a kind; with no kind it asks for that first.
func (s *pages) partForm(c *echo.Context, status int, f *form.Form, kind hw.PartKind) error {
	if stock.ShelfKinds.Index(kind) < 0 {
		kind = ""
	}
	v := partView{Form: f, New: true, KindIs: kind, Kinds: stock.ShelfKinds, Fields: form.PartFields(kind), Shelf: true}
	if kind != "" {
		v.Kind = stock.ShelfKinds.Says(kind)
	}
	if err := s.fillPartForm(c, &v); err != nil {
		return err
	}
	return s.Render(c, status, "partform", "A new part", "parts", v)
}

func (s *pages) fillPartForm(c *echo.Context, v *partView) error {
	ctx := c.Request().Context()
	how, err := s.Shop.Settings(ctx)
	if err != nil {
		return err
	}
	v.Currency = how.Currency
	v.Origins = []hw.Term[string]{{Word: string(hw.OriginPulled), Says: "pulled from a machine"}}
	all, err := s.Shop.Suppliers(ctx)
	for _, x := range all {
		if !x.Retired || v.Is("/supplier", fmt.Sprint(x.ID)) {
			v.Suppliers = append(v.Suppliers, x)
		}
	}
	return err
}

// partTyped is a part as its form has it.
func partTyped(l *stock.ShelfLine) url.Values {
	out := url.Values{"/name": {l.Part.Name}, "/order_no": {l.OrderNo}, "/note": {l.Note},
		"/source":   {string(l.Part.Source)},
		"/supplier": {""}, "/low": {""}, "/lead_days": {""}, "/count": {""}, "/orderable": {""}, "/uncounted": {""},
		"/price_cents": {""}}
	for name, value := range form.PartTyped(&l.Part) {
		out.Set(name, value)
	}
	if l.Part.PriceCents > 0 {
		out.Set("/price_cents", plainMoney(l.Part.PriceCents))
	}
	if l.Supplier != 0 {
		out.Set("/supplier", fmt.Sprint(l.Supplier))
	}
	if l.Low > 0 {
		out.Set("/low", fmt.Sprint(l.Low))
	}
	if days, ok := l.Part.LeadDays.Get(); ok {
		out.Set("/lead_days", fmt.Sprint(days))
	}
	if n, ok := l.Part.Count.Get(); ok {
		out.Set("/count", fmt.Sprint(n))
	}
	if l.Orderable {
		out.Set("/orderable", "yes")
	}
	if l.Uncounted {
		out.Set("/uncounted", "yes")
	}
	return out
}

// sentPart reads the form of a part.
func sentPart(f *form.Form, kind hw.PartKind, currency string) stock.PartLine {
	l := stock.PartLine{Part: f.Part(kind)}
	l.Part.Name, l.OrderNo, l.Note = f.Text("/name"), f.Text("/order_no"), f.Text("/note")
	if text := f.Text("/price_cents"); text != "" {
		cents, err := hw.ParseMoney(text, currency)
		if err != nil {
			f.Fault("/price_cents", err.Error())
		}
		l.Part.PriceCents = cents
	}
	l.Part.LeadDays, l.Part.Count = f.Whole("/lead_days"), f.Whole("/count")
	l.Low, l.Orderable, l.Uncounted = f.Whole("/low").Or(0), f.Is("/orderable", "yes"), f.Is("/uncounted", "yes")
	l.Supplier = int64(f.Whole("/supplier").Or(0))
	if f.Is("/source", string(hw.OriginPulled)) {
		l.Part.Source = hw.OriginPulled
	}
	return l
}

func (s *pages) createPart(c *echo.Context) error {
	f, err := form.Sent(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	how, err := s.Shop.Settings(ctx)
	if err != nil {
		return err
	}
	kind := hw.PartKind(f.Text("kind"))
	if stock.ShelfKinds.Index(kind) < 0 {
		f.Fault("kind", "say what kind of part it is")
		return s.partForm(c, http.StatusUnprocessableEntity, f, "")
	}
	l := sentPart(f, kind, how.Currency)
	first := stock.Moving{Kind: stock.Bought, N: f.Whole("/pieces").Or(0), Cents: l.Part.PriceCents}
	if l.Part.Pulled() {
		first.Kind, first.Machine, first.Tested, first.Erased = stock.Pulled, f.Text("/machine"), f.Text("/tested"),
			f.Text("/erased")
	}
	if l.Uncounted {
		first.N = 0
	}
	if f.Count() == 0 {
		id, err := s.Shop.AddPart(ctx, s.Acting(c), f.Text("token"), l, first)
		switch {
		case err == nil:
			return kit.SeeOther(c, "/parts?kept="+url.QueryEscape(id))
		case !f.Take(err):
			return err
		}
	}
	return s.partForm(c, http.StatusUnprocessableEntity, f, kind)
}

func (s *pages) showPart(c *echo.Context) error {
	return s.partPage(c, http.StatusOK, form.New(url.Values{}))
}

func (s *pages) partPage(c *echo.Context, status int, f *form.Form) error {
	ctx := c.Request().Context()
	r, err := s.Shop.Part(ctx, c.Param("id"))
	if err != nil {
		return err
	}
	uses, err := s.Shop.Uses(ctx)
	if err != nil {
		return err
	}
	l := &r.ShelfLine
	v := partView{Form: f, ID: r.ID, Name: r.Part.Name, Kind: stock.ShelfKinds.Says(r.Part.Kind), KindIs: r.Part.Kind,
		Fields: form.PartFields(r.Part.Kind), Line: l, Pieces: draw.PiecesOf(&r.Part, groupsOf(l)), Serials: r.Serials,
		History: r.History, Fits: uses.Fits[r.ID], Perhaps: uses.Perhaps[r.ID], Models: uses.Models,
		Helps: uses.Helps[r.ID],
		Ways:  bookable(l), IsDrive: r.Part.Kind == hw.KindDrive, Machine: l.Machine, Shelf: !r.Part.Brought()}
	if err := s.fillPartForm(c, &v); err != nil {
		return err
	}
	if v.Out, err = s.Shop.PiecesOut(ctx, r.ID); err != nil {
		return err
	}
	if l.Machine != "" {
		m, err := s.Shop.Machine(ctx, l.Machine)
		if err != nil {
			return err
		}
		v.MachineTag = m.Machine.ID
	}
	v.Price = "no price"
	if r.Part.PriceCents > 0 {
		v.Price = hw.Money(v.Currency, r.Part.PriceCents)
	}
	if v.Offer, err = s.offerOf(c, l, v.Currency); err != nil {
		return err
	}
	for i := range r.Movements {
		v.Moves = append(v.Moves, moveOf(&r.Movements[i]))
	}
	// What the form for the facts shows, whichever of the page's forms was sent.
	now := partTyped(l)
	if f.Text("do") != "save" {
		for name, values := range now {
			if _, typed := f.Values[name]; !typed || name == "/note" {
				f.Values[name] = values
			}
		}
		f.Opens()
	}
	if f.Text("/n") == "" {
		f.Values.Set("/n", "1")
	}
	return s.Render(c, status, "part", r.Part.Name, "parts", v)
}

// changePart saves a part's facts, books a movement, retires it or puts it back, as the button says.
func (s *pages) changePart(c *echo.Context) error {
	f, err := form.Sent(c)
	if err != nil {
		return err
	}
	ctx, id := c.Request().Context(), c.Param("id")
	r, err := s.Shop.Part(ctx, id)
	if err != nil {
		return err
	}
	token := f.Text("token")
	switch f.Text("do") {
	case "book":
		err = s.Shop.MovePart(ctx, s.Acting(c), token, booking(f, id))
		if err == nil && f.Count() == 0 {
			return kit.SeeOther(c, "/parts/"+id+"#moves")
		}
	case "bad":
		err = s.Shop.FoundBad(ctx, s.Acting(c), token, id, int64(f.Whole("job").Or(0)), f.Text("serial"), f.Text("/bad"))
		if err == nil && f.Count() == 0 {
			return kit.SeeOther(c, "/parts/"+id+"#out")
		}
	case "ask":
		if err = s.Shop.AskSupplier(ctx, []string{id}); err != nil {
			f.Fault("ask", err.Error())
			err = nil
		}
	case "offer":
		cents, parseErr := strconv.ParseInt(f.Text("seen"), 10, 64)
		if parseErr != nil {
			cents = -1
		}
		err = s.Shop.TakeOffer(ctx, s.Acting(c), token, id, cents)
	case "retire", "restore":
		err = s.Shop.RetirePart(ctx, s.Acting(c), token, id, f.Whole("version").Or(-1), f.Is("do", "retire"))
	default:
		f.Pick()
		if f.CatchUp(partTyped(&r.ShelfLine)) {
			return s.partPage(c, http.StatusConflict, f)
		}
		how, findErr := s.Shop.Settings(ctx)
		if findErr != nil {
			return findErr
		}
		l := sentPart(f, r.Part.Kind, how.Currency)
		l.Part.ID, l.Machine = r.ID, r.Machine
		if r.Part.Brought() {
			l.Part.Source = r.Part.Source
		}
		if f.Count() == 0 {
			err = s.Shop.ChangePart(ctx, s.Acting(c), token, id, r.Version, l)
		}
	}
	switch {
	case err == nil && f.Count() == 0:
		return kit.SeeOther(c, "/parts/"+id)
	case errors.Is(err, base.ErrNotFound):
		return err
	case err != nil && !f.Take(err):
		return err
	}
	return s.partPage(c, http.StatusUnprocessableEntity, f)
}

// booking reads the form of a movement.
func booking(f *form.Form, id string) stock.Moving {
	m := stock.Moving{Part: id, Kind: stock.MoveKind(f.Text("/kind")), N: f.Whole("/n").Or(0),
		Cents:   f.Cents("/cents").Or(0),
		Machine: f.Text("/machine"), Tested: f.Text("/tested"), Erased: f.Text("/erased"), Note: f.Text("/why"),
		Serials: kit.SerialsOf(f.Text("/serials"))}
	if text := f.Text("/job"); text != "" {
		job, ok := base.JobOfLabel(text)
		if n, err := strconv.ParseInt(text, 10, 64); !ok && err == nil {
			job, ok = n, n > 0
		}
		if !ok {
			f.Fault("/job", fmt.Sprintf("%q is no job; its label, such as YB-0003, is expected", text))
		}
		m.Job = job
	}
	return m
}
