package records

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/core/shorthand"
	"yembo/exchange"
	"yembo/exchange/slug"
	"yembo/shop/base"
	"yembo/store"
)

// LinesLook is what lines would do to a record. Nothing is stored by a look.
type LinesLook struct {
	Lines  []shorthand.Line
	Next   *hw.Chassis // with all lines that have no fault
	Faults []*shorthand.Fault
	// Wrong is what the record could not have, where all lines can be read.
	Wrong   hw.Faults
	Touched map[string]bool // ids of what the lines speak of
}

// Clear reports whether the lines can be kept.
func (l *LinesLook) Clear() bool { return len(l.Faults) == 0 && len(l.Wrong) == 0 && len(l.Lines) > 0 }

// LookAtLines reads lines about a record; an empty record for a new one. force is how
// things are known where no line says so.
func (s *Records) LookAtLines(a base.Actor, ch *hw.Chassis, text string, force shorthand.Source) (LinesLook, error) {
	look := LinesLook{Lines: shorthand.Parse(text, ch, force, slug.Of), Next: ch, Touched: map[string]bool{}}
	look.Faults = shorthand.Faults(look.Lines)
	for _, batch := range shorthand.Batches(look.Lines) {
		for i := range batch {
			for _, item := range batch[i].Items {
				look.Touched[item.ID] = item.ID != ""
			}
		}
		next, err := s.applyLines(a, look.Next, batch)
		if err != nil {
			return look, err
		}
		look.Next = next
	}
	if len(look.Faults) > 0 || len(look.Lines) == 0 {
		return look, nil
	}
	if look.Next.ID == "" {
		if look.Wrong = nameByItsWords(look.Next); len(look.Wrong) > 0 {
			return look, nil
		}
	}
	err := checkSpoken(look.Next, look.Lines)
	if err != nil && !errors.As(err, &look.Wrong) {
		return look, err
	}
	look.nameLines()
	return look, nil
}

// WouldFit lists what stands against a changed record for the machines of its model, as keeping it
// would.
func (s *Records) WouldFit(ctx context.Context, before, next *hw.Chassis) (hw.Faults, error) {
	var faults hw.Faults
	err := s.Store.View(ctx, func(tx store.Tx) error { return s.fitsItsMachines(tx, before, next) })
	if err != nil && !errors.As(err, &faults) {
		return nil, err
	}
	return faults, nil
}

// nameLines says at each fault of the record which of several lines brought it.
func (l *LinesLook) nameLines() {
	if len(l.Lines) < 2 {
		return
	}
	for k := range l.Wrong {
		path, ok := evidence.ByID(l.Next, l.Wrong[k].Pointer)
		if !ok {
			continue
		}
		for i := len(l.Lines) - 1; i >= 0; i-- {
			if l.Lines[i].SpeaksOf(path) {
				l.Wrong[k].Text = fmt.Sprintf("line %d: %s", l.Lines[i].Number, l.Wrong[k].Text)
				break
			}
		}
	}
}

// checkSpoken checks a record into which lines were brought. What they do not speak of
// was sound before, so that only the rest is checked whole; where that finds a fault, all
// is, so that the fault is named at its place in the whole record.
func checkSpoken(next *hw.Chassis, lines []shorthand.Line) error {
	about := partOf(next, lines)
	if exchange.CheckPart(about.part) == nil && len(hw.ValidateChassis(next)) == 0 {
		return nil
	}
	return exchange.CheckWhole(next)
}

// applyLines brings lines into a record: fields, and a finding for each fact that is
// new, or known in another way now.
func (s *Records) applyLines(a base.Actor, before *hw.Chassis, lines []shorthand.Line) (*hw.Chassis, error) {
	about := partOf(before, lines)
	typed, stated, err := shorthand.Apply(about.part, lines...)
	if err != nil {
		return nil, err
	}
	today := s.Today()
	covers := func(path string) bool {
		from, spoken := stated.Of(path)
		return spoken && from.Name != ""
	}
	next, err := evidence.Record(about.part, typed, covers, func(path string) (hw.Finding, bool) {
		from, _ := stated.Of(path)
		if from.On == "" {
			from.On = today
		}
		now := evidence.Of(about.part.Findings, path).InForce
		return hw.Finding{Source: from.Name, On: from.On, By: a.Name, Note: from.Note},
			now == nil || now.Source != from.Name
	}, hw.SetAside{On: today, By: a.Name, Note: "cleared in the record"})
	if err != nil {
		return nil, err
	}
	return about.whole(next), nil
}

