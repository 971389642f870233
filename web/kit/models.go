package kit

import (
	"context"
	"strings"

	"yembo/shop/records"
)

// MaxFound is how many models and machines are offered; more words find the others.
const MaxFound = 30

// MaxProposed is how many models or customers are proposed while one types.
const MaxProposed = 200

// ModelNamed finds the model that is typed: by its id, its name in any case, a code of its own, or as the only one with
// these words; "" for none or several.
func (s *Site) ModelNamed(ctx context.Context, text string) (string, error) {
	found, err := s.Shop.Briefs(ctx, text, MaxFound)
	if err != nil {
		return "", err
	}
	for i := range found {
		if found[i].ID == text || strings.EqualFold(found[i].Name, text) {
			return found[i].ID, nil
		}
	}
	if id := ModelOfCode(found, text); id != "" {
		return id, nil
	}
	if len(found) == 1 {
		return found[0].ID, nil
	}
	return "", nil
}

// ModelOfCode finds the one model with that very code, "" for none or several.
func ModelOfCode(found []records.Brief, code string) string {
	id := ""
	for i := range found {
		for _, own := range append([]string{found[i].Code}, found[i].Covers...) {
			if own != "" && strings.EqualFold(own, code) {
				if id != "" && id != found[i].ID {
					return ""
				}
				id = found[i].ID
			}
		}
	}
	return id
}
