package week

import (
	"sort"
	"time"
)

// never is a moment that no calendar reaches, in minutes since 1970.
const never = 1 << 40

// span is a stretch of minutes [a, b), in minutes since 1970; before is how many minutes of its calendar lie before it.
type span struct{ a, b, before int }

// calendar is when a shop is open or somebody is there: spans in order, none touching another.
type calendar []span

// newCalendar puts spans in order and together.
func newCalendar(all []span) calendar {
	sort.Slice(all, func(i, j int) bool { return all[i].a < all[j].a })
	var out calendar
	for _, s := range all {
		switch n := len(out); {
		case s.b <= s.a:
		case n > 0 && s.a <= out[n-1].b:
			out[n-1].b = max(out[n-1].b, s.b)
		default:
			out = append(out, s)
		}
	}
	before := 0
	for i := range out {
		out[i].before = before
		before += out[i].b - out[i].a
	}
	return out
}

// without is a calendar less some spans.
func (c calendar) without(gone []span) calendar {
	for _, g := range gone {
		var out []span
		for _, s := range c {
			if g.b <= s.a || s.b <= g.a {
				out = append(out, s)
				continue
			}
			out = append(out, span{a: s.a, b: g.a}, span{a: g.b, b: s.b})
		}
		c = newCalendar(out)
	}
	return c
}

// from is the index of the first span that ends after a moment.
func (c calendar) from(t int) int {
	low, high := 0, len(c)
	for low < high {
		if mid := int(uint(low+high) >> 1); c[mid].b > t {
			high = mid
		} else {
			low = mid + 1
		}
	}
	return low
}

// work is the first minute from t on that lies in the calendar.
func (c calendar) work(t int) int {
	if i := c.from(t); i < len(c) {
		return max(t, c[i].a)
	}
	return never
}

// moment is the first moment from t on that is of the calendar; its closing minutes count.
func (c calendar) moment(t int) int {
	i := c.from(t)
	if i > 0 && c[i-1].b == t {
		return t
	}
	if i < len(c) {
		return max(t, c[i].a)
	}
	return never
}

// upTo is how many minutes of the calendar lie before t.
func (c calendar) upTo(t int) int {
	i := c.from(t)
	if i < len(c) {
		return c[i].before + max(0, t-c[i].a)
	}
	if i == 0 {
		return 0
	}
	last := c[i-1]
	return last.before + last.b - last.a
}

// between is how many minutes of the calendar lie in [a, b).
func (c calendar) between(a, b int) int { return c.upTo(b) - c.upTo(a) }

// add is the first moment with n minutes of the calendar between t and it.
func (c calendar) add(t, n int) int {
	if n == 0 {
		return t
	}
	want := c.upTo(t) + n
	i := sort.Search(len(c), func(i int) bool { return c[i].before+c[i].b-c[i].a >= want })
	if i == len(c) {
		return never
	}
	return c[i].a + want - c[i].before
}

// piece is the first place from t on for n minutes in one span.
func (c calendar) piece(t, n int) int {
	for i := c.from(t); i < len(c); i++ {
		if s := max(t, c[i].a); s+n <= c[i].b {
			return s
		}
	}
	return never
}

// covers reports whether each minute of [a, b) lies in the calendar.
func (c calendar) covers(a, b int) bool {
	i := c.from(a)
	return a >= b || i < len(c) && c[i].a <= a && b <= c[i].b
}

// zone turns wall clock times of one place into moments and back.
type zone struct {
	loc   *time.Location
	first time.Time // date at which days begin, at noon UTC
	days  []int     // the first moment of each date, and of the one after the last
}

// newZone knows the dates from one to another, both included.
func newZone(loc *time.Location, from, to time.Time) *zone {
	z := &zone{loc: loc, first: time.Date(from.Year(), from.Month(), from.Day(), 12, 0, 0, 0, time.UTC)}
	last := time.Date(to.Year(), to.Month(), to.Day(), 12, 0, 0, 0, time.UTC)
	for d := z.first; !d.After(last.AddDate(0, 0, 1)); d = d.AddDate(0, 0, 1) {
		z.days = append(z.days, z.wall(d, 0, false))
	}
	return z
}

// wall is the moment of a wall clock time, in minutes from midnight, on a date. One that does not exist is the first moment
// after it; of one that comes twice an opening is the first, a closing the second.
func (z *zone) wall(date time.Time, minutes int, closing bool) int {
	asUTC := int(time.Date(date.Year(), date.Month(), date.Day(), 0, minutes, 0, 0, time.UTC).Unix() / 60)
	early, late := z.offset(asUTC-26*60), z.offset(asUTC+26*60)
	best := never
	for _, off := range []int{early, late} {
		t := asUTC - off
		if z.offset(t) != off {
			continue
		}
		if best == never || closing == (t > best) {
			best = t
		}
	}
	if best != never {
		return best
	}
	// It is left out: the clock jumps over it, from one offset to a larger one.
	t := asUTC - max(early, late)
	for z.offset(t) == min(early, late) {
		t++
	}
	return t
}

// offset is by how many minutes the wall clock is ahead of UTC at a moment.
func (z *zone) offset(t int) int {
	_, seconds := time.Unix(int64(t)*60, 0).In(z.loc).Zone()
	return seconds / 60
}

// day is the index of the date on which a moment lies.
func (z *zone) day(t int) int {
	i := min(max((t-z.days[0])/1440, 0), len(z.days)-2)
	for i > 0 && z.days[i] > t {
		i--
	}
	for i < len(z.days)-2 && z.days[i+1] <= t {
		i++
	}
	return i
}

// midnight is the end of the date on which a moment lies.
func (z *zone) midnight(t int) int {
	if t >= z.days[len(z.days)-1] {
		return never
	}
	return z.days[z.day(t)+1]
}

// date is the date of an index, at noon UTC.
func (z *zone) date(i int) time.Time { return z.first.AddDate(0, 0, i) }

// text writes a moment with its offset.
func (z *zone) text(t int) string {
	return time.Unix(int64(t)*60, 0).In(z.loc).Format("2006-01-02T15:04:05-07:00")
}

// clock is the wall clock's minutes from midnight at a moment.
func (z *zone) clock(t int) int {
	at := time.Unix(int64(t)*60, 0).In(z.loc)
	return at.Hour()*60 + at.Minute()
}
