package teardown

import "yembo/core/hw"

// Sequence puts the marked steps into an order that keeps all needs: first what
// isolates power, with what it needs, then the rest, as the document lists them.
func Sequence(ch *hw.Chassis, down []bool) []int {
	index := stepIndex(ch)
	var order []int
	done := make([]bool, len(ch.Steps))
	var place func(i int)
	place = func(i int) {
		if done[i] || !down[i] {
			return
		}
		done[i] = true
		for _, need := range ch.Steps[i].Needs {
			if j, ok := index[need]; ok {
				place(j)
			}
		}
		order = append(order, i)
	}
	for i := range ch.Steps {
		if ch.Steps[i].IsolatesPwr.Or(false) {
			place(i)
		}
	}
	for i := range ch.Steps {
		place(i)
	}
	return order
}
