package base

import (
	"strings"
	"testing"
	"time"
	"yembo/core/hw"
)

// TestWorked: a night and a weekend are no part of how long work goes on.
func TestWorked(t *testing.T) {
	at := func(day, hour, minute int) time.Time { return time.Date(2026, 5, day, hour, minute, 0, 0, time.UTC) }
	for _, c := range []struct {
		from, to time.Time
		want     time.Duration
	}{
		{at(14, 11, 8), at(14, 11, 20), 12 * time.Minute},
		{at(14, 17, 46), at(15, 3, 0), 14 * time.Minute},
		{at(15, 17, 46), at(18, 9, 10), 24 * time.Minute},
		{at(14, 19, 0), at(14, 19, 10), 10 * time.Minute}, // somebody stays late
		{at(13, 9, 0), at(15, 9, 0), 18 * time.Hour},
	} {
		if got := (Floor{}).Worked(c.from, c.to); got != c.want {
			t.Errorf("from %v to %v it is %v", c.from, c.to, got)
		}
	}
}

// TestSpells: closed days and absences as they are typed, and what cannot be.
func TestSpells(t *testing.T) {
	text := "2026-12-24 to 2027-01-02  holidays\r\n\n2026-05-14"
	var faults hw.Faults
	got := ParseSpells("/closed", text, nil, &faults)
	if back := SpellLines(got); len(faults) > 0 || back != "2026-12-24 to 2027-01-02 holidays\n2026-05-14" {
		t.Errorf("%q, %v", back, faults)
	}
	away := ParseSpells("/away", "t. ansty: 2026-08-03 to 2026-08-14 at sea", []string{"R. Okell", "T. Ansty"}, &faults)
	if len(faults) > 0 || len(away) != 1 || away[0] != (Spell{"T. Ansty", "2026-08-03", "2026-08-14", "at sea"}) {
		t.Errorf("%+v, %v", away, faults)
	}
	for line, says := range map[string]string{"tomorrow": "line 1: a day such as", "2026-02-30": "line 1: a day such as",
		"2026-05-14 to 2026-05-13": "ends before it begins", "2026-05-14 until Friday": "", "X: 2026-05-14": "a name and a colon"} {
		var faults hw.Faults
		var people []string
		if line[0] == 'X' {
			people = []string{"R. Okell"}
		}
		ParseSpells("/x", line, people, &faults)
		if (len(faults) == 0) != (says == "") || len(faults) > 0 && !strings.Contains(faults[0].Text, says) {
			t.Errorf("%q: %v", line, faults)
		}
	}
	how := Settings{Closed: got, Break: "12:00-13:00"}
	now := time.Date(2026, 5, 13, 10, 0, 0, 0, time.UTC)
	if doubt := how.Doubt(time.Date(2026, 12, 24, 11, 0, 0, 0, time.UTC), now); !strings.Contains(doubt,
		"closed that day: holidays") {
		t.Errorf("a promise for a closed day: %q", doubt)
	}
	for text, ok := range map[string]bool{"12:00-13:00": true, "12:00 – 13:00": true, "13:00-12:00": false, "8:00-9:00": false,
		"08:00-08:30": false, "": true} {
		var faults hw.Faults
		how.Break = text
		if how.checkHours(&faults); (len(faults) == 0) != ok {
			t.Errorf("a break at %q: %v", text, faults)
		}
	}
}
