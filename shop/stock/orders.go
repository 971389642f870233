package stock

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"yembo/core/hw"
	"yembo/shop/base"
	"yembo/store"
)

// Supplier is whom parts are ordered from.
type Supplier struct {
	ID            int64
	Name, Contact string
	Days          hw.Maybe[int] // that a delivery usually takes
	Closes        string        // until when an order goes out the same day
	Note          string
	Version       int
	Retired       bool
}

const kindSupplier = "supplier"

func supplierOf(r *store.Supplier) Supplier {
	out := Supplier{ID: r.ID, Name: r.Name, Contact: r.Contact, Closes: r.Closes, Note: r.Note, Version: r.Version,
		Retired: r.RetiredAt != nil}
	if r.Days != nil {
		out.Days = hw.Known(*r.Days)
	}
	return out
}

// Suppliers lists the suppliers by name, retired ones last.
func (s *Stock) Suppliers(ctx context.Context) ([]Supplier, error) {
	var out []Supplier
	err := s.Store.View(ctx, func(tx store.Tx) error {
		rows, err := tx.Suppliers()
		for i := range rows {
			out = append(out, supplierOf(&rows[i]))
		}
		return err
	})
	slices.SortStableFunc(out, func(a, b Supplier) int { return boolInt(a.Retired) - boolInt(b.Retired) })
	return out, err
}

func boolInt(is bool) int {
	if is {
		return 1
	}
	return 0
}

var clock = regexp.MustCompile(`^([01][0-9]|2[0-3]):[0-5][0-9]$`)

// SaveSupplier stores a supplier, a new one where its id is 0. The error is hw.Faults for what
// cannot be, ErrChanged where somebody changed it since its version.
func (s *Stock) SaveSupplier(ctx context.Context, a base.Actor, token string, in Supplier) (int64, error) {
	in.Name, in.Contact, in.Closes = strings.TrimSpace(in.Name), strings.TrimSpace(in.Contact),
		strings.TrimSpace(in.Closes)
	var faults hw.Faults
	if in.Name == "" {
		faults.Add("/name", hw.FaultMissing, "", "the supplier's name")
	}
	if days, ok := in.Days.Get(); ok && (days < 0 || days > 365) {
		faults.Add("/days", hw.FaultRange, strconv.Itoa(days), "from 0 to 365")
	}
	if in.Closes != "" && !clock.MatchString(in.Closes) {
		faults.Add("/closes", hw.FaultChoice, strconv.Quote(in.Closes), "a time such as 14:00")
	}
	for pointer, text := range map[string]string{"/name": in.Name, "/contact": in.Contact, "/note": in.Note} {
		if utf8.RuneCountInString(text) > base.MaxText {
			faults.Add(pointer, hw.FaultRange, "the text", fmt.Sprintf("at most %d characters", base.MaxText))
		}
	}
	if err := faults.Err(); err != nil {
		return 0, err
	}
	result, err := s.Once(ctx, token, func(tx store.Tx) (string, error) {
		id, err := s.SaveSupplierIn(tx, a, in)
		return strconv.FormatInt(id, 10), err
	})
	if err != nil {
		return 0, err
	}
	return strconv.ParseInt(result, 10, 64)
}

