package jobs

import (
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/shop/base"
	"yembo/shop/stock"
	"yembo/store"
)

// TestTrail: what a job waited for, and when, is read out of its history: moves, consents given in
// talks, pieces held for it.
func TestTrail(t *testing.T) {
	day := time.Date(2026, 5, 14, 9, 0, 0, 0, time.UTC)
	at := func(minutes int) time.Time { return day.Add(time.Duration(minutes) * time.Minute) }
	job := int64(7)
	history := func(minutes int, c Course) base.Change {
		return base.Change{At: at(minutes), By: "R. Okell", Data: c.Data(), JobID: job}
	}
	whole := func() *JobRecord {
		j := &JobRecord{MachineRecord: MachineRecord{JobID: job, TakenIn: at(0), ChosenAt: at(20), ChosenBy: "R. Okell",
			Choice: &base.Choice{Option: plan.Option{Consents: []hw.Consent{hw.ConsentData, hw.ConsentSeal},
				Buy: []plan.Buy{{Part: "drive", Quantity: 2}, {Part: "paste", Quantity: 1}}}},
			Details: Details{Consents: []hw.Consent{hw.ConsentData, hw.ConsentSeal}}}}
		j.History = []base.Change{ // the newest first
			history(320, Course{To: MovePause}), history(300, Course{To: MoveStart}),
			history(60, Course{Consents: []hw.Consent{hw.ConsentSeal}, Agreed: true}), history(0, Course{}),
		}
		return j
	}
	moved := []store.Movement{
		{At: at(20), PartID: "drive", Kind: string(stock.Reserved), Held: 1},
		{At: at(200), PartID: "drive", Kind: string(stock.Reserved), Held: 1},
		{At: at(310), PartID: "drive", Kind: string(stock.Fitted), Held: -2, Shelf: -2},
	}
	for _, c := range []struct {
		name    string
		change  func(j *JobRecord) []store.Movement
		spans   string
		station StationID
	}{
		{"the whole way", func(*JobRecord) []store.Movement { return moved },
			"shop 20, customer 40, parts 140, shop 100, bench 20, shop 80", StationOpened},
		{"a piece never came", func(j *JobRecord) []store.Movement {
			j.Lacks, j.History = []stock.Lack{{Part: "drive", N: 1}}, j.History[2:]
			return moved[:1]
		}, "shop 20, customer 40, parts 340", StationParts},
		{"no word yet", func(j *JobRecord) []store.Movement {
			j.Details.Consents, j.History = j.Details.Consents[:1], nil
			return moved[:2]
		}, "shop 20, customer 380", StationAgreed},
		{"sent to wait, and an answer", func(j *JobRecord) []store.Movement {
			j.Choice = nil
			j.History = []base.Change{history(90, Course{To: MoveReady, Agreed: true}), history(30, Course{To: WaitsCustomer})}
			return nil
		}, "shop 30, customer 60, shop 310", StationPlanned},
		{"closed while it ran", func(j *JobRecord) []store.Movement {
			j.Closed, j.Lacks = at(350), nil
			j.History = append([]base.Change{history(350, Course{To: MoveClose})}, j.History[1:]...)
			return append(slices.Clone(moved[:2]), store.Movement{At: at(350), PartID: "drive", Kind: string(stock.Released), Held: -2})
		}, "shop 20, customer 40, parts 140, shop 100, bench 50", ""},
	} {
		j := whole()
		tr := j.trail(c.change(j), at(400))
		var words []string
		stands := StationID("")
		for _, x := range tr.Spans {
			words = append(words, string(x.Kind)+" "+strconv.Itoa(int(x.To.Sub(x.From).Minutes())))
		}
		for _, x := range tr.Stations {
			if x.Open {
				stands = x.ID
			}
		}
		if got := strings.Join(words, ", "); got != c.spans || stands != c.station {
			t.Errorf("%s: %s, at %q; want %s, at %q", c.name, got, stands, c.spans, c.station)
		}
	}
	tr := whole().trail(moved, at(400))
	for id, minutes := range map[StationID]int{StationPlanned: 20, StationAgreed: 60, StationParts: 200, StationOpened: 300} {
		i := slices.IndexFunc(tr.Stations, func(x Station) bool { return x.ID == id })
		if x := tr.Stations[i]; !x.At.Equal(at(minutes)) || x.By != "R. Okell" && id != StationParts {
			t.Errorf("%s was passed at %v by %q, want %v", id, x.At, x.By, at(minutes))
		}
	}
}
