package shop

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
	"yembo/core/shorthand"
	"yembo/exchange"
	"yembo/store"
)

// ListColumns are what a price list can tell of a part, in the order in which they are offered.
var ListColumns = []struct{ Name, Words string }{
	{"name", "part, in words"}, {"more", "more words about it"}, {"number", "number there"}, {"price", "price"}, {"kind", "kind"},
	{"days", "days"}, {"stock", "on our shelf"}, {"low", "low-stock line"}, {"gives", "what it gives"},
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
func (s *Shop) LookAtPrices(ctx context.Context, upload int64, columns map[string]int, supplier int64) (PriceList, error) {
	var out PriceList
	err := s.store.View(ctx, func(tx store.Tx) (err error) {
		out, err = s.prices(tx, upload, columns, supplier)
		return err
	})
	return out, err
}

func (s *Shop) prices(tx store.Tx, upload int64, columns map[string]int, supplier int64) (PriceList, error) {
	out := PriceList{Columns: columns, Supplier: supplier}
	how, err := settings(tx)
	if err != nil {
		return out, err
	}
	out.Currency = how.Currency
	kept, err := tx.Upload(upload)
	if err != nil {
		return out, err
	}
	seen, err := s.stocked(tx)
	if err != nil {
		return out, err
	}
	in := &incoming{how: how, index: indexOf(seen), seen: seen, supplier: supplier, taken: map[string]bool{}}
	if data := bytes.TrimSpace(bytes.TrimPrefix(kept.Content, []byte("\xef\xbb\xbf"))); bytes.HasPrefix(data, []byte("{")) {
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
	for _, x := range []struct{ name, words string }{{"price", "price|cost|net|preis|eur"}, {"number", "number|article|sku|item no|order no|no."},
		{"days", "days|delivery|lead"}, {"stock", "stock|shelf|pieces|count"}, {"kind", "kind|category|type"}, {"low", "low|min"},
		{"gives", "gives|provides"}, {"name", "part|name|description|title|article"}, {"more", "detail|specification"}} {
		for _, word := range strings.Split(x.words, "|") {
			for i, h := range l.Head {
				if _, done := l.Columns[x.name]; !done && strings.Contains(strings.ToLower(h), word) && !usedColumn(l.Columns, i) {
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

// partIndex finds a part by its number, its name or its facts without going through all of them.
type partIndex struct {
	numbers, names map[string]int
	facts          map[string][]int
}

func indexOf(seen *stocked) *partIndex {
	out := &partIndex{map[string]int{}, map[string]int{}, map[string][]int{}}
	for i := range seen.rows {
		row := &seen.rows[i]
		if row.RetiredAt != nil || row.MachineID != nil {
			continue
		}
		if row.OrderNo != "" {
			out.numbers[fmt.Sprint(deref(row.SupplierID), " ", strings.ToLower(row.OrderNo))] = i
		}
		out.names[strings.ToLower(row.Name)] = i
		key := factsKey(&seen.docs[i])
		out.facts[key] = append(out.facts[key], i)
	}
	return out
}

// factsKey is what a part is, whatever it is called.
func factsKey(p *hw.Part) string {
	told := toldOf(p)
	var out []string
	for name, value := range told {
		out = append(out, name+"="+value)
	}
	slices.Sort(out)
	return fmt.Sprint(p.Kind, p.Pieces(), p.Source, out)
}

// incoming settles the rows of a list against what is there.
type incoming struct {
	how      Settings
	seen     *stocked
	index    *partIndex
	supplier int64
	taken    map[string]bool // parts and new names that rows before have
}

func (in *incoming) document(doc []byte) ([]ListedPart, error) {
	parts, err := exchange.ReadParts(doc)
	var faults hw.Faults
	if errors.As(err, &faults) {
		for i := range faults {
			faults[i].Text, faults[i].Pointer = strings.TrimPrefix(faults[i].Error(), ": "), "/list"
		}
		return nil, faults
	} else if err != nil {
		return nil, err
	}
	if parts.Currency != "" && parts.Currency != in.how.Currency {
		return nil, hw.Faults{{Pointer: "/list", Text: fmt.Sprintf("its prices are in %s, the shop's are in %s", parts.Currency, in.how.Currency)}}
	}
	out := make([]ListedPart, len(parts.Parts))
	for i := range parts.Parts {
		p := parts.Parts[i]
		stock, counted := p.Stock.Get()
		p.Stock = hw.Maybe[int]{}
		l := &out[i]
		*l = ListedPart{Line: i + 1, Name: p.Name, Kind: p.Kind, Cents: p.PriceCents, stock: stock,
			line: PartLine{Part: p, Orderable: !counted, Supplier: in.supplier}}
		if p.Brought() {
			l.Fault = "a customer brings it: enter it with the machine"
			continue
		}
		in.match(l, p.ID)
	}
	return out, nil
}

func (in *incoming) table(table *exchange.Table, columns map[string]int) []ListedPart {
	out := make([]ListedPart, len(table.Rows))
	for i := range table.Rows {
		row := &table.Rows[i]
		l := &out[i]
		l.Line, l.Cells, l.Fault = row.Line, row.Cells, row.Fault
		if l.Fault != "" {
			continue
		}
		cell := func(name string) string {
			if at, ok := columns[name]; ok && at >= 0 && at < len(row.Cells) {
				return strings.TrimSpace(row.Cells[at])
			}
			return ""
		}
		if l.Fault = in.row(l, cell); l.Fault == "" {
			in.match(l, "")
		}
	}
	return out
}

// row reads one row; fault is why it cannot be taken.
func (in *incoming) row(l *ListedPart, cell func(string) string) (fault string) {
	words := strings.NewReplacer("\n", " ", "\r", " ", `"`, " ").Replace(cell("name") + " " + cell("more"))
	if strings.TrimSpace(words) == "" {
		return "no words that say what it is"
	}
	if kind := listedKind(cell("kind")); kind != "" {
		words += " kind:" + string(kind)
	}
	if gives := cell("gives"); gives != "" {
		words += " gives:" + hw.Slug(gives, "")
	}
	read := shorthand.ParsePart(words, in.how.Currency)
	if faults := read.Faults(); len(faults) > 0 {
		return faults[0].Text()
	}
	l.line = lineFrom(read)
	p := &l.line.Part
	if name := strings.Join(strings.Fields(cell("name")), " "); name != "" {
		p.Name = name
	}
	l.line.OrderNo, l.line.Supplier = cell("number"), in.supplier
	var err error
	if text := cell("price"); text != "" {
		if p.PriceCents, err = hw.ParseMoney(text, in.how.Currency); err != nil {
			return "price: " + err.Error()
		}
	}
	for name, into := range map[string]*int{"stock": &l.stock, "low": &l.line.Low} {
		if text := cell(name); text != "" {
			if *into, err = strconv.Atoi(text); err != nil || *into < 0 || *into > maxPieces {
				return fmt.Sprintf("%s: %q is no number from 0 to %d", map[string]string{"stock": "on our shelf", "low": "low-stock line"}[name], text, maxPieces)
			}
		}
	}
	if text := strings.Fields(cell("days")); len(text) > 0 {
		days, err := strconv.Atoi(text[0])
		if err != nil || days < 0 || days > 365 {
			return fmt.Sprintf("days: %q is no number from 0 to 365", text[0])
		}
		p.LeadDays = hw.Known(days)
	} else {
		l.line.Orderable = true // a price list is of what can be had
	}
	l.Name, l.Kind, l.Cents = p.Name, p.Kind, p.PriceCents
	if faults := l.line.check(); len(faults) > 0 {
		return faultWords(faults[0])
	}
	return ""
}

// faultWords is a fault without the document's own words.
func faultWords(f hw.Fault) string {
	if f.Pointer == "" || f.Pointer == "/kind" && f.Kind == hw.FaultChoice {
		return "it does not say what kind of part it is, or too little of it"
	}
	return hw.FieldSays(f.Pointer[strings.LastIndexByte(f.Pointer, '/')+1:]) + ": " + f.Text
}

// listedKind is the kind that a list's own word means, "" for none.
func listedKind(word string) hw.PartKind {
	low := strings.ToLower(word)
	for _, x := range []struct {
		has  string
		kind hw.PartKind
	}{{"memor", hw.KindMemory}, {"ram", hw.KindMemory}, {"module", hw.KindMemory}, {"ssd", hw.KindDrive}, {"drive", hw.KindDrive}, {"disk", hw.KindDrive},
		{"batter", hw.KindBattery}, {"pack", hw.KindBattery}, {"wireless", hw.KindWireless}, {"wlan", hw.KindWireless}, {"wifi", hw.KindWireless},
		{"access", hw.KindAccessory}, {"cable", hw.KindAccessory}, {"consum", KindConsumable}, {"tool", KindTool}} {
		if low != "" && strings.Contains(low, x.has) {
			return x.kind
		}
	}
	return ""
}

// match finds the part that a row is, by its id, its number with the supplier, its name or its facts.
func (in *incoming) match(l *ListedPart, id string) {
	at := -1
	found := func(i int, ok bool) {
		if ok && at < 0 {
			at = i
		}
	}
	if id != "" {
		i, ok := in.seen.index[id]
		found(i, ok)
	} else {
		if l.line.OrderNo != "" {
			i, ok := in.index.numbers[fmt.Sprint(l.line.Supplier, " ", strings.ToLower(l.line.OrderNo))]
			found(i, ok)
		}
		i, ok := in.index.names[strings.ToLower(l.Name)]
		found(i, ok)
	}
	key := "new " + strings.ToLower(l.Name) + " " + l.line.OrderNo
	if at >= 0 {
		row, p := &in.seen.rows[at], &in.seen.docs[at]
		key = "part " + row.ID
		if row.RetiredAt != nil {
			l.Fault = "it is retired here: put it back on the list first"
			return
		}
		if p.Kind != l.Kind {
			l.Fault = fmt.Sprintf("here it is a %s", ShelfKinds.Says(p.Kind))
			return
		}
		l.Part, l.Was = row.ID, p.PriceCents
		days := !l.line.Part.LeadDays.IsKnown() || l.line.Part.LeadDays == p.LeadDays
		number := l.line.OrderNo == "" || l.line.OrderNo == row.OrderNo
		l.Same = l.Was == l.Cents && days && number && (l.line.Supplier == 0 || l.line.Supplier == deref(row.SupplierID))
		if id != "" {
			l.Same = l.Same && factsKey(p) == factsKey(&l.line.Part) && p.Name == l.Name
		}
	}
	if in.taken[key] {
		l.Fault = "the same part stands in a row before"
		return
	}
	in.taken[key] = true
}

// PricesTaken is what became of a list.
type PricesTaken struct {
	New, Changed, Same, Aside int
	Faults                    []string
}

// listBatch is how many rows are stored together.
const listBatch = 500

// TakePrices stores the sound rows of a list, some hundred at a time, and remembers its columns; step is
// told how far it is. New parts come with what lies on the shelf by the list; of those that are there the
// price, days and number become the list's, and never what lies on the shelf.
func (s *Shop) TakePrices(ctx context.Context, a Actor, upload int64, columns map[string]int, supplier int64,
	step func(done, of int)) (PricesTaken, error) {
	var out PricesTaken
	list, err := s.LookAtPrices(ctx, upload, columns, supplier)
	if err != nil {
		return out, err
	}
	if list.Head != nil {
		raw, err := json.Marshal(listMemory{list.Columns, list.Supplier})
		if err != nil {
			return out, err
		}
		if err := s.store.Update(ctx, func(tx store.Tx) error { return tx.PutSetting(listShape(list.Head), raw) }); err != nil {
			return out, err
		}
	}
	names := newNames{}
	for from := 0; from < len(list.Rows); from += listBatch {
		step(from, len(list.Rows))
		batch := list.Rows[from:min(len(list.Rows), from+listBatch)]
		part := out
		err := s.store.Update(ctx, func(tx store.Tx) error {
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
	base := hw.Slug(p.Name, "part")
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
func (s *Shop) addListed(tx store.Tx, a Actor, list []*ListedPart, names newNames) error {
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
		if err := l.line.fill(&rows[i]); err != nil {
			return err
		}
		notes[i] = store.History{At: s.now(), By: a.Name, Kind: kindPart, Record: id, What: fmt.Sprintf("from a list, line %d", l.Line)}
	}
	if err := tx.CreateParts(rows, notes); err != nil {
		return err
	}
	for i, l := range list {
		if l.stock == 0 {
			continue
		}
		err := s.move(tx, a, store.Movement{PartID: rows[i].ID, Kind: string(Counted), Shelf: l.stock, Note: "as a list brought it"})
		if err != nil {
			return err
		}
	}
	return nil
}

// takeListed stores one row about a part that is there.
func (s *Shop) takeListed(tx store.Tx, a Actor, l *ListedPart, out *PricesTaken) error {
	switch {
	case l.Fault != "":
		out.Aside++
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
	p, err := readPart(&row)
	if err != nil {
		return err
	}
	next := lineOf(&row, p)
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
	if err := next.fill(&row); err != nil {
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
	return exchange.WriteTable(append(slices.Clone(list.Head), "kept aside because"), out)
}
