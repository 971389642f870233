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
		if got := (&Settings{}).Worked(c.from, c.to); got != c.want {
			t.Errorf("from %v to %v it is %v", c.from, c.to, got)
		}
	}
}

// TestSpells: closed days and absences as they are typed, and what cannot be.
func TestSpells(t *testing.T) {
	text := "2026-12-24 to 2027-01-02  holidays\r\n\n2026-05-14"
	var faults hw.Faults
	got := ParseSpells("/closed", text, nil, nil, &faults)
	if back := SpellLines(got); len(faults) > 0 || back != "2026-12-24 to 2027-01-02 holidays\n2026-05-14" {
		t.Errorf("%q, %v", back, faults)
	}
	// Who has left may stand there on.
	away := ParseSpells("/away", "t. ansty: 2026-08-03 to 2026-08-14 at sea", []string{"R. Okell"}, []string{"T. Ansty"}, &faults)
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
		ParseSpells("/x", line, people, nil, &faults)
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
	if doubt := how.Doubt(time.Date(2026, 6, 8, 12, 30, 0, 0, time.UTC), now); !strings.Contains(doubt,
		"open from 09:00 to 12:00 and 13:00 to 18:00") {
		t.Errorf("a promise for the break: %q", doubt)
	}
}

// TestPastedCalendar: the whole days of a calendar are taken as closed days, beside lines that are typed; what repeats, has hours
// or is no calendar is told.
func TestPastedCalendar(t *testing.T) {
	calendar := func(events string) string {
		return "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:x\r\n" + events + "END:VCALENDAR\r\n"
	}
	event := func(lines string) string {
		return "BEGIN:VEVENT\r\nUID:" + lines[:12] + "\r\n" + lines + "END:VEVENT\r\n"
	}
	for _, c := range []struct{ text, lines, fault string }{
		{calendar(event("DTSTART;VALUE=DATE:20261224\r\nDTEND;VALUE=DATE:20261227\r\nSUMMARY:winter\r\n")+
			event("DTSTART;VALUE=DATE:20270101\r\n")+event("DTSTART:20270105T100000Z\r\n")+
			event("DTSTART;VALUE=DATE:20270106\r\nSTATUS:CANCELLED\r\n")) + "2026-05-14 fair",
			"2026-12-24 to 2026-12-26 winter\n2027-01-01\n2026-05-14 fair", ""},
		{calendar(event("DTSTART;VALUE=DATE:20261224\r\nRRULE:FREQ=YEARLY\r\n")), "2026-12-24", "entry repeats"},
		{calendar(""), "", "no whole days"},
		{"BEGIN:VCALENDAR\nBEGIN:VEVENT\nEND:VCALENDAR", "", "cannot be read"},
	} {
		var faults hw.Faults
		if got := SpellLines(ParseSpells("/closed", c.text, nil, nil, &faults)); got != c.lines {
			t.Errorf("%q is read as %q", c.text, got)
		}
		if (len(faults) == 0) != (c.fault == "") || len(faults) > 0 && !strings.Contains(faults[0].Text, c.fault) {
			t.Errorf("%q: %v", c.text, faults)
		}
	}
}

// TestHours: opening hours as they are typed, and what cannot be; a shop that had one opening for all days keeps it.
func TestHours(t *testing.T) {
	for _, c := range []struct{ text, lines, fault string }{
		{"mon-fri 9-18", "mon-fri 09:00-18:00", ""},
		{"Monday – wed 9:30–12.00, 13:00 - 18:00\n\nsat 9-13", "mon-wed 09:30-12:00 13:00-18:00\nsat 09:00-13:00", ""},
		{"fri,mon 8-12 12-24", "mon 08:00-24:00\nfri 08:00-24:00", ""},
		{"mon 18-9", "", "line 1: 18-9: it closes before it opens"},
		{"mon 9-13 12-18", "", "line 1: 12-18: the hours before it end later"},
		{"mon-wed 9-18\ntue 9-12", "mon-wed 09:00-18:00", "line 2: tue has a line already"},
		{"mon", "", "days and hours such as"}, {"someday 9-18", "", "days and hours such as"}, {"mon 9-25", "", "no hours"},
		{"mon 9:5-12", "", "no hours"}, {"fri-mon 9-12", "", "days and hours such as"},
	} {
		var faults hw.Faults
		h := ParseHours("/hours", c.text, &faults)
		if h.Lines() != c.lines {
			t.Errorf("%q is read as %q", c.text, h.Lines())
		}
		if (len(faults) == 0) != (c.fault == "") || len(faults) > 0 && !strings.Contains(faults[0].Text, c.fault) {
			t.Errorf("%q: %v", c.text, faults)
		}
	}
	old := Settings{Floor: Floor{Opens: 8, Closes: 17, Days: 0b1000010}, Break: "12:00-12:30"}
	if got := old.Open().Lines(); got != "mon 08:00-12:00 12:30-17:00\nsat 08:00-12:00 12:30-17:00" {
		t.Errorf("hours from before are %q", got)
	}
	mine := Settings{Hours: Hours{"wed": {{"08:30", "12:00"}, {"13:00", "17:15"}}}}
	if f := mine.FloorOf(); f.Opens != 8 || f.Closes != 18 || !f.Days.Has(time.Wednesday) || f.Days.Has(time.Monday) {
		t.Errorf("the floor is %+v", f)
	}
	var faults hw.Faults
	people := ParsePeopleHours("/x", "t. ansty: mon-tue 9-13\nT. Ansty: fri 9-12", []string{"T. Ansty"}, nil, &faults)
	if got := PeopleHoursLines(people); got != "T. Ansty: mon-tue 09:00-13:00\nT. Ansty: fri 09:00-12:00" || len(faults) > 0 {
		t.Errorf("%q, %v", got, faults)
	}
}
