package kit

import (
	"slices"
	"strconv"
	"strings"
	"yembo/shop/base"

	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/web/form"
)

// KeptPlaces are the places that are to be left alone.
func KeptPlaces(f *form.Form, ch *hw.Chassis) []string {
	var out []string
	for _, p := range Keepable(ch, nil) {
		if Ticked(f, "/keep", p.ID) {
			out = append(out, p.ID)
		}
	}
	return out
}

// The address of a plan holds what it was asked with, so that it can be sent and opened
// again. Its names:
//
//	wish=1, memory_gb, storage_gb, runtime_h, wireless, budget   in place of the stored wish
//	service, keep                                                any number, with the wish
//	ap                                                           the customer's access point, with the wish
//	limit, pairing, migration, bay, order                        in place of the shop's practice
//	risk                                                         what a point of risk is worth
//	pin, ban                                                     parts, any number
//	own:PLACE                                                    keep, remove or a part
//	with                                                         the option that is looked at, by what it does
//	ask                                                          a part, or a label typed by hand
//	model                                                        the record's version then
const OwnPrefix = "own:"

// isOwnField reports whether a name of the address belongs to an own combination.
func isOwnField(name string) bool { return strings.HasPrefix(name, OwnPrefix) }

// PickNames says in words what an option is best in; one may carry several.
func PickNames(p plan.Picks) map[string]string {
	out := map[string]string{}
	add := func(id, words string) {
		if id == "" {
			return
		}
		if out[id] != "" {
			words = ", " + words
		} else {
			words = string(words[0]-'a'+'A') + words[1:]
		}
		out[id] += words
	}
	add(p.Recommended, "recommended")
	add(p.LeastCost, "cheapest")
	add(p.LeastWork, "least work")
	add(p.LowestRisk, "lowest risk")
	add(p.Soonest, "soonest")
	add(p.MostHeadroom, "most headroom")
	return out
}

// ChosenWords says what a choice does, in the words of the day it was made.
func ChosenWords(c *base.Choice) string {
	if c.Words != "" {
		return c.Words
	}
	var places []string
	for _, a := range c.Option.Actions {
		if a.Do != plan.DoKeep {
			places = append(places, a.Place)
		}
	}
	return OrDash(strings.Join(places, ", "), "the option of then")
}

// WishWords puts what is wished into words; services are counted where their model is not
// at hand.
func WishWords(w *hw.Request, ch *hw.Chassis) string {
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

// Pickable is a thing that is ticked in a wish.
type Pickable struct {
	ID, Says string
	Picked   bool
	Charge   string // of a service: its consumables, as typed
}

// ServicesOf are the services of a model, with those that are picked.
func ServicesOf(ch *hw.Chassis, picked []hw.AskedService, currency string) []Pickable {
	var out []Pickable
	for i := range ch.Services {
		x := Pickable{ID: ch.Services[i].ID, Says: ch.ServiceName(ch.Services[i].ID)}
		for _, asked := range picked {
			if asked.ID != x.ID {
				continue
			}
			x.Picked = true
			if cents, ok := asked.Charge.Get(); ok {
				x.Charge = AmountTyped(currency, cents)
			}
		}
		out = append(out, x)
	}
	return out
}

// Keepable are the places of a model that can be left alone, with those that are picked.
func Keepable(ch *hw.Chassis, picked []string) []Pickable {
	var out []Pickable
	packs := false
	for _, p := range ch.Places() {
		switch {
		case p.Kind == hw.InPack:
			packs = true
		case p.Takes != "":
			out = append(out, Pickable{ID: p.ID, Says: p.ID, Picked: slices.Contains(picked, p.ID)})
		}
	}
	if packs {
		out = append(out, Pickable{ID: hw.BatteryPlace, Says: "the battery",
			Picked: slices.Contains(picked, hw.BatteryPlace)})
	}
	return out
}
