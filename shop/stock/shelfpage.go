package stock

import (
	"context"

	"yembo/core/hw"
	"yembo/shop/base"
	"yembo/store"
)

// ShelfLine is a part with where its pieces are.
type ShelfLine struct {
	ID string
	PartLine
	Version             int
	Retired             bool
	Shelf, Held, Tested int
	Holds               []HoldFor // whom pieces are kept for
	Short               []HoldFor // who wants some that are neither here nor under way
	Coming              []Coming
	SupplierName        string

	awaited []HoldFor // what of what is under way is for jobs
}

// HoldFor is a number of pieces and the job that they are for.
type HoldFor struct {
	Job int64
	Tag string // of its machine
	N   int
}

// Free is what lies there for nobody.
func (l *ShelfLine) Free() int { return l.Shelf - l.Held }

// UnderWay is how many are ordered and not here.
func (l *ShelfLine) UnderWay() int {
	n := 0
	for _, c := range l.Coming {
		n += c.N
	}
	return n
}

// Missing is how many there are too few of, free ones and those under way counted, for the
// reorder level.
func (l *ShelfLine) Missing() int { return max(0, l.Low-l.Free()) }

// CanBeOrdered reports whether more can be had; who wants some of it free always means to order more.
func (l *ShelfLine) CanBeOrdered() bool {
	return !l.Retired && !l.Part.Brought() && !l.Part.Pulled() &&
		(l.Orderable || l.Low > 0 || l.Part.LeadDays.IsKnown())
}

// Shelf is everything on the shelf and on the order list.
type Shelf struct {
	Currency string
	Lines    []ShelfLine // by kind and name, as they were entered
	Finds    []Find
}

// Shelf returns the shelf.
func (s *Stock) Shelf(ctx context.Context) (Shelf, error) {
	var out Shelf
	err := s.Store.View(ctx, func(tx store.Tx) error {
		how, err := base.SettingsIn(tx)
		if err != nil {
			return err
		}
		out.Currency = how.Currency
		if out.Lines, err = s.shelfLines(tx); err != nil {
			return err
		}
		out.Finds, err = finds(tx)
		return err
	})
	return out, err
}

// shelfLines lists all parts, retired ones too, in their order.
func (s *Stock) shelfLines(tx store.Tx) ([]ShelfLine, error) {
	seen, err := s.ShelfNow(tx)
	if err != nil {
		return nil, err
	}
	all, err := Wants(tx)
	if err != nil {
		return nil, err
	}
	lacks, err := s.LacksIn(tx)
	if err != nil {
		return nil, err
	}
	coming, err := comings(tx)
	if err != nil {
		return nil, err
	}
	suppliers, err := tx.Suppliers()
	if err != nil {
		return nil, err
	}
	names := map[int64]string{}
	for _, x := range suppliers {
		names[x.ID] = x.Name
	}
	out := make([]ShelfLine, len(seen.rows))
	for i := range seen.rows {
		row := &seen.rows[i]
		stock := seen.stocks[row.ID]
		l := ShelfLine{ID: row.ID, PartLine: LineOf(row, &seen.docs[i]), Version: row.Version,
			Retired: row.RetiredAt != nil,
			Shelf:   stock.Shelf, Held: stock.Held, Tested: stock.Tested, Coming: coming[row.ID]}
		l.SupplierName = names[l.Supplier]
		out[i] = l
	}
	for i := range all {
		w := &all[i]
		at, known := seen.index[w.Part]
		if !known {
			continue
		}
		if w.held > 0 {
			out[at].Holds = append(out[at].Holds, HoldFor{w.Job.ID, w.Job.Tag, w.held})
		}
		for _, lack := range lacks[w.Job.ID] {
			if lack.Part != w.Part {
				continue
			}
			n := lack.N
			if lack.Order != nil {
				n -= lack.Order.N
				out[at].awaited = append(out[at].awaited, HoldFor{w.Job.ID, w.Job.Tag, lack.Order.N})
			}
			if n > 0 {
				out[at].Short = append(out[at].Short, HoldFor{w.Job.ID, w.Job.Tag, n})
			}
		}
	}
	return out, nil
}

// Find is something that is looked for and on no shelf; its price is open.
type Find struct {
	ID           int64
	Kind         hw.PartKind
	Wanted       string // what it is: a part number, or what it provides
	Gives        string // what it would give
	Model        string // of which record it is listed, its id
	Tag, Machine string // for which machine
	Doubt        string // a seller's doubt about it
	By, On       string
}

func finds(tx store.Tx) ([]Find, error) {
	rows, err := tx.Finds()
	if err != nil {
		return nil, err
	}
	var keys []string
	for _, r := range rows {
		if r.MachineID != nil {
			keys = append(keys, *r.MachineID)
		}
	}
	tags, err := tx.Tags(keys)
	if err != nil {
		return nil, err
	}
	var out []Find
	for _, r := range rows {
		f := Find{ID: r.ID, Kind: hw.PartKind(r.Kind), Wanted: r.Wanted, Gives: r.Gives, Doubt: r.Doubt, By: r.By,
			On: r.At.Format("2006-01-02")}
		if r.ModelID != nil {
			f.Model = *r.ModelID
		}
		if r.MachineID != nil {
			f.Machine, f.Tag = *r.MachineID, tags[*r.MachineID]
		}
		out = append(out, f)
	}
	return out, nil
}

// FindIt puts something on the list to find; what stands there already for that machine is left.
func (s *Stock) FindIt(ctx context.Context, a base.Actor, token string, f Find) error {
	_, err := s.Once(ctx, token, func(tx store.Tx) (string, error) {
		if f.Wanted == "" || ShelfKinds.Index(f.Kind) < 0 {
			return "", hw.Faults{{Pointer: "/wanted", Text: hw.Word(hw.FaultMissing, "", "what is to be found")}}
		}
		now, err := finds(tx)
		if err != nil {
			return "", err
		}
		row := store.Find{At: s.Now(), By: a.Name, Kind: string(f.Kind), Wanted: f.Wanted, Gives: f.Gives,
			Doubt: f.Doubt}
		if f.Machine != "" {
			m, err := tx.Machine(f.Machine)
			if err != nil {
				return "", err
			}
			row.MachineID, row.ModelID, f.Machine = &m.ID, &m.ModelID, m.ID
		}
		for _, x := range now {
			if x.Wanted == f.Wanted && x.Machine == f.Machine {
				return "found", nil
			}
		}
		return "found", tx.Create(&row)
	})
	return err
}

// Found takes something off the list to find.
func (s *Stock) Found(ctx context.Context, token string, id int64) error {
	_, err := s.Once(ctx, token, func(tx store.Tx) (string, error) { return "found", tx.FindDone(id, s.Now()) })
	return err
}
