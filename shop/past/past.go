// Package past gives the demo workshop the ten weeks that lie behind it: machines that were taken in, quoted, worked on,
// proven, handed over and paid, each step by the use case that the pages use, at the time when it happened.
package past

import (
	"context"
	"fmt"
	"math/rand/v2"
	"time"

	"yembo/shop"
	"yembo/shop/base"
	"yembo/shop/demo"
)

// How much lies behind the shop.
const (
	WorkDays = 50 // ten weeks
	lastDays = 4  // at the end of them nothing new is taken in, so that all is done when today begins
)

// shopPast is the shop while its past happens: its clock stands where the next thing does.
type shopPast struct {
	ctx     context.Context
	s       *shop.Shop
	now     time.Time
	random  *rand.Rand
	data    *demo.Data
	jobs    []*pastJob
	orders  []int64
	opening map[string]int // pieces by part on the shelf when it began: so many are to be there again
	events  int
}

// Seed lets so many working days before until happen in a shop that has its models and its shelf.
func Seed(ctx context.Context, sh *shop.Shop, data *demo.Data, until time.Time, days int) error {
	p := &shopPast{ctx: ctx, random: rand.New(rand.NewPCG(7, 26)), data: data, opening: map[string]int{}}
	p.s = shop.New(sh.Store, func() time.Time { return p.now })
	first := demo.Midnight(until)
	shelf, err := p.s.Shelf(ctx)
	if err != nil {
		return err
	}
	for _, l := range shelf.Lines {
		p.opening[l.ID] = l.Shelf
	}
	for n := range days {
		day := demo.Stepped(first, n-days)
		if err := p.day(n, days-1-n, day); err != nil {
			return fmt.Errorf("the demo's %s: %w", day.Format("2 Jan"), err)
		}
	}
	return nil
}

// day is a working day: what comes is booked in, a machine is taken in and quoted, two are worked on, what they used is
// ordered again.
func (p *shopPast) day(n, left int, day time.Time) error {
	p.now = day.Add(8*time.Hour + 40*time.Minute)
	if err := p.deliveries(day); err != nil {
		return err
	}
	p.now = day.Add(9*time.Hour + time.Duration(5+p.random.IntN(40))*time.Minute)
	if left >= lastDays {
		if err := p.takeIn(n); err != nil {
			return err
		}
	}
	if err := p.answers(day); err != nil {
		return err
	}
	done := 0
	for _, j := range p.jobs {
		ready, err := p.ready(j)
		if err != nil {
			return err
		}
		if !ready || done == 2 || j.since.Equal(day) && left > 0 {
			continue
		}
		if begins := day.Add(10*time.Hour + 10*time.Minute + time.Duration(done)*3*time.Hour); p.now.Before(begins) {
			p.now = begins
		}
		done++
		if err := p.work(j); err != nil {
			return fmt.Errorf("%s: %w", j.tag, err)
		}
	}
	if day.Weekday() == time.Monday || day.Weekday() == time.Thursday {
		p.now = day.Add(16*time.Hour + 50*time.Minute)
		return p.order(day)
	}
	return nil
}

// later lets time pass, within the day.
func (p *shopPast) later(d time.Duration) { p.now = p.now.Add(d) }

// actor is one of the three who work there.
func (p *shopPast) actor() base.Actor {
	return base.Actor{Name: demo.Technicians[p.random.IntN(len(demo.Technicians))]}
}
