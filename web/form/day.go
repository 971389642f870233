package form

import (
	"errors"
	"fmt"
	"regexp"
	"strconv"
	"strings"
	"time"

	"yembo/core/hw"
)

var (
	clockWord = regexp.MustCompile(`^([0-2]?[0-9])[:.h]([0-5][0-9])?$`)
	yearWord  = regexp.MustCompile(`^(?:20)?[0-9]{2}$`)
	dayMonth  = regexp.MustCompile(`^([0-3]?[0-9])(?:[./-]([01]?[0-9])(?:[./-](20[0-9]{2})?)?)?$`)
)

// Weekdays are the days of the week by their numbers.
var Weekdays = []string{"sunday", "monday", "tuesday", "wednesday", "thursday", "friday", "saturday"}

var months = []string{"jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec"}

// Promise reads when something is promised, the way people say it: "today 16:30",
// "tomorrow", "fri 12:00", "22 May", "22.5. 17:00", "2026-05-22". A day without a time is
// until five. The error says what can be said.
func Promise(text string, now time.Time) (time.Time, error) {
	at, _, err := Said(text, now)
	return at, err
}

// Said is Promise, and whether the time was said with the day.
func Said(text string, now time.Time) (at time.Time, timed bool, err error) {
	cannot := errors.New("not a time; use today 16:30, fri 12:00, 22 May or 2026-05-22")
	day := time.Date(now.Year(), now.Month(), now.Day(), 0, 0, 0, 0, now.Location())
	clock := time.Duration(17) * time.Hour
	words := strings.Fields(strings.ToLower(text))
	if len(words) == 0 {
		return time.Time{}, false, cannot
	}
	today := day
	var named, dated bool // the day by its name, by its date
	for i := 0; i < len(words); i++ {
		w := strings.TrimSuffix(words[i], ",")
		if d, ok := saidDay(w, today); ok {
			if named || dated && d.Weekday() != day.Weekday() {
				return time.Time{}, false, twice(w, "another day is said before it")
			}
			if named = true; !dated {
				day = d
			}
			continue
		}
		if m := clockWord.FindStringSubmatch(w); m != nil {
			if timed {
				return time.Time{}, false, twice(w, "another time is said before it")
			}
			timed = true
			hour, _ := strconv.Atoi(m[1])
			minute, _ := strconv.Atoi("0" + m[2])
			if hour > 23 {
				return time.Time{}, false, cannot
			}
			clock = time.Duration(hour)*time.Hour + time.Duration(minute)*time.Minute
			continue
		}
		m := dayMonth.FindStringSubmatch(w)
		if m == nil {
			return time.Time{}, false, cannot
		}
		d, _ := strconv.Atoi(m[1])
		bare := m[2] == "" && monthOf(wordAt(words, i+1)) == 0
		if bare && (named || dated) && !timed && !strings.HasSuffix(w, ".") && d < 24 && (dated || d != day.Day()) {
			// After a day a number alone is the hour: the day is said already.
			clock, timed = time.Duration(d)*time.Hour, true
			continue
		}
		if dated {
			return time.Time{}, false, twice(w, "another day is said before it")
		}
		month, _ := strconv.Atoi("0" + m[2])
		year, _ := strconv.Atoi("0" + m[3])
		if month == 0 && i+1 < len(words) {
			if month = monthOf(wordAt(words, i+1)); month != 0 {
				i++
			}
			if m := yearWord.FindString(wordAt(words, i+1)); month != 0 && m != "" {
				year, _ = strconv.Atoi("20" + m[len(m)-2:])
				i++
			}
		}
		next, ok := dateOf(d, month, year, today)
		if !ok {
			return time.Time{}, false, cannot
		}
		if named && next.Weekday() != day.Weekday() {
			return time.Time{}, false, twice(w, next.Format("2 Jan")+" is a "+next.Weekday().String())
		}
		day, dated = next, true
	}
	return time.Date(day.Year(), day.Month(), day.Day(), 0, 0, 0, 0, now.Location()).Add(clock), timed, nil
}

