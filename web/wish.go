package web

import (
	"reflect"
	"slices"
	"strconv"
	"strings"

	"yembo/core/hw"
)

// wishNames are the fields of the plan's form that make up a wish.
var wishNames = []string{"wish", "memory_gb", "storage_gb", "runtime_h", "wireless", "budget", "service", "keep", "ap"}

// wishWords puts what is wished into words; services are counted where their model is not
// at hand.
func wishWords(w *hw.Request, ch *hw.Chassis) string {
	if w == nil {
		return ""
	}
	var words []string
	if gb, ok := w.Goals.MemoryGB.Get(); ok {
		words = append(words, gb.String()+" GB memory")
	}
	if gb, ok := w.Goals.StorageGB.Get(); ok {
		words = append(words, gb.String()+" GB storage")
	}
	if h, ok := w.Goals.RuntimeH.Get(); ok {
		words = append(words, h.String()+" h on the battery")
	}
	if std, ok := w.Goals.Wireless.Get(); ok {
		words = append(words, hw.Standards.Says(std))
	}
	switch n := len(w.Services); {
	case n == 0:
	case ch == nil && n == 1:
		words = append(words, "a service")
	case ch == nil:
		words = append(words, strconv.Itoa(n)+" services")
	default:
		for _, s := range w.Services {
			words = append(words, ch.ServiceName(s.ID))
		}
	}
	if len(w.Keep) > 0 {
		words = append(words, "leave "+strings.Join(placeNames(ch, w.Keep), " and ")+" alone")
	}
	return strings.Join(words, ", ")
}

// placeNames are places as people say them.
func placeNames(ch *hw.Chassis, ids []string) []string {
	out := make([]string, len(ids))
	for i, id := range ids {
		out[i] = hw.PlaceSays(id)
	}
	return out
}

// pickable is a thing that is ticked in a wish.
type pickable struct {
	ID, Says string
	Picked   bool
	Charge   string // of a service: its consumables, as typed
}

// servicesOf are the services of a model, with those that are picked.
func servicesOf(ch *hw.Chassis, picked []hw.AskedService, currency string) []pickable {
	var out []pickable
	for i := range ch.Services {
		x := pickable{ID: ch.Services[i].ID, Says: ch.ServiceName(ch.Services[i].ID)}
		for _, asked := range picked {
			if asked.ID != x.ID {
				continue
			}
			x.Picked = true
			if cents, ok := asked.Charge.Get(); ok {
				x.Charge = amountTyped(currency, cents)
			}
		}
		out = append(out, x)
	}
	return out
}

// amountTyped is an amount as it is typed into a field: 220 or 4.50.
func amountTyped(currency string, cents int64) string {
	return strings.TrimSuffix(strings.ReplaceAll(hw.Amount(currency, cents), "−", "-"), ".00")
}

// keepable are the places of a model that can be left alone, with those that are picked.
func keepable(ch *hw.Chassis, picked []string) []pickable {
	var out []pickable
	packs := false
	for _, p := range ch.Places() {
		switch {
		case p.Kind == hw.InPack:
			packs = true
		case p.Takes != "":
			out = append(out, pickable{ID: p.ID, Says: p.ID, Picked: slices.Contains(picked, p.ID)})
		}
	}
	if packs {
		out = append(out, pickable{ID: hw.BatteryPlace, Says: "the battery",
			Picked: slices.Contains(picked, hw.BatteryPlace)})
	}
	return out
}

// sameWish compares what can be wished on the plan's page.
func sameWish(a, b *hw.Request) bool {
	return reflect.DeepEqual(wishOf(a), wishOf(b))
}

func wishOf(w *hw.Request) hw.Request {
	out := hw.Request{Goals: w.Goals, BudgetCents: w.BudgetCents, Services: append([]hw.AskedService{}, w.Services...),
		Keep: append([]string{}, w.Keep...)}
	out.Practice.AccessPoint = w.Practice.AccessPoint
	return out
}
