package week_test

import (
	"context"
	"fmt"

	"yembo/core/hw"
	"yembo/core/week"
)

// A shop of one person and one bench at twenty past eleven: the parts of one of two machines come at five, too late
// for fifty minutes of work that day.
func ExampleMake() {
	day := [][2]string{{"09:00", "18:00"}}
	r := &week.Request{Format: week.Format, Now: "2026-05-18T11:20:00+02:00", TZ: "Europe/Vienna",
		Hours: map[string][][2]string{"mon": day, "tue": day}, Benches: []week.Bench{{ID: "b1"}}, People: []week.Person{{ID: "okell"}},
		Arrivals: []week.Arrival{{ID: "2240", At: "2026-05-18T17:00:00+02:00"}},
		Jobs: []week.Job{
			{ID: "wath-06", Needs: []string{"2240"}, Promise: "2026-05-18T18:00:00+02:00",
				Stretches: []week.Stretch{{Do: week.Hands, Minutes: hw.DecOf(50)}}},
			{ID: "wath-07", Stretches: []week.Stretch{{Do: week.Hands, Minutes: hw.DecOf(40)}}}}}
	s, err := week.Make(context.Background(), r)
	if err != nil {
		fmt.Println(err)
		return
	}
	for _, j := range s.Jobs {
		fmt.Println(j.ID, j.Stretches[0].Start[11:16], "to", j.Ready[8:16], j.Promise)
	}
	for _, why := range s.Jobs[0].Why {
		fmt.Println("  until", why.At[8:16], why.Code)
	}
	for _, tell := range s.Tell {
		fmt.Println("tell the", tell.To, tell.Code)
	}
	// Output:
	// wath-06 09:00 to 19T09:50 broken
	// wath-07 11:20 to 18T12:00 none
	//   until 18T17:00 arrival
	//   until 18T17:15 look
	//   until 19T09:00 hours
	//   until 19T09:50 hands
	//   until 19T10:50 margin
	//   until 19T11:00 round
	// tell the customer promise.broken
	// tell the supplier arrival.too_late
}
