package stock

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"sync"

	"yembo/core/hw"
	"yembo/shop/base"
	"yembo/store"
)

// MoveKind is what happened to pieces of a part.
type MoveKind string

// The kinds of movements. Reserved, released and tested change nothing that lies on the shelf.
const (
	Bought   MoveKind = "bought"
	Brought  MoveKind = "brought" // by a customer, for their own machine
	Pulled   MoveKind = "pulled"  // out of a machine
	Counted  MoveKind = "counted"
	Reserved MoveKind = "reserved"
	Released MoveKind = "released"
	Tested   MoveKind = "tested"
	Fitted   MoveKind = "fitted"
	Unfitted MoveKind = "unfitted" // a piece that was noted as fitted lies on the shelf again
	Returned MoveKind = "returned"
	SentBack MoveKind = "sent_back"
	Scrapped MoveKind = "scrapped"
)

// MoveKinds is the table of movements: what pages call them.
var MoveKinds = hw.Vocabulary[MoveKind]{
	{Word: Bought, Says: "bought"}, {Word: Brought, Says: "brought by the customer"}, {Word: Pulled, Says: "pulled"},
	{Word: Counted, Says: "counted"}, {Word: Reserved, Says: "reserved"}, {Word: Released, Says: "let go"},
	{Word: Tested, Says: "tested"}, {Word: Fitted, Says: "fitted"}, {Word: Unfitted, Says: "taken back"},
	{Word: Returned, Says: "returned to the customer"}, {Word: SentBack, Says: "sent back"},
	{Word: Scrapped, Says: "scrapped"},
}

// Kinds of shelf lines beside those that a plan knows: they are in no parts document.
const (
	KindConsumable hw.PartKind = "consumable"
	KindTool       hw.PartKind = "tool"
)

// ShelfKinds is every kind that can lie on the shelf, in its order.
var ShelfKinds = append(slices.Clone(hw.PartKinds),
	hw.Term[hw.PartKind]{Word: KindConsumable, Says: "consumable"},
	hw.Term[hw.PartKind]{Word: KindTool, Says: "tool or bit"})

// ErrTaken means that somebody else took what was on the shelf.
var ErrTaken = store.ErrTaken

// shelf is the parts as they were read last; nobody may change what it holds.
type shelf struct {
	mu           sync.Mutex
	parts, stock int64 // the counts of changes it was read at
	seen         Stocked
}

// Stocked is the shelf at one moment.
type Stocked struct {
	rows   []store.Part // all of them, also retired ones
	docs   []hw.Part    // of rows, without stock
	index  map[string]int
	stocks map[string]store.Stock
	List   []hw.Part            // what every plan may take, with what is free of it
	own    map[string][]hw.Part // what a customer brought, by the machine it is for
}

// Doc is a part by its id, one with that id alone where there is none.
func (s *Stocked) Doc(id string) *hw.Part {
	if i, ok := s.index[id]; ok {
		return &s.docs[i]
	}
	return &hw.Part{ID: id, Name: id}
}

// ShelfNow reads the shelf, from memory where it was not changed since. A transaction that
// changes parts or moves some reads them before it does: what is rolled back must not be
// remembered.
func (s *Stock) ShelfNow(tx store.Tx) (*Stocked, error) {
	parts, stock, err := tx.ShelfChanged()
	if err != nil {
		return nil, err
	}
	s.shelf.mu.Lock()
	defer s.shelf.mu.Unlock()
	at := s.shelf
	if at.parts == parts && at.stock == stock {
		seen := at.seen
		return &seen, nil
	}
	next := at.seen
	if at.parts != parts {
		if next, err = readParts(tx); err != nil {
			return nil, err
		}
	}
	if next.stocks, err = tx.Stocks(); err != nil {
		return nil, err
	}
	next.fill()
	at.parts, at.stock, at.seen = parts, stock, next
	return &next, nil
}

