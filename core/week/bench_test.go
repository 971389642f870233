package week

import (
	"slices"
	"testing"
	"time"
)

// BenchmarkSmall is the best schedule of up to eight jobs on up to two benches by up to three people, over 120 requests at
// random: those that the best is owed for.
func BenchmarkSmall(b *testing.B) {
	exactly(b, 120, func(seed int) size {
		return size{jobs: 1 + seed*7%8, stretches: 3, benches: 1 + seed/8%2, people: 1 + seed/3%3, days: 3, plain: true}
	})
}

// BenchmarkExact is the hardest of them: eight jobs on two benches by three people.
func BenchmarkExact(b *testing.B) {
	exactly(b, 40, func(int) size { return size{jobs: 8, stretches: 3, benches: 2, people: 3, days: 3, plain: true} })
}

// exactly tells how long the best schedules of some requests take.
func exactly(b *testing.B, requests int, of func(seed int) size) {
	var all []time.Duration
	for b.Loop() {
		for seed := range requests {
			r := atRandom(uint64(seed), of(seed))
			began := time.Now()
			if _, err := Make(b.Context(), r); err != nil {
				b.Fatal(err)
			}
			all = append(all, time.Since(began))
		}
	}
	slices.Sort(all)
	b.ReportMetric(float64(all[len(all)/2].Milliseconds()), "ms/median")
	b.ReportMetric(float64(all[len(all)*95/100].Milliseconds()), "ms/p95")
	b.ReportMetric(float64(all[len(all)-1].Milliseconds()), "ms/longest")
}

// BenchmarkLarge is a good schedule of sixty jobs on four benches.
func BenchmarkLarge(b *testing.B) {
	r := atRandom(1, size{jobs: 60, stretches: 3, benches: 4, people: 5, days: 12, plain: true})
	for b.Loop() {
		if _, err := Make(b.Context(), r); err != nil {
			b.Fatal(err)
		}
	}
}

// BenchmarkReplan is what a tick moves: sixty jobs in the order that stands.
func BenchmarkReplan(b *testing.B) {
	r := atRandom(1, size{jobs: 60, stretches: 3, benches: 4, people: 5, days: 12, plain: true})
	for b.Loop() {
		if _, err := Quickly(r, Quick{Where: time.UTC}); err != nil {
			b.Fatal(err)
		}
	}
}

// BenchmarkOffer is what the counter waits for: a job that comes now, among sixty.
func BenchmarkOffer(b *testing.B) {
	r := atRandom(1, size{jobs: 60, stretches: 3, benches: 4, people: 5, days: 12, plain: true})
	x := r.Jobs[0]
	x.ID, x.New, x.Promise, x.Danger, x.Pin, x.Started = "new", true, "", false, nil, nil
	r.Jobs = append(r.Jobs, x)
	for b.Loop() {
		s, err := Quickly(r, Quick{Where: time.UTC})
		if err != nil || len(s.Offers) == 0 {
			b.Fatal(err)
		}
	}
}
