package plans

import (
	"fmt"
	"slices"
	"yembo/shop/jobs"

	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/web/draw"
	"yembo/web/kit"
)

// column is one state of the machine: today (no option) or an option.
type column struct {
	Today      bool
	Letter     string // in the plot, beside the heading
	ID         string // of the option, "" for today and one's own
	Key        string // what it does, for addresses
	Heading    string
	Sub        string
	Because    string // why it is recommended
	Bars       *draw.Channels
	Memory     string
	MemorySub  string
	Drives     []draw.Link
	DriveTotal string
	Battery    string
	Wireless   string
	Parts      string
	PartLines  []partLine
	Labour     string
	Minutes    string
	Copying    string // what it copies beside that, "" for nothing
	Total      string
	Ready      string
	Points     int
	Risks      []riskRow
	Consents   []string
	Warnings   []plan.Warning
	Chosen     bool
	Fingerp    string
	MeetsAll   bool
	Sums       plan.Arithmetic
	Against    []hw.Verdict
	Own        bool
	WithTax    string
	Unmet      []string
	Missing    []string
	Actions    []string
	ChannelOff string
	besides
	own     *plan.Option
	Rec     bool // the first one: it is recommended where anything is
	OnQuote bool // it is proposed for the quote
}

// partLine is a part that is bought, with the addresses that pin and forbid it.
type partLine struct{ Text, Pin, Ban string }

type riskRow struct {
	Text   string
	Points int
	Code   hw.Code
	Facts  []string // paths of the facts that it is for
}

// Assumed reports whether looking would take the points away.
func (r riskRow) Assumed() bool { return r.Code == hw.CodeFactAssumed }

// maxColumns is how many options stand beside today.
const maxColumns = 4

// chooseColumns picks what stands beside today, in the order of the columns: what is
// recommended, the cheapest option that meets the wish, the one asked for, those that are best in something, then
// the cheapest that meet the wish, then the cheapest; those that meet it before those that
// fall short.
func chooseColumns(p *plan.Plan, with string, most int) []string {
	var order []string
	take := func(id string) {
		if id != "" && len(order) < most && !slices.Contains(order, id) {
			order = append(order, id)
		}
	}
	take(p.Picks.Recommended)
	meets := map[string]bool{}
	for i := range p.Options {
		o := &p.Options[i]
		meets[o.ID] = o.MeetsAll
		if o.MeetsAll && len(order) == 0 {
			take(o.ID) // they come in the order of what they cost
		}
	}
	for i := range p.Options {
		if with != "" && p.Options[i].Key() == with {
			take(p.Options[i].ID)
		}
	}
	for _, id := range []string{p.Picks.LeastCost, p.Picks.LowestRisk, p.Picks.Soonest, p.Picks.MostHeadroom,
		p.Picks.LeastWork} {
		take(id)
	}
	for _, wanted := range []bool{true, false} {
		for i := range p.Options {
			// What misses every wish has no column of its own.
			if o := &p.Options[i]; o.MeetsAll == wanted && (wanted || meetsSome(&o.Meets)) {
				take(o.ID)
			}
		}
	}
	slices.SortStableFunc(order, func(a, b string) int {
		switch {
		case meets[a] == meets[b]:
			return 0
		case meets[a]:
			return -1
		}
		return 1
	})
	return order
}

// meetsSome reports whether an option meets any of the wishes.
func meetsSome(m *plan.Meets) bool {
	return m.Memory.Or(false) || m.Storage.Or(false) || m.Runtime.Or(false) || m.Wireless.Or(false)
}