// SaveSupplierIn is SaveSupplier within a transaction.
func (s *Stock) SaveSupplierIn(tx store.Tx, a base.Actor, in Supplier) (int64, error) {
	if other, err := tx.SupplierNamed(in.Name); err == nil && other.ID != in.ID {
		return 0, hw.Faults{{Pointer: "/name",
			Text: hw.Word(hw.FaultDuplicate, strconv.Quote(in.Name), "another supplier has it")}}
	}
	var row store.Supplier
	var before []byte
	if in.ID != 0 {
		var err error
		if row, err = tx.Supplier(in.ID); err != nil {
			return 0, err
		}
		if row.Version != in.Version {
			return 0, base.ErrChanged
		}
		if before, err = json.Marshal(row); err != nil {
			return 0, err
		}
	}
	row.Name, row.Contact, row.Closes, row.Note, row.Days, row.RetiredAt = in.Name, in.Contact, in.Closes, in.Note, nil,
		nil
	if days, ok := in.Days.Get(); ok {
		row.Days = &days
	}
	if in.Retired {
		now := s.Now()
		row.RetiredAt = &now
	}
	row.Version++
	if in.ID == 0 {
		if err := tx.Create(&row); err != nil {
			return 0, err
		}
		return row.ID, s.Note(tx, a, kindSupplier, strconv.FormatInt(row.ID, 10), "entered", nil)
	}
	if err := tx.SaveSupplier(&row, in.Version); err != nil {
		return 0, err
	}
	return row.ID, s.Note(tx, a, kindSupplier, strconv.FormatInt(row.ID, 10), "changed", before)
}

// Order is what was ordered from one supplier.
type Order struct {
	ID       int64
	Supplier Supplier
	At       time.Time
	By       string
	Delivery
	Version int
	Closed  bool
	Late    bool
	Lines   []OrderLine
	Cents   int64 // of all lines, without what never comes
}

// OrderLine is one part of an order.
type OrderLine struct {
	ID           int64
	Part, Name   string
	OrderNo      string
	N, Got, Gone int
	Cents        int64 // of each
	For          []HoldFor
}

// Open is how many have still to come.
func (l *OrderLine) Open() int { return l.N - l.Got - l.Gone }

// Wanted is one line of an order that is about to be placed. Coming is how many were under way
// when the list was looked at, so that two people do not order the same.
type Wanted struct {
	Part   string
	N      int
	Cents  int64
	Coming int
}

// PlaceOrder orders parts from a supplier. The error is hw.Faults for what cannot be, among it
// parts that somebody else ordered since the list was looked at. It returns the order's number.
func (s *Stock) PlaceOrder(ctx context.Context, a base.Actor, token string, supplier int64, lines []Wanted,
	d Delivery) (int64, error) {
	var faults hw.Faults
	d.check(&faults)
	if len(lines) == 0 {
		faults.Add("/lines", hw.FaultMissing, "", "at least one part")
	}
	if err := faults.Err(); err != nil {
		return 0, err
	}
	result, err := s.Once(ctx, token, func(tx store.Tx) (string, error) {
		id, err := s.PlaceOrderIn(tx, a, supplier, lines, d)
		return strconv.FormatInt(id, 10), err
	})
	if err != nil {
		return 0, err
	}
	return strconv.ParseInt(result, 10, 64)
}

