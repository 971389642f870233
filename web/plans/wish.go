package plans

import (
	"reflect"

	"yembo/core/hw"
)

// wishNames are the fields of the plan's form that make up a wish.
var wishNames = []string{"wish", "memory_gb", "storage_gb", "runtime_h", "wireless", "budget", "service", "keep", "ap"}

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
