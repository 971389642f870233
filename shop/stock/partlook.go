package stock

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"yembo/core/hw"
	"yembo/core/shorthand"
	"yembo/shop/base"
	"yembo/store"
)

// PartLook is what a line about a part means: the part it is about, or a new one.
type PartLook struct {
	Line    *shorthand.PartLine
	Faults  []string     // of the line
	Wrong   hw.Faults    // of the new part
	Same    *ShelfLine   // the part that it is, nil for a new one
	Like    []ShelfLine  // others that it could be
	Serials []SerialFate // the line is the serial of these pieces
	Job     int64        // the line is a job's label
}

// SerialFate is a piece that a serial was found on.
type SerialFate struct {
	Part, Name, Serial string
	Here               bool
}

// mostLike is how many parts a line offers beside the one that it means.
const mostLike = 6

// LookAtPart says what a line about a part means: a label, a number, a name, a serial, a job.
func (s *Stock) LookAtPart(ctx context.Context, text string) (PartLook, error) {
	var out PartLook
	err := s.Store.View(ctx, func(tx store.Tx) (err error) {
		out, err = s.lookAtPart(tx, text)
		return err
	})
	return out, err
}

func (s *Stock) lookAtPart(tx store.Tx, text string) (PartLook, error) {
	var out PartLook
	how, err := base.SettingsIn(tx)
	if err != nil {
		return out, err
	}
	text = strings.TrimSpace(text)
	out.Line = shorthand.ParsePart(text, how.Currency)
	if job, ok := base.JobOfLabel(text); ok {
		out.Job = job
		return out, nil
	}
	for _, f := range out.Line.Faults() {
		out.Faults = append(out.Faults, f.Error())
	}
	seen, err := s.ShelfNow(tx)
	if err != nil {
		return out, err
	}
	if text != "" {
		rows, err := tx.SerialsNamed(text)
		if err != nil {
			return out, err
		}
		for _, r := range rows[:min(len(rows), mostLike)] {
			out.Serials = append(out.Serials, SerialFate{r.PartID, seen.Doc(r.PartID).Name, r.Serial, r.Went == nil})
		}
	}
	found := seen.like(out.Line)
	if len(found) > 0 {
		lines, err := s.shelfLines(tx)
		if err != nil {
			return out, err
		}
		out.Same = &lines[found[0]]
		for _, i := range found[1:min(len(found), mostLike+1)] {
			out.Like = append(out.Like, lines[i])
		}
		return out, nil
	}
	if text != "" && len(out.Faults) == 0 {
		l := lineFrom(out.Line)
		out.Wrong = l.Check()
	}
	return out, nil
}

// lineFrom is the new part that a line speaks of.
func lineFrom(l *shorthand.PartLine) PartLine {
	return PartLine{Part: l.Part, Orderable: l.Orderable, Low: l.Low.Or(0), OrderNo: l.Number, Uncounted: l.Uncounted}
}

// like lists the parts that a line means, the likeliest first: one whose number it is alone, else those
// that have everything it says.
func (s *Stocked) like(l *shorthand.PartLine) []int {
	named := strings.Fields(strings.ToLower(l.Named))
	if len(l.Words) == 0 {
		return nil
	}
	told := toldOf(&l.Part)
	if len(named) == 1 && len(told) == 0 {
		for i := range s.rows {
			if r := &s.rows[i]; r.RetiredAt == nil &&
				(r.ID == named[0] || strings.EqualFold(r.OrderNo, named[0]) && r.OrderNo != "") {
				return []int{i}
			}
		}
	}
	type match struct{ at, missing int }
	var found []match
	for i := range s.docs {
		if row := &s.rows[i]; row.RetiredAt != nil || row.MachineID != nil || l.Number != "" &&
			!strings.EqualFold(l.Number, row.OrderNo) {
			continue
		}
		p := &s.docs[i]
		if p.Pulled() != l.Part.Pulled() || l.Part.Kind != "" && p.Kind != l.Part.Kind || l.Part.Count.IsKnown() &&
			p.Pieces() != l.Part.Pieces() {
			continue
		}
		if !hasWords(strings.ToLower(p.Name+" "+p.ID), named) {
			continue
		}
		if missing, ok := agrees(told, toldOf(p)); ok {
			found = append(found, match{i, missing})
		}
	}
	slices.SortStableFunc(found, func(a, b match) int { return a.missing - b.missing })
	out := make([]int, len(found))
	for i, m := range found {
		out[i] = m.at
	}
	return out
}

