package shop

import (
	"context"
	"fmt"
	"regexp"
	"strings"
	"time"
	"unicode/utf8"

	"yembo/core/hw"
	"yembo/store"
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

var signaturePath = regexp.MustCompile(`^(M[0-9]{1,3} [0-9]{1,3}( L[0-9]{1,3} [0-9]{1,3})* ?)+$`)

// maxSignature is the longest signature that is kept, in characters of its path.
const maxSignature = 20_000

// SignatureUnder is the signature that stands under a version of a quote, nil for none.
func (j *JobRecord) SignatureUnder(q *QuoteRecord) *Signature {
	return j.Details.signatureUnder(q)
}

func (d *Details) signatureUnder(q *QuoteRecord) *Signature {
	for i := range d.Resigned {
		if d.Resigned[i].Of == q.Label() {
			return &d.Resigned[i]
		}
	}
	if q.Given.Signature == "" {
		return nil
	}
	for i := range d.Struck {
		if d.Struck[i].Of == q.Label() && d.Struck[i].Path == q.Given.Signature {
			return nil
		}
	}
	return &Signature{Path: q.Given.Signature, Name: q.Given.Who, At: q.Answered, Of: q.Label()}
}

// signatureOf finds what stands under a text of a job now: "" is its intake sheet. The error is
// hw.Faults for a quote that was not accepted, whose answer is what is signed.
func (s *Shop) signatureOf(tx store.Tx, job int64, d *Details, of string) (*Signature, error) {
	if of == "" {
		return d.Signature, nil
	}
	quotes, err := s.quotesOf(tx, job)
	if err != nil {
		return nil, err
	}
	for i := range quotes {
		if q := &quotes[i]; q.Label() == of && q.Answer == Accepted {
			return d.signatureUnder(q), nil
		}
	}
	return nil, hw.Faults{{Pointer: "/signature", Text: "only what was accepted is signed"}}
}

func signedWhat(of string) string {
	if of == "" {
		return "the intake sheet"
	}
	return "quote " + of
}

// Sign keeps what the customer drew under a text: "" is the intake sheet, else the label of an accepted
// quote. The error is hw.Faults for anything but strokes, and where the text is signed already: what was
// signed stays until it is struck.
func (s *Shop) Sign(ctx context.Context, a Actor, token string, id int64, of, path, name string) error {
	path, name = strings.TrimSpace(path), strings.TrimSpace(name)
	if len(path) > maxSignature || !signaturePath.MatchString(path) {
		return hw.Faults{{Pointer: "/signature", Text: "no signature is drawn"}}
	}
	return s.changeJob(ctx, a, token, id, func(tx store.Tx, _ *store.Job, d *Details, _ *State) (event, error) {
		now, err := s.signatureOf(tx, id, d, of)
		if err != nil {
			return event{}, err
		}
		if now != nil {
			return event{}, hw.Faults{
				{
					Pointer: "/signature",
					Text: fmt.Sprintf("%s was signed by %s, %s. Nothing was stored: strike that signature first where it is wrong",
						signedWhat(of), orWord(now.Name, "the customer"), timeWords(now.At)),
				},
			}
		}
		sig := Signature{Path: path, Name: name, At: s.Now(), Of: of}
		if of == "" {
			d.Signature = &sig
		} else {
			d.Resigned = append(d.Resigned, sig)
		}
		return event{what: signedWhat(of) + " is signed by " + orWord(name, "the customer"), kind: eventSigned}, nil
	})
}

// StrikeSignature takes a wrong signature off a text, so that another can be given; it is kept with the
// reason.
func (s *Shop) StrikeSignature(ctx context.Context, a Actor, token string, id int64, of, why string) error {
	why = strings.TrimSpace(why)
	return s.changeJob(ctx, a, token, id, func(tx store.Tx, _ *store.Job, d *Details, _ *State) (event, error) {
		now, err := s.signatureOf(tx, id, d, of)
		switch {
		case err != nil:
			return event{}, err
		case now == nil:
			return event{}, hw.Faults{{Pointer: "/strike", Text: signedWhat(of) + " is not signed"}}
		case why == "":
			return event{}, hw.Faults{{Pointer: "/strike", Text: hw.Word(hw.FaultMissing, "", "why it does not count")}}
		case utf8.RuneCountInString(why) > maxText:
			return event{}, hw.Faults{
				{Pointer: "/strike", Text: hw.Word(hw.FaultRange, "the text", fmt.Sprintf("at most %d characters", maxText))},
			}
		}
		d.Struck = append(d.Struck, Struck{Signature: *now, On: s.Now(), By: a.Name, Why: why})
		if of == "" {
			d.Signature = nil
		}
		for i := range d.Resigned {
			if d.Resigned[i].Of == of {
				d.Resigned = append(d.Resigned[:i:i], d.Resigned[i+1:]...)
				break
			}
		}
		return event{what: "the signature under " + signedWhat(of) + " is struck: " + why, kind: eventMoved}, nil
	})
}
