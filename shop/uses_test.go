package shop_test

import (
	"testing"
	"time"

	"yembo/shop/jobs"
)

// TestUses: what parts fit and whom they would help is worked out aside by the core's own rules, and
// anew when what it rests on has changed.
func TestUses(t *testing.T) {
	s := workshop(t)
	settled := func() jobs.Uses {
		for range 200 {
			u, err := s.Uses(t.Context())
			if err != nil {
				t.Fatal(err)
			}
			if !u.Working && u.Models > 0 {
				return u
			}
			time.Sleep(20 * time.Millisecond)
		}
		t.Fatal("it does not end")
		return jobs.Uses{}
	}
	u := settled()
	if u.Models != 9 || u.Machines == 0 || u.Fits["cv-d4-8"] == 0 || u.Fits["cv-d4-8"] == 9 ||
		u.Fits["cv-d4-16-e"] == u.Fits["cv-d4-16"] {
		t.Errorf("%+v", u)
	}
	if len(u.Helps["cv-d4-16"]) == 0 || u.Helps["cv-d4-16"][0].Gains == "" {
		t.Errorf("helps: %+v", u.Helps)
	}
	id := enter(t, s, module("Corvane other", 16, 1), 0)
	if _, err := s.Uses(t.Context()); err != nil {
		t.Fatal(err)
	}
	if again := settled(); again.Fits[id] != u.Fits["cv-d4-16"] {
		t.Errorf("the new part fits %d models, its like %d", again.Fits[id], u.Fits["cv-d4-16"])
	}
}
