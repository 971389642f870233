package stock

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"yembo/core/hw"
	"yembo/shop/base"
	"yembo/store"
)

// Moving is a movement that somebody books.
type Moving struct {
	Part    string
	Kind    MoveKind
	N       int
	Cents   int64    // of each, where it was bought; that of the list where it is another
	Serials []string // of pieces that have one
	Job     int64    // that it is fitted for
	Machine string   // that it was pulled from or goes back with, by its key or its tag
	Tested  string   // how a pulled piece was tested, "" where it was not
	Erased  string   // how the data of a drive was erased
	Note    string
	Order   int64
}

// MovePart books a movement of a part's pieces. The error is hw.Faults for what cannot be: more
// than lie there, pieces that are kept for a job, a drive that still holds data.
func (s *Stock) MovePart(ctx context.Context, a base.Actor, token string, m Moving) error {
	_, err := s.Once(ctx, token, func(tx store.Tx) (string, error) {
		return m.Part, s.MovePartIn(tx, a, m)
	})
	return err
}

// MovePartIn books a movement within a transaction.
func (s *Stock) MovePartIn(tx store.Tx, a base.Actor, m Moving) error {
	row, err := tx.Part(m.Part)
	if err != nil {
		return err
	}
	stock, err := tx.Stock(m.Part)
	if err != nil {
		return err
	}
	seen, err := ReadPart(&row)
	if err != nil {
		return err
	}
	out := store.Movement{PartID: m.Part, Kind: string(m.Kind), Cents: m.Cents, Note: strings.TrimSpace(m.Note)}
	out.MachineID = row.MachineID
	faults := m.check(&row, seen)
	if m.Machine != "" {
		machine, err := tx.Machine(strings.TrimSpace(m.Machine))
		if err != nil {
			faults.Add("/machine", hw.FaultReference, strconv.Quote(m.Machine), "machine on record")
		} else {
			out.MachineID = &machine.ID
		}
	}
	if m.Job != 0 {
		job, err := tx.Job(m.Job)
		if err != nil {
			faults.Add("/job", hw.FaultReference, base.Label(m.Job), "job on record")
		} else {
			out.JobID, out.MachineID = &m.Job, &job.MachineID
		}
	}
	if err := faults.Err(); err != nil {
		return err
	}
	if m.Order != 0 {
		out.OrderID = &m.Order
	}
	if err := s.checkSerials(tx, &m); err != nil {
		return err
	}
	switch m.Kind {
	case Bought, Brought, Pulled:
		out.Shelf = m.N
		if m.Kind == Pulled {
			words := []string{out.Note}
			if m.Tested != "" {
				out.Tested = m.N
				words = append(words, "tested: "+m.Tested)
			}
			if m.Erased != "" {
				words = append(words, "erased: "+m.Erased+", by "+a.Name)
			}
			out.Note = strings.Join(slices.DeleteFunc(words, func(w string) bool { return w == "" }), "; ")
		}
	case Tested:
		if untested := stock.Shelf - stock.Tested; m.N > untested {
			return tooMany("/n", m.N, untested, "untested")
		}
		out.Tested, out.Note = m.N, strings.TrimSpace(m.Tested+"; "+out.Note)
		out.Note = strings.Trim(out.Note, "; ")
	case Fitted:
		return s.fit(tx, a, &m, out)
	case Unfitted:
		return s.unfit(tx, a, &m, out)
	case Counted, Reserved, Released, Returned, SentBack, Scrapped: // away: only what is kept for nobody
		if free := stock.Free(); m.N > free {
			return s.notFree(tx, m.Part, m.N, stock)
		}
		out.Shelf = -m.N
		out.Tested = -max(0, stock.Tested-(stock.Shelf-m.N)) // untested pieces go first
	default:
		return fmt.Errorf("there is no movement %q", m.Kind)
	}
	if err := s.BookMovement(tx, a, out, m.Serials...); err != nil {
		return err
	}
	if out.Shelf > 0 {
		return s.allot(tx, a, m.Part, 0)
	}
	return nil
}

// ReadPart reads a part's document.
func ReadPart(row *store.Part) (*hw.Part, error) {
	var p hw.Part
	if err := json.Unmarshal(row.Doc, &p); err != nil {
		return nil, fmt.Errorf("part %s: %w", row.ID, err)
	}
	return &p, nil
}

