package records

import (
	"context"
	"strings"

	"yembo/core/doc"
	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/shop/base"
)

// ItemEntry is one thing of a record as entered: a slot, a bay, a step. List is its
// list in the document ("slots", "memory/sockets"), Before its id there ("" for a new
// one), Fields its fields as they stand in the document. A nil Fields takes it out. An
// entry with no List changes fields of the record itself.
type ItemEntry struct {
	Model   string
	Version int
	List    string
	Before  string
	Fields  map[string]any
	How     func(path string) (source hw.Source, on, note string, anew bool)
}

// RecordItem stores one thing of a record: all else stays as it is. Findings are
// added for what is new or known from elsewhere now; those of a thing taken out are
// set aside. The error is hw.Faults, with pointers into the record, where something
// cannot be, ErrChanged where the record was changed meanwhile.
func (s *Records) RecordItem(ctx context.Context, a base.Actor, token string, in ItemEntry) error {
	return s.changeModel(ctx, a, token, in.Model, in.Version, func(before *hw.Chassis) (*hw.Chassis, base.Event, error) {
		typed, err := withItem(before, in)
		if err != nil {
			return nil, base.Event{}, err
		}
		next, err := evidence.Record(before, typed, in.covers(), s.knownAs(a, in.How),
			hw.SetAside{On: s.Today(), By: a.Name, Note: in.asideNote()})
		return next, base.Event{}, err
	})
}

func (in *ItemEntry) asideNote() string {
	if in.Fields == nil {
		return "taken out of the record"
	}
	return "cleared in the record"
}

// covers says which paths the entry speaks of: those of the thing, under its old and
// its new id, or the fields of the record itself that were entered.
func (in *ItemEntry) covers() func(path string) bool {
	if in.List == "" {
		return func(path string) bool {
			name, _, _ := strings.Cut(strings.TrimPrefix(path, "/"), "/")
			_, entered := in.Fields[name]
			return entered
		}
	}
	id, _ := in.Fields["id"].(string)
	return func(path string) bool {
		return (in.Before != "" && evidence.Within(path, "/"+in.List+"/"+in.Before)) ||
			(id != "" && evidence.Within(path, "/"+in.List+"/"+id))
	}
}

// withItem returns the record with the entry in place. A field entered as nil is not
// known.
func withItem(before *hw.Chassis, in ItemEntry) (*hw.Chassis, error) {
	tree := doc.Of(before)
	item := tree
	switch {
	case in.List == "":
	case in.Before == "":
		item = doc.Tree{}
		if in.Fields != nil {
			tree.Add(in.List, item)
		}
	default:
		if item = tree.Item(in.List, in.Before); item == nil {
			return nil, base.ErrNotFound
		}
		if in.Fields == nil {
			tree.Drop(in.List, in.Before)
		}
	}
	for name, value := range in.Fields {
		item.Set(name, value)
	}
	var ch hw.Chassis
	if err := tree.Into(&ch); err != nil {
		return nil, hw.Faults{{Text: err.Error()}}
	}
	return &ch, nil
}
