// Package quote puts options of a plan into what a customer is offered: what is better afterwards, what
// it costs, what has to be agreed to. The figures are the plan's; the sentences are proposed and may be
// worded otherwise, the figures may not.
package quote

import (
	"fmt"
	"slices"

	"yembo/core/hw"
	"yembo/core/money"
	"yembo/core/plan"
)

// Format is the format of a quote's document.
const Format = "yembo.quote/1"

// Most alternatives and lines that a quote has.
const (
	MostAlternatives = 3
	MostLines        = 60
)

// Quote is what a customer is offered.
type Quote struct {
	Format       string        `json:"format"`
	Number       int64         `json:"number"`
	Version      int           `json:"version"`
	Currency     string        `json:"currency"`
	On           string        `json:"on"`
	ValidUntil   string        `json:"valid_until"`
	Shop         Party         `json:"shop"`
	Customer     Party         `json:"customer"`
	Machine      Machine       `json:"machine"`
	Told         string        `json:"told,omitempty"`
	Found        string        `json:"found,omitempty"`
	Alternatives []Alternative `json:"alternatives"`
	Consents     []Consent     `json:"consents"`
	Left         []string      `json:"left_alone"`
	Risk         string        `json:"data_risk,omitempty"`
	Declined     []money.Line  `json:"declined"`
	DeclinedSum  money.Sum     `json:"declined_sum"`
	OldParts     OldParts      `json:"old_parts"`
	RoundTo      int64         `json:"round_to_cents,omitempty"`
	TaxIn        bool          `json:"prices_with_tax,omitempty"` // the lines have the tax in them
	LeastCents   int64         `json:"least_cents,omitempty"`     // the minimum charge, of what is charged after the discount
	TaxPercent   hw.Dec        `json:"tax_percent,omitempty"`     // of what the shop adds: discount, minimum charge
	Off          *Off          `json:"discount,omitempty"`
	Law          string        `json:"law,omitempty"`
}

// Off is what is taken off every alternative: so much, or so many per cent of what it costs.
type Off struct {
	Text    string `json:"text"`
	Cents   int64  `json:"cents,omitempty"`
	Percent hw.Dec `json:"percent,omitempty"`
}

// Party is one side of a quote.
type Party struct {
	Name    string   `json:"name"`
	Contact string   `json:"contact,omitempty"`
	Address []string `json:"address,omitempty"`
}

// Machine is the machine that a quote is for.
type Machine struct {
	ID     string `json:"id"`
	Model  string `json:"model"`
	Serial string `json:"serial,omitempty"`
}

// Alternative is one of the things that can be chosen.
type Alternative struct {
	Letter   string       `json:"letter"`
	Name     string       `json:"name"`
	Option   plan.Option  `json:"option"`
	Memory   *Change      `json:"memory,omitempty"`
	Storage  *Change      `json:"storage,omitempty"`
	Battery  *Change      `json:"battery,omitempty"`
	Wireless *Change      `json:"wireless,omitempty"`
	Data     string       `json:"data"`
	Ready    string       `json:"ready"`
	Lines    []money.Line `json:"lines"`
	Sum      money.Sum    `json:"sum"`
	// Spared are lines that are not charged as things are: erasing a drive that goes back.
	Spared []money.Line `json:"spared,omitempty"`
}

// Change is what something is today and what it is then, on one scale. Mark is what the work was measured
// to take. What is not known is left out.
type Change struct {
	Unit  string           `json:"unit"`
	Today hw.Maybe[hw.Dec] `json:"today,omitzero"`
	Then  hw.Maybe[hw.Dec] `json:"then,omitzero"`
	Used  hw.Maybe[hw.Dec] `json:"used,omitzero"` // of it, where something fills it
	Mark  hw.Maybe[hw.Dec] `json:"mark,omitzero"`
	Says  string           `json:"says,omitempty"`
}

// Consent is what is asked for, with the letters of the alternatives that ask for it.
type Consent struct {
	Code    hw.Consent `json:"code"`
	Says    string     `json:"says"`
	Why     string     `json:"why"`
	Letters []string   `json:"letters"`
}

// OldParts is what becomes of the parts that come out.
type OldParts string

// What becomes of old parts.
const (
	Ask     OldParts = "ask"
	Back    OldParts = "back"
	Kept    OldParts = "kept"
	Recycle OldParts = "recycled"
)

// OldPartsWays is the table of them.
var OldPartsWays = hw.Vocabulary[OldParts]{{Word: Ask, Says: "the customer says"}, {Word: Back, Says: "back to the customer"},
	{Word: Kept, Says: "kept for other machines"}, {Word: Recycle, Says: "recycled"}}

// When a fixed line of the shop is charged.
type When string

// The cases.
const (
	Always  When = "always"
	Copying When = "copying" // a drive's contents are copied
	Erasing When = "erasing" // a drive comes out
	Packing When = "battery" // a pack comes out
)

// Whens is the table of them.
var Whens = hw.Vocabulary[When]{{Word: Always, Says: "always"}, {Word: Copying, Says: "where a drive is copied"},
	{Word: Erasing, Says: "where a drive comes out and does not go back"}, {Word: Packing, Says: "where a battery comes out"}}