// spokenPart is a record without the long lists that lines do not speak of, and without
// the findings about them: a key of a line has to be answered at once, also where a record
// has hundreds of steps and screws.
type spokenPart struct {
	before, part *hw.Chassis
	spoken       map[string]bool
	findings     []int // of the part, as they stand in the record
}

func partOf(ch *hw.Chassis, lines []shorthand.Line) spokenPart {
	out := spokenPart{before: ch, spoken: map[string]bool{}}
	for i := range lines {
		for _, item := range lines[i].Items {
			first, _, _ := strings.Cut(item.List, "/")
			out.spoken[first] = true
			for name := range item.Fields {
				first, _, _ = strings.Cut(name, "/")
				out.spoken[first] = out.spoken[first] || item.List == ""
			}
		}
	}
	part := *ch
	if !out.spoken["fasteners"] {
		part.Fasteners = nil
	}
	if !out.spoken["steps"] {
		part.Steps = nil
	}
	part.Findings = nil
	for i := range ch.Findings {
		list, _, _ := strings.Cut(strings.TrimPrefix(ch.Findings[i].Path, "/"), "/")
		if out.spoken[list] || list != "fasteners" && list != "steps" {
			part.Findings = append(part.Findings, ch.Findings[i])
			out.findings = append(out.findings, i)
		}
	}
	out.part = &part
	return out
}

// whole puts back what was left out.
func (p *spokenPart) whole(next *hw.Chassis) *hw.Chassis {
	out := *next
	if !p.spoken["fasteners"] {
		out.Fasteners = p.before.Fasteners
	}
	if !p.spoken["steps"] {
		out.Steps = p.before.Steps
	}
	out.Findings = slices.Clone(p.before.Findings)
	for i, at := range p.findings {
		out.Findings[at] = next.Findings[i]
	}
	out.Findings = append(out.Findings, next.Findings[len(p.findings):]...)
	return &out
}

// lineFaults words the faults of lines as faults of a form.
func lineFaults(faults []*shorthand.Fault) hw.Faults {
	out := make(hw.Faults, len(faults))
	for i, f := range faults {
		out[i] = hw.Fault{Pointer: "/text", Text: f.Error()}
	}
	return out
}

// RecordLines stores what lines say of a model: all of them or none. With an empty id
// they record a new model, which a line such as model Quillon "Aster 14" has to name. It
// returns the model's id. The error is hw.Faults where a line cannot be read or the
// record cannot have what it says, ErrChanged where it was changed meanwhile.
func (s *Records) RecordLines(ctx context.Context, a base.Actor, token, id string, version int, text string,
	force shorthand.Source) (string, error) {
	return s.Once(ctx, token, func(tx store.Tx) (string, error) {
		if id != "" {
			return id, s.ChangeModelIn(tx, a, id, version, func(before *hw.Chassis) (*hw.Chassis, base.Event, error) {
				next, told, err := s.TypedLines(a, before, text, force)
				if err == nil && next.ID != id {
					err = hw.Faults{{Pointer: "/text", Text: "the id of a record cannot change"}}
				}
				return next, told, err
			})
		}
		next, told, err := s.TypedLines(a, &hw.Chassis{Format: hw.FormatChassis, Kind: "notebook"}, text, force)
		if err != nil {
			return "", err
		}
		return next.ID, s.AddModelIn(tx, a, next, "/text", told)
	})
}

// TypedLines is a record with lines brought in, and what the history says of them.
func (s *Records) TypedLines(a base.Actor, before *hw.Chassis, text string, force shorthand.Source) (*hw.Chassis, base.Event,
	error) {
	look, err := s.LookAtLines(a, before, text, force)
	switch {
	case err != nil:
		return nil, base.Event{}, err
	case len(look.Faults) > 0:
		return nil, base.Event{}, lineFaults(look.Faults)
	case len(look.Lines) == 0:
		return nil, base.Event{}, hw.Faults{{Pointer: "/text", Text: hw.Word(hw.FaultMissing, "", "the line")}}
	case len(look.Wrong) > 0:
		return nil, base.Event{}, look.Wrong
	}
	return look.Next, lineEvent(look.Lines), nil
}