// hasWords reports whether every word stands in a text.
func hasWords(text string, words []string) bool {
	for _, w := range words {
		if !strings.Contains(text, w) {
			return false
		}
	}
	return true
}

// toldOf are the facts of a part, by name. Voltage follows from the type and is told by labels alone.
func toldOf(p *hw.Part) map[string]string {
	out := map[string]string{}
	for _, of := range []any{p.Memory, p.Drive, p.Battery, p.Wireless} {
		raw, err := json.Marshal(of)
		var fields map[string]json.RawMessage
		if err != nil || json.Unmarshal(raw, &fields) != nil {
			continue
		}
		for name, value := range fields {
			out[name] = string(value)
		}
	}
	delete(out, "voltage_v")
	if p.Provides != "" {
		out["provides"] = p.Provides
	}
	return out
}

// agrees reports whether everything that is told holds of what is there; missing is how much of it is
// not known there.
func agrees(told, there map[string]string) (missing int, ok bool) {
	for name, value := range told {
		switch is, known := there[name]; {
		case !known:
			missing++
		case is != value:
			return 0, false
		}
	}
	return missing, missing <= len(told)/2
}

// EnterPart keeps a line about a part: it puts pieces of the part that it means on the shelf, or a new
// part with its pieces. part is the one that was looked at, "" for a new one; pieces is how many come
// where the line does not say. The error is hw.Faults for a line that cannot be kept, ErrChanged where it
// means another part by now. It returns the part's id.
func (s *Stock) EnterPart(ctx context.Context, a base.Actor, token, text, part string, pieces int) (string, error) {
	return s.Once(ctx, token, func(tx store.Tx) (string, error) {
		look, err := s.lookAtPart(tx, text)
		if err != nil {
			return "", err
		}
		l := look.Line
		if look.Faults != nil {
			return "", hw.Faults{{Pointer: "/text", Text: strings.Join(look.Faults, "; ")}}
		}
		n := l.Pieces.Or(pieces)
		if l.Uncounted {
			n = 0
		}
		if part != "" {
			return part, s.morePieces(tx, a, &look, part, n)
		}
		if look.Same != nil {
			return "", base.ErrChanged
		}
		next := lineFrom(l)
		if faults := next.Check(); len(faults) > 0 {
			return "", faults
		}
		if l.Supplier != "" {
			from, err := tx.SupplierNamed(l.Supplier)
			if errors.Is(err, store.ErrNotFound) {
				return "", hw.Faults{{Pointer: "/text",
					Text: fmt.Sprintf("%q is no supplier yet: enter them first", l.Supplier)}}
			} else if err != nil {
				return "", err
			}
			next.Supplier = from.ID
		}
		kind := Bought
		if l.Part.Pulled() {
			kind = Pulled
			if next.Part.Kind == hw.KindDrive && n > 0 {
				return "", hw.Faults{{Pointer: "/text",
					Text: "a pulled drive comes in on its part's page, where it is said how it was " +
						"erased: enter the part alone, with 0 pieces"}}
			}
		}
		return s.AddPartIn(tx, a, next, Moving{Kind: kind, N: n, Cents: l.Part.PriceCents})
	})
}

