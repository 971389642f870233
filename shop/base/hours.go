package base

import (
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
	"time"

	"yembo/core/hw"
	"yembo/core/week"
)

// weekdays are the days of the week as hours name them, from Monday.
var weekdays = [7]string{"mon", "tue", "wed", "thu", "fri", "sat", "sun"}

// dayNumber is where a day of the week stands in weekdays.
func dayNumber(day time.Weekday) int { return (int(day) + 6) % 7 }

// Hours are from when to when somebody is there on each day of the week ("mon"): times of the wall clock such as 09:00, in
// order, the last at most 24:00.
type Hours map[string][][2]string

// On are the hours of a day of the week.
func (h Hours) On(day time.Weekday) [][2]string { return h[weekdays[dayNumber(day)]] }

// ParseHours reads a line for a day or several: "mon-fri 9:00-12:30 13:00-18:00", "sat 9-13". Empty lines count for nothing.
// Faults say which line, at a pointer.
func ParseHours(at, text string, faults *hw.Faults) Hours {
	out := Hours{}
	for i, line := range strings.Split(text, "\n") {
		if line = strings.TrimSpace(line); line == "" {
			continue
		}
		if err := out.add(line); err != nil {
			*faults = append(*faults, hw.Fault{Pointer: at, Text: fmt.Sprintf("line %d: %v", i+1, err)})
		}
	}
	return out
}

// ParsePeopleHours reads the same with "NAME: " before each line, for people whose hours are not the shop's. before are names
// that may stand there beside those of people: of who has left.
func ParsePeopleHours(at, text string, people, before []string, faults *hw.Faults) map[string]Hours {
	out := map[string]Hours{}
	for i, line := range strings.Split(text, "\n") {
		if line = strings.TrimSpace(line); line == "" {
			continue
		}
		name, rest, _ := strings.Cut(line, ": ")
		who, err := oneOf(people, before, name)
		if err == nil {
			if out[who] == nil {
				out[who] = Hours{}
			}
			err = out[who].add(strings.TrimSpace(rest))
		}
		if err != nil {
			*faults = append(*faults, hw.Fault{Pointer: at, Text: fmt.Sprintf("line %d: %v", i+1, err)})
		}
	}
	return out
}

// oneOf is the name of somebody who works here, or who stood there before.
func oneOf(people, before []string, name string) (string, error) {
	for _, list := range [][]string{people, before} {
		if who := nameLike(list, name); who != "" {
			return who, nil
		}
	}
	return "", fmt.Errorf("a name and a colon come first; %q is none of %s", name, strings.Join(people, ", "))
}

// add reads a line of hours.
func (h Hours) add(line string) error {
	const form = "days and hours such as mon-fri 9:00-12:30 13:00-18:00"
	// A dash may be long, and have blanks around it.
	line = strings.ReplaceAll(strings.ToLower(line), "–", "-")
	words := strings.Fields(strings.ReplaceAll(strings.ReplaceAll(line, " -", "-"), "- ", "-"))
	days, spans := daysOf(words[0]), [][2]string(nil)
	if days == nil || len(words) < 2 {
		return fmt.Errorf("%s are expected", form)
	}
	for _, word := range words[1:] {
		a, b, _ := strings.Cut(strings.TrimSuffix(word, ","), "-")
		from, okA := clock(a)
		to, okB := clock(b)
		switch {
		case !okA || !okB:
			return fmt.Errorf("%q is no hours; %s are expected", word, form)
		case to <= from:
			return fmt.Errorf("%s: it closes before it opens", word)
		case len(spans) > 0 && from < spans[len(spans)-1][1]:
			return fmt.Errorf("%s: the hours before it end later", word)
		case len(spans) > 0 && from == spans[len(spans)-1][1]:
			spans[len(spans)-1][1] = to
		default:
			spans = append(spans, [2]string{from, to})
		}
	}
	for _, day := range days {
		if h[day] != nil {
			return fmt.Errorf("%s has a line already", day)
		}
		h[day] = spans
	}
	return nil
}

// daysOf reads a day, a range or several with commas between; nil for what is none.
func daysOf(word string) []string {
	var out []string
	for _, part := range strings.Split(word, ",") {
		from, to, isRange := strings.Cut(part, "-")
		if !isRange {
			to = from
		}
		a, b := slices.Index(weekdays[:], shortDay(from)), slices.Index(weekdays[:], shortDay(to))
		if a < 0 || b < a {
			return nil
		}
		out = append(out, weekdays[a:b+1]...)
	}
	return out
}

