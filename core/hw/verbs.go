package hw

import (
	"fmt"
	"strings"
)

// Verb is what a step does.
type Verb string

// The verbs.
const (
	PowerDown Verb = "power_down"
	Drain     Verb = "drain"
	OpenSeal  Verb = "open_seal"
	Unscrew   Verb = "unscrew"
	Loosen    Verb = "loosen"
	Unclip    Verb = "unclip"
	Unplug    Verb = "unplug"
	Unlatch   Verb = "unlatch"
	Lift      Verb = "lift"
	Peel      Verb = "peel"
	Slide     Verb = "slide"
	Swing     Verb = "swing"
	Remove    Verb = "remove"
	Flip      Verb = "flip"

	// Those below belong to the way back alone.
	Connect Verb = "connect"
	Fit     Verb = "fit"
	Fasten  Verb = "fasten"
	Stick   Verb = "stick"
)

// VerbRow is a verb with all that belongs to it (docs/rules.md, The way in).
type VerbRow struct {
	Verb Verb
	// Does and Back say the step and its undoing in words; %p is the part with its
	// article, %n the screws (" all 7 in the printed order,").
	Does, Back string
	// Minutes are the usual ones, in thousandths; PerScrew come on top for each screw.
	Minutes, PerScrew Minutes
	// Turns says that the verb turns screws, Lays that loose ones then lie on the tray.
	Turns, Lays bool
	// Name ends the name that is made for such a step: base cover gives base-cover-screws.
	Name string
	// Did and DidBack say that the step, or its undoing, is done; %n are the screws ("4 screws are").
	Did, DidBack string
	// BackOnly says that the verb belongs to the way back alone; what Back says is then how it is taken back again.
	BackOnly bool
	// Closing is what is looked at before the cover goes on ("plugged in"), "" nothing.
	Closing string
}

// Verbs is the table of verbs, in the order in which they are offered.
var Verbs = []VerbRow{
	{Verb: PowerDown, Does: "Shut down (not sleep), charger out",
		Did: "It is off, the charger is out", DidBack: "The charger is in, it starts",
		Back: "Charger in: many machines do not start from a battery that was unplugged. Start it", Minutes: 1000},
	{Verb: Drain, Does: "Drain %p", Did: "It is drained", DidBack: "It charges", Back: "Nothing to undo: it charges again",
		Minutes: 1000},
	{Verb: OpenSeal, Does: "Break the seal of %p", Did: "The seal is broken", DidBack: "It is noted",
		Back: "Note the broken seal for the customer", Minutes: 1000},
	{Verb: Unscrew, Does: "Unscrew %p", Did: "%n out", DidBack: "%n in",
		Back: "Screw %p back: start all%n loosely, then tighten", Minutes: 500,
		PerScrew: 250, Turns: true, Lays: true, Name: "-screws"},
	{Verb: Loosen, Does: "Loosen %p", Did: "%n loose", DidBack: "%n tight", Back: "Tighten %p: start all%n, then tighten",
		Minutes: 500, PerScrew: 250,
		Turns: true, Name: "-screws"},
	{Verb: Unclip, Does: "Unclip %p", Did: "It is unclipped", DidBack: "It is pressed home, without a gap",
		Back:    "Press %p home edge by edge, then check the seam for gaps",
		Minutes: 3000},
	{Verb: Unplug, Does: "Unplug %p", Did: "It is unplugged", DidBack: "It is plugged in, and sits",
		Back: "Plug in %p by its body until fully seated", Minutes: 500, Name: "-plug",
		Closing: "plugged in"},
	{Verb: Unlatch, Does: "Unlatch %p", Did: "It is unlatched", DidBack: "The latch is closed",
		Back: "Close the latch of %p", Minutes: 500},
	{Verb: Lift, Does: "Lift %p", Did: "It is off", DidBack: "It is back", Back: "Set %p back in its place", Minutes: 1000,
		Closing: "back on"},
	{Verb: Peel, Does: "Peel %p", Did: "It is off", DidBack: "It is back on its marks", Back: "Lay %p back on its marks",
		Minutes: 1000, Closing: "back on"},
	{Verb: Slide, Does: "Slide %p", Did: "It is off", DidBack: "It is back", Back: "Slide %p back until it stops", Minutes: 1000},
	{Verb: Swing, Does: "Swing %p", Did: "It is aside", DidBack: "It is back", Back: "Swing %p back", Minutes: 1000},
	{Verb: Remove, Does: "Remove %p", Did: "It is out", DidBack: "It is back", Back: "Put %p back", Minutes: 1000,
		Closing: "back on"},
	{Verb: Flip, Does: "Flip %p", Did: "It is turned", DidBack: "It is turned back", Back: "Turn %p back", Minutes: 1000},
	{Verb: Connect, Does: "Connect %p", Did: "It is connected, and sits", DidBack: "It is apart again", Back: "Take %p apart again",
		Minutes: 500, Name: "-connected", BackOnly: true},
	{Verb: Fit, Does: "Fit %p", Did: "It is in its place", DidBack: "It is out again", Back: "Take %p out again", Minutes: 1000,
		Name: "-fitted", BackOnly: true},
	{Verb: Fasten, Does: "Fasten %p", Did: "%n tight", DidBack: "%n out again", Back: "Take out%n of %p again", Minutes: 500,
		PerScrew: 250, Turns: true, Name: "-fastened", BackOnly: true},
	{Verb: Stick, Does: "Stick %p on", Did: "It sticks", DidBack: "It is off again", Back: "Peel %p off again", Minutes: 1000,
		Name: "-stuck", BackOnly: true},
}

// Row is the verb's row of the table; a verb that is not in it takes a minute and is put
// back.
func (v Verb) Row() VerbRow {
	for i := range Verbs {
		if Verbs[i].Verb == v {
			return Verbs[i]
		}
	}
	word := strings.ReplaceAll(string(v), "_", " ")
	return VerbRow{Verb: v, Does: word + " %p", Back: "Put %p back", Did: "It is done", DidBack: "It is back", Minutes: 1000}
}

// Says is the verb in a list: "open seal".
func (v Verb) Says() string { return strings.ReplaceAll(string(v), "_", " ") }

// VerbWords is the table as a vocabulary.
func VerbWords() Vocabulary[Verb] {
	out := make(Vocabulary[Verb], len(Verbs))
	for i := range Verbs {
		out[i] = Term[Verb]{Word: Verbs[i].Verb, Says: Verbs[i].Verb.Says()}
	}
	return out
}

// Does is the step in words: "Unscrew the bottom cover".
func (s *Step) Does() string { return s.words(s.Verb.Row().Does, "") }

// Undone is the way back in words, without its screws' count or its hint; n stands for
// the screws. A plug goes back the way its kind closes.
func (s *Step) Undone(n string) string {
	if how := closes[s.Connector]; s.Verb == Unplug && how != "" {
		return s.words("Plug %p in: "+how, n)
	}
	return s.words(s.Verb.Row().Back, n)
}

// Ticked is what is true when a step is done, or undone on the way back: "4 screws are out".
func (s *Step) Ticked(back bool, screws int) string {
	words := s.Verb.Row().Did
	if back {
		words = s.Verb.Row().DidBack
	}
	n := fmt.Sprintf("%d screws are", screws)
	switch screws {
	case 0:
		n = "It is"
	case 1:
		n = "The screw is"
	}
	return strings.ReplaceAll(words, "%n", n)
}

func (s *Step) words(form, n string) string {
	part := "it"
	if s.Part != "" {
		part = "the " + s.Part
	}
	return strings.NewReplacer("%p", part, "%n", n).Replace(form)
}