// because says in a sentence why an option is recommended, beside the cheapest one.
func because(p *plan.Plan, o, cheapest *plan.Option, currency string, worth int64) string {
	dearer, safer := o.TotalCents-cheapest.TotalCents, cheapest.Risk.Points-o.Risk.Points
	points := fmt.Sprintf("%d points", safer)
	if safer == 1 {
		points = "a point"
	}
	switch {
	case o.ID == cheapest.ID && o.ID == p.Picks.LowestRisk:
		return "The cheapest, and none has less risk."
	case o.ID == cheapest.ID:
		if span := p.WorthSpan(); span.Above != "" {
			return fmt.Sprintf("The cheapest: a point of risk less costs %s, and is worth %s.", hw.Money(currency, span.To),
				hw.Money(currency, worth))
		}
		return "The cheapest, and nearest to what is wanted."
	case dearer > 0 && safer > 0:
		return fmt.Sprintf("%s more than the cheapest for %s of risk less.", hw.Money(currency, dearer), points)
	case dearer == 0 && safer > 0:
		return fmt.Sprintf("The price of the cheapest, with %s of risk less.", points)
	case dearer == 0:
		return "The price of the cheapest, with more to spare."
	}
	return fmt.Sprintf("%s more than the cheapest, and nearer to what is wanted.", hw.Money(currency, dearer))
}

func todayColumn(p *jobs.Planned, scale float64) column {
	c := column{Today: true, Heading: "Today", Sub: "taken in " + kit.Stamp(p.Record.TakenIn)}
	in := p.Input()
	c.Bars = draw.ChannelsOf(p.Record.Chassis, plan.Modules(in, nil), scale, p.Today.Memory != nil)
	c.Memory, c.MemorySub = memoryWords(p.Today.Memory)
	if p.Today.Storage != nil {
		c.Drives, c.DriveTotal = draw.LinksOf(p.Input(), p.Today.Storage, nil), p.Today.Storage.TotalGB.String()+" GB"
		for i := range p.Record.Machine.Fitted.Drives {
			if d := &p.Record.Machine.Fitted.Drives[i]; d.Fails() {
				c.DriveTotal += ", " + d.Place + " is failing and does not count"
			}
		}
	} else {
		c.DriveTotal = "not known"
	}
	c.Battery = batteryWords(p.Today.Battery, p.Record.Machine)
	c.Wireless = wirelessWords(p.Today.Wireless)
	return c
}

func optionColumn(p *jobs.Planned, st *planState, o *plan.Option, scale float64, names map[string]string) column {
	cur := p.Settings.Currency
	c := column{ID: o.ID, Key: o.Key(), Sub: p.Words(o), Unmet: o.Short(p.Request.Goals),
		Parts: hw.Money(cur, o.PartsCents), Labour: hw.Money(cur, o.LabourCents),
		Copying: jobs.CopyWords(o),
		Minutes: o.Minutes.String() + " min", Total: hw.Money(cur, o.TotalCents), Points: o.Risk.Points,
		Fingerp: jobs.Fingerprint(*o), MeetsAll: o.MeetsAll, Missing: o.Missing}
	in := p.Input()
	c.Bars = draw.ChannelsOf(p.Record.Chassis, plan.Modules(in, o), scale, o.Memory != nil)
	c.Memory, c.MemorySub = memoryWords(o.Memory)
	if o.Storage != nil {
		c.Drives, c.DriveTotal = draw.LinksOf(p.Input(), o.Storage, o), o.Storage.TotalGB.String()+" GB"
	} else {
		c.DriveTotal = "not known"
	}
	c.Battery, c.Wireless = batteryWords(o.Battery, p.Record.Machine), wirelessWords(o.Wireless)
	if p.Settings.TaxPercent > 0 && !p.Settings.Pricing.TaxIn {
		c.WithTax = hw.Money(cur, kit.WithTax(o.TotalCents, p.Settings.TaxPercent))
	}
	for _, b := range o.Buy {
		text := fmt.Sprintf("%d × %s %s", b.Quantity, names[b.Part], hw.Money(cur, b.Cents))
		if p.Untested(b.Part, b.Quantity) > 0 {
			text += ": not tested, the work begins with its test"
		}
		c.PartLines = append(c.PartLines, partLine{text, st.toggle("pin", b.Part), st.toggle("ban", b.Part)})
	}
	c.Ready = kit.ReadyWords(o.ReadyInDays)
	c.Risks, c.Warnings = riskRows(o)
	for _, code := range o.Consents {
		c.Consents = append(c.Consents, code.Row().Says)
	}
	return c
}
