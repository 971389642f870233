package counter

import (
	"fmt"
	"maps"
	"net/http"
	"slices"
	"sort"
	"strings"

	"yembo/shop/base"
	"yembo/shop/care"

	"github.com/labstack/echo/v5"

	"yembo/core/card"
	"yembo/core/grade"
	"yembo/core/hw"
	"yembo/core/memory"
	"yembo/core/quote"
	"yembo/web/form"
	"yembo/web/kit"
)

// settingsView is how the shop works, each setting with what it changes.
type settingsView struct {
	*form.Form
	Limits, Pairings, Migrations, Spinning []hw.Term[string]
	Grades                                 []hw.Term[string]
	Standards, Papers, Ways                []hw.Term[string]
	Trials                                 []hw.Term[string]
	Largest                                []largestField
	Saved                                  bool
	Fixed                                  []int // rows of fixed lines
	Whens                                  []hw.Term[string]
	Copies                                 care.Copies
	CopyAge                                string
	Skipped                                bool // a first step
	SignedIn                               bool // then people are changed where they are
}

// largestField is a row of the table of largest modules.
type largestField struct{ Name, Label string }

func largestFields(t memory.LargestModule) []largestField {
	var out []largestField
	for form, row := range t {
		for kind := range row {
			out = append(out, largestField{"/largest/" + string(form) + "/" + string(kind),
				string(form) + " " + string(kind)})
		}
	}
	sort.Slice(out, func(i, j int) bool { return out[i].Label < out[j].Label })
	return out
}

func (s *pages) showSettings(c *echo.Context) error {
	how, err := s.Shop.Settings(c.Request().Context())
	if err != nil {
		return err
	}
	f := form.New(kit.SettingsTyped(&how))
	f.Opens()
	return s.settingsPage(c, http.StatusOK, f, c.QueryParam("saved") == "yes")
}

func (s *pages) settingsPage(c *echo.Context, status int, f *form.Form, saved bool) error {
	how, err := s.Shop.Settings(c.Request().Context())
	if err != nil {
		return err
	}
	v := settingsView{Form: f, Limits: hw.LimitPractices.Terms(), Spinning: hw.RotationalUses.Terms(), Grades: grade.Kinds.Terms(),
		Pairings:   hw.Pairings.Terms(),
		Migrations: hw.Migrations.Terms(),
		Papers:     kit.Papers, Whens: quote.Whens.Terms(),
		Ways: []hw.Term[string]{{Word: base.LoosenReversed, Says: "in the printed order reversed"},
			{Word: base.LoosenPrinted, Says: "in the printed order"}},
		Standards: hw.Standards.Terms(), Trials: card.TrialWhens.Terms(),
		Largest: largestFields(how.LargestModules()), Saved: saved, Copies: s.Shop.Copies(),
		SignedIn: kit.VisitorOf(c) != nil}
	for i := range min(len(how.Pricing.Fixed)+2, base.MostFixed) {
		v.Fixed = append(v.Fixed, i)
	}
	if v.CopyAge = "none yet"; !v.Copies.Newest.IsZero() {
		v.CopyAge = "the newest is of " + kit.Stamp(v.Copies.Newest)
	}
	if v.Skipped, err = s.Shop.FirstStepsSkipped(c.Request().Context()); err != nil {
		return err
	}
	return s.Render(c, status, "settings", "Settings", "settings", v)
}

// readPricing reads how the shop charges; a fixed line without words and price is none.
func readPricing(f *form.Form) base.Pricing {
	p := base.Pricing{LeastCents: f.Cents("/pricing/least").Or(0), DeclinedCents: f.Cents("/pricing/declined").Or(0),
		RoundTo: int64(f.Whole("/pricing/round").Or(0)), ValidDays: f.Whole("/pricing/days").Or(0), Law: f.Text("/pricing/law"),
		RoundCash: f.Is("/pricing/cash", "yes"), TaxIn: f.Is("/pricing/tax_in", "yes"),
		BudgetTax: f.Is("/pricing/budget_tax", "yes")}
	for i := range base.MostFixed {
		at := fmt.Sprintf("/pricing/fixed/%d", i)
		if f.Text(at+"/text") == "" && f.Text(at+"/cents") == "" {
			continue
		}
		f.Rows[fmt.Sprintf("/pricing/fixed/%d", len(p.Fixed))] = at
		p.Fixed = append(p.Fixed, quote.FixedLine{Text: f.Text(at + "/text"), Cents: f.Cents(at + "/cents").Or(0),
			When: form.Choose(f, at+"/when", quote.Whens).Or(quote.Always), Tax: f.Dec(at + "/tax")})
	}
	return p
}

