// Package meter is a simulated power meter in the supply line of a machine. A real one
// can take its place behind the same interface.
package meter

import "yembo/core/hw"

// Meter shows the power that flows at the moment.
type Meter interface {
	// Watts is the power now. The error says why the meter cannot be read.
	Watts() (hw.Dec, error)
}

// Simulated is a machine at office work: it idles, now and then it is busy, and the
// figure is never quite still. It repeats itself, so that demo and tests can be told.
type Simulated struct {
	idle  hw.Dec
	tick  int
	state uint32
}

// NewSimulated returns a meter of a machine that draws about so much when idle.
func NewSimulated(idle hw.Dec, seed uint32) *Simulated {
	return &Simulated{idle: idle, state: seed | 1}
}

// Watts is the next reading; each call is one second later.
func (m *Simulated) Watts() (hw.Dec, error) {
	m.tick++
	m.state = m.state*1664525 + 1013904223
	noise := hw.Dec(m.state>>16%1000) * m.idle / 8000 // up to an eighth
	watts := m.idle + noise
	if busy := m.tick % 30; busy >= 12 && busy < 19 {
		watts += m.idle * 3 / 4
	}
	return watts.Tenths(), nil
}
