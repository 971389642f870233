package jobs

import (
	"yembo/core/hw"
	"yembo/shop/stock"
	"yembo/store"
)

// JobPart is a part that a job's option takes, with how far it is.
type JobPart struct {
	Part                string
	Name                string
	Doc                 *hw.Part
	Asked, Held, Fitted int
	Untested            int         // used pieces among them that nobody has tested
	Lack                *stock.Lack // what of it is not there, nil for nothing
}

// partsOf lists what a job's option takes.
func (s *Jobs) partsOf(tx store.Tx, r *MachineRecord, lacks []stock.Lack) ([]JobPart, error) {
	if r.Choice == nil {
		return nil, nil
	}
	seen, err := s.ShelfNow(tx)
	if err != nil {
		return nil, err
	}
	holds, err := tx.HoldsOf(r.JobID)
	if err != nil {
		return nil, err
	}
	out := make([]JobPart, len(r.Choice.Option.Buy))
	for i, b := range r.Choice.Option.Buy {
		doc := seen.Doc(b.Part)
		out[i] = JobPart{Part: b.Part, Name: doc.Name, Doc: doc, Asked: b.Quantity, Untested: seen.Untested(b.Part, b.Quantity)}
		for _, h := range holds {
			if h.PartID == b.Part {
				out[i].Held, out[i].Fitted = h.N, h.Fitted
			}
		}
		for k := range lacks {
			if lacks[k].Part == b.Part {
				out[i].Lack = &lacks[k]
			}
		}
	}
	return out, nil
}
