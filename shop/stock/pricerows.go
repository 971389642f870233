package stock

import (
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"yembo/core/hw"
	"yembo/core/shorthand"
	"yembo/exchange"
	"yembo/exchange/slug"
	"yembo/shop/base"
)

// partIndex finds a part by its number, its name or its facts without going through all of them.
type partIndex struct {
	numbers, names map[string]int
	facts          map[string][]int
}

func indexOf(seen *Stocked) *partIndex {
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
	how      base.Settings
	seen     *Stocked
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
		return nil, hw.Faults{{Pointer: "/list",
			Text: fmt.Sprintf("its prices are in %s, the shop's are in %s", parts.Currency, in.how.Currency)}}
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
		words += " gives:" + slug.Of(gives)
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
				return fmt.Sprintf(
					"%s: %q is no number from 0 to %d",
					map[string]string{"stock": "on our shelf", "low": "reorder level"}[name],
					text,
					maxPieces,
				)
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
	if faults := l.line.Check(); len(faults) > 0 {
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
	}{{"memor", hw.KindMemory}, {"ram", hw.KindMemory}, {"module", hw.KindMemory}, {"ssd", hw.KindDrive}, {"drive",
		hw.KindDrive}, {"disk", hw.KindDrive},
		{"batter", hw.KindBattery}, {"pack", hw.KindBattery}, {"wireless", hw.KindWireless}, {"wlan", hw.KindWireless},
		{"wifi", hw.KindWireless},
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
