package stock

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"yembo/core/hw"
	"yembo/exchange"
	"yembo/exchange/slug"
	"yembo/shop/base"
	"yembo/store"
)

// maxPieces is the most pieces of one movement.
const maxPieces = 10_000

// PartLine is a part with what the shop keeps beside its document.
type PartLine struct {
	Part      hw.Part // without stock, which is the sum of its movements
	Orderable bool    // also where the days are not known
	Low       int     // as many are to be free, 0 for no such line
	Supplier  int64   // 0 for none
	OrderNo   string  // what its supplier calls it
	Note      string  // such as a seller's doubt about a part number
	Uncounted bool    // in stock, not counted
	Machine   string  // the key of the machine that a customer brings it for, "" for none
}

// LineOf is a part with what the shop keeps of it, from its row and its document.
func LineOf(row *store.Part, doc *hw.Part) PartLine {
	out := PartLine{Part: *doc, Orderable: row.Orderable, Low: row.Low, OrderNo: row.OrderNo, Note: row.Note,
		Uncounted: row.Uncounted}
	if row.SupplierID != nil {
		out.Supplier = *row.SupplierID
	}
	if row.MachineID != nil {
		out.Machine = *row.MachineID
	}
	return out
}

// Check adds what cannot be of a line: its document as every document is checked, then the rest.
func (l *PartLine) Check() hw.Faults {
	var faults hw.Faults
	p := l.Part
	switch {
	case hw.PartKinds.Index(p.Kind) >= 0:
		if p.ID == "" {
			p.ID = slug.Make(p.Name, "part")
		}
		if p.Brought() {
			p.For = "any" // the document names the machine where it is written
		}
		doc, err := exchange.Write(hw.Parts{Format: hw.FormatParts, Parts: []hw.Part{p}})
		if err == nil {
			_, err = exchange.ReadParts(doc)
		}
		var found hw.Faults
		if errors.As(err, &found) {
			for _, f := range found {
				f.Pointer = strings.TrimPrefix(f.Pointer, "/parts/0")
				faults = append(faults, f)
			}
		} else if err != nil {
			faults.Add("", hw.FaultOther, err.Error(), "a part")
		}
	case ShelfKinds.Index(p.Kind) < 0:
		faults.Add("/kind", hw.FaultChoice, strconv.Quote(string(p.Kind)), strings.Join(ShelfKinds.Words(), ", "))
	case p.PriceCents < 0 || p.PriceCents > 1_000_000_000:
		faults.Add("/price_cents", hw.FaultRange, fmt.Sprint(p.PriceCents), "from 0 to 1000000000")
	}
	if strings.TrimSpace(p.Name) == "" {
		faults.Add("/name", hw.FaultMissing, "", "what the part is called")
	} else if utf8.RuneCountInString(p.Name) > base.MaxName {
		faults.Add("/name", hw.FaultRange, "the name", fmt.Sprintf("at most %d characters", base.MaxName))
	}
	if l.Low < 0 || l.Low > maxPieces {
		faults.Add("/low", hw.FaultRange, strconv.Itoa(l.Low), fmt.Sprintf("from 0 to %d", maxPieces))
	}
	if p.Brought() != (l.Machine != "") {
		faults.Add("/source", hw.FaultConflict, "what a customer brings is for one machine",
			"enter it with that machine")
	}
	for pointer, text := range map[string]string{"/order_no": l.OrderNo, "/note": l.Note} {
		if utf8.RuneCountInString(text) > base.MaxText {
			faults.Add(pointer, hw.FaultRange, "the text", fmt.Sprintf("at most %d characters", base.MaxText))
		}
	}
	return faults
}

// Fill writes a line into its row.
func (l *PartLine) Fill(row *store.Part) error {
	p := l.Part
	p.Stock, p.For, p.ID = hw.Maybe[int]{}, "", row.ID
	doc, err := json.Marshal(p)
	if err != nil {
		return err
	}
	row.Kind, row.Name, row.Doc = string(p.Kind), p.Name, doc
	row.Orderable, row.Low, row.OrderNo, row.Note, row.Uncounted = l.Orderable, l.Low, l.OrderNo, l.Note, l.Uncounted
	row.SupplierID, row.MachineID = nil, nil
	if l.Supplier != 0 {
		row.SupplierID = &l.Supplier
	}
	if l.Machine != "" {
		row.MachineID = &l.Machine
	}
	return nil
}

// AddPart puts a new part on the list, and the pieces that come with it on the shelf; first has
// none where only the part is entered. The error is hw.Faults for what cannot be. It returns the
// part's id.
func (s *Stock) AddPart(ctx context.Context, a base.Actor, token string, l PartLine, first Moving) (string, error) {
	if err := l.Check().Err(); err != nil {
		return "", err
	}
	return s.Once(ctx, token, func(tx store.Tx) (string, error) {
		return s.AddPartIn(tx, a, l, first)
	})
}

