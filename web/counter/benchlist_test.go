package counter

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"
	"testing"
	"time"

	"yembo/shop/base"
	"yembo/shop/jobs"

	"yembo/core/hw"
	"yembo/web/form"
	"yembo/web/kit"
)

// usualFloor is a shop whose settings say nothing of benches and hours.
var usualFloor = new(base.Settings).FloorOf()

// TestDayStrip: what is drawn of a day lies in its picture, and no name lies on another.
func TestDayStrip(t *testing.T) {
	now := time.Date(2026, 5, 14, 11, 20, 0, 0, time.UTC)
	var rows []jobs.BenchRow
	for i := range 40 {
		rows = append(rows, jobs.BenchRow{JobID: int64(i + 1), Class: jobs.ClassReady, Bench: 1 + i%2,
			Start: now.Add(time.Duration(i*8) * time.Minute), Minutes: hw.Known(hw.DecOf(3 + i)), Steps: i % 25,
			Record: jobs.MachineRecord{Machine: &hw.Machine{ID: strings.Repeat("machine-", 1+i%4) + strconv.Itoa(i)}}})
	}
	d := dayOf(rows, now, usualFloor)
	number := regexp.MustCompile(`[0-9.]+`)
	for _, track := range d.Benches {
		type span struct{ from, to, y float64 }
		var names []span
		for _, dive := range track.Dives {
			var xs []float64
			for i, text := range number.FindAllString(dive.Path, -1) {
				var v float64
				if _, err := fmt.Sscan(text, &v); err != nil {
					t.Fatal(err)
				}
				if i%2 == 0 {
					xs = append(xs, v)
				} else if v < track.Y-1 || v > track.Y+maxDive+1 {
					t.Errorf("%s dives to %v, its bench lies at %v", dive.Machine, v, track.Y)
				}
			}
			for i, x := range xs {
				if x < stripLeft-1 || x > stripRight+7 || i > 0 && x < xs[i-1]-0.1 {
					t.Errorf("%s is drawn at %v after %v", dive.Machine, x, xs[max(i-1, 0)])
				}
			}
			if dive.Machine == "" {
				continue
			}
			n := span{dive.X, dive.X + float64(len([]rune(dive.Machine)))*7.4, dive.Y}
			if dive.End {
				n.from, n.to = dive.X-(n.to-n.from), dive.X
			}
			if line := xOf(now, usualFloor); n.from < line && n.to > line {
				t.Errorf("%s stands across the time at %v", dive.Machine, line)
			}
			for _, o := range names {
				if n.from < o.to && o.from < n.to && n.y > o.y-9 && n.y < o.y+9 {
					t.Errorf("%s lies on another name at %v", dive.Machine, n)
				}
			}
			names = append(names, n)
		}
	}
	if dayOf(nil, now, usualFloor) != nil {
		t.Error("an empty day is drawn")
	}
}

// TestTimeWords: times the way people say them.
func TestTimeWords(t *testing.T) {
	now := time.Date(2026, 5, 14, 11, 20, 0, 0, time.UTC)
	for ago, want := range map[time.Duration]string{0: "just now", 12 * time.Minute: "12 min", 3 * time.Hour: "3 h",
		30 * time.Hour: "1 day", 75 * time.Hour: "3 days"} {
		if got := kit.SinceWords(now, now.Add(-ago)); got != want {
			t.Errorf("%v ago is %q, want %q", ago, got, want)
		}
	}
	for at, want := range map[time.Time]string{{}: "none given", now.Add(2 * time.Hour): "today 13:20",
		now.Add(24 * time.Hour): "tomorrow 11:20", now.AddDate(0, 0, 8): "Fri 22 May",
		now.Add(-time.Hour): "today 10:20, past"} {
		words, late := promisedWords(now, at)
		if late {
			words += ", past"
		}
		if words != want {
			t.Errorf("%v is %q, want %q", at, words, want)
		}
	}
	// What the pages say of a promise can be typed as one.
	for hours := range 400 {
		at := now.Add(time.Duration(hours) * time.Hour)
		words, _ := promisedWords(now, at)
		if got, err := form.Promise(words, now); err != nil || kit.DayNumber(got) != kit.DayNumber(at) {
			t.Errorf("typed, %q is %v, %v", words, got, err)
		}
		if got, err := form.Promise(kit.Stamp(at), now); err != nil || !got.Equal(at) {
			t.Errorf("typed, %q is %v, %v", kit.Stamp(at), got, err)
		}
	}
}