// Untested is how many of n used pieces nobody has tested: those that were are taken first. Of a part that is bought new
// it is none.
func (s *Stocked) Untested(part string, n int) int {
	doc := s.Doc(part)
	if doc == nil || !doc.Pulled() {
		return 0
	}
	return max(0, n-s.stocks[part].Tested)
}

func readParts(tx store.Tx) (Stocked, error) {
	out := Stocked{index: map[string]int{}}
	var err error
	if out.rows, err = tx.Parts(); err != nil {
		return out, err
	}
	out.docs = make([]hw.Part, len(out.rows))
	for i := range out.rows {
		if err := json.Unmarshal(out.rows[i].Doc, &out.docs[i]); err != nil {
			return out, fmt.Errorf("part %s: %w", out.rows[i].ID, err)
		}
		out.index[out.rows[i].ID] = i
	}
	return out, nil
}

// Uncounted stands for a number nobody counts: there is always enough.
const Uncounted = 1_000_000

// fill makes the lists that plans are made from: what is free, never what is kept for others.
func (s *Stocked) fill() {
	s.List, s.own = make([]hw.Part, 0, len(s.docs)), map[string][]hw.Part{}
	for i := range s.docs {
		row, p := &s.rows[i], s.docs[i]
		if row.RetiredAt != nil || hw.PartKinds.Index(p.Kind) < 0 {
			continue
		}
		stock := s.stocks[p.ID]
		p.Stock = hw.Maybe[int]{}
		switch free := stock.Free(); {
		case row.Uncounted:
			p.Stock = hw.Known(Uncounted)
		case free > 0 || !row.Orderable && row.Low == 0 || p.LeadDays.IsKnown():
			p.Stock = hw.Known(free)
		}
		if row.MachineID != nil {
			s.own[*row.MachineID] = append(s.own[*row.MachineID], p)
			continue
		}
		s.List = append(s.List, p)
	}
}

// Parts returns the shelf as a parts list: what is free of each.
func (s *Stock) Parts(ctx context.Context) (*hw.Parts, error) {
	var out *hw.Parts
	err := s.Store.View(ctx, func(tx store.Tx) (err error) {
		out, err = s.PartsFor(tx, "", "", 0)
		return err
	})
	return out, err
}

// PartsFor is what a plan for a machine may take: what is free, what is held for its own job,
// and what its customer brought. tag is what the machine is called.
func (s *Stock) PartsFor(tx store.Tx, machine, tag string, job int64) (*hw.Parts, error) {
	how, err := base.SettingsIn(tx)
	if err != nil {
		return nil, err
	}
	seen, err := s.ShelfNow(tx)
	if err != nil {
		return nil, err
	}
	out := &hw.Parts{Format: hw.FormatParts, Currency: how.Currency, Parts: seen.List}
	own := seen.own[machine]
	var holds []store.Hold
	if job != 0 {
		if holds, err = tx.HoldsOf(job); err != nil {
			return nil, err
		}
	}
	if len(own) == 0 && len(holds) == 0 {
		return out, nil
	}
	out.Parts = append(slices.Clone(seen.List), own...)
	held := map[string]int{}
	for _, h := range holds {
		held[h.PartID] = h.N
	}
	for i := range out.Parts {
		p := &out.Parts[i]
		if p.Brought() {
			p.For = tag
		}
		if n := held[p.ID]; n > 0 {
			p.Stock = hw.Known(p.Stock.Or(0) + n)
		}
	}
	return out, nil
}

// Lack is a part that a job wants and does not have.
type Lack struct {
	Part  string
	Name  string
	N     int
	Order *Coming // what is under way for it, nil for nothing
	Gone  bool    // it can be had no more
}

// Coming is an open order, as far as it goes for one part.
type Coming struct {
	Order     int64
	N         int
	Supplier  string
	Contact   string
	Due       base.Due // when it is expected, "" where that was not said
	Confirmed bool     // the supplier has said so
}

