package stock

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"yembo/core/hw"
	"yembo/exchange"
	"yembo/exchange/slug"
	"yembo/shop/base"
	"yembo/store"
)

// ListColumns are what a price list can tell of a part, in the order in which they are offered.
var ListColumns = []struct{ Name, Words string }{
	{"name", "part, in words"}, {"more", "more words about it"}, {"number", "number there"}, {"price", "price"},
	{"kind", "kind"},
	{"days", "days"}, {"stock", "on our shelf"}, {"low", "reorder level"}, {"gives", "what it gives"},
}

// ListedPart is a row of a price list, or a part of a document, as it would be taken in.
type ListedPart struct {
	Line  int
	Cells []string
	Fault string // why it is kept aside, "" for a sound one
	Name  string
	Kind  hw.PartKind
	Cents int64
	Part  string // the part that it is, "" for a new one
	Was   int64  // what that costs now
	Same  bool   // nothing would change

	line  PartLine
	stock int
}

// Says is what pages call its kind.
func (l ListedPart) Says() string { return ShelfKinds.Says(l.Kind) }

// PriceList is a list that came in, with what becomes of its rows.
type PriceList struct {
	Head     []string // nil for a document
	Columns  map[string]int
	Supplier int64
	Currency string
	Rows     []ListedPart
}

// LookAtPrices reads a list or a yembo.parts document that was kept, and says for each row what it would
// become. columns gives the column of the file for each name; nil takes those that were chosen for a list
// of this shape before, or proposes some.
func (s *Stock) LookAtPrices(ctx context.Context, upload int64, columns map[string]int, supplier int64) (PriceList,
	error) {
	var out PriceList
	err := s.Store.View(ctx, func(tx store.Tx) (err error) {
		out, err = s.prices(tx, upload, columns, supplier)
		return err
	})
	return out, err
}

func (s *Stock) prices(tx store.Tx, upload int64, columns map[string]int, supplier int64) (PriceList, error) {
	out := PriceList{Columns: columns, Supplier: supplier}
	how, err := base.SettingsIn(tx)
	if err != nil {
		return out, err
	}
	out.Currency = how.Currency
	kept, err := tx.Upload(upload)
	if err != nil {
		return out, err
	}
	seen, err := s.ShelfNow(tx)
	if err != nil {
		return out, err
	}
	in := &incoming{how: how, index: indexOf(seen), seen: seen, supplier: supplier, taken: map[string]bool{}}
	if data := bytes.TrimSpace(bytes.TrimPrefix(kept.Content, []byte("\xef\xbb\xbf"))); bytes.HasPrefix(data,
		[]byte("{")) {
		out.Rows, err = in.document(kept.Content)
		return out, err
	}
	table, err := exchange.ReadTable(kept.Content)
	if err != nil {
		return out, hw.Faults{{Pointer: "/list", Text: err.Error()}}
	}
	out.Head = table.Head
	if columns == nil {
		if err := out.remembered(tx); err != nil {
			return out, err
		}
		in.supplier = out.Supplier
	}
	out.Rows = in.table(table, out.Columns)
	return out, nil
}

// listShape is the name under which the columns of lists with one head are remembered.
func listShape(head []string) string {
	sum := sha256.Sum256([]byte(strings.ToLower(strings.Join(head, "\x1f"))))
	return "price list " + hex.EncodeToString(sum[:8])
}

type listMemory struct {
	Columns  map[string]int `json:"columns"`
	Supplier int64          `json:"supplier"`
}

// remembered fills in the columns that were chosen for such a list before, else proposes some by their
// names.
func (l *PriceList) remembered(tx store.Tx) error {
	raw, err := tx.Setting(listShape(l.Head))
	if err != nil {
		return err
	}
	var before listMemory
	if raw != nil && json.Unmarshal(raw, &before) == nil {
		l.Columns = before.Columns
		if l.Supplier == 0 {
			l.Supplier = before.Supplier
		}
		return nil
	}
	l.Columns = map[string]int{}
	for _, x := range []struct{ name, words string }{{"price", "price|cost|net|preis|eur"},
		{"number", "number|article|sku|item no|order no|no."},
		{"days", "days|delivery|lead"}, {"stock", "stock|shelf|pieces|count|qty|quantity"}, {"kind", "kind|category|type"},
		{"low", "low|min"},
		{"gives", "gives|provides"}, {"name", "part|name|description|title|article|item"},
		{"more", "detail|specification"}} {
		for _, word := range strings.Split(x.words, "|") {
			for i, h := range l.Head {
				if _, done := l.Columns[x.name]; !done && strings.Contains(strings.ToLower(h), word) &&
					!usedColumn(l.Columns, i) {
					l.Columns[x.name] = i
				}
			}
		}
	}
	return nil
}

func usedColumn(columns map[string]int, at int) bool {
	for _, x := range columns {
		if x == at {
			return true
		}
	}
	return false
}

// PricesTaken is what became of a list.
type PricesTaken struct {
	New, Changed, Same, Aside int
	Faults                    []string
	Rows                      []ListedPart // the first of those that were kept aside
	Table                     bool         // it was one, not a document
}

// mostAside is how many rows that were kept aside are told of.
const mostAside = 50

// listBatch is how many rows are stored together.
const listBatch = 500

