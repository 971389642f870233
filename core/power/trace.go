package power

import "yembo/core/hw"

// Trace is what a power meter showed, one reading a second.
type Trace struct {
	Seconds  int
	sum      int64 // millionths of a watt-second
	Min, Max hw.Dec
}

// maxTrace is the longest trace that is summed: a day.
const maxTrace = 24 * 3600

// Add takes one more reading, in watts. Readings past a day, below zero or above what a
// power brick gives are left out.
func (t *Trace) Add(watts hw.Dec) {
	if watts < 0 || watts > hw.DecOf(2000) || t.Seconds >= maxTrace {
		return
	}
	if t.Seconds == 0 || watts < t.Min {
		t.Min = watts
	}
	t.Max = max(t.Max, watts)
	t.Seconds++
	t.sum += int64(watts)
}

// Mean is the mean power in watts, 0 before the first reading.
func (t *Trace) Mean() hw.Dec {
	if t.Seconds == 0 {
		return 0
	}
	return hw.Dec(t.sum / int64(t.Seconds))
}

// Wh is the energy: watts times seconds, in watt-hours.
func (t *Trace) Wh() hw.Dec { return hw.Dec(t.sum / 3600) }

// HoursAt is how long a pack that holds so much lasts at a mean draw: 0.95 × Wh ÷ W
// (docs/rules.md, Battery and wireless), to a tenth of an hour; not known where nothing is drawn.
func HoursAt(wh, watts hw.Dec) hw.Maybe[hw.Dec] {
	r := fromDraw(&hw.Usage{DrawW: hw.Known(watts)}, hw.Known(wh))
	if r == nil {
		return hw.Maybe[hw.Dec]{}
	}
	return hw.Known(hw.RatTenths(r))
}
