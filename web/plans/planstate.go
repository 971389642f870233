package plans

import (
	"maps"
	"net/url"
	"slices"
	"sort"
	"strings"
	"yembo/shop/jobs"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/web/form"
	"yembo/web/kit"
)

const chargePrefix = "charge:" // what a service costs beside the work

const maxPinned = 12

var addressNames = []string{"wish", "memory_gb", "storage_gb", "runtime_h", "wireless", "budget", "service", "keep",
	"ap", "limit", "risk", "pairing", "migration", "bay", "order", "pin", "ban", "with", "ask", "find", "model"}

// formNames are sent with what the page's forms keep, and are no part of the address.
var formNames = []string{"csrf", "token", "option", "seen", "version"}

// planState is what a plan's address asks for.
type planState struct {
	*form.Form
	values  url.Values // what is understood of it, for links
	unknown []string   // names of another version
	query   jobs.PlanQuery
	agreed  *agreedView // another choice was pressed after a quote was accepted
}

// readState reads an address. What cannot be read is a fault at its field, and the stored
// wish stands in its place.
func readState(c *echo.Context, values url.Values) planState {
	st := planState{Form: form.Of(c, url.Values{}), values: url.Values{}}
	for name, list := range values {
		if strings.HasPrefix(name, kit.OwnPrefix) || strings.HasPrefix(name, chargePrefix) ||
			slices.Contains(addressNames, name) {
			st.values[name] = list
			st.Form.Values[name] = list
		} else if !slices.Contains(formNames, name) {
			st.unknown = append(st.unknown, name)
		}
	}
	sort.Strings(st.unknown)
	f := st.Form
	if f.Is("wish", "1") {
		wish := &hw.Request{Format: hw.FormatRequest, BudgetCents: f.Cents("budget"),
			Goals: hw.Goals{MemoryGB: f.Dec("memory_gb"), StorageGB: f.Dec("storage_gb"),
				RuntimeH: f.Dec("runtime_h"), Wireless: form.Choose(f, "wireless", hw.Standards)}}
		for _, id := range kit.AtMost(maxPinned, values["service"]) {
			wish.Services = append(wish.Services, hw.AskedService{ID: id, Charge: f.Cents(chargePrefix + id)})
		}
		wish.Keep = append(wish.Keep, kit.AtMost(maxPinned, values["keep"])...)
		wish.Practice.AccessPoint = form.Choose(f, "ap", hw.Standards)
		for _, x := range hw.ValidateRequest(wish, nil) {
			name := x.Pointer[strings.LastIndex(x.Pointer, "/")+1:]
			f.Fault(strings.Replace(name, "budget_cents", "budget", 1), x.Text)
		}
		if f.Count() == 0 {
			st.query.Wish = wish
		}
	}
	st.query.Pinned, st.query.Forbidden = kit.AtMost(maxPinned, values["pin"]), kit.AtMost(maxPinned, values["ban"])
	for name := range values {
		if place, ok := strings.CutPrefix(name, kit.OwnPrefix); ok && values.Get(name) != "" {
			if st.query.Own == nil {
				st.query.Own = map[string]string{}
			}
			st.query.Own[place] = values.Get(name)
		}
	}
	return st
}

// practice is the shop's own with what the address says in its place.
func (st *planState) practice(own hw.Practice) *hw.Practice {
	p := own
	said := false
	said = pick(st.Form, "limit", hw.LimitPractices, &p.MemoryLimit) || said
	said = pick(st.Form, "pairing", hw.Pairings, &p.Pairing) || said
	said = pick(st.Form, "migration", hw.Migrations, &p.Migration) || said
	yesNo := func(name string, into *hw.Maybe[bool]) {
		if v, ok := st.Choice(name, []string{"yes", "no"}).Get(); ok {
			*into, said = hw.Known(v == "yes"), true
		}
	}
	if cents, typed := st.Cents("risk").Get(); typed && cents > hw.MostRiskCents {
		st.Fault("risk", hw.Word(hw.FaultRange, st.Text("risk"), "at most "+kit.AmountTyped(st.Currency, hw.MostRiskCents)))
	} else if typed {
		p.RiskCents, said = hw.Known(cents), true
	}
	yesNo("bay", &p.AllowBay)
	yesNo("order", &p.AllowOrder)
	if !said {
		return nil
	}
	return &p
}

// pick puts a word of the address in place of another, and reports whether there is one.
func pick[W ~string](f *form.Form, name string, table hw.Vocabulary[W], into *hw.Maybe[W]) bool {
	v := form.Choose(f, name, table)
	if v.IsKnown() {
		*into = v
	}
	return v.IsKnown()
}

// link is the address with one name set otherwise; "" takes it out.
func (st *planState) link(name, value string) string {
	next := url.Values{}
	for k, v := range st.values {
		next[k] = v
	}
	if value == "" {
		next.Del(name)
	} else {
		next.Set(name, value)
	}
	return "?" + next.Encode()
}

// toggle is the address with a value of a list added, or taken out where it is there.
func (st *planState) toggle(name, value string) string {
	next := url.Values{}
	for k, v := range st.values {
		next[k] = slices.Clone(v)
	}
	if i := slices.Index(next[name], value); i >= 0 {
		next[name] = slices.Delete(next[name], i, i+1)
	} else {
		next[name] = append(next[name], value)
	}
	// What is pinned is not forbidden, and the other way round.
	other := map[string]string{"pin": "ban", "ban": "pin"}[name]
	next[other] = slices.DeleteFunc(next[other], func(s string) bool { return s == value })
	return "?" + next.Encode()
}

// AllErrors are the faults of the address, each with its field.
func (st *planState) AllErrors() []string {
	var out []string
	for _, name := range slices.Sorted(maps.Keys(st.Faults)) {
		for _, text := range st.Faults[name] {
			out = append(out, strings.ReplaceAll(name, "_", " ")+": "+text)
		}
	}
	return out
}

// Unknown are the names of the address that this version does not know.
func (st *planState) Unknown() []string { return st.unknown }

// AskOpen reports whether the questions are unfolded: nothing is asked yet, or something of it is wrong.
func (v planView) AskOpen() bool { return v.Goals == "" || v.Count() > 0 }

// OwnOpen reports whether an own combination is being made.
func (st *planState) OwnOpen() bool { return len(st.query.Own) > 0 }
