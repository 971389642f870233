package meter

import (
	"testing"

	"yembo/core/hw"
)

// TestSimulated: the figure is never still, stays near what the machine draws, is busy now
// and then, and the same meter shows the same again.
func TestSimulated(t *testing.T) {
	a, b := NewSimulated(hw.DecOf(8), 7), NewSimulated(hw.DecOf(8), 7)
	var last hw.Dec
	still, busy := 0, 0
	for range 300 {
		w, err := a.Watts()
		again, _ := b.Watts()
		if err != nil || w != again {
			t.Fatalf("%v, the same meter shows %v (%v)", w, again, err)
		}
		if w < hw.DecOf(8) || w > hw.DecOf(16) {
			t.Errorf("%v W of a machine of 8", w)
		}
		if w == last {
			still++
		}
		if w > hw.DecOf(13) {
			busy++
		}
		last = w
	}
	if still > 100 || busy < 40 || busy > 100 {
		t.Errorf("still for %d readings, busy for %d, of 300", still, busy)
	}
}
