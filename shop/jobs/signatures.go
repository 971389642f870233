package jobs

import (
	"time"
)

// A signature belongs to one text: the intake sheet, a version of a quote, the report. It is never
// replaced unseen: a wrong one is struck with a reason, kept, and another is taken.

// Signature is what was drawn on the page: strokes in a box of 400 by 120, as an SVG path
// of moves and lines.
type Signature struct {
	Path string    `json:"path"`
	Name string    `json:"name,omitempty"`
	At   time.Time `json:"at"`
	Of   string    `json:"of,omitempty"` // the label of the quote that it stands under, "" for the intake sheet
}

// Struck is a signature that does not count any more, and why.
type Struck struct {
	Signature
	On  time.Time `json:"on"`
	By  string    `json:"by"`
	Why string    `json:"why"`
}
