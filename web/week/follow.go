package week

import (
	"encoding/json"
	"fmt"
	"hash/fnv"
	"net/http"
	"strconv"
	"time"

	"github.com/labstack/echo/v5"

	"yembo/core/week"
	"yembo/shop/jobs"
	"yembo/web/kit"
)

// followEvery is how often a week that is looked at is worked out anew, where something was stored meanwhile.
const followEvery = time.Second

// stirs is by how much a start moves before that is told: what begins at once begins a minute later with each minute.
const stirs = 15 * time.Minute

// weekNews is what changed in a week that is looked at.
type weekNews struct {
	Says []string `json:"says"`
}

// follow is a stream of what changes in the week while a page shows it: a tick, a delivery, an absence, a move by another.
func (s *pages) follow(c *echo.Context) error {
	ctx := c.Request().Context()
	seen := s.Shop.Store.Changes() // before it is read: what is stored meanwhile is looked at
	before, err := s.Shop.Week(ctx)
	if err != nil {
		return err
	}
	w := c.Response()
	w.Header().Set("Content-Type", "text/event-stream")
	w.WriteHeader(http.StatusOK)
	send := http.NewResponseController(w)
	tell := func(news weekNews) error {
		data, err := json.Marshal(news)
		if err != nil {
			return err
		}
		if err := send.SetWriteDeadline(time.Now().Add(10 * time.Second)); err != nil {
			return err
		}
		if _, err := fmt.Fprintf(w, "data: %s\n\n", data); err != nil {
			return err
		}
		return send.Flush()
	}
	if err := send.Flush(); err != nil {
		return nil // whoever looked has gone
	}
	if was := c.QueryParam("seen"); was != "" && was != markOf(&before) {
		if tell(weekNews{Says: []string{"something was changed while the page was loaded"}}) != nil {
			return nil
		}
	}
	minute := before.Now
	every := time.NewTicker(followEvery)
	defer every.Stop()
	for {
		select {
		case <-ctx.Done():
			return nil
		case <-kit.Stopping(ctx):
			return nil
		case <-every.C:
		}
		changes, now := s.Shop.Store.Changes(), s.Shop.Now().Truncate(time.Minute)
		if changes == seen && now.Equal(minute) {
			continue
		}
		seen, minute = changes, now
		after, err := s.Shop.Week(ctx)
		if err != nil {
			return err
		}
		if says := newsOf(&before, &after); len(says) > 0 {
			if before = after; tell(weekNews{Says: says}) != nil {
				return nil
			}
		}
	}
}

// markOf tells one standing of a week from another, but for the minutes that pass.
func markOf(w *jobs.WeekPlan) string {
	sum := fnv.New64a()
	for i := range w.Rows {
		r := &w.Rows[i]
		fmt.Fprint(sum, r.JobID, r.Class, r.Bench, r.By, r.Stands, r.Plan != nil, r.Record.Promised.Unix(), ";")
	}
	return strconv.FormatUint(sum.Sum64(), 36)
}

// newsOf says what of a week is not as it was.
func newsOf(before, after *jobs.WeekPlan) []string {
	var out []string
	was := map[int64]*jobs.BenchRow{}
	for i := range before.Rows {
		was[before.Rows[i].JobID] = &before.Rows[i]
	}
	for i := range after.Rows {
		r := &after.Rows[i]
		b, id := was[r.JobID], r.Record.Machine.ID
		delete(was, r.JobID)
		place := fmt.Sprintf("bench %d, %s", r.Bench, kit.ClockFrom(r.Start, after.Now))
		switch {
		case b == nil:
			out = append(out, id+" is new")
		case r.Plan == nil && b.Plan == nil:
		case r.Plan == nil:
			out = append(out, id+" has no place any more")
		case b.Plan == nil:
			out = append(out, id+" has its place: "+place)
		case r.Stands != b.Stands && r.Stands == week.Broken:
			out = append(out, id+": its promise cannot be kept any more")
		case r.Stands != b.Stands && b.Stands == week.Broken:
			out = append(out, id+": its promise can be kept again")
		case r.Class != b.Class || r.Bench != b.Bench || r.By != b.By || r.Start.Sub(b.Start).Abs() > stirs:
			out = append(out, id+" is at "+place)
		case !r.Record.Promised.Equal(b.Record.Promised):
			out = append(out, id+" is promised anew")
		}
	}
	for i := range before.Rows {
		if r := &before.Rows[i]; was[r.JobID] != nil {
			out = append(out, r.Record.Machine.ID+" is no open job any more")
		}
	}
	return out
}
