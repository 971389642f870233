package form

import (
	"testing"
	"time"
)

// TestPromise reads days and times the way people say them; 14 May 2026 is a Thursday.
func TestPromise(t *testing.T) {
	now := time.Date(2026, 5, 14, 11, 20, 0, 0, time.UTC)
	for in, want := range map[string]string{
		"today 16:30": "2026-05-14 16:30", "tomorrow": "2026-05-15 17:00", "fri 12:00": "2026-05-15 12:00",
		"thursday": "2026-05-21 17:00", "Wed, 9h": "2026-05-20 09:00",
		"22 May": "2026-05-22 17:00", "22.5. 17:15": "2026-05-22 17:15", "2026-06-02": "2026-06-02 17:00",
		"3 feb": "2027-02-03 17:00", "22 May 26, 9:30": "2026-05-22 09:30", "22 may 2027": "2027-05-22 17:00",
		"3": "2026-06-03 17:00", "16.30": "! month", "16:30": "2026-05-14 16:30",
		"mon 16": "2026-05-18 16:00", "tomorrow 15": "2026-05-15 17:00", "tomorrow 16": "2026-05-15 16:00",
		"fri 15": "2026-05-15 17:00", "22 May 9": "2026-05-22 09:00",
		"fri 22 May": "2026-05-22 17:00", "22 May fri 8:00": "2026-05-22 08:00", "mon 22 May": "!", "fri 12:00 13:00": "!",
		"fri mon": "!", "mon 30": "!", "22 May 23 May": "!", "fri noon": "!", "fri 12:00 please": "!",
		"soon": "!", "31 feb": "!", "fri 25:00": "!", "thu2": "!", "": "!", "99": "!",
	} {
		got, err := Promise(in, now)
		if want[0] == '!' {
			if err == nil && want == "!" {
				t.Errorf("%q is read as %v", in, got)
			}
			continue
		}
		if err != nil || got.Format("2006-01-02 15:04") != want {
			t.Errorf("%q: %v %v, want %s", in, got, err, want)
		}
	}
}

// TestDate reads days that were; what is still to come is none.
func TestDate(t *testing.T) {
	for in, want := range map[string]string{"today": "2026-05-14", "yesterday": "2026-05-13", "thu": "2026-05-07",
		"wed": "2026-05-13", "fri": "2026-05-08", "14 May 26": "2026-05-14", "2026-05-02": "2026-05-02", "3 feb": "2026-02-03",
		"20 Dec": "2025-12-20", "20 Dec 26": "", "2027-01-01": "", "31.12.": "2025-12-31", "soon": ""} {
		f := New(map[string][]string{"on": {in}})
		f.Now = time.Date(2026, 5, 14, 11, 20, 0, 0, time.UTC)
		if got := f.Date("on"); got != want || (want == "") != (f.Count() > 0) {
			t.Errorf("%q: %q %v, want %q", in, got, f.Faults, want)
		}
	}
}
