package counter

import (
	"fmt"

	"yembo/shop/jobs"

	"yembo/core/hw"
)

// conditionWords says how the machine came, what is wrong first.
func conditionWords(c *jobs.Condition) []string {
	var out []string
	for _, x := range []struct {
		is   bool
		word string
	}{{c.Swollen, "battery swollen"}, {c.Hot, "hot or smelling"}, {c.Damp, "damp"}, {c.Cracked, "cracked"},
		{c.Screws, "screws missing"}} {
		if x.is {
			out = append(out, x.word)
		}
	}
	if len(out) == 0 && c.Looked {
		out = append(out, "dry, undamaged, flat, all screws present")
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

// spanWords is what pages call a stretch of a job's life.
var spanWords = hw.Vocabulary[jobs.SpanKind]{{Word: jobs.SpanBench, Says: "at the bench"},
	{Word: jobs.SpanCustomer, Says: "waits for the customer"}, {Word: jobs.SpanParts, Says: "waits for parts"},
	{Word: jobs.SpanShop, Says: "waits for us"}}

// openWords says how far the station is at which the job stands.
func openWords(j *jobs.JobRecord) string {
	kinds := map[jobs.StopKind]int{}
	for i := range j.Stops {
		kinds[j.Stops[i].Kind]++
	}
	switch {
	case j.Choice == nil:
		return "no option is chosen"
	case kinds[jobs.StopConsent] > 0:
		return fmt.Sprintf("consents open: %d", kinds[jobs.StopConsent])
	case kinds[jobs.StopPart] > 0:
		return fmt.Sprintf("%d of %d kinds here", len(j.Parts)-kinds[jobs.StopPart], len(j.Parts))
	}
	return "now"
}
