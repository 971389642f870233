package shorthand

import (
	"encoding/json"
	"fmt"
	"math/rand"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"yembo/core/evidence"
	"yembo/core/hw"
)

// generator makes records with any of the facts that the formats have.
type generator struct{ *rand.Rand }

func (g generator) maybe() bool { return g.Intn(2) == 0 }
func (g generator) dec() hw.Dec { return hw.DecOf(g.Intn(300)) + hw.Dec(g.Intn(10))*100_000 }

func (g generator) pick(words ...string) string { return words[g.Intn(len(words))] }

// text is one that a technician may type, with what has to be quoted.
func (g generator) text() string {
	return g.pick("plain", "two words", "with, comma", "none", "a:b", ">sign", "@home", "x4", "nvme", "M2", "8gb",
		"ümläut 5 mm", "#1", "16GB sold", "front edge first, then the sides", "2280*", "+")
}

func some1[T any](g generator, v T) hw.Maybe[T] {
	if g.maybe() {
		return hw.Maybe[T]{}
	}
	return hw.Known(v)
}

func (g generator) list(words ...string) []string {
	switch g.Intn(4) {
	case 0:
		return nil
	case 1:
		return []string{}
	}
	out := []string{}
	for _, i := range g.Perm(len(words))[:1+g.Intn(len(words))] {
		out = append(out, words[i])
	}
	return out
}

func (g generator) texts() []string { return g.list(g.text(), g.text()+" more") }

func (g generator) at() *hw.At {
	if g.maybe() {
		return nil
	}
	return &hw.At{X: g.dec() - hw.DecOf(20), Y: g.dec(), Width: some1(g, g.dec()), Height: some1(g, g.dec()),
		Turn: some1(g, 90*g.Intn(4))}
}

func (g generator) held(absent string) hw.Maybe[string] {
	return some1(g, g.pick("fitted", "needs:cable-14", absent))
}

func (g generator) optional(text string) string {
	if g.maybe() {
		return ""
	}
	return text
}

func (g generator) channels() (string, []string) {
	switch g.Intn(3) {
	case 0:
		return g.pick("A", "B"), nil
	case 1:
		return "", []string{"A", "B"}
	}
	return "", nil
}

func (g generator) memory() *hw.Memory {
	m := &hw.Memory{Type: some1(g, any1(g, hw.MemoryTypes)), MaxSpeed: some1(g, 1600+200*g.Intn(20)),
		Channels: some1(g, 1+g.Intn(4)),
		Limits:   hw.Limits{Maker: some1(g, g.dec()), Controller: some1(g, g.dec()), Proven: some1(g, g.dec())}}
	for i := range g.Intn(3) {
		one, several := g.channels()
		m.Soldered = append(m.Soldered, hw.Soldered{ID: g.pick("onboard", "chips") + fmt.Sprint(i), Channel: one,
			Channels: several, Capacity: g.dec(), Speed: some1(g, 400+g.Intn(9000)), Ranks: some1(g, 1+g.Intn(2)),
			At: g.at()})
	}
	for i := range g.Intn(3) {
		one, several := g.channels()
		m.Sockets = append(m.Sockets, hw.Socket{ID: g.pick("dimm", "sodimm-a", "m2") + fmt.Sprint(20+i), Channel: one,
			Channels: several, Form: any1(g, hw.ModuleForms), MaxModule: some1(g, g.dec()), Reach: g.optional("shield"),
			At: g.at()})
	}
	if g.maybe() && m.Sockets == nil {
		m.Sockets = []hw.Socket{}
	}
	return m
}

func (g generator) slot(i int) hw.Slot {
	s := hw.Slot{ID: g.pick("m2", "wlan", "bat", "other-slot") + fmt.Sprint(i), Purpose: any1(g, hw.Purposes),
		Key: some1(g, g.pick("M", "E", "own key")), Width: some1(g, g.pickInt(22, 16, 30)), Gen: some1(g, 1+g.Intn(5)),
		Lanes:     some1(g, 1+g.Intn(4)),
		Protocols: some2(g, hw.Interfaces), Refuses: some2(g, hw.Refusals), MaxTop: some1(g, g.dec()),
		MaxBottom: some1(g, g.dec()), Cooling: some1(g, any1(g, hw.Coolings)),
		Antennas: g.texts(), AcceptsOnly: g.texts(), StatedMax: some1(g, g.dec()),
		Excludes: g.list("bay25", "battery:large"), CarryOver: g.texts(), Fixing: g.fixing(),
		OnlyOn: g.optional(g.text()), Reach: g.optional("plug"), At: g.at()}
	switch g.Intn(3) {
	case 0:
		s.Lengths = map[string]string{}
	case 1:
		s.Lengths = map[string]string{"30": "none",
			g.pick("42", "80", "110"): g.pick("fitted", "movable", "needs:bracket-x")}
	}
	return s
}

// any1 and some2 take words of a table, so that every word of it passes through a line.
func any1[W ~string](g generator, table hw.Vocabulary[W]) W { return table[g.Intn(len(table))].Word }