// twice is the error of a word that does not go with what was said before it.
func twice(word, why string) error {
	return fmt.Errorf("“%s” does not go with the rest: %s; say 16:30 for a time, 22 May for a day", word, why)
}

// wordAt is one of the words, without a comma after it; "" where there are not so many.
func wordAt(words []string, i int) string {
	if i >= len(words) {
		return ""
	}
	return strings.TrimSuffix(words[i], ",")
}

// DayAhead reads a day to come out of a field, the way people say it, as 2026-05-22; "" where none is
// said or it was not understood, which is a fault of the field.
func (f *Form) DayAhead(name string, now time.Time) string {
	text := f.Text(name)
	if text == "" {
		return ""
	}
	at, err := Promise(text, now)
	if err != nil {
		f.Fault(name, "not understood: say today, fri, 22 May or 2026-05-22")
		return ""
	}
	return at.Format(time.DateOnly)
}

// saidDay reads a day by its name or its full date.
func saidDay(w string, today time.Time) (time.Time, bool) {
	switch w {
	case "today":
		return today, true
	case "tomorrow":
		return today.AddDate(0, 0, 1), true
	}
	if t, err := time.ParseInLocation("2006-01-02", w, today.Location()); err == nil {
		return t, true
	}
	for i, name := range Weekdays {
		if len(w) < 3 || !strings.HasPrefix(name, w) {
			continue
		}
		ahead := (i - int(today.Weekday()) + 7) % 7
		if ahead == 0 {
			ahead = 7 // today is said as today
		}
		return today.AddDate(0, 0, ahead), true
	}
	return time.Time{}, false
}

func monthOf(w string) int {
	for i, name := range months {
		if strings.HasPrefix(w, name) {
			return i + 1
		}
	}
	return 0
}

// dateOf is the next such day from today on, where month or year are not said.
func dateOf(day, month, year int, today time.Time) (time.Time, bool) {
	y, m := year, month
	if m == 0 {
		m = int(today.Month())
	}
	if y == 0 {
		y = today.Year()
	}
	t := time.Date(y, time.Month(m), day, 0, 0, 0, 0, today.Location())
	if t.Day() != day || int(t.Month()) != m {
		return t, false
	}
	if t.Before(today) && year == 0 {
		if month == 0 {
			t = t.AddDate(0, 1, 0)
		} else {
			t = t.AddDate(1, 0, 0)
		}
	}
	return t, true
}

// Date reads the day on which something was seen, the way people say it, as 2026-05-14: "today", "tue"
// is the last one, "12 May" that of this year or the last. "" where none is said, or it was not
// understood or is still to come, which is a fault of the field.
func (f *Form) Date(name string) string {
	text := f.Text(name)
	if text == "" {
		return ""
	}
	today := time.Date(f.Now.Year(), f.Now.Month(), f.Now.Day(), 0, 0, 0, 0, f.Now.Location())
	at, err := seenOn(text, today)
	if err != nil || at.After(today.AddDate(0, 0, 1)) { // a day's grace: clocks differ
		f.Fault(name, hw.Word(hw.FaultType, strconv.Quote(text), "a day that was, such as today, tue, 14 May or 2026-05-14"))
		return ""
	}
	return at.Format(time.DateOnly)
}

// seenOn reads a day that was.
func seenOn(text string, today time.Time) (time.Time, error) {
	word := strings.ToLower(strings.TrimSpace(text))
	if word == "yesterday" {
		return today.AddDate(0, 0, -1), nil
	}
	for i, name := range Weekdays {
		if len(word) >= 3 && strings.HasPrefix(name, word) {
			return today.AddDate(0, 0, -((int(today.Weekday())-i+6)%7)-1), nil
		}
	}
	at, err := Promise(text, today)
	if err != nil {
		return at, err
	}
	at = time.Date(at.Year(), at.Month(), at.Day(), 0, 0, 0, 0, today.Location())
	if at.After(today) && !saysYear.MatchString(word) { // without a year it is the last such day
		at = at.AddDate(-1, 0, 0)
	}
	return at, nil
}

var saysYear = regexp.MustCompile(`20[0-9]{2}|[a-z]+ [0-9]{2}$`)
