package base

import (
	"fmt"
	"strings"
	"time"

	"yembo/core/hw"
	"yembo/exchange"
)

// Spell is a day, or some days on end, on which the shop is closed or somebody is away.
type Spell struct {
	Who  string `json:"who,omitempty"` // "" for the shop
	From string `json:"from"`          // 2006-01-02
	To   string `json:"to"`            // the last day of it
	Why  string `json:"why,omitempty"`
}

// mostSpells is how many are kept: some years of a shop.
const mostSpells = 400

// ParseSpells reads a line a spell: a day or "day to day", and why; where people are named, with "NAME: " before it, of one of
// them or of somebody of before, who has left. Empty lines count for nothing.
func ParseSpells(at, text string, people, before []string, faults *hw.Faults) []Spell {
	var out []Spell
	if at, end := strings.Index(text, calendarHead), strings.LastIndex(text, calendarFoot); people == nil && at >= 0 && end > at {
		end += len(calendarFoot)
		out = closedIn(text[at:end], faults)
		text = text[:at] + text[end:]
	}
	for i, line := range strings.Split(text, "\n") {
		line = strings.Join(strings.Fields(line), " ")
		if line == "" {
			continue
		}
		wrong := func(text string) {
			*faults = append(*faults, hw.Fault{Pointer: at, Text: fmt.Sprintf("line %d: %s", i+1, text)})
		}
		var s Spell
		if people != nil {
			name, rest, _ := strings.Cut(line, ": ")
			who, err := oneOf(people, before, name)
			if err != nil {
				wrong(err.Error())
				continue
			}
			s.Who, line = who, rest
		}
		words := strings.SplitN(line, " ", 2)
		s.From, s.To = words[0], words[0]
		rest := strings.Join(words[1:], "")
		if after, is := strings.CutPrefix(rest, "to "); is {
			words = strings.SplitN(after, " ", 2)
			s.To, rest = words[0], strings.Join(words[1:], "")
		}
		s.Why = rest
		_, errFrom := time.Parse(time.DateOnly, s.From)
		_, errTo := time.Parse(time.DateOnly, s.To)
		switch {
		case errFrom != nil || errTo != nil:
			wrong("a day such as 2026-12-24, or 2026-12-24 to 2027-01-02")
		case s.To < s.From:
			wrong("it ends before it begins")
		case len(s.Why) > 200:
			wrong("at most 200 characters")
		default:
			out = append(out, s)
		}
	}
	if len(out) > mostSpells {
		*faults = append(*faults, hw.Fault{Pointer: at, Text: fmt.Sprintf("at most %d lines", mostSpells)})
	}
	return out
}

// The head and the foot of an iCalendar, which may be pasted among the lines of closed days.
const calendarHead, calendarFoot = "BEGIN:VCALENDAR", "END:VCALENDAR"

// closedIn are the whole days of a calendar that was pasted. Faults stand at /closed.
func closedIn(calendar string, faults *hw.Faults) []Spell {
	wrong := func(text string) { *faults = append(*faults, hw.Fault{Pointer: "/closed", Text: text}) }
	days, repeats, err := exchange.WholeDays(calendar)
	switch {
	case err != nil:
		wrong("the calendar cannot be read: " + err.Error())
	case len(days) == 0:
		wrong("the calendar has no whole days")
	case repeats > 0:
		wrong(fmt.Sprintf("%s in the calendar: type each day", hw.Count(repeats, "entry repeats", "entries repeat")))
	}
	var out []Spell
	for _, d := range days {
		why := []rune(strings.Join(strings.Fields(d.Summary), " "))
		out = append(out, Spell{From: d.From, To: d.To, Why: string(why[:min(len(why), 60)])})
	}
	return out
}

// nameLike is the name in a list that is written so, whatever its letters' case; "" for none.
func nameLike(people []string, name string) string {
	for _, p := range people {
		if strings.EqualFold(p, strings.TrimSpace(name)) {
			return p
		}
	}
	return ""
}

// SpellLines writes spells as they are typed.
func SpellLines(all []Spell) string {
	var out []string
	for _, s := range all {
		line := s.From
		if s.Who != "" {
			line = s.Who + ": " + line
		}
		if s.To != s.From {
			line += " to " + s.To
		}
		if s.Why != "" {
			line += " " + s.Why
		}
		out = append(out, line)
	}
	return strings.Join(out, "\n")
}