// shortDay is a day's name in three letters.
func shortDay(name string) string {
	for i := range weekdays {
		if full := strings.ToLower(time.Weekday((i + 1) % 7).String()); len(name) >= 2 && strings.HasPrefix(full, name) {
			return weekdays[i]
		}
	}
	return ""
}

// clock reads 9, 9:30 or 18:00 as 09:00, 09:30 and 18:00, at most 24:00.
func clock(text string) (string, bool) {
	hour, minute, has := strings.Cut(strings.ReplaceAll(text, ".", ":"), ":")
	if !has {
		minute = "00"
	}
	if hour == "24" && minute == "00" {
		return "24:00", true
	}
	t, err := time.Parse("15:04", fmt.Sprintf("%02s:%s", hour, minute))
	return t.Format("15:04"), err == nil && len(minute) == 2
}

// Lines write hours as they are typed: days on end that have the same together.
func (h Hours) Lines() string {
	var out []string
	for i := 0; i < len(weekdays); i++ {
		spans, first := h[weekdays[i]], weekdays[i]
		if len(spans) == 0 {
			continue
		}
		days := first
		for i+1 < len(weekdays) && slices.Equal(h[weekdays[i+1]], spans) {
			i++
			days = first + "-" + weekdays[i]
		}
		for _, s := range spans {
			days += " " + s[0] + "-" + s[1]
		}
		out = append(out, days)
	}
	return strings.Join(out, "\n")
}

// PeopleHoursLines write people's hours as they are typed, by name.
func PeopleHoursLines(all map[string]Hours) string {
	var out []string
	for _, who := range slices.Sorted(maps.Keys(all)) {
		for _, line := range strings.Split(all[who].Lines(), "\n") {
			out = append(out, who+": "+line)
		}
	}
	return strings.Join(out, "\n")
}

// SpanMinutes is how long hours from one time of the wall clock to another are.
func SpanMinutes(s [2]string) int {
	var h, m, toH, toM int
	if _, err := fmt.Sscanf(s[0]+" "+s[1], "%d:%d %d:%d", &h, &m, &toH, &toM); err != nil {
		return 0 // no hours are kept that cannot be read
	}
	return toH*60 + toM - h*60 - m
}

// WeekPractice is how the shop promises, in minutes; what is not known is as usual.
type WeekPractice struct {
	Margin hw.Maybe[int] `json:"margin,omitzero"` // between ready and promised
	Round  hw.Maybe[int] `json:"round,omitzero"`  // promises are given for such times
	Clear  hw.Maybe[int] `json:"clear,omitzero"`  // a bench between two machines
	Test   hw.Maybe[int] `json:"test,omitzero"`   // that new memory is tested for, none where it is not
	Charge hw.Maybe[int] `json:"charge,omitzero"` // that a new pack is charged for
	// Attend says that a copy or a test runs only while somebody is in the building.
	Attend bool `json:"attend,omitempty"`
}

// Practice is what the plan of the week takes of it.
func (w WeekPractice) Practice() week.Practice {
	return week.Practice{Margin: w.Margin, Round: w.Round, Clear: w.Clear}
}

// check adds what cannot be.
func (w WeekPractice) check(faults *hw.Faults) {
	for _, x := range []struct {
		at    string
		value hw.Maybe[int]
		least int
	}{{"/margin", w.Margin, 0}, {"/round_to", w.Round, 1}, {"/clear", w.Clear, 0}, {"/memory_test", w.Test, 0},
		{"/charging", w.Charge, 0}} {
		if n, told := x.value.Get(); told && (n < x.least || n > 1440) {
			faults.Add(x.at, hw.FaultRange, strconv.Itoa(n), fmt.Sprintf("%d to 1440 minutes", x.least))
		}
	}
}

// atClock is a time of the wall clock on the day of another.
func atClock(day time.Time, text string) time.Time {
	var h, m int
	if _, err := fmt.Sscanf(text, "%d:%d", &h, &m); err != nil {
		return day // no hours are kept that cannot be read
	}
	return time.Date(day.Year(), day.Month(), day.Day(), h, m, 0, 0, day.Location())
}

