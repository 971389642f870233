package records

import (
	"context"
	"slices"
	"strconv"

	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/core/shorthand"
	"yembo/shop/base"
	"yembo/store"
)

// SettledNew in a Settlement says that it was something not yet on record, named by its line.
const SettledNew = "new"

// Settlement is what something suspected in a model turned out to be.
type Settlement struct {
	Model   string
	Version int
	ID      string // of the suspicion
	As      string // a place of the record, hw.SettledNothing, or SettledNew
	Line    string // with SettledNew: what it is, as a line of shorthand
	On      string // date it was seen, "" for today
	Photo   []byte // a picture of it, nil for none
}

// Settle writes down what something suspected was: the suspicion, the place it turned out
// to be where that is new, and the picture, all of them or none. The error is hw.Faults with
// the pointers /as, /line, /on and /photo, ErrChanged where the record was changed meanwhile.
func (s *Records) Settle(ctx context.Context, a base.Actor, token string, in Settlement) error {
	if in.On == "" {
		in.On = s.Today()
	}
	var pic *store.Photo
	if len(in.Photo) > 0 {
		r, err := s.Model(ctx, in.Model)
		if err != nil {
			return err
		}
		entry := PhotoEntry{File: in.Photo, On: in.On}
		if x := suspicion(r.Chassis, in.ID); x != nil {
			entry.Caption = x.Text
		}
		if pic, err = ReadPhoto(ctx, r.Chassis, entry); err != nil {
			return err
		}
		pic.By, pic.CreatedAt = a.Name, s.Now()
	}
	_, err := s.Once(ctx, token, func(tx store.Tx) (string, error) {
		if pic != nil {
			if _, err := s.StorePhoto(tx, a, pic); err != nil {
				return "", err
			}
		}
		return in.Model, s.ChangeModelIn(tx, a, in.Model, in.Version,
			func(before *hw.Chassis) (*hw.Chassis, base.Event, error) {
				next, err := s.settled(a, before, in)
				return next, base.Event{}, err
			})
	})
	return err
}

// settled is a record with a suspicion settled.
func (s *Records) settled(a base.Actor, before *hw.Chassis, in Settlement) (*hw.Chassis, error) {
	if suspicion(before, in.ID) == nil {
		return nil, base.ErrNotFound
	}
	if in.As == "" {
		return nil, hw.Faults{{Pointer: "/as", Text: hw.Word(hw.FaultMissing, "", "what it was")}}
	}
	next, as := before, in.As
	if as == SettledNew {
		var err error
		if next, as, err = s.newPlace(a, before, in.Line); err != nil {
			return nil, err
		}
	}
	soldered := func(x hw.Soldered) bool { return x.ID == as }
	if as != hw.SettledNothing && !next.HasPlace(as) && !slices.ContainsFunc(next.Mem().Soldered, soldered) {
		return nil, hw.Faults{{Pointer: "/as", Text: hw.Word(hw.FaultReference, strconv.Quote(as), "place")}}
	}
	entry := ItemEntry{List: "suspected", Before: in.ID,
		Fields: map[string]any{"id": in.ID, "settled/as": as, "settled/on": in.On, "settled/by": a.Name}}
	typed, err := withItem(next, entry)
	if err != nil {
		return nil, err
	}
	known := hw.Finding{Source: hw.Bench, On: in.On, By: a.Name}
	return evidence.Record(next, typed, entry.covers(), func(string) (hw.Finding, bool) { return known, false },
		hw.SetAside{On: in.On, By: a.Name, Note: "settled"})
}

// placesSettled are the lists of a record that something suspected may turn out to be in.
var placesSettled = []string{"memory/sockets", "memory/soldered", "slots", "bays", "batteries"}

// newPlace brings a line into a record, and returns the id of the place it speaks of.
func (s *Records) newPlace(a base.Actor, before *hw.Chassis, line string) (*hw.Chassis, string, error) {
	wrong := func(text string) error { return hw.Faults{{Pointer: "/line", Text: text}} }
	look, err := s.LookAtLines(a, before, line, shorthand.Source{Name: hw.Bench})
	switch {
	case err != nil:
		return nil, "", err
	case len(look.Faults) > 0:
		return nil, "", wrong(look.Faults[0].Error())
	case len(look.Wrong) > 0:
		return nil, "", wrong(look.Wrong[0].Text)
	}
	for _, l := range look.Lines {
		for _, item := range l.Items {
			if item.ID != "" && slices.Contains(placesSettled, item.List) {
				return look.Next, item.ID, nil
			}
		}
	}
	return nil, "", wrong("a line is missing that says what it is, such as dimm3 sodimm")
}

func suspicion(ch *hw.Chassis, id string) *hw.Suspected {
	for i := range ch.Suspected {
		if ch.Suspected[i].ID == id {
			return &ch.Suspected[i]
		}
	}
	return nil
}

// Suspicion returns what is suspected under an id, with the record it stands in.
func (s *Records) Suspicion(ctx context.Context, model, id string) (ModelRecord, *hw.Suspected, error) {
	r, err := s.Model(ctx, model)
	if err != nil {
		return r, nil, err
	}
	if found := suspicion(r.Chassis, id); found != nil {
		return r, found, nil
	}
	return r, nil, base.ErrNotFound
}
