package shop

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"image/jpeg"

	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/core/reading"
	"yembo/exchange"
	"yembo/store"
)

// mostFound is how many faults a check names.
const mostFound = 50

// errEnough ends a check that has found enough.
var errEnough = errors.New("that is enough")

// Check reads everything that is stored: each document against its schema and against what it
// refers to, each picture, and the shelf against its movements. It returns what is wrong, a line
// each, at most 50.
func (s *Shop) Check(ctx context.Context) ([]string, error) {
	c := &checker{models: map[string]*hw.Chassis{}}
	err := s.store.View(ctx, func(tx store.Tx) error {
		for _, part := range []func(store.Tx) error{c.checkModels, c.checkMachines, c.checkJobs, c.checkRest,
			c.checkShelf} {
			if err := part(tx); err != nil {
				return err
			}
			if err := ctx.Err(); err != nil {
				return err
			}
		}
		return nil
	})
	if errors.Is(err, errEnough) {
		err = nil
	}
	return c.found, err
}

type checker struct {
	found  []string
	models map[string]*hw.Chassis
}

// tell notes what is wrong with a record, nothing for nil.
func (c *checker) tell(what string, err error) error {
	if err == nil {
		return nil
	}
	var faults hw.Faults
	if !errors.As(err, &faults) {
		faults = hw.Faults{{Text: err.Error()}}
	}
	for _, f := range faults {
		if len(c.found) == mostFound {
			return errEnough
		}
		c.found = append(c.found, what+": "+f.Error())
	}
	return nil
}

func (c *checker) checkModels(tx store.Tx) error {
	return store.Each(tx, func(row *store.Model) error {
		ch := &hw.Chassis{}
		err := json.Unmarshal(row.Doc, ch)
		if err == nil {
			c.models[row.ID] = ch
			err = exchange.CheckWhole(ch)
		}
		return c.tell("model "+row.ID, err)
	})
}

func (c *checker) checkMachines(tx store.Tx) error {
	return store.Each(tx, func(row *store.Machine) error {
		_, err := exchange.ReadMachine(row.Doc, c.models[row.ModelID])
		return c.tell("machine "+row.ID, err)
	})
}

func (c *checker) checkJobs(tx store.Tx) error {
	return store.Each(tx, func(row *store.Job) error {
		wish, choice := &hw.Request{}, &Choice{}
		err := errors.Join(json.Unmarshal(row.Wish, wish), json.Unmarshal(row.Details, &Details{}),
			json.Unmarshal(row.State, &State{}))
		if err == nil && row.Choice != nil {
			err = json.Unmarshal(row.Choice, choice)
		}
		if err == nil && wish.Asks() {
			err = hw.ValidateRequest(wish, nil).Err()
		}
		if err == nil && row.Choice != nil {
			err = checkOption(&choice.Option)
		}
		return c.tell("job "+Label(row.ID), err)
	})
}

// checkOption looks at a chosen option as it would stand in its plan.
func checkOption(o *plan.Option) error {
	if o.TotalCents < 0 || o.PartsCents < 0 || o.LabourCents < 0 {
		return errors.New("its option costs less than nothing")
	}
	for _, b := range o.Buy {
		if b.Part == "" || b.Quantity < 1 {
			return fmt.Errorf("its option takes %d × %q", b.Quantity, b.Part)
		}
	}
	return nil
}

func (c *checker) checkRest(tx store.Tx) error {
	err := store.Each(tx, func(row *store.Reading) error {
		var o reading.Observed
		return c.tell(fmt.Sprint("reading ", row.ID), exchange.Read("observed", row.Doc, &o))
	})
	if err != nil {
		return err
	}
	return store.Each(tx, func(row *store.Photo) error {
		_, errF := jpeg.Decode(bytes.NewReader(row.Full))
		_, errT := jpeg.Decode(bytes.NewReader(row.Thumb))
		err := errors.Join(errF, errT)
		if err == nil && sumOf(row.Full) != row.Sum {
			err = errors.New("it is not the picture that was stored")
		}
		return c.tell(fmt.Sprint("photo ", row.ID), err)
	})
}

// checkShelf holds the shelf against its movements.
func (c *checker) checkShelf(tx store.Tx) error {
	err := store.Each(tx, func(row *store.Part) error {
		p, err := readPart(row)
		if err == nil {
			l := lineOf(row, p)
			err = l.check().Err()
		}
		return c.tell("part "+row.ID, err)
	})
	if err != nil {
		return err
	}
	sums := map[string]store.Stock{}
	err = store.Each(tx, func(m *store.Movement) error {
		x := sums[m.PartID]
		sums[m.PartID] = store.Stock{PartID: m.PartID, Shelf: x.Shelf + m.Shelf, Held: x.Held + m.Held,
			Tested: x.Tested + m.Tested}
		return nil
	})
	if err != nil {
		return err
	}
	stocks, err := tx.Stocks()
	if err != nil {
		return err
	}
	for id, x := range stocks {
		if x != sums[id] {
			err := c.tell("part "+id, fmt.Errorf("%d lie on the shelf and %d are kept; its movements come to %d and %d",
				x.Shelf, x.Held, sums[id].Shelf, sums[id].Held))
			if err != nil {
				return err
			}
		}
	}
	return nil
}
