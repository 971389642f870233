package kit

import (
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"yembo/shop/base"

	"github.com/labstack/echo/v5"

	"yembo/core/grade"
	"yembo/core/hw"
)

// Papers are what sheets print on.
var Papers = []hw.Term[string]{{Word: "a4", Says: "A4"}, {Word: "letter", Says: "Letter"}}

// SettingsTyped are the settings as the form has them.
func SettingsTyped(how *base.Settings) url.Values {
	values := url.Values{}
	set := values.Set
	set("/currency", how.Currency)
	set("/labour", strings.ReplaceAll(hw.Amount(how.Currency, how.LabourRate), "−", "-"))
	set("/tax", how.TaxPercent.String())
	set("/paper", how.PaperOf())
	set("/loosen", how.Loosen)
	set("/backups", how.Backups)
	set("/copies_for", how.CopiesFor)
	set("/hours", how.Open().Lines())
	set("/people_hours", base.PeopleHoursLines(how.PeopleHours))
	set("/time_zone", how.TimeZone)
	w := &how.Week
	for name, n := range map[string]hw.Maybe[int]{"/margin": w.Margin, "/round_to": w.Round, "/clear": w.Clear,
		"/memory_test": w.Test, "/charging": w.Charge} {
		if minutes, told := n.Get(); told {
			set(name, strconv.Itoa(minutes))
		}
	}
	if !how.Week.Attend {
		set("/copies_alone", "yes")
	}
	set("/closed", base.SpellLines(how.Closed))
	set("/away", base.SpellLines(how.Away))
	set("/serve_at", how.ServeAt)
	set("/supplier_service", how.SupplierService)
	set("/workshop", how.Workshop)
	set("/technicians", strings.Join(how.Technicians, ", "))
	set("/address", how.Address)
	set("/benches", strconv.Itoa(how.FloorOf().Benches))
	for name, list := range pricingTyped(how) {
		values[name] = list
	}
	if how.ShelfTax {
		set("/shelf_tax", "yes")
	}
	if !how.UsualTimes {
		set("/own_times", "yes")
	}
	if how.Simulated {
		set("/simulated", "yes")
	}
	if how.OwnTLS {
		set("/own_tls", "yes")
	}
	if how.MeasuredTimes {
		set("/measured", "yes")
	}
	set("/trial", string(how.TrialOf()))
	if how.WarrantyMonths > 0 {
		set("/warranty", strconv.Itoa(how.WarrantyMonths))
	}
	p := &how.Practice
	set("/practice/memory_limit", string(p.MemoryLimit.Or(hw.LimitMaker)))
	set("/practice/pairing", string(p.Pairing.Or(hw.PairAny)))
	set("/practice/migration", string(p.Migration.Or(hw.Clone)))
	set("/practice/rotational", string(p.Rotational.Or(hw.SpinBulk)))
	set("/practice/access_point", string(p.AccessPoint.Or("")))
	set("/practice/risk_cents", AmountTyped(how.Currency, p.RiskCents.Or(hw.UsualRiskCents)))
	for name, on := range map[string]bool{"/practice/allow_bay": p.AllowBay.Or(true),
		"/practice/allow_order":            p.AllowOrder.Or(true),
		"/practice/allow_unlisted_battery": p.AllowUnlistedBattery.Or(false)} {
		if on {
			set(name, "yes")
		}
	}
	for _, t := range grade.Kinds {
		set("/grade/"+string(t.Word), strconv.Itoa(how.Grade.Of(t.Word)))
	}
	for form, row := range how.LargestModules() {
		for kind, gb := range row {
			set("/largest/"+string(form)+"/"+string(kind), gb.String())
		}
	}
	return values
}

// pricingTyped is how the shop charges, as the form has it.
func pricingTyped(how *base.Settings) url.Values {
	p, values := &how.Pricing, url.Values{}
	amount := func(name string, cents int64) {
		if cents != 0 {
			values.Set(name, AmountTyped(how.Currency, cents))
		}
	}
	values.Set("/pricing/days", strconv.Itoa(p.Days()))
	values.Set("/pricing/round", fmt.Sprint(max(p.RoundTo, 1)))
	values.Set("/pricing/law", p.Law)
	values.Set("/public_address", how.PublicAddress)
	values.Set("/pin_minutes", strconv.Itoa(int(how.PINAfter().Minutes())))
	if p.RoundCash {
		values.Set("/pricing/cash", "yes")
	}
	if p.TaxIn {
		values.Set("/pricing/tax_in", "yes")
	}
	if p.BudgetTax {
		values.Set("/pricing/budget_tax", "yes")
	}
	amount("/pricing/least", p.LeastCents)
	amount("/pricing/declined", p.DeclinedCents)
	for i := range p.Fixed {
		at := fmt.Sprintf("/pricing/fixed/%d", i)
		values.Set(at+"/text", p.Fixed[i].Text)
		values.Set(at+"/cents", AmountTyped(how.Currency, p.Fixed[i].Cents))
		values.Set(at+"/when", string(p.Fixed[i].When))
		values.Set(at+"/tax", DecWords(p.Fixed[i].Tax))
	}
	return values
}

// PaperOf is the paper a sheet prints on: as asked, else the shop's.
func (s *Site) PaperOf(c *echo.Context) (string, error) {
	if asked := c.QueryParam("paper"); slices.Contains([]string{"a4", "letter"}, asked) {
		return asked, nil
	}
	how, err := s.Shop.Settings(c.Request().Context())
	return how.PaperOf(), err
}

// WhoCookie keeps who works at a screen. It tells the history whom to name; it lets nobody in.
const WhoCookie = "yembo_who"

// Settings are the shop's; where they cannot be read the page itself says what is wrong with the data.
func (s *Site) Settings(c *echo.Context) *base.Settings {
	how, err := s.Shop.Settings(c.Request().Context())
	if err != nil {
		return &base.Settings{}
	}
	return &how
}

// WorkshopName is the shop's name: as the settings have it, else as it was started.
func (s *Site) WorkshopName(how *base.Settings) string {
	if how.Workshop == "" {
		return s.Workshop
	}
	return how.Workshop
}

// Acting is who works at the screen that a request comes from.
func (s *Site) Acting(c *echo.Context) base.Actor { return s.ActingIn(c, s.Settings(c)) }

func (s *Site) ActingIn(c *echo.Context, how *base.Settings) base.Actor {
	if v := VisitorOf(c); v != nil {
		return v.actor()
	}
	if len(how.Technicians) == 0 {
		return s.Actor
	}
	if cookie, err := c.Cookie(WhoCookie); err == nil {
		if name, err := url.QueryUnescape(cookie.Value); err == nil && slices.Contains(how.Technicians, name) {
			return base.Actor{Name: name}
		}
	}
	return base.Actor{Name: how.Technicians[0]}
}

// others are those who work here beside the one at this screen.
func (s *Site) others(c *echo.Context, how *base.Settings) []string {
	if VisitorOf(c) != nil {
		return nil // who signed in is nobody else
	}
	me := s.ActingIn(c, how).Name
	return slices.DeleteFunc(slices.Clone(how.Technicians), func(name string) bool { return name == me })
}

func KeepWho(c *echo.Context, name string) {
	c.SetCookie(&http.Cookie{Name: WhoCookie, Value: url.QueryEscape(name), Path: "/", MaxAge: 365 * 24 * 3600, HttpOnly: true,
		SameSite: http.SameSiteStrictMode})
}