func some2[W ~string](g generator, table hw.Vocabulary[W]) []W {
	if g.maybe() {
		return nil
	}
	out := []W{}
	for _, t := range table {
		if g.maybe() {
			out = append(out, t.Word)
		}
	}
	return out
}

func (g generator) fixing() *hw.Fixing {
	if g.maybe() {
		return nil
	}
	return &hw.Fixing{Bit: some1(g, g.pick("PH0", "own bit")), Screw: "M2x3",
		From: hw.FixingFrom(g.optional(string(any1(g, hw.FixingsFrom))))}
}

func (g generator) condition() *hw.Condition {
	if g.maybe() {
		return nil
	}
	return &hw.Condition{Place: g.pick("bay25", "battery"), State: g.pick("filled", "empty", "small")}
}

func (g generator) pickInt(n ...int) int { return n[g.Intn(len(n))] }

func (g generator) record() *hw.Chassis {
	ch := &hw.Chassis{ID: "some-model-1", Kind: any1(g, hw.Builds), Maker: g.optional(g.text()),
		Model: g.optional(g.text()), Code: g.optional(g.text()), Year: some1(g, 1990+g.Intn(40)), Memory: g.memory(),
		BatteryReach: g.optional("plug"), Fixed: g.texts(), Quirks: some2(g, hw.Quirks), HoldSeconds: some1(g, g.dec()),
		Covers: g.texts(), CoversNote: g.optional(g.text())}
	if g.maybe() {
		ch.Outline = &hw.Outline{Width: g.dec(), Depth: g.dec()}
	}
	if g.maybe() {
		ch.Board = [][2]hw.Dec{{1, 2}, {g.dec(), g.dec()}, {hw.DecOf(3), g.dec()}}
	}
	n := func() int { return g.Intn(4) - 1 }
	for i := range max(n(), 0) {
		ch.Slots = append(ch.Slots, g.slot(i))
	}
	for i := range max(n(), 0) {
		ch.Bays = append(ch.Bays, hw.Bay{ID: g.pick("bay", "cage") + fmt.Sprint(i),
			Form: hw.DriveForm(g.pick("2.5in", "optical", "own form")), Height: some1(g, g.dec()),
			Interface: some1(g, any1(g, hw.DriveInterfaces)), Connector: g.held("no_header"), Caddy: g.held("not_used"),
			StatedMax: some1(g, g.dec()), Excludes: g.list("m2b", "battery:large"), CarryOver: g.texts(),
			Fixing: g.fixing(), OnlyOn: g.optional(g.text()), Reach: g.optional("plug"), At: g.at()})
	}
	for i := range max(n(), 0) {
		ch.Batteries = append(ch.Batteries,
			hw.Battery{ID: g.pick("small", "pack", "dimm") + fmt.Sprint(10+i), DesignWh: some1(g, g.dec()),
				NominalV: some1(g, g.dec()), Series: some1(g, 1+g.Intn(4)), PartNumbers: g.texts(),
				Excludes: g.list("bay25"), CarryOver: g.texts(), OnlyOn: g.optional(g.text()), At: g.at()})
	}
	for i := range max(n(), 0) {
		f := hw.Fastener{ID: g.pick("cover-long", "screws", "unscrew") + fmt.Sprint(i), Count: some1(g, g.Intn(12)),
			Bit: some1(g, g.pick("PH0", "T5", "own bit")), Length: some1(g, g.dec()),
			Thread: g.pick("", "M2", "M2.5", "odd thread"), Head: g.optional(g.text()), Captive: some1(g, g.maybe()),
			Hidden: g.optional(g.text()), Seal: some1(g, g.maybe())}
		if g.maybe() {
			f.Order, f.At = []int{1, 3, 2}, []hw.At{{X: g.dec(), Y: g.dec()}, {X: hw.DecOf(4), Y: g.dec()}}
		}
		ch.Fasteners = append(ch.Fasteners, f)
	}
	for i := range max(n(), 0) {
		s := hw.Step{ID: g.pick("cover", "unclip", "plug", "m2") + fmt.Sprint(30+i), Verb: any1(g, hw.VerbWords()),
			Part: g.optional(g.text()), Needs: []string{}, Side: hw.Side(g.optional(string(any1(g, hw.Sides)))),
			Bit: some1(g, g.text()), Tool: g.optional(g.text()),
			Connector: hw.Connector(g.optional(string(any1(g, hw.Connectors)))), StartAt: g.optional(g.text()),
			CloseHint: g.optional(g.text()), Cautions: g.texts(), Consumables: g.texts(),
			Minutes: some1(g, g.dec()), IsolatesPwr: some1(g, g.maybe()), LiveRisk: some1(g, g.maybe()),
			Glued: some1(g, g.maybe()), Seal: some1(g, g.maybe()), RemovesBoard: some1(g, g.maybe()),
			Place: g.optional("m2a"), When: g.condition(), Back: g.condition(), BackBefore: g.optional("cover"),
			At: g.at()}
		if i > 0 && g.maybe() {
			s.Needs = []string{ch.Steps[0].ID}
		}
		if g.maybe() {
			s.Fasteners = []hw.StepFasteners{{Group: "cover-long0", Count: g.Intn(9)}, {Group: "other", Count: 2}}
		}
		ch.Steps = append(ch.Steps, s)
	}
	for i := range max(n(), 0) {
		ch.Services = append(ch.Services, hw.Service{ID: fmt.Sprint("service-", i), Name: g.optional(g.text()),
			Reach: g.optional("plug"), Minutes: some1(g, g.dec()), Tool: g.optional(g.text()), Tools: g.texts(),
			Consumables: g.texts(), Carry: g.texts()})
		ch.Shapes = append(ch.Shapes, hw.Shape{ID: fmt.Sprint("shape-", i), What: g.optional(g.text()), At: g.at()})
		ch.Suspected = append(ch.Suspected, hw.Suspected{ID: fmt.Sprint("more-", i), Text: g.optional(g.text()),
			Step: g.optional("plug"), At: g.at()})
		if g.maybe() {
			ch.Suspected[i].Settled = &hw.Settled{On: g.optional("2026-05-14"), By: g.optional(g.text()),
				As: g.pick("m2c", "nothing")}
		}
	}
	if g.maybe() && ch.Bays == nil {
		ch.Bays = []hw.Bay{}
	}
	g.findings(ch)
	return ch
}