// both is when all has come of two that are awaited: what was not said of one is not known of both.
func (c *Coming) both(x *Coming) (due base.Due, confirmed bool) {
	if c.Due == "" || x.Due == "" {
		return "", false
	}
	return c.Due.Later(x.Due), c.Confirmed && x.Confirmed
}

// Want is what a job wants of one part: its chosen option's own list says how many.
type Want struct {
	Job                 *store.Wanting
	Part                string
	Asked, held, Fitted int
}

// Missing is how many pieces a job still lacks.
func (w *Want) Missing() int { return max(0, w.Asked-w.held-w.Fitted) }

// Wants lists what open jobs want, the job that comes first first.
func Wants(tx store.Tx) ([]Want, error) {
	jobs, err := tx.Wanting()
	if err != nil {
		return nil, err
	}
	holds, err := tx.Holds()
	if err != nil {
		return nil, err
	}
	type key struct {
		job  int64
		part string
	}
	held := map[key]store.Hold{}
	for _, h := range holds {
		held[key{h.JobID, h.PartID}] = h
	}
	var out []Want
	for i := range jobs {
		var c base.Choice
		if err := json.Unmarshal(jobs[i].Choice, &c); err != nil {
			return nil, fmt.Errorf("the choice of %s: %w", base.Label(jobs[i].ID), err)
		}
		for _, b := range c.Option.Buy {
			h := held[key{jobs[i].ID, b.Part}]
			out = append(out, Want{&jobs[i], b.Part, b.Quantity, h.N, h.Fitted})
		}
	}
	return out, nil
}

// LacksIn lists what each open job wants and does not have.
func (s *Stock) LacksIn(tx store.Tx) (map[int64][]Lack, error) {
	all, err := Wants(tx)
	if err != nil {
		return nil, err
	}
	seen, err := s.ShelfNow(tx)
	if err != nil {
		return nil, err
	}
	coming, err := comings(tx)
	if err != nil {
		return nil, err
	}
	out := map[int64][]Lack{}
	for i := range all {
		w := &all[i]
		n := w.Missing()
		if n == 0 {
			continue
		}
		p := seen.Doc(w.Part)
		l := Lack{Part: w.Part, Name: p.Name, N: n, Gone: true}
		if at, ok := seen.index[w.Part]; ok {
			row := &seen.rows[at]
			if row.Uncounted {
				continue
			}
			l.Gone = row.RetiredAt != nil || !row.Orderable && row.Low == 0 && !p.LeadDays.IsKnown()
		}
		// What is under way goes to the jobs in their order.
		for k := range coming[w.Part] {
			c := &coming[w.Part][k]
			took := min(c.N, n)
			if took == 0 {
				continue
			}
			c.N, n = c.N-took, n-took
			if l.Order == nil {
				got := *c
				l.Order, l.Gone = &got, false
				l.Order.N = 0
			}
			l.Order.N += took
			l.Order.Due, l.Order.Confirmed = l.Order.both(c)
		}
		out[w.Job.ID] = append(out[w.Job.ID], l)
	}
	return out, nil
}

// BookMovement stores a movement. The error is ErrTaken where the shelf does not hold so many.
func (s *Stock) BookMovement(tx store.Tx, a base.Actor, m store.Movement, serials ...string) error {
	m.At, m.By = s.Now(), a.Name
	return tx.Move(&m, serials)
}

// comings lists what is ordered of each part and not here yet, the order that comes first first.
func comings(tx store.Tx) (map[string][]Coming, error) {
	lines, err := tx.OpenLines()
	if err != nil {
		return nil, err
	}
	out := map[string][]Coming{}
	for _, l := range lines {
		out[l.PartID] = append(out[l.PartID],
			Coming{l.OrderID, l.N - l.Got - l.Gone, l.Supplier, l.Contact, base.Due(l.ExpectedOn), l.Confirmed})
	}
	return out, nil
}