// AddPartIn is AddPart within a transaction; the line was checked.
func (s *Stock) AddPartIn(tx store.Tx, a base.Actor, l PartLine, first Moving) (string, error) {
	if l.Machine != "" {
		l.Part.ID = "" // made of the machine's number: its name may say whose it is
	}
	id, err := freePart(tx, &l.Part, l.Machine)
	if err != nil {
		return "", err
	}
	row := store.Part{ID: id, Version: 1}
	if err := l.Fill(&row); err != nil {
		return "", err
	}
	if err := s.checkSupplier(tx, row.SupplierID); err != nil {
		return "", err
	}
	if err := tx.CreatePart(&row); err != nil {
		return "", err
	}
	if err := s.Note(tx, a, base.KindPart, id, "entered", nil); err != nil || first.N == 0 {
		return id, err
	}
	first.Part = id
	return id, s.MovePartIn(tx, a, first)
}

// checkSupplier refuses a supplier that is none.
func (s *Stock) checkSupplier(tx store.Tx, id *int64) error {
	if id == nil {
		return nil
	}
	_, err := tx.Supplier(*id)
	if errors.Is(err, store.ErrNotFound) {
		return hw.Faults{{Pointer: "/supplier", Text: "there is no such supplier any more"}}
	}
	return err
}

// freePart is the id that a new part gets: its own where it has one, else one made of its name.
// The error is hw.Faults where its own is another part's. What a customer brings for a machine is
// named after the machine's number.
func freePart(tx store.Tx, p *hw.Part, machine string) (string, error) {
	base := p.ID
	switch {
	case machine != "":
		base = "brought-" + machine
	case base == "":
		base = slug.Make(p.Name, "part")
	}
	is, err := isPart(tx, base)
	switch {
	case err != nil:
		return "", err
	case !is:
		return base, nil
	case p.ID != "" && machine == "":
		return "", hw.Faults{{Pointer: "/id", Text: hw.Word(hw.FaultDuplicate, `"`+base+`"`, "another part has it")}}
	}
	// Of many with one name the next number is found by halves, not one by one.
	numbered := func(n int) string { return fmt.Sprintf("%s-%d", base, n) }
	taken, free := 1, 2
	for {
		if is, err = isPart(tx, numbered(free)); err != nil {
			return "", err
		} else if !is {
			break
		}
		taken, free = free, free*2
	}
	for taken+1 < free {
		half := (taken + free) / 2
		if is, err = isPart(tx, numbered(half)); err != nil {
			return "", err
		} else if is {
			taken = half
		} else {
			free = half
		}
	}
	return numbered(free), nil
}

func isPart(tx store.Tx, id string) (bool, error) { return tx.Taken(base.KindPart, "id", id) }

// ChangePart changes what is known of a part; what lies on the shelf is changed by movements
// alone. The error is hw.Faults for what cannot be, ErrChanged where somebody changed the part
// since version.
func (s *Stock) ChangePart(ctx context.Context, a base.Actor, token, id string, version int, l PartLine) error {
	if err := l.Check().Err(); err != nil {
		return err
	}
	_, err := s.Once(ctx, token, func(tx store.Tx) (string, error) {
		row, err := tx.Part(id)
		if err != nil {
			return "", err
		}
		if row.Version != version {
			return "", base.ErrChanged
		}
		before := row
		if err := s.checkSupplier(tx, l.supplierID()); err != nil {
			return "", err
		}
		if string(l.Part.Kind) != row.Kind {
			if err := s.neverMoved(tx, id, "/kind", "its kind stays: enter another part"); err != nil {
				return "", err
			}
		}
		if err := l.Fill(&row); err != nil {
			return "", err
		}
		return id, s.savePart(tx, a, &row, &before, "changed: "+strings.Join(changedOfPart(&before, &row), ", "))
	})
	return err
}

func (l *PartLine) supplierID() *int64 {
	if l.Supplier == 0 {
		return nil
	}
	return &l.Supplier
}

// neverMoved refuses a change that only a part without any movement takes.
func (s *Stock) neverMoved(tx store.Tx, id, pointer, text string) error {
	moved, err := tx.MovementsOf(id, 1)
	if err != nil || len(moved) == 0 {
		return err
	}
	return hw.Faults{{Pointer: pointer, Text: "it already has stock movements: " + text}}
}

// savePart stores a changed part, with what it was before in its history.
func (s *Stock) savePart(tx store.Tx, a base.Actor, row, before *store.Part, what string) error {
	if row.Version++; changedOfPart(before, row) == nil && row.RetiredAt == before.RetiredAt {
		return nil
	}
	if err := tx.SavePart(row, row.Version-1); err != nil {
		return err
	}
	was, err := json.Marshal(before)
	if err != nil {
		return err
	}
	return s.Note(tx, a, base.KindPart, row.ID, what, was)
}

