package exchange

import (
	"os"
	"strings"
	"testing"

	"yembo/core/week"
)

// TestWeek: a request is read against its schema, and the answer is what its schema says.
func TestWeek(t *testing.T) {
	raw, err := os.ReadFile("../core/week/testdata/three.json")
	if err != nil {
		t.Fatal(err)
	}
	r, err := ReadWeek(raw)
	if err != nil {
		t.Fatal(err)
	}
	s, err := week.Make(t.Context(), r)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := WriteChecked("schedule", s); err != nil {
		t.Error(err)
	}
	for _, x := range []struct{ was, wrong, says string }{
		{`"do": "wait"`, `"do": "sleep"`, "/jobs/2/stretches/0/do"},
		{`"minutes": 10.7`, `"minutes": "ten"`, "/jobs/2/stretches/0/minutes"},
		{`"id": "wath-06"`, `"id": "Wath 06"`, "/jobs/2/id"},
		{`"alone": true`, `"alone": 1`, "/jobs/2/stretches/0/alone"},
		{`"tz": "Europe/Vienna",`, ``, "tz is missing"},
		{`"new": true`, `"knew": true`, "/jobs/2/knew"},
		{`"mon": [["09:00","18:00"]]`, `"mon": [["09:00"]]`, "/hours/mon/0"},
	} {
		if _, err := ReadWeek([]byte(strings.Replace(string(raw), x.was, x.wrong, 1))); err == nil ||
			!strings.Contains(err.Error(), x.says) {
			t.Errorf("%s: %v; want %s", x.wrong, err, x.says)
		}
	}
}