// check adds what cannot be of a movement, whatever lies on the shelf.
func (m *Moving) check(row *store.Part, p *hw.Part) hw.Faults {
	var faults hw.Faults
	if MoveKinds.Index(m.Kind) < 0 || m.Kind == Reserved || m.Kind == Released || m.Kind == Counted {
		faults.Add("/kind", hw.FaultChoice, strconv.Quote(string(m.Kind)), "bought, pulled, tested, fitted, returned, "+
			"sent back or scrapped")
		return faults
	}
	if m.N < 1 || m.N > maxPieces {
		faults.Add("/n", hw.FaultRange, strconv.Itoa(m.N), fmt.Sprintf("from 1 to %d", maxPieces))
	}
	if m.Cents < 0 || m.Cents > 1_000_000_000 {
		faults.Add("/cents", hw.FaultRange, fmt.Sprint(m.Cents), "from 0 to 1000000000")
	}
	if row.Uncounted {
		faults.Add("/n", hw.FaultConflict, "this part is there and not counted", "count it first: change the part")
	}
	if row.RetiredAt != nil {
		faults.Add("/kind", hw.FaultConflict, "the part is retired", "put it back on the list first")
	}
	need := func(is bool, pointer, text, what string) {
		if is && strings.TrimSpace(text) == "" {
			faults.Add(pointer, hw.FaultMissing, "", what)
		}
	}
	pulled := m.Kind == Pulled
	if (pulled || m.Kind == Tested) && !p.Pulled() {
		faults.Add("/kind", hw.FaultConflict, "this part is bought new",
			"pulled pieces are a part of their own, marked as pulled")
	}
	if m.Kind == Brought && !p.Brought() {
		faults.Add("/kind", hw.FaultConflict, "no customer brings this part", "enter it with the customer's machine")
	}
	need(pulled && p.Kind == hw.KindDrive, "/erased", m.Erased,
		"how it was erased: a drive with data must not go into stock")
	need(m.Kind == Tested, "/tested", m.Tested, "how it was tested")
	need((m.Kind == Fitted || m.Kind == Unfitted) && m.Job == 0, "/job", "", "the job that it is for")
	need(m.Kind == SentBack || m.Kind == Scrapped, "/note", m.Note, "why")
	for pointer, text := range map[string]string{"/note": m.Note, "/tested": m.Tested, "/erased": m.Erased} {
		if utf8.RuneCountInString(text) > base.MaxText {
			faults.Add(pointer, hw.FaultRange, "the text", fmt.Sprintf("at most %d characters", base.MaxText))
		}
	}
	return faults
}

// checkSerials refuses serials that are too many, twice, here already or not here at all.
func (s *Stock) checkSerials(tx store.Tx, m *Moving) error {
	var faults hw.Faults
	if len(m.Serials) > m.N {
		faults.Add("/serials", hw.FaultRange, fmt.Sprintf("%d serials", len(m.Serials)),
			fmt.Sprintf("at most %d, one a piece", m.N))
	}
	here, err := tx.SerialsHere(m.Part)
	if err != nil {
		return err
	}
	comes := m.Kind == Bought || m.Kind == Brought || m.Kind == Pulled || m.Kind == Unfitted
	for i, serial := range m.Serials {
		is := slices.ContainsFunc(here, func(x store.Serial) bool { return x.Serial == serial })
		switch {
		case utf8.RuneCountInString(serial) > base.MaxName:
			faults.Add("/serials", hw.FaultRange, "the serial", fmt.Sprintf("at most %d characters", base.MaxName))
		case slices.Contains(m.Serials[:i], serial):
			faults.Add("/serials", hw.FaultDuplicate, strconv.Quote(serial), "each piece has its own")
		case comes && is:
			faults.Add("/serials", hw.FaultDuplicate, strconv.Quote(serial), "it lies on the shelf already")
		case !comes && m.Kind != Tested && !is && len(here) > 0:
			faults.Add("/serials", hw.FaultReference, strconv.Quote(serial), "piece on the shelf")
		}
	}
	return faults.Err()
}

// fit takes pieces off the shelf for a job: those held for it first, then free ones; tested ones
// before others.
func (s *Stock) fit(tx store.Tx, a base.Actor, m *Moving, out store.Movement) error {
	holds, err := tx.HoldsOf(m.Job)
	if err != nil {
		return err
	}
	held := 0
	for _, h := range holds {
		if h.PartID == m.Part {
			held = h.N
		}
	}
	stock, err := tx.Stock(m.Part)
	if err != nil {
		return err
	}
	if m.N > held+stock.Free() {
		return s.notFree(tx, m.Part, m.N, stock)
	}
	if err := s.take(tx, a, m.Job, m.Part, m.N-held); err != nil {
		return err
	}
	out.Shelf, out.Held, out.Tested = -m.N, -m.N, -min(stock.Tested, m.N)
	return s.BookMovement(tx, a, out, m.Serials...)
}

