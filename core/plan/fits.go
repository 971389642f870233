package plan

import (
	"context"
	"slices"

	"yembo/core/hw"
)

// Fit is what the places of a machine answer to a part, taken together.
type Fit uint8

// The fits: no place takes it, no place takes it for sure and of one it is not known, a place takes it.
const (
	FitNo Fit = iota
	FitNotKnown
	FitYes
)

// Fits says for each part of the list whether some place of the chassis takes it, whatever is wanted
// and whatever is on the shelf; an accessory fits where a place needs what it gives.
func Fits(ctx context.Context, in Input) ([]Fit, error) {
	s, err := newSearch(in)
	if err != nil {
		return nil, err
	}
	all := [kinds]bool{}
	for k := range all {
		all[k] = true
	}
	if err := s.judge(ctx, all); err != nil {
		return nil, err
	}
	out := make([]Fit, len(in.Parts.Parts))
	for i := range in.Parts.Parts {
		if name := in.Parts.Parts[i].Provides; name != "" && slices.Contains(s.needNames, name) {
			out[i] = FitYes
			continue
		}
		for _, v := range s.tables[i] {
			switch {
			case v.Fits():
				out[i] = FitYes
			case v.Severity() == hw.NotKnown && out[i] == FitNo:
				out[i] = FitNotKnown
			}
		}
	}
	return out, nil
}
