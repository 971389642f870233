package billing

import (
	"context"
	"fmt"
	"regexp"
	"strings"
	"unicode/utf8"

	"yembo/core/hw"
	"yembo/shop/base"
	"yembo/shop/jobs"
	"yembo/store"
)

var SignaturePath = regexp.MustCompile(`^(M[0-9]{1,3} [0-9]{1,3}( L[0-9]{1,3} [0-9]{1,3})* ?)+$`)

// MaxSignature is the longest signature that is kept, in characters of its path.
const MaxSignature = 20_000

// signatureOf finds what stands under a text of a job now: "" is its intake sheet. The error is
// hw.Faults for a quote that was not accepted, whose answer is what is signed.
func (s *Billing) signatureOf(tx store.Tx, job int64, d *jobs.Details, of string) (*jobs.Signature, error) {
	if of == "" {
		return d.Signature, nil
	}
	quotes, err := s.QuotesOf(tx, job)
	if err != nil {
		return nil, err
	}
	for i := range quotes {
		if q := &quotes[i]; q.Label() == of && q.Answer == jobs.Accepted {
			return d.SignatureUnder(q), nil
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
func (s *Billing) Sign(ctx context.Context, a base.Actor, token string, id int64, of, path, name string) error {
	path, name = strings.TrimSpace(path), strings.TrimSpace(name)
	if len(path) > MaxSignature || !SignaturePath.MatchString(path) {
		return hw.Faults{{Pointer: "/signature", Text: "no signature is drawn"}}
	}
	return s.ChangeJob(ctx, a, token, id, func(tx store.Tx, _ *store.Job, d *jobs.Details, _ *jobs.State) (base.Event, error) {
		now, err := s.signatureOf(tx, id, d, of)
		if err != nil {
			return base.Event{}, err
		}
		if now != nil {
			return base.Event{}, hw.Faults{
				{
					Pointer: "/signature",
					Text: fmt.Sprintf("%s was signed by %s, %s. Nothing was saved: strike that signature first where it is wrong",
						signedWhat(of), base.OrWord(now.Name, "the customer"), base.TimeWords(now.At)),
				},
			}
		}
		sig := jobs.Signature{Path: path, Name: name, At: s.Now(), Of: of}
		if of == "" {
			d.Signature = &sig
		} else {
			d.Resigned = append(d.Resigned, sig)
		}
		return base.Event{What: signedWhat(of) + " is signed by " + base.OrWord(name, "the customer"), Kind: base.EventSigned}, nil
	})
}

// StrikeSignature takes a wrong signature off a text, so that another can be given; it is kept with the
// reason.
func (s *Billing) StrikeSignature(ctx context.Context, a base.Actor, token string, id int64, of, why string) error {
	why = strings.TrimSpace(why)
	return s.ChangeJob(ctx, a, token, id, func(tx store.Tx, _ *store.Job, d *jobs.Details, _ *jobs.State) (base.Event, error) {
		now, err := s.signatureOf(tx, id, d, of)
		switch {
		case err != nil:
			return base.Event{}, err
		case now == nil:
			return base.Event{}, hw.Faults{{Pointer: "/strike", Text: signedWhat(of) + " is not signed"}}
		case why == "":
			return base.Event{}, hw.Faults{{Pointer: "/strike", Text: hw.Word(hw.FaultMissing, "", "why it does not count")}}
		case utf8.RuneCountInString(why) > base.MaxText:
			return base.Event{}, hw.Faults{
				{Pointer: "/strike", Text: hw.Word(hw.FaultRange, "the text", fmt.Sprintf("at most %d characters", base.MaxText))},
			}
		}
		d.Struck = append(d.Struck, jobs.Struck{Signature: *now, On: s.Now(), By: a.Name, Why: why})
		if of == "" {
			d.Signature = nil
		}
		for i := range d.Resigned {
			if d.Resigned[i].Of == of {
				d.Resigned = append(d.Resigned[:i:i], d.Resigned[i+1:]...)
				break
			}
		}
		return base.Event{What: "the signature under " + signedWhat(of) + " is struck: " + why, Kind: base.EventMoved}, nil
	})
}