// FixedLine is a line that the shop charges whatever is done.
type FixedLine struct {
	Text  string           `json:"text"`
	Cents int64            `json:"cents"`
	When  When             `json:"when"`
	Tax   hw.Maybe[hw.Dec] `json:"tax_percent,omitzero"` // where it is another than the shop's
}

// Terms are how a shop charges.
type Terms struct {
	Currency      string
	LabourRate    int64
	TaxPercent    hw.Dec
	Fixed         []FixedLine
	LeastCents    int64 // the minimum charge, without tax
	DeclinedCents int64 // for looking, where nothing is done
	RoundTo       int64
	TaxIn         bool // the shop's prices have the tax in them
}

// Input is what a quote is made from.
type Input struct {
	Plan      plan.Input
	Today     plan.Today
	Options   []plan.Option // one to three, as they are offered
	Terms     Terms
	Complaint string
	Promises  []string // what could be promised for each option, and if accepted when, in words; "" where nothing can
}

// Make offers options of a plan. Numbers, dates and parties are the caller's to fill in.
func Make(in Input) (*Quote, error) {
	if n := len(in.Options); n < 1 || n > MostAlternatives {
		return nil, hw.Faults{{Pointer: "/options", Text: fmt.Sprintf("one to %d options are offered, not %d", MostAlternatives, n)}}
	}
	q := &Quote{
		Format:     Format,
		Version:    1,
		Currency:   in.Terms.Currency,
		Told:       told(in.Complaint),
		Found:      found(&in),
		OldParts:   Ask,
		RoundTo:    in.Terms.RoundTo,
		TaxIn:      in.Terms.TaxIn,
		LeastCents: in.Terms.LeastCents,
		TaxPercent: in.Terms.TaxPercent,
		Consents:   []Consent{},
		Declined:   []money.Line{},
		Left:       left(&in),
	}
	for i := range in.Options {
		o := &in.Options[i]
		letter, promise := string(rune('A'+i)), ""
		if i < len(in.Promises) {
			promise = in.Promises[i]
		}
		a := Alternative{
			Letter: letter,
			Name:   nameOf(&in, o),
			Option: *o,
			Data:   data(o),
			Ready:  ready(o, promise),
			Lines:  lines(&in, o),
		}
		a.changes(&in, o)
		q.Alternatives = append(q.Alternatives, a)
		for _, code := range o.Consents {
			at := slices.IndexFunc(q.Consents, func(c Consent) bool { return c.Code == code })
			if at < 0 {
				row := code.Row()
				q.Consents = append(q.Consents, Consent{Code: code, Says: row.Says, Why: row.Why})
				at = len(q.Consents) - 1
			}
			q.Consents[at].Letters = append(q.Consents[at].Letters, letter)
		}
		if o.Migration != nil {
			q.Risk = risk
		}
	}
	if in.Terms.DeclinedCents > 0 {
		q.Declined = []money.Line{
			{Kind: money.Declined, Text: "Looking at it, nothing done", Cents: in.Terms.DeclinedCents, Tax: in.Terms.TaxPercent},
		}
	}
	q.DeclinedSum = money.AddUp(q.Declined, q.how())
	return q, q.Settle()
}

// lines are what an option costs: parts, labour, what services use up, the shop's fixed lines, and what
// is missing to the minimum charge.
func lines(in *Input, o *plan.Option) []money.Line {
	t := &in.Terms
	var out []money.Line
	add := func(kind money.Kind, text string, cents int64, tax hw.Dec) {
		out = append(out, money.Line{Kind: kind, Text: text, Cents: cents, Tax: tax})
	}
	for _, b := range o.Buy {
		add(money.Part, fmt.Sprintf("%d × %s", b.Quantity, partName(in, b.Part)), b.Cents, t.TaxPercent)
	}
	if t.LabourRate > 0 { // what an hour costs that nobody told is not printed as nothing
		add(money.Labour, labourWords(o, t), o.LabourCents, t.TaxPercent)
	}
	if cents, ok := o.ServicesCents.Get(); ok && cents > 0 {
		add(money.Service, "What the services use up", cents, t.TaxPercent)
	}
	for _, f := range t.Fixed {
		if due(in.Plan.Chassis, f.When, o) {
			add(money.Fixed, f.Text, f.Cents, f.Tax.Or(t.TaxPercent))
			if f.When != Always {
				out[len(out)-1].Only = string(f.When)
			}
		}
	}
	return out
}

// labourWords says how long and at what rate, so that the line adds up: to more places than one where
// one would not give the printed sum.
func labourWords(o *plan.Option, t *Terms) string {
	minutes := o.Minutes.String()
	for _, step := range []hw.Dec{hw.DecOf(1) / 10, hw.DecOf(1) / 100, hw.DecOf(1) / 1000} {
		if m, ok := minutesFor(o, t.LabourRate, step); ok {
			minutes = m.String()
			break
		}
	}
	return fmt.Sprintf("%s min at %s an hour", minutes, hw.Money(t.Currency, t.LabourRate))
}