func (s *pages) saveSettings(c *echo.Context) error {
	f, err := form.Sent(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	how, err := s.Shop.Settings(ctx)
	if err != nil {
		return err
	}
	f.Pick()
	if f.CatchUp(kit.SettingsTyped(&how)) {
		return s.settingsPage(c, http.StatusConflict, f, false)
	}
	next := how
	readWorkshop(f, &how, &next, kit.VisitorOf(c) != nil)
	next.Pricing = readPricing(f)
	next.Loosen = f.Choice("/loosen", []string{base.LoosenReversed, base.LoosenPrinted}).Or("")
	if !s.Shop.Copies().Fixed {
		next.Backups = f.Text("/backups")
	}
	readHours(f, &how, &next)
	next.ServeAt, next.OwnTLS = f.Text("/serve_at"), f.Is("/own_tls", "yes")
	next.CopiesFor = f.Text("/copies_for")
	next.SupplierService = strings.TrimSuffix(f.Text("/supplier_service"), "/")
	next.PINMinutes, next.PublicAddress = f.Whole("/pin_minutes").Or(0), strings.TrimSuffix(f.Text("/public_address"), "/")
	next.ShelfTax = f.Is("/shelf_tax", "yes")
	next.MeasuredTimes, next.Trial = f.Is("/measured", "yes"), form.Choose(f, "/trial", card.TrialWhens).Or("")
	if next.Trial == card.TrialMore && how.Trial == "" {
		next.Trial = "" // as it was: nobody chose it
	}
	next.WarrantyMonths = f.Whole("/warranty").Or(0)
	next.UsualTimes, next.Simulated = !f.Is("/own_times", "yes"), f.Is("/simulated", "yes")
	yes := func(name string) hw.Maybe[bool] { return hw.Known(f.Is(name, "yes")) }
	next.Practice = hw.Practice{MemoryLimit: form.Choose(f, "/practice/memory_limit", hw.LimitPractices),
		Pairing:     form.Choose(f, "/practice/pairing", hw.Pairings),
		Migration:   form.Choose(f, "/practice/migration", hw.Migrations),
		Rotational:  form.Choose(f, "/practice/rotational", hw.RotationalUses),
		AccessPoint: form.Choose(f, "/practice/access_point", hw.Standards),
		AllowBay:    yes("/practice/allow_bay"), AllowOrder: yes("/practice/allow_order"),
		AllowUnlistedBattery: yes("/practice/allow_unlisted_battery"), RiskCents: f.Cents("/practice/risk_cents")}
	next.Grade = grade.Weights{}
	for _, t := range grade.Kinds {
		if n, told := f.Whole("/grade/" + string(t.Word)).Get(); told && n != grade.Usual.Of(t.Word) {
			next.Grade[t.Word] = n
		}
	}
	next.Largest = memory.LargestModule{}
	for form, row := range how.LargestModules() {
		next.Largest[form] = map[hw.MemoryType]hw.Dec{}
		for kind := range row {
			if gb, ok := f.Dec("/largest/" + string(form) + "/" + string(kind)).Get(); ok {
				next.Largest[form][kind] = gb
			}
		}
	}
	if f.Count() == 0 {
		err := s.Shop.SaveSettings(ctx, s.Acting(c), how, next)
		switch {
		case err == nil:
			s.Shop.CopyDaily(ctx) // a folder just chosen has its first copy at once
			return kit.SeeOther(c, "/settings?saved=yes")
		case !f.Take(err):
			return err
		}
	}
	return s.settingsPage(c, http.StatusUnprocessableEntity, f, false)
}

// readHours reads people's own hours, the closed days and who is away when; what stands there of somebody who has left may stay.
func readHours(f *form.Form, how, next *base.Settings) {
	var faults hw.Faults
	people := append([]string{}, how.Technicians...) // nobody is not "no names are wanted"
	var before []string
	for _, s := range how.Away {
		before = append(before, s.Who)
	}
	before = append(before, slices.Collect(maps.Keys(how.PeopleHours))...)
	next.Closed = base.ParseSpells("/closed", f.Values.Get("/closed"), nil, nil, &faults)
	next.Away = base.ParseSpells("/away", f.Values.Get("/away"), people, before, &faults)
	next.PeopleHours = base.ParsePeopleHours("/people_hours", f.Values.Get("/people_hours"), people, before, &faults)
	next.TimeZone = f.Text("/time_zone")
	next.Week = base.WeekPractice{Margin: f.Whole("/margin"), Round: f.Whole("/round_to"), Clear: f.Whole("/clear"),
		Test: f.Whole("/memory_test"), Charge: f.Whole("/charging"), Attend: !f.Is("/copies_alone", "yes")}
	for _, x := range faults {
		f.Fault(x.Pointer, x.Text)
	}
}
