package counter

import (
	"testing"
	"time"
)

// testNow is when the tests take place.
var testNow = time.Date(2026, 5, 14, 11, 20, 0, 0, time.UTC)

// TestTraces: a measurement is its machine's, is forgotten in time, and not too many run.
func TestTraces(t *testing.T) {
	var all traces
	id, _ := all.begin("one", testNow)
	all.add(id, 5_000_000)
	if tr, ok := all.of(id, "one"); !ok || tr.Seconds != 1 {
		t.Errorf("%+v %v", tr, ok)
	}
	if _, ok := all.of(id, "two"); ok {
		t.Error("another machine's measurement is taken")
	}
	if all.add("nobody", 5_000_000).Seconds != 0 {
		t.Error("a measurement that never began goes on")
	}
	for range maxTraces - 1 {
		if _, ok := all.begin("one", testNow); !ok {
			t.Fatal("refused too early")
		}
	}
	if _, ok := all.begin("one", testNow); ok {
		t.Error("too many run at once")
	}
	if _, ok := all.begin("one", testNow.Add(keepTrace+1)); !ok {
		t.Error("the old ones are never forgotten")
	}
	if _, ok := all.of(id, "one"); ok {
		t.Error("an old measurement can still be taken")
	}
}