// TakePrices stores the sound rows of a list, some hundred at a time, and remembers its columns; step is
// told how far it is. New parts come with what lies on the shelf by the list; of those that are there the
// price, days and number become the list's, and never what lies on the shelf.
func (s *Stock) TakePrices(ctx context.Context, a base.Actor, upload int64, columns map[string]int, supplier int64,
	step func(done, of int)) (PricesTaken, error) {
	var out PricesTaken
	list, err := s.LookAtPrices(ctx, upload, columns, supplier)
	if err != nil {
		return out, err
	}
	if out.Table = list.Head != nil; out.Table {
		raw, err := json.Marshal(listMemory{list.Columns, list.Supplier})
		if err != nil {
			return out, err
		}
		if err := s.Store.Update(ctx, func(tx store.Tx) error {
			return tx.PutSetting(listShape(list.Head),
				raw)
		}); err != nil {
			return out, err
		}
	}
	names := newNames{}
	for from := 0; from < len(list.Rows); from += listBatch {
		step(from, len(list.Rows))
		batch := list.Rows[from:min(len(list.Rows), from+listBatch)]
		part := out
		err := s.Store.Update(ctx, func(tx store.Tx) error {
			part = out
			var fresh []*ListedPart
			for i := range batch {
				if l := &batch[i]; l.Fault == "" && !l.Same && l.Part == "" {
					fresh = append(fresh, l)
				} else if err := s.takeListed(tx, a, l, &part); err != nil {
					return err
				}
			}
			part.New += len(fresh)
			return s.addListed(tx, a, fresh, names)
		})
		if err != nil {
			return out, err
		}
		out = part
		if err := ctx.Err(); err != nil {
			return out, err
		}
	}
	return out, nil
}

// newNames is the number that the next part of a name gets, by the name as an id.
type newNames map[string]int

// id is a free id for a new part.
func (n newNames) id(tx store.Tx, p *hw.Part) (string, error) {
	base := slug.Make(p.Name, "part")
	if next := n[base]; next > 0 && p.ID == "" {
		n[base]++
		return fmt.Sprintf("%s-%d", base, next), nil
	}
	id, err := freePart(tx, p, "")
	if number, isNumbered := strings.CutPrefix(id, base+"-"); isNumbered {
		n[base], _ = strconv.Atoi(number)
	}
	n[base] = max(n[base], 1) + 1
	return id, err
}

// addListed stores new parts, many at once, with what lies on the shelf by the list. Nobody wants a part
// that was not there.
func (s *Stock) addListed(tx store.Tx, a base.Actor, list []*ListedPart, names newNames) error {
	if len(list) == 0 {
		return nil
	}
	rows := make([]store.Part, len(list))
	notes := make([]store.History, len(list))
	for i, l := range list {
		id, err := names.id(tx, &l.line.Part)
		if err != nil {
			return err
		}
		rows[i] = store.Part{ID: id, Version: 1}
		if err := l.line.Fill(&rows[i]); err != nil {
			return err
		}
		notes[i] = store.History{At: s.Now(), By: a.Name, Kind: base.KindPart, Record: id,
			What: fmt.Sprintf("from a list, line %d", l.Line)}
	}
	if err := tx.CreateParts(rows, notes); err != nil {
		return err
	}
	for i, l := range list {
		if l.stock == 0 {
			continue
		}
		err := s.BookMovement(tx, a, store.Movement{PartID: rows[i].ID, Kind: string(Counted), Shelf: l.stock,
			Note: "as a list brought it"})
		if err != nil {
			return err
		}
	}
	return nil
}

// takeListed stores one row about a part that is there.
func (s *Stock) takeListed(tx store.Tx, a base.Actor, l *ListedPart, out *PricesTaken) error {
	switch {
	case l.Fault != "":
		if out.Aside++; len(out.Rows) < mostAside {
			out.Rows = append(out.Rows, *l)
		}
		return nil
	case l.Same:
		out.Same++
		return nil
	}
	row, err := tx.Part(l.Part)
	if err != nil {
		return err
	}
	before := row
	p, err := ReadPart(&row)
	if err != nil {
		return err
	}
	next := LineOf(&row, p)
	if l.line.Part.ID == l.Part { // of a document: all that it says of the part
		next.Part = l.line.Part
	}
	next.Part.PriceCents = l.Cents
	if l.line.Part.LeadDays.IsKnown() {
		next.Part.LeadDays = l.line.Part.LeadDays
	}
	if l.line.OrderNo != "" {
		next.OrderNo = l.line.OrderNo
	}
	if l.line.Supplier != 0 {
		next.Supplier = l.line.Supplier
	}
	if err := next.Fill(&row); err != nil {
		return err
	}
	out.Changed++
	return s.savePart(tx, a, &row, &before, "from a list: "+strings.Join(changedOfPart(&before, &row), ", "))
}

// AsidePrices is the rows of a list that were kept aside, as they came, with the reason.
func AsidePrices(list *PriceList) ([]byte, error) {
	var out [][]string
	for _, l := range list.Rows {
		if l.Fault != "" {
			cells := make([]string, len(list.Head))
			copy(cells, l.Cells)
			out = append(out, append(cells, fmt.Sprintf("line %d: %s", l.Line, l.Fault)))
		}
	}
	if len(out) == 0 {
		return nil, errors.New("no row was kept aside")
	}
	return exchange.WriteTable(append(slices.Clone(list.Head), "skipped because"), out)
}