// PlaceOrderIn is PlaceOrder within a transaction.
func (s *Stock) PlaceOrderIn(tx store.Tx, a base.Actor, supplier int64, lines []Wanted, d Delivery) (int64, error) {
	from, err := tx.Supplier(supplier)
	if errors.Is(err, store.ErrNotFound) {
		return 0, hw.Faults{{Pointer: "/supplier", Text: "choose whom to order from"}}
	} else if err != nil {
		return 0, err
	}
	if from.RetiredAt != nil {
		return 0, hw.Faults{{Pointer: "/supplier", Text: "nothing is ordered from " + from.Name + " any more: choose another"}}
	}
	coming, err := comings(tx)
	if err != nil {
		return 0, err
	}
	if d.Expected == "" && from.Days != nil {
		d.Expected = base.DueAt(s.Now().AddDate(0, 0, *from.Days), false)
	}
	var faults hw.Faults
	order := store.Order{SupplierID: supplier, At: s.Now(), By: a.Name, ExpectedOn: string(d.Expected),
		Confirmed: d.Confirmed, Note: d.Note, Version: 1}
	if err := tx.Create(&order); err != nil {
		return 0, err
	}
	for _, w := range lines {
		at := "/n/" + hw.EscapePointer(w.Part)
		row, err := tx.Part(w.Part)
		under := 0
		for _, c := range coming[w.Part] {
			under += c.N
		}
		switch {
		case errors.Is(err, store.ErrNotFound):
			faults.Add(at, hw.FaultReference, strconv.Quote(w.Part), "part")
			continue
		case err != nil:
			return 0, err
		case row.RetiredAt != nil:
			faults.Add(at, hw.FaultConflict, "the part is retired", "leave it out")
		case row.MachineID != nil:
			faults.Add(at, hw.FaultConflict, "the customer brings it", "leave it out")
		case w.N < 1 || w.N > maxPieces:
			faults.Add(at, hw.FaultRange, strconv.Itoa(w.N), fmt.Sprintf("from 1 to %d", maxPieces))
		case w.Cents < 0 || w.Cents > 1_000_000_000:
			faults.Add(at, hw.FaultRange, fmt.Sprint(w.Cents), "from 0 to 1000000000")
		case under != w.Coming:
			faults.Add(at, hw.FaultConflict, fmt.Sprintf("%d of it were under way when the list was made", w.Coming),
				fmt.Sprintf("%d are by now: look again", under))
		default:
			line := store.OrderLine{OrderID: order.ID, PartID: w.Part, N: w.N, Cents: w.Cents}
			if err := tx.Create(&line); err != nil {
				return 0, err
			}
		}
	}
	return order.ID, faults.Err()
}

// Orders lists open orders, then the newest closed ones.
func (s *Stock) Orders(ctx context.Context) ([]Order, error) {
	var out []Order
	err := s.Store.View(ctx, func(tx store.Tx) error {
		rows, err := tx.Orders(100)
		if err != nil {
			return err
		}
		for i := range rows {
			o, err := s.order(tx, &rows[i])
			if err != nil {
				return err
			}
			out = append(out, o)
		}
		return nil
	})
	return out, err
}

// Order returns one order.
func (s *Stock) Order(ctx context.Context, id int64) (Order, error) {
	var out Order
	err := s.Store.View(ctx, func(tx store.Tx) error {
		row, err := tx.Order(id)
		if err != nil {
			return err
		}
		out, err = s.order(tx, &row)
		return err
	})
	return out, err
}

func (s *Stock) order(tx store.Tx, row *store.Order) (Order, error) {
	from, err := tx.Supplier(row.SupplierID)
	if err != nil {
		return Order{}, err
	}
	lines, err := tx.LinesOf(row.ID)
	if err != nil {
		return Order{}, err
	}
	seen, err := s.ShelfNow(tx)
	if err != nil {
		return Order{}, err
	}
	lacks, err := s.LacksIn(tx)
	if err != nil {
		return Order{}, err
	}
	out := Order{ID: row.ID, Supplier: supplierOf(&from), At: row.At, By: row.By, Delivery: deliveryOf(row),
		Version: row.Version, Closed: row.ClosedAt != nil}
	out.Late = !out.Closed && out.Expected.Late(s.Now())
	tags, err := tx.Wanting()
	if err != nil {
		return out, err
	}
	for _, l := range lines {
		line := OrderLine{ID: l.ID, Part: l.PartID, Name: seen.Doc(l.PartID).Name, N: l.N, Got: l.Got, Gone: l.Gone,
			Cents: l.Cents}
		if i, ok := seen.index[l.PartID]; ok {
			line.OrderNo = seen.rows[i].OrderNo
		}
		for i := range tags {
			for _, lack := range lacks[tags[i].ID] {
				if lack.Part == l.PartID && lack.Order != nil && lack.Order.Order == row.ID {
					line.For = append(line.For, HoldFor{tags[i].ID, tags[i].Tag, lack.Order.N})
				}
			}
		}
		out.Cents += int64(l.N-l.Gone) * l.Cents
		out.Lines = append(out.Lines, line)
	}
	return out, nil
}