// BringPart keeps a part that the customer of a machine brings, by a line about it: it takes part in that
// machine's plan alone. It returns the part's id.
func (s *Stock) BringPart(ctx context.Context, a base.Actor, token, machine, text string) (string, error) {
	return s.Once(ctx, token, func(tx store.Tx) (string, error) {
		row, err := tx.Machine(machine)
		if err != nil {
			return "", err
		}
		how, err := base.SettingsIn(tx)
		if err != nil {
			return "", err
		}
		l := shorthand.ParsePart(strings.TrimSpace(text), how.Currency)
		var faults hw.Faults
		for _, f := range l.Faults() {
			faults = append(faults, hw.Fault{Pointer: "/brings", Text: f.Error()})
		}
		next := lineFrom(l)
		next.Machine, next.Part.Source, next.Part.PriceCents = row.ID, hw.OriginCustomer, 0
		if len(faults) == 0 {
			for _, f := range next.Check() {
				faults = append(faults, hw.Fault{Pointer: "/brings", Text: faultWords(f)})
			}
		}
		if err := faults.Err(); err != nil {
			return "", err
		}
		return s.AddPartIn(tx, a, next, Moving{Kind: Brought, N: l.Pieces.Or(1), Note: "with the machine"})
	})
}

// learn fills in of a part what another tells of the same thing and it does not; it returns the names of the
// facts. What both tell stays as it was.
func learn(p, from *hw.Part) ([]string, error) {
	if p.Kind != from.Kind {
		return nil, nil
	}
	var now, told map[string]json.RawMessage
	fields := func(part *hw.Part, into *map[string]json.RawMessage) error {
		var thing any
		switch {
		case part.Drive != nil:
			thing = part.Drive
		case part.Memory != nil:
			thing = part.Memory
		case part.Battery != nil:
			thing = part.Battery
		case part.Wireless != nil:
			thing = part.Wireless
		default:
			return nil
		}
		raw, err := json.Marshal(thing)
		if err != nil {
			return err
		}
		return json.Unmarshal(raw, into)
	}
	if err := errors.Join(fields(p, &now), fields(from, &told)); err != nil {
		return nil, err
	}
	var learned []string
	for _, name := range slices.Sorted(maps.Keys(told)) {
		if _, known := now[name]; !known && now != nil {
			now[name] = told[name]
			learned = append(learned, strings.ReplaceAll(name, "_", " "))
		}
	}
	if len(learned) == 0 {
		return nil, nil
	}
	raw, err := json.Marshal(map[string]any{string(p.Kind): now})
	if err != nil {
		return nil, err
	}
	return learned, json.Unmarshal(raw, p)
}

// morePieces puts pieces on the shelf of a part that is there.
func (s *Stock) morePieces(tx store.Tx, a base.Actor, look *PartLook, part string, n int) error {
	known := look.Same != nil && look.Same.ID == part ||
		slices.ContainsFunc(look.Like, func(l ShelfLine) bool { return l.ID == part })
	if !known {
		return base.ErrChanged
	}
	row, err := tx.Part(part)
	if err != nil {
		return err
	}
	p, err := ReadPart(&row)
	if err != nil {
		return err
	}
	// What its label tells and nobody knew stays with it.
	if learned, err := learn(p, &look.Line.Part); err != nil {
		return err
	} else if len(learned) > 0 {
		before := row
		l := LineOf(&row, p)
		if faults := l.Check(); len(faults) > 0 {
			return faults
		}
		if err := l.Fill(&row); err != nil {
			return err
		}
		if err := s.savePart(tx, a, &row, &before, "its label tells: "+strings.Join(learned, ", ")); err != nil {
			return err
		}
	}
	m := Moving{Part: part, Kind: Bought, N: n, Cents: p.PriceCents}
	if p.Pulled() {
		m.Kind = Pulled
	}
	if look.Line.Priced {
		m.Cents = look.Line.Part.PriceCents
	}
	return s.MovePartIn(tx, a, m)
}
