package plans

import (
	"slices"
	"strings"

	"yembo/core/plan"
)

// besides is what the columns say against the recommended one.
type besides struct {
	Gives, Takes []plan.Gain
	// Same are the rows that are as those of the recommended column, by their name.
	Same map[string]bool
	Also string // what else it is best in
}

// setBeside fills what each option's column says against the first one, and takes what all of them share out of
// them: those lines are returned.
func setBeside(columns []column, options map[string]*plan.Option, currency string) (shared []sharedLine) {
	var own []int
	for i := range columns {
		if !columns[i].Today {
			own = append(own, i)
		}
	}
	if len(own) < 2 {
		return nil
	}
	first := &columns[own[0]]
	for _, i := range own[1:] {
		c := &columns[i]
		if a, b := c.option(options), first.option(options); a != nil && b != nil {
			c.Gives, c.Takes = plan.Against(a, b, currency)
		}
		c.Same = map[string]bool{
			"memory": c.Memory == first.Memory && c.MemorySub == first.MemorySub && bars(c) == bars(first),
			"drives": c.DriveTotal == first.DriveTotal && links(c) == links(first), "battery": c.Battery == first.Battery,
			"wireless": c.Wireless == first.Wireless, "ready": c.Ready == first.Ready,
			"parts": slices.Equal(texts(c.PartLines), texts(first.PartLines)),
		}
	}
	return takeShared(columns, own)
}

// option is what a column shows, one's own combination among it.
func (c *column) option(options map[string]*plan.Option) *plan.Option {
	if c.own != nil {
		return c.own
	}
	return options[c.ID]
}

func bars(c *column) string {
	if c.Bars == nil {
		return ""
	}
	return c.Bars.Text
}

func links(c *column) string {
	var out []string
	for _, d := range c.Drives {
		out = append(out, d.Place, d.Label, d.Drive, d.Sub)
	}
	return strings.Join(out, "\n")
}

func texts(lines []partLine) []string {
	out := make([]string, len(lines))
	for i := range lines {
		out[i] = lines[i].Text
	}
	return out
}

// sharedLine is a risk, a warning or a consent that every option has.
type sharedLine struct {
	Text, Place string
	Points      int
	Consent     bool
}

// takeShared takes the risks, warnings and consents that all columns have out of them.
func takeShared(columns []column, own []int) []sharedLine {
	var out []sharedLine
	first := columns[own[0]]
	in := func(has func(c *column) bool) bool {
		for _, i := range own {
			if !has(&columns[i]) {
				return false
			}
		}
		return true
	}
	for _, r := range first.Risks {
		is := func(x riskRow) bool { return x.Code == r.Code && x.Text == r.Text && x.Points == r.Points }
		if r.Assumed() || !in(func(c *column) bool { return slices.ContainsFunc(c.Risks, is) }) {
			continue
		}
		out = append(out, sharedLine{Text: r.Text, Points: r.Points})
		for _, i := range own {
			columns[i].Risks = slices.DeleteFunc(slices.Clone(columns[i].Risks), is)
		}
	}
	for _, w := range first.Warnings {
		is := func(x plan.Warning) bool { return x == w }
		if !in(func(c *column) bool { return slices.ContainsFunc(c.Warnings, is) }) {
			continue
		}
		out = append(out, sharedLine{Text: w.Text, Place: w.Place})
		for _, i := range own {
			columns[i].Warnings = slices.DeleteFunc(slices.Clone(columns[i].Warnings), is)
		}
	}
	for _, words := range first.Consents {
		is := func(x string) bool { return x == words }
		if !in(func(c *column) bool { return slices.ContainsFunc(c.Consents, is) }) {
			continue
		}
		out = append(out, sharedLine{Text: words, Consent: true})
		for _, i := range own {
			columns[i].Consents = slices.DeleteFunc(slices.Clone(columns[i].Consents), is)
		}
	}
	return out
}

// Pips are the points of risk as marks, at most as many as are taken in at a glance.
func (c *column) Pips() []struct{} { return make([]struct{}, min(c.Points, 10)) }

// splitPick parts what an option is best in into its heading and the rest of it: "Recommended", "also the least work".
func splitPick(words string) (heading, also string) {
	heading, rest, more := strings.Cut(words, ", ")
	if more {
		also = "also " + rest
	}
	return heading, also
}
