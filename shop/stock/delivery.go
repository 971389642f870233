package stock

import (
	"context"
	"fmt"
	"strings"
	"unicode/utf8"

	"yembo/core/hw"
	"yembo/shop/base"
	"yembo/store"
)

// Delivery is when an order is expected, and whether the supplier has said so.
type Delivery struct {
	Expected  base.Due
	Confirmed bool
	Note      string
}

// check adds the faults of what cannot be.
func (d *Delivery) check(faults *hw.Faults) {
	d.Note = strings.TrimSpace(d.Note)
	d.Expected.Check(faults, "/expected")
	if d.Confirmed && d.Expected == "" {
		faults.Add("/expected", hw.FaultMissing, "", "the day that the supplier has confirmed")
	}
	if utf8.RuneCountInString(d.Note) > base.MaxText {
		faults.Add("/note", hw.FaultRange, "the text", fmt.Sprintf("at most %d characters", base.MaxText))
	}
}

func deliveryOf(row *store.Order) Delivery {
	return Delivery{base.Due(row.ExpectedOn), row.Confirmed, row.Note}
}

// words say when it is expected.
func (d *Delivery) words() string {
	switch {
	case d.Expected == "":
		return "when it comes is not said"
	case d.Confirmed:
		return "confirmed for " + d.Expected.Words()
	}
	return "expected " + d.Expected.Words()
}

// Expect says when an order is expected now. The error is ErrChanged where somebody changed the
// order since version.
func (s *Stock) Expect(ctx context.Context, a base.Actor, token string, id int64, version int, d Delivery) error {
	var faults hw.Faults
	d.check(&faults)
	if err := faults.Err(); err != nil {
		return err
	}
	_, err := s.Once(ctx, token, func(tx store.Tx) (string, error) {
		row, err := tx.Order(id)
		if err != nil {
			return "", err
		}
		if row.Version != version {
			return "", base.ErrChanged
		}
		was := base.Due(row.ExpectedOn)
		row.ExpectedOn, row.Confirmed, row.Note = string(d.Expected), d.Confirmed, d.Note
		row.Version++
		if err := tx.SaveOrder(&row, version); err != nil {
			return "", err
		}
		return fmt.Sprint(id), s.Note(tx, a, "order", fmt.Sprint(id), d.words()+", before "+base.OrWord(was.Words(), "not said"), nil)
	})
	return err
}
