package power

import (
	"testing"

	"yembo/core/hw"
)

// TestTrace: an hour at 8 W and one at 12 W is 20 Wh, 10 W in the mean; a reading that
// cannot be is left out.
func TestTrace(t *testing.T) {
	var tr Trace
	if tr.Mean() != 0 || tr.Wh() != 0 {
		t.Error("an empty trace has a mean")
	}
	for i := range 7200 {
		tr.Add(hw.DecOf(8 + 4*(i%2)))
	}
	tr.Add(hw.DecOf(-1))
	tr.Add(hw.DecOf(5000))
	if tr.Mean() != hw.DecOf(10) || tr.Wh() != hw.DecOf(20) || tr.Min != hw.DecOf(8) || tr.Max != hw.DecOf(12) ||
		tr.Seconds != 7200 {
		t.Errorf("%+v: %v W, %v Wh", tr, tr.Mean(), tr.Wh())
	}
	// From nothing to what a machine can draw; the first reading is lowest and highest.
	var edges Trace
	edges.Add(hw.DecOf(2000))
	if edges.Min != hw.DecOf(2000) || edges.Max != hw.DecOf(2000) {
		t.Errorf("after one reading of 2000 W: %+v", edges)
	}
	edges.Add(0)
	edges.Add(hw.DecOf(2000) + 1)
	edges.Add(-1)
	if edges.Seconds != 2 || edges.Min != 0 {
		t.Errorf("0 and 2000 W are readings, less and more are not: %+v", edges)
	}
	for range 25 * 3600 {
		edges.Add(hw.DecOf(1))
	}
	if edges.Seconds != 24*3600 {
		t.Errorf("a trace goes on for %d s, at most a day is kept", edges.Seconds)
	}
	// 0.95 × 39.2 ÷ 8.4 = 4.43
	if h := HoursAt(hw.DecOf(392)/10, hw.DecOf(84)/10); h != hw.Known(hw.DecOf(44)/10) ||
		HoursAt(hw.DecOf(40), 0).IsKnown() {
		t.Errorf("39.2 Wh at 8.4 W last %v h", h)
	}
}