// findings says of some facts how they are known.
func (g generator) findings(ch *hw.Chassis) {
	leaves, err := evidence.Leaves(ch, "")
	if err != nil {
		panic(err)
	}
	for path, value := range leaves {
		// Words that say several facts at once can have one source alone.
		if g.maybe() || strings.HasPrefix(path, "/outline") || path == "/kind" || path == "/format" ||
			strings.HasSuffix(path, "/purpose") || strings.HasSuffix(path, "/form") &&
			strings.HasPrefix(path, "/bays") {
			continue
		}
		ch.Findings = append(ch.Findings,
			hw.Finding{Path: path, Value: value, Source: any1(g, hw.Sources),
				On: g.pick("2026-03-02", "2025-11-06", ""), Note: g.optional(g.text())})
	}
}

// TestRoundTrip: any record, written as lines and read again, is the same record, each
// fact with its source.
func TestRoundTrip(t *testing.T) {
	g := generator{rand.New(rand.NewSource(5))}
	for range 400 {
		same(t, g.record())
	}
	files, err := filepath.Glob("../../shop/demo/*.json")
	if err != nil {
		t.Fatal(err)
	}
	read := 0
	for _, file := range files {
		raw, err := os.ReadFile(file)
		if err != nil {
			t.Fatal(err)
		}
		var ch hw.Chassis
		if json.Unmarshal(raw, &ch) != nil || ch.Format != hw.FormatChassis {
			continue
		}
		for i := range ch.Findings {
			ch.Findings[i].Path, _ = evidence.ByID(&ch, ch.Findings[i].Path)
		}
		same(t, &ch)
		read++
	}
	if read < 8 {
		t.Errorf("%d demo records were read", read)
	}
}

func same(t *testing.T, ch *hw.Chassis) {
	t.Helper()
	text := Print(ch)
	lines := Parse(text, nil, Source{Name: "bench"}, asciiName)
	if faults := Faults(lines); len(faults) > 0 {
		t.Fatalf("%v in\n%s", faults[0], text)
	}
	got := &hw.Chassis{}
	stated := Stated{}
	for i := range lines {
		next, s, err := Apply(got, lines[i])
		if err != nil {
			t.Fatalf("%v in\n%s", err, text)
		}
		for path, from := range s {
			stated[path] = from
		}
		got = next
	}
	bare := *ch
	bare.Findings, bare.Format = nil, ""
	bare.Memory, got.Memory = ch.Mem(), got.Mem() // nothing known of it is the same as no word of it
	want, _ := json.MarshalIndent(&bare, "", " ")
	have, _ := json.MarshalIndent(got, "", " ")
	if string(want) != string(have) {
		t.Fatalf("%s\nreads as %s\nand was %s", text, have, want)
	}
	for _, f := range evidence.Facts(ch.Findings) {
		if f.InForce == nil {
			continue
		}
		if from, _ := stated.Of(f.Path); from.Name != f.InForce.Source || from.On != f.InForce.On ||
			from.Note != f.InForce.Note {
			t.Fatalf("%s is known by %+v, and was by %+v, in\n%s", f.Path, from, f.InForce, text)
		}
	}
}

// asciiName makes ids of plain letters and digits.
func asciiName(name string) string {
	return strings.Join(strings.FieldsFunc(strings.ToLower(name), func(r rune) bool {
		return (r < 'a' || r > 'z') && (r < '0' || r > '9')
	}), "-")
}

// build makes a record out of lines alone. The error is the first of their faults.
func build(text string) (*hw.Chassis, error) {
	ch := &hw.Chassis{}
	lines := Parse(text, nil, Source{}, asciiName)
	if faults := Faults(lines); len(faults) > 0 {
		return nil, faults[0]
	}
	ch, _, err := Apply(ch, lines...)
	return ch, err
}