// nameByItsWords gives a new record its id, made of its names where no line says one.
func nameByItsWords(ch *hw.Chassis) hw.Faults {
	if ch.Maker == "" || ch.Model == "" {
		return hw.Faults{{Pointer: "/text",
			Text: `the model is not named: a line such as model Quillon "Aster 14" is missing`}}
	}
	ch.ID = slug.Make(ch.Maker+" "+ch.Model, "model")
	return nil
}

// lineEvent is what the history says of lines: the first, and how many more. A single line
// is kept as it was typed, so that it can be had back.
func lineEvent(lines []shorthand.Line) base.Event {
	text := strings.Join(strings.Fields(lines[0].Text), " ")
	out := base.Event{Kind: base.EventLine, What: "line: " + text}
	if len(lines) == 1 {
		out.Data = text
	}
	if r := []rune(text); len(r) > 600 {
		out.What = "line: " + string(r[:600]) + " …"
	}
	if n := len(lines) - 1; n > 0 {
		out.What += fmt.Sprintf(" (and %d more lines)", n)
	}
	return out
}

// LinesTyped are the single lines that were kept for a model, newest first.
func LinesTyped(history []base.Change) []string {
	var out []string
	for _, c := range history {
		if c.Event == base.EventLine && c.Data != "" {
			out = append(out, c.Data)
		}
	}
	return out
}

// The steps that nearly every machine of a kind has, and after which of them its places are usually
// free.
var usualSteps = map[hw.Build]struct {
	lines                      []string
	sockets, slots, bays, pack string
}{
	hw.MiniPC: {[]string{"power-down", "loosen cover top-up", "slide cover top-up",
		"swing fan top-up mind:do_not_force", "unplug drive cable top-up after:cover",
		"slide drive cage top-up", "unscrew heat sink top-up after:fan",
		"lift main board top-up board-out after:heat-sink-screws,drive-cage"}, "fan", "fan", "drive-cage", ""},
	hw.Notebook: {[]string{"power-down", "unscrew base cover bottom-up",
		`unclip base cover bottom-up with:"plastic pick"`, "unplug battery bottom-up iso",
		"unscrew battery pack bottom-up",
		"unplug fan bottom-up after:battery-plug", "unscrew heat sink bottom-up",
		"lift main board bottom-up board-out"}, "battery-plug", "battery-plug", "battery-plug", "battery-pack-screws"},
}

// UsualSteps are lines for the steps that nearly every machine of a kind has, with the places of the
// record that are usually free after them and of which nothing was said. They are only assumed until
// somebody opens one.
func UsualSteps(ch *hw.Chassis) string {
	usual := usualSteps[hw.Notebook]
	if ch.Kind == hw.MiniPC {
		usual = usualSteps[hw.MiniPC]
	}
	lines := slices.Clone(usual.lines)
	for _, p := range ch.Places() {
		behind := map[hw.PlaceKind]string{hw.InSocket: usual.sockets, hw.InSlot: usual.slots, hw.InBay: usual.bays}[p.Kind]
		if p.Reach == "" && behind != "" {
			lines = append(lines, p.ID+" >"+behind)
		}
	}
	if len(ch.Batteries) > 0 && ch.BatteryReach == "" && usual.pack != "" {
		lines = append(lines, "battery-reach >"+usual.pack)
	}
	return strings.Join(lines, "\n")
}

// UsualNotebook are the lines of a notebook as most are, to begin a record with: whose it is comes
// first, and what it has otherwise is put right, before they are kept.
func UsualNotebook() string {
	places := "ram 2x sodimm a b ddr4 2ch\nm2a 2280* nvme keyM\nwlan 2230* keyE pcie\nbat"
	ch := &hw.Chassis{Memory: &hw.Memory{Sockets: []hw.Socket{{ID: "dimm1"}, {ID: "dimm2"}}}, Batteries: []hw.Battery{{ID: "pack"}},
		Slots: []hw.Slot{{ID: "m2a"}, {ID: "wlan"}}}
	return "model \n" + places + "\n" + UsualSteps(ch)
}
