package week

import (
	"slices"
	"testing"
	"time"
)

// BenchmarkExact is the best schedule of eight jobs on two benches by three people, over forty requests at random; the longest
// of them is told beside the mean.
func BenchmarkExact(b *testing.B) {
	var all []time.Duration
	for b.Loop() {
		for seed := range uint64(40) {
			r := atRandom(seed, size{jobs: 8, stretches: 3, benches: 2, people: 3, days: 3, plain: true})
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