// Arrival is what came of one line of an order.
type Arrival struct {
	Line    int64
	N       int
	Serials []string
	Gone    int // how many of it never will come
}

// Deliver takes in what came of an order: it lies on the shelf, the jobs that wait get theirs, and
// those that have all of it are ready. The order is closed when nothing more comes. The error is
// hw.Faults for more than was ordered, ErrChanged where somebody changed the order since version.
func (s *Stock) Deliver(ctx context.Context, a base.Actor, token string, id int64, version int, came []Arrival) error {
	_, err := s.Once(ctx, token, func(tx store.Tx) (string, error) {
		row, err := tx.Order(id)
		if err != nil {
			return "", err
		}
		if row.Version != version {
			return "", base.ErrChanged
		}
		lines, err := tx.LinesOf(id)
		if err != nil {
			return "", err
		}
		var faults hw.Faults
		for _, c := range came {
			i := slices.IndexFunc(lines, func(l store.OrderLine) bool { return l.ID == c.Line })
			at := "/n/" + strconv.FormatInt(c.Line, 10)
			if i < 0 {
				faults.Add(at, hw.FaultReference, fmt.Sprint(c.Line), "line of this order")
				continue
			}
			l := &lines[i]
			if open := l.N - l.Got - l.Gone; c.N < 0 || c.Gone < 0 || c.N+c.Gone > open {
				faults.Add(at, hw.FaultRange, strconv.Itoa(c.N+c.Gone),
					fmt.Sprintf("from 0 to %d, which are still to come", open))
				continue
			}
			l.Got, l.Gone = l.Got+c.N, l.Gone+c.Gone
			if err := tx.SaveLine(l); err != nil {
				return "", err
			}
			if c.N == 0 {
				continue
			}
			err := s.MovePartIn(tx, a, Moving{Part: l.PartID, Kind: Bought, N: c.N, Cents: l.Cents, Serials: c.Serials,
				Order: id,
				Note:  fmt.Sprintf("order %d", id)})
			var found hw.Faults
			if errors.As(err, &found) {
				for _, f := range found {
					f.Pointer = at
					faults = append(faults, f)
				}
			} else if err != nil {
				return "", err
			}
		}
		if err := faults.Err(); err != nil {
			return "", err
		}
		if !slices.ContainsFunc(lines, func(l store.OrderLine) bool { return l.Got+l.Gone < l.N }) {
			now := s.Now()
			row.ClosedAt = &now
		}
		row.Version++
		return fmt.Sprint(id), tx.SaveOrder(&row, version)
	})
	return err
}

// ToOrder is what should be ordered: what jobs are short of, then what is below its reorder level.
type ToOrder struct {
	Jobs, Low []OrderNeed
}

// OrderNeed is one part that should be ordered.
type OrderNeed struct {
	ShelfLine
	N   int
	For []HoldFor // jobs that are short of it
}

// PaidLast is what the shop paid for a piece of each part when it last ordered it, in minor units. What a
// customer pays is the part's own price, and neither follows from the other.
func (s *Stock) PaidLast(ctx context.Context) (map[string]int64, error) {
	var out map[string]int64
	err := s.Store.View(ctx, func(tx store.Tx) (err error) {
		out, err = tx.PaidLast()
		return err
	})
	return out, err
}

// ToOrder works out what should be ordered.
func (s *Stock) ToOrder(lines []ShelfLine) ToOrder {
	var out ToOrder
	for i := range lines {
		l := &lines[i]
		if !l.CanBeOrdered() {
			continue
		}
		short := 0
		for _, h := range l.Short {
			short += h.N
		}
		if short > 0 {
			out.Jobs = append(out.Jobs, OrderNeed{*l, short, l.Short})
		}
		spare := l.UnderWay() // what is under way and for no job
		for _, h := range l.awaited {
			spare -= h.N
		}
		if n := l.Missing() - spare; n > 0 {
			out.Low = append(out.Low, OrderNeed{*l, n, nil})
		}
	}
	return out
}