// Open are the hours of the shop. One that was set up when it had one opening and one closing for all days keeps them.
func (v *Settings) Open() Hours {
	if v.Hours != nil {
		return v.Hours
	}
	f := v.Floor.orUsual()
	opens, closes := fmt.Sprintf("%02d:00", f.Opens), fmt.Sprintf("%02d:00", f.Closes)
	day := [][2]string{{opens, closes}}
	if from, to, ok := strings.Cut(v.Break, "-"); ok && opens < from && from < to && to < closes {
		day = [][2]string{{opens, from}, {to, closes}}
	}
	out := Hours{}
	for weekday := range time.Saturday + 1 {
		if f.Days.Has(weekday) {
			out[weekdays[dayNumber(weekday)]] = day
		}
	}
	return out
}

// OpenOn are the hours of a day, none where the shop is closed; why is what a closed day was said to be for.
func (v *Settings) OpenOn(day time.Time) (spans [][2]string, why string) {
	date := day.Format(time.DateOnly)
	for _, s := range v.Closed {
		if s.From <= date && date <= s.To {
			return nil, s.Why
		}
	}
	return v.Open().On(day.Weekday()), ""
}

// Worked is how long work goes on that began at one time until another: nights, breaks and closed days are no part of it but
// for what is worked past the closing of the last day.
func (v *Settings) Worked(from, to time.Time) time.Duration {
	var all time.Duration
	for day := from; day.Format(time.DateOnly) <= to.Format(time.DateOnly); day = day.AddDate(0, 0, 1) {
		spans, _ := v.OpenOn(day)
		last := day.Format(time.DateOnly) == to.Format(time.DateOnly)
		first := day.Equal(from)
		for i, s := range spans {
			a, b := atClock(day, s[0]), atClock(day, s[1])
			if first && i == 0 && from.Before(a) {
				a = from // somebody came early
			}
			if last && i == len(spans)-1 && to.After(b) {
				b = to // somebody stays late
			}
			if from.After(a) {
				a = from
			}
			if to.Before(b) {
				b = to
			}
			all += max(0, b.Sub(a))
		}
		if len(spans) == 0 && first && last {
			all += to.Sub(from) // on a day on which it is closed
		}
	}
	return all
}

// FloorOf is where and when the shop works: its benches, and from the earliest opening of a week to its latest closing.
func (v *Settings) FloorOf() Floor {
	f := v.Floor.orUsual()
	if v.Hours == nil {
		return f
	}
	f.Opens, f.Closes, f.Days = 24, 0, 0
	for i, day := range weekdays {
		for _, s := range v.Hours[day] {
			from, to := atClock(time.Time{}, s[0]), atClock(time.Time{}, s[1])
			f.Opens = min(f.Opens, from.Hour())
			closes := to.Hour()
			if to.Minute() > 0 {
				closes++
			}
			if s[1] == "24:00" {
				closes = 24
			}
			f.Closes = max(f.Closes, closes)
			f.Days |= 1 << ((i + 1) % 7)
		}
	}
	return f
}

// Doubt says why a promise for a time cannot be meant, "" where it can: it is past, or the shop is not open then.
func (v *Settings) Doubt(at, now time.Time) string {
	switch {
	case at.IsZero():
		return ""
	case at.Before(now):
		return TimeWords(at) + " is past"
	}
	spans, why := v.OpenOn(at)
	switch {
	case len(spans) == 0 && len(v.Open().On(at.Weekday())) == 0:
		return TimeWords(at) + ": the shop is not open on " + at.Weekday().String() + "s"
	case len(spans) == 0:
		if why != "" {
			why = ": " + why
		}
		return TimeWords(at) + ": the shop is closed that day" + why
	}
	var said []string
	for _, s := range spans {
		if !at.Before(atClock(at, s[0])) && !at.After(atClock(at, s[1])) {
			return ""
		}
		said = append(said, s[0]+" to "+s[1])
	}
	return fmt.Sprintf("%s: the shop is open from %s", TimeWords(at), strings.Join(said, " and "))
}

// checkHours adds what cannot be of when the shop is open.
func (v *Settings) checkHours(faults *hw.Faults) {
	if v.Hours != nil && len(v.Hours) == 0 {
		*faults = append(*faults, hw.Fault{Pointer: "/hours", Text: "it is open on one day at least, such as mon-fri 9:00-18:00"})
	}
	v.Week.check(faults)
	if _, err := time.LoadLocation(v.TimeZone); err != nil || v.TimeZone == "Local" {
		*faults = append(*faults, hw.Fault{Pointer: "/time_zone", Text: "a zone such as Europe/Vienna, blank for the computer's"})
	}
}
