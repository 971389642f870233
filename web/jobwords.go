package web

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"yembo/core/hw"
	"yembo/shop"
)

func consentRows(given []hw.Consent) []consentRow {
	var out []consentRow
	for _, x := range hw.Consents {
		out = append(out, consentRow{Code: string(x.Consent), Words: sentence(x.Says), Means: x.Why,
			Given: slices.Contains(given, x.Consent)})
	}
	return out
}

// conditionWords says how the machine came, what is wrong first.
func conditionWords(c *shop.Condition) []string {
	var out []string
	for _, x := range []struct {
		is   bool
		word string
	}{{c.Swollen, "pack swollen"}, {c.Hot, "hot or smelling"}, {c.Damp, "damp"}, {c.Cracked, "cracked"},
		{c.Screws, "screws missing"}} {
		if x.is {
			out = append(out, x.word)
		}
	}
	if len(out) == 0 && c.Looked {
		out = append(out, "dry, whole, flat, no screw missing")
	}
	if c.Seal != "" {
		out = append(out, map[string]string{"intact": "seal intact", "broken": "seal broken",
			"none": "no seal"}[c.Seal])
	}
	if c.Note != "" {
		out = append(out, c.Note)
	}
	return out
}

// stopNext is what is done at once with a machine that stops its job.
func stopNext(danger string) string {
	if shop.PackDanger(danger) {
		return "Hands off the pack; move the machine to the fire box or onto stone, then call the customer"
	}
	return "Leave it as it is, away from people, then call the customer"
}

// dangerCautions are the usual cautions for what is wrong with a machine (handbook 5).
func dangerCautions(r *shop.MachineRecord) []string {
	c := r.Details.Condition
	var out []string
	if c.Swollen || c.Hot || shop.PackDanger(r.Danger()) {
		out = append(out, "Do not charge it, start it, press it or pry at it. Away from people and anything that "+
			"burns, on stone or in the fire box.",
			"Take the pack out only where local rules and your training allow it; never bend or pierce it. It goes "+
				"to battery recycling, terminals taped.",
			"Smoke, hissing or heat: out of the room, call the fire service.")
	}
	if c.Damp {
		out = append(out, "No charger, no start: pack unplugged as soon as it can be, opened and dried before "+
			"anything is tested.")
	}
	if c.Cracked {
		out = append(out, "Gloves and glasses: broken glass and sharp edges. Tape over the crack before it is "+
			"turned over.")
	}
	return append(out, "Local electrical, battery and waste rules, and the maker's service sheet, come before this "+
		"page.")
}

// agoWords is how long ago something was.
func agoWords(now, then time.Time) string {
	if now.Sub(then) < time.Minute {
		return "just now"
	}
	return sinceWords(now, then) + " ago"
}

// sinceWords says how long ago something was, without the word.
func sinceWords(now, then time.Time) string {
	if then.IsZero() {
		return ""
	}
	switch d := now.Sub(then); {
	case d < time.Minute:
		return "just now"
	case d < time.Hour:
		return fmt.Sprintf("%d min", int(d.Minutes()))
	case d < 24*time.Hour:
		return fmt.Sprintf("%d h", int(d.Hours()))
	case d < 48*time.Hour:
		return "1 day"
	default:
		return fmt.Sprintf("%d days", int(d.Hours()/24))
	}
}

func givenConsents(j *shop.JobRecord) string {
	var names []string
	for _, row := range hw.Consents {
		for _, code := range j.Details.Consents {
			if code == row.Consent {
				names = append(names, row.Short)
			}
		}
	}
	return strings.Join(names, ", ")
}

// spanWords is what pages call a stretch of a job's life.
var spanWords = hw.Vocabulary[shop.SpanKind]{{Word: shop.SpanBench, Says: "hands on it"},
	{Word: shop.SpanCustomer, Says: "waits for the customer"}, {Word: shop.SpanParts, Says: "waits for parts"},
	{Word: shop.SpanShop, Says: "waits for us"}}

// openWords says how far the station is at which the job stands.
func openWords(j *shop.JobRecord) string {
	kinds := map[shop.StopKind]int{}
	for i := range j.Stops {
		kinds[j.Stops[i].Kind]++
	}
	switch {
	case j.Choice == nil:
		return "no option is chosen"
	case kinds[shop.StopConsent] > 0:
		return fmt.Sprintf("consents open: %d", kinds[shop.StopConsent])
	case kinds[shop.StopPart] > 0:
		return fmt.Sprintf("%d of %d kinds here", len(j.Parts)-kinds[shop.StopPart], len(j.Parts))
	}
	return "now"
}