// minutesFor is the figure in steps, nearest to the minutes that are shown and not more than half a
// shown place away, that makes the labour of an option.
func minutesFor(o *plan.Option, rate int64, step hw.Dec) (hw.Dec, bool) {
	shown := o.Minutes / step * step
	for off := hw.Dec(0); off <= hw.DecOf(1)/20; off += step {
		for _, m := range []hw.Dec{shown + off, shown - off} {
			if m >= 0 && hw.MinutesOf(m).Labour(rate) == o.LabourCents {
				return m, true
			}
		}
	}
	return 0, false
}

// Relabour is the labour of an option at another rate than that it was planned with, by its exact minutes
// as far as they can be told from its labour.
func Relabour(o *plan.Option, was, now int64) int64 {
	if was == now {
		return o.LabourCents
	}
	for _, step := range []hw.Dec{hw.DecOf(1) / 10, hw.DecOf(1) / 100, hw.DecOf(1) / 1000} {
		if m, ok := minutesFor(o, was, step); ok && was > 0 {
			return hw.MinutesOf(m).Labour(now)
		}
	}
	return hw.MinutesOf(o.Minutes).Labour(now)
}

// due reports whether a fixed line is charged for an option.
func due(ch *hw.Chassis, when When, o *plan.Option) bool {
	switch when {
	case Always:
		return true
	case Copying:
		return o.Migration != nil && o.Migration.How == hw.Clone
	case Erasing, Packing: // by what comes out, below
	}
	for i := range o.Actions {
		a := &o.Actions[i]
		if a.Do != plan.DoReplace && a.Do != plan.DoRemove {
			continue
		}
		kind := takes(ch, a.Place)
		if when == Packing && kind == hw.KindBattery || when == Erasing && kind == hw.KindDrive {
			return true
		}
	}
	return false
}

func (q *Quote) how() money.How { return money.How{Step: q.RoundTo, Inside: q.TaxIn} }

// Settle works out what every alternative comes to: a drive that goes back to the customer is not
// erased, the discount is taken off, and what is missing to the minimum charge is added to what is
// charged after the discount. The error is hw.Faults for amounts that cannot be.
func (q *Quote) Settle() error {
	for i := range q.Alternatives {
		a := &q.Alternatives[i]
		lines := append(slices.Clone(a.Lines), a.Spared...)
		lines = slices.DeleteFunc(lines, func(l money.Line) bool { return l.Kind == money.Discount || l.Kind == money.Least })
		slices.SortStableFunc(lines, func(a, b money.Line) int { return money.Kinds.Index(a.Kind) - money.Kinds.Index(b.Kind) })
		a.Spared = nil
		if q.OldParts == Back {
			a.Spared = slices.DeleteFunc(slices.Clone(lines), func(l money.Line) bool { return l.Only != string(Erasing) })
			lines = slices.DeleteFunc(lines, func(l money.Line) bool { return l.Only == string(Erasing) })
		}
		charged := int64(0)
		for _, l := range lines {
			charged += l.Cents
		}
		if q.Off != nil {
			off := q.Off.Cents
			if q.Off.Percent > 0 {
				off = money.Percent(charged, q.Off.Percent)
			}
			if off > charged {
				return hw.Faults{
					{
						Pointer: "/discount",
						Text:    "a discount above the sum it is taken off: " + a.Letter + " comes to " + hw.Money(q.Currency, charged),
					},
				}
			}
			if off > 0 {
				lines = append(lines, money.Line{Kind: money.Discount, Text: q.Off.Text, Cents: -off, Tax: q.TaxPercent})
				charged -= off
			}
		}
		if charged < q.LeastCents {
			lines = append(
				lines,
				money.Line{Kind: money.Least, Text: "up to the minimum charge", Cents: q.LeastCents - charged, Tax: q.TaxPercent},
			)
		}
		if err := money.Check(lines, MostLines).Err(); err != nil {
			return err
		}
		a.Lines, a.Sum = lines, money.AddUp(lines, q.how())
	}
	return nil
}

// Charged is an alternative as it is charged where the customer said what becomes of the old parts;
// Ask or "" leaves it as the quote has it.
func (q *Quote) Charged(letter string, old OldParts) (Alternative, error) {
	out := *q
	out.Alternatives = slices.Clone(q.Alternatives)
	erases := slices.ContainsFunc(q.Alternatives, func(a Alternative) bool {
		return slices.ContainsFunc(a.Lines, func(l money.Line) bool { return l.Only == string(Erasing) })
	})
	if old != "" && old != Ask && q.OldParts == Ask && erases {
		out.OldParts = old
		if err := out.Settle(); err != nil {
			return Alternative{}, err
		}
	}
	if a := out.Alternative(letter); a != nil {
		return *a, nil
	}
	return Alternative{}, hw.Faults{{Pointer: "/letter", Text: "there is no alternative " + letter}}
}

// Alternative finds one by its letter, nil where there is none.
func (q *Quote) Alternative(letter string) *Alternative {
	for i := range q.Alternatives {
		if q.Alternatives[i].Letter == letter {
			return &q.Alternatives[i]
		}
	}
	return nil
}