// changedOfPart names what is another, nil for nothing.
func changedOfPart(a, b *store.Part) []string {
	var out []string
	for _, f := range []struct {
		name string
		same bool
	}{{"name", a.Name == b.Name}, {"reorder level", a.Low == b.Low}, {"number", a.OrderNo == b.OrderNo},
		{"note", a.Note == b.Note}, {"counted or not", a.Uncounted == b.Uncounted},
		{"can be ordered or not", a.Orderable == b.Orderable},
		{"supplier", fmt.Sprint(deref(a.SupplierID)) == fmt.Sprint(deref(b.SupplierID))}} {
		if !f.same {
			out = append(out, f.name)
		}
	}
	var x, y map[string]any
	if json.Unmarshal(a.Doc, &x) != nil || json.Unmarshal(b.Doc, &y) != nil {
		return append(out, "its facts")
	}
	for _, name := range []string{"kind", "price_cents", "lead_days", "count", "source", "memory", "drive", "battery",
		"wireless", "provides"} {
		if fmt.Sprint(x[name]) != fmt.Sprint(y[name]) {
			out = append(out, strings.TrimSuffix(strings.ReplaceAll(name, "_", " "), " cents"))
		}
	}
	return out
}

func deref(p *int64) int64 {
	if p == nil {
		return 0
	}
	return *p
}

// RetirePart takes a part off the list, or puts it back. What was used once is kept for what was
// done with it. The error is hw.Faults while an open job has it chosen or pieces lie on the shelf,
// ErrChanged where somebody changed the part since version.
func (s *Stock) RetirePart(ctx context.Context, a base.Actor, token, id string, version int, retire bool) error {
	_, err := s.Once(ctx, token, func(tx store.Tx) (string, error) {
		row, err := tx.Part(id)
		if err != nil {
			return "", err
		}
		if row.Version != version {
			return "", base.ErrChanged
		}
		if (row.RetiredAt != nil) == retire {
			return id, nil
		}
		before, what := row, "put back on the list"
		row.RetiredAt = nil
		if retire {
			now := s.Now()
			row.RetiredAt, what = &now, "retired"
			if err := s.mayRetire(tx, id); err != nil {
				return "", err
			}
		}
		return id, s.savePart(tx, a, &row, &before, what)
	})
	return err
}

// mayRetire refuses to retire a part that is wanted, ordered or lies on the shelf.
func (s *Stock) mayRetire(tx store.Tx, id string) error {
	all, err := Wants(tx)
	if err != nil {
		return err
	}
	var faults hw.Faults
	for i := range all {
		if w := &all[i]; w.Part == id && w.Asked > w.Fitted {
			faults = append(faults, hw.Fault{Text: fmt.Sprintf("%s, %s, has it chosen: choose something else there first",
				base.Label(w.Job.ID), w.Job.Tag)})
		}
	}
	coming, err := comings(tx)
	if err != nil {
		return err
	}
	for _, c := range coming[id] {
		faults = append(faults, hw.Fault{Text: fmt.Sprintf("%d are on order %d: take them off it first", c.N, c.Order)})
	}
	stock, err := tx.Stock(id)
	if err != nil {
		return err
	}
	if stock.Shelf > 0 {
		faults = append(faults, hw.Fault{Text: fmt.Sprintf("%d lie on the shelf: book them off first", stock.Shelf)})
	}
	return faults.Err()
}

// PartRecord is a part with where its pieces are and what became of them.
type PartRecord struct {
	ShelfLine
	Serials   []string // of pieces on the shelf
	Movements []Movement
	History   []base.Change
}

// Movement is one change of the shelf, as pages show it.
type Movement struct {
	store.Movement
	Name string // of the part
	Tag  string // of the machine, "" for none
}

// Part returns one part.
func (s *Stock) Part(ctx context.Context, id string) (PartRecord, error) {
	var out PartRecord
	err := s.Store.View(ctx, func(tx store.Tx) error {
		lines, err := s.shelfLines(tx)
		if err != nil {
			return err
		}
		i := slices.IndexFunc(lines, func(l ShelfLine) bool { return l.ID == id })
		if i < 0 {
			return base.ErrNotFound
		}
		out.ShelfLine = lines[i]
		serials, err := tx.SerialsHere(id)
		if err != nil {
			return err
		}
		for _, x := range serials {
			out.Serials = append(out.Serials, x.Serial)
		}
		if out.Movements, err = s.movements(tx, id, 200); err != nil {
			return err
		}
		out.History, err = base.HistoryIn(tx, base.KindPart, id)
		return err
	})
	return out, err
}

// Movements lists the newest movements of a part, of all parts for "".
func (s *Stock) Movements(ctx context.Context, part string, most int) ([]Movement, error) {
	var out []Movement
	err := s.Store.View(ctx, func(tx store.Tx) (err error) {
		out, err = s.movements(tx, part, most)
		return err
	})
	return out, err
}

func (s *Stock) movements(tx store.Tx, part string, most int) ([]Movement, error) {
	rows, err := tx.MovementsOf(part, most)
	if err != nil {
		return nil, err
	}
	seen, err := s.ShelfNow(tx)
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
	out := make([]Movement, len(rows))
	for i, r := range rows {
		out[i] = Movement{Movement: r, Name: seen.Doc(r.PartID).Name}
		if r.MachineID != nil {
			out[i].Tag = tags[*r.MachineID]
		}
	}
	return out, nil
}
