package teardown

import (
	"fmt"
	"math/rand/v2"
	"sort"
	"testing"
	"time"

	"yembo/core/hw"
)

// graph makes a random record of steps: at most 6 bits, about 1.5 needs a step.
func graph(seed uint64, steps int) *hw.Chassis {
	r := rand.New(rand.NewPCG(seed, 3))
	ch := &hw.Chassis{ID: "g"}
	for i := range 6 {
		ch.Fasteners = append(ch.Fasteners,
			hw.Fastener{ID: fmt.Sprintf("f%d", i), Bit: hw.Known(fmt.Sprintf("B%d", i))})
	}
	for i := range steps {
		st := hw.Step{ID: fmt.Sprintf("s%d", i), Verb: "lift", Needs: []string{},
			Side: []hw.Side{"", "top", "bottom", "bottom"}[r.IntN(4)]}
		for range r.IntN(4) {
			if i > 0 {
				st.Needs = append(st.Needs, fmt.Sprintf("s%d", r.IntN(i)))
			}
		}
		switch r.IntN(5) {
		case 0, 1, 2:
			st.Verb, st.Fasteners = "unscrew",
				[]hw.StepFasteners{{Group: fmt.Sprintf("f%d", r.IntN(6)), Count: 1 + r.IntN(4)}}
		case 3:
			if r.IntN(4) == 0 {
				st.Fasteners = []hw.StepFasteners{{Group: "f0", Count: 1},
					{Group: fmt.Sprintf("f%d", 1+r.IntN(5)), Count: 1}}
			}
		}
		st.IsolatesPwr = hw.Known(r.IntN(steps) == 0)
		ch.Steps = append(ch.Steps, st)
	}
	// The document lists steps in no particular order.
	r.Shuffle(len(ch.Steps), func(i, j int) { ch.Steps[i], ch.Steps[j] = ch.Steps[j], ch.Steps[i] })
	return ch
}

func all(ch *hw.Chassis) []bool {
	down := make([]bool, len(ch.Steps))
	for i := range down {
		down[i] = true
	}
	return down
}

// TestOrderAgainstEveryOrder compares with all orders of small graphs.
func TestOrderAgainstEveryOrder(t *testing.T) {
	for seed := range uint64(2000) {
		ch := graph(seed, 7)
		got, err := BestOrder(t.Context(), ch, all(ch))
		if err != nil {
			t.Fatal(err)
		}
		want := everyOrder(t, ch)
		if fmt.Sprint(got) != fmt.Sprint(want) {
			t.Fatalf("seed %d: search %v, every order %v", seed, got, want)
		}
	}
}

// everyOrder tries each order that keeps the needs and has the isolating steps as
// early as possible, pricing it by walking through it.
func everyOrder(t *testing.T, ch *hw.Chassis) Order {
	t.Helper()
	var best Order
	var bestAt []int // positions of the isolating steps, in document order
	first := true
	var walk func(order []int, done map[string]bool)
	walk = func(order []int, done map[string]bool) {
		if len(order) == len(ch.Steps) {
			o := priced(ch, order)
			at := isolations(ch, order)
			if first || sooner(at, bestAt) || (fmt.Sprint(at) == fmt.Sprint(bestAt) && better(o, best)) {
				best, bestAt, first = o, at, false
			}
			return
		}
		for i := range ch.Steps {
			ready := !done[ch.Steps[i].ID]
			for _, n := range ch.Steps[i].Needs {
				ready = ready && done[n]
			}
			if !ready {
				continue
			}
			done[ch.Steps[i].ID] = true
			walk(append(order, i), done)
			delete(done, ch.Steps[i].ID)
		}
	}
	walk(nil, map[string]bool{})
	return best
}

func isolations(ch *hw.Chassis, order []int) []int {
	var at []int
	for i := range ch.Steps {
		if !ch.Steps[i].IsolatesPwr.Or(false) {
			continue
		}
		for k, j := range order {
			if i == j {
				at = append(at, k)
			}
		}
	}
	return at
}

func sooner(a, b []int) bool {
	for i := range a {
		if a[i] != b[i] {
			return a[i] < b[i]
		}
	}
	return false
}

// priced counts bit changes and flips, with the better order of bits within each
// step, by trying all of them.
func priced(ch *hw.Chassis, order []int) Order {
	costs := map[string]int{"": 0} // bit in hand -> least changes so far
	flips, side := 0, hw.Side("")
	for _, i := range order {
		st := &ch.Steps[i]
		if st.Side != "" {
			if side != "" && side != st.Side {
				flips++
			}
			side = st.Side
		}
		bits := StepBits(ch, st)
		next := map[string]int{}
		relax := func(bit string, c int) {
			if old, ok := next[bit]; !ok || c < old {
				next[bit] = c
			}
		}
		for hand, c := range costs {
			switch len(bits) {
			case 0:
				relax(hand, c)
			case 1:
				relax(bits[0], c+changed(hand, bits[0]))
			default:
				relax(bits[1], c+changed(hand, bits[0])+1)
				relax(bits[0], c+changed(hand, bits[1])+1)
			}
		}
		costs = next
	}
	least := 1 << 20
	for _, c := range costs {
		least = min(least, c)
	}
	return Order{append([]int{}, order...), least, flips}
}

func changed(hand, bit string) int {
	if hand == bit {
		return 0
	}
	return 1
}

func better(a, b Order) bool {
	if a.BitChanges != b.BitChanges {
		return a.BitChanges < b.BitChanges
	}
	if a.Flips != b.Flips {
		return a.Flips < b.Flips
	}
	return sooner(a.Steps, b.Steps)
}

// BenchmarkOrder1000 orders 1,000 graphs of 40 steps and reports the 99th
// percentile.
func BenchmarkOrder1000(b *testing.B) {
	for b.Loop() {
		times := make([]time.Duration, 0, 1000)
		for seed := range uint64(1000) {
			ch := graph(seed, 40)
			start := time.Now()
			if _, err := BestOrder(b.Context(), ch, all(ch)); err != nil {
				b.Fatalf("seed %d: %v", seed, err)
			}
			times = append(times, time.Since(start))
		}
		sort.Slice(times, func(i, j int) bool { return times[i] < times[j] })
		b.ReportMetric(float64(times[989].Microseconds())/1000, "ms-p99")
		b.ReportMetric(float64(times[999].Microseconds())/1000, "ms-max")
	}
}