// unfit puts a piece back on the shelf that was noted as fitted for a job, and holds it again.
func (s *Stock) unfit(tx store.Tx, a base.Actor, m *Moving, out store.Movement) error {
	holds, err := tx.HoldsOf(m.Job)
	if err != nil {
		return err
	}
	for _, h := range holds {
		if h.PartID == m.Part && m.N <= h.Fitted {
			out.Shelf, out.Held = m.N, m.N
			return s.BookMovement(tx, a, out, m.Serials...)
		}
	}
	return hw.Faults{{Pointer: "/n", Text: "not so many were fitted for " + base.Label(m.Job)}}
}

// notFree says for whom the pieces are kept that somebody wants to take.
func (s *Stock) notFree(tx store.Tx, part string, n int, stock store.Stock) error {
	text := fmt.Sprintf("%d wanted, %d on the shelf", n, stock.Shelf)
	if stock.Held > 0 {
		holds, err := tx.Holds()
		if err != nil {
			return err
		}
		var words []string
		for _, h := range holds {
			if h.PartID == part && h.N > 0 {
				words = append(words, fmt.Sprintf("%d for %s", h.N, base.Label(h.JobID)))
			}
		}
		text += ", of which are kept " + strings.Join(words, ", ")
	}
	return hw.Faults{{Pointer: "/n", Text: text, Kind: hw.FaultRange}}
}

func tooMany(pointer string, n, most int, what string) error {
	return hw.Faults{{Pointer: pointer, Text: fmt.Sprintf("%d wanted, %d %s", n, most, what), Kind: hw.FaultRange}}
}

// CountLine is one part of a count of the shelf: what the page said lies there, and what does.
type CountLine struct {
	Part         string
	Seen, Counts int
}

// CountShelf books the differences of a count, with a reason. The error is hw.Faults where pieces
// moved since the list was made, or where no reason is given; nothing is booked then.
func (s *Stock) CountShelf(ctx context.Context, a base.Actor, token string, lines []CountLine, reason string) error {
	reason = strings.TrimSpace(reason)
	_, err := s.Once(ctx, token, func(tx store.Tx) (string, error) {
		var faults hw.Faults
		differ := false
		for _, l := range lines {
			stock, err := tx.Stock(l.Part)
			if err != nil {
				return "", err
			}
			at := "/count/" + hw.EscapePointer(l.Part)
			if stock.Shelf != l.Seen {
				faults.Add(at, hw.FaultConflict, fmt.Sprintf("%d lay there when the list was made", l.Seen),
					fmt.Sprintf("%d by now: count this one again", stock.Shelf))
			}
			if l.Counts < 0 || l.Counts > maxPieces {
				faults.Add(at, hw.FaultRange, strconv.Itoa(l.Counts), fmt.Sprintf("from 0 to %d", maxPieces))
			}
			differ = differ || l.Counts != l.Seen
		}
		if differ && reason == "" {
			faults.Add("/reason", hw.FaultMissing, "",
				"why the shelf differs, such as a piece broken or a delivery not booked")
		}
		if utf8.RuneCountInString(reason) > base.MaxText {
			faults.Add("/reason", hw.FaultRange, "the text", fmt.Sprintf("at most %d characters", base.MaxText))
		}
		if err := faults.Err(); err != nil {
			return "", err
		}
		for _, l := range lines {
			if err := s.bookCount(tx, a, l, reason); err != nil {
				return "", err
			}
		}
		return "counted", nil
	})
	return err
}

// bookCount books one difference. Where fewer lie there than are kept for jobs, the job that comes
// last loses its own first.
func (s *Stock) bookCount(tx store.Tx, a base.Actor, l CountLine, reason string) error {
	if l.Counts == l.Seen {
		return nil
	}
	stock, err := tx.Stock(l.Part)
	if err != nil {
		return err
	}
	holds, err := tx.Holds()
	if err != nil {
		return err
	}
	for i := len(holds) - 1; i >= 0 && stock.Held > l.Counts; i-- {
		h := holds[i]
		if h.PartID != l.Part || h.N == 0 {
			continue
		}
		n := min(h.N, stock.Held-l.Counts)
		err := s.BookMovement(tx, a, store.Movement{PartID: l.Part, Kind: string(Released), Held: -n, JobID: &h.JobID,
			Note: "fewer lie there than were kept: " + reason})
		if err != nil {
			return err
		}
		stock.Held -= n
	}
	err = s.BookMovement(tx, a, store.Movement{PartID: l.Part, Kind: string(Counted), Shelf: l.Counts - l.Seen,
		Tested: -max(0, stock.Tested-l.Counts), Note: reason})
	if err != nil || l.Counts < l.Seen {
		return err
	}
	return s.allot(tx, a, l.Part, 0)
}
