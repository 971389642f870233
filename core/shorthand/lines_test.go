package shorthand

import (
	"encoding/json"
	"fmt"
	"os"
	"reflect"
	"strings"
	"testing"

	"yembo/core/doc"
	"yembo/core/hw"
)

// TestLines: what people type, and what it is in the document.
func TestLines(t *testing.T) {
	for _, c := range casesOf(t, "lines.txt") {
		text, want := c.text, c.want
		ch, err := build(text)
		if err != nil {
			t.Errorf("%s: %v", text, err)
			continue
		}
		tree := doc.Of(ch)
		delete(tree, "format")
		for _, name := range []string{"id", "kind"} {
			if tree[name] == "" {
				delete(tree, name)
			}
		}
		var wanted any
		if err := json.Unmarshal([]byte(want), &wanted); err != nil {
			t.Fatal(err)
		}
		ordered, _ := json.Marshal(wanted)
		if got, _ := json.Marshal(tree); string(got) != string(ordered) {
			t.Errorf("%s\nis  %s\nnot %s", text, got, want)
		}
	}
}

// TestChanges: a line about what is in the record changes what it says and leaves the
// rest; ids of the record start a line by themselves.
func TestChanges(t *testing.T) {
	before, err := build("m2a 2280* 2230 g3x2 nvme sata\nslot:odd storage keyM\nbat:small 52wh\nstep:cover unclip " +
		"base cover\nwlan 2230* keyE")
	if err != nil {
		t.Fatal(err)
	}
	for text, want := range map[string]string{
		"m2a 2230x 2242 x4": "m2a 2242 2280* g3 x4 nvme sata",
		"m2a sata":          "m2a 2230 2280* g3 x2 sata",
		"odd g4":            "slot:odd g4 keyM",
		"bat 11.4v":         "bat:small 52wh 11.4v", // the only pack there is
		"cover peel 5min":   `step:cover peel part:"base cover" after:none 5min`,
		"unclip lid":        "step:lid unclip part:lid after:cover",
		"wlan ant:none":     "wlan 2230* keyE ant:none",
	} {
		lines := Parse(text, before, Source{}, asciiName)
		if faults := Faults(lines); len(faults) > 0 {
			t.Errorf("%s: %v", text, faults[0])
			continue
		}
		after, _, err := Apply(before, lines[0])
		if err != nil {
			t.Fatal(err)
		}
		item := lines[0].Items[0]
		if got := strings.TrimPrefix(PrintOne(after, item.List, item.ID), "@- "); got != want {
			t.Errorf("%s makes it %s, not %s", text, got, want)
		}
	}
}

// TestSources: how a word is known is said before it, for the words after it on the
// line, or for the lines after it.
func TestSources(t *testing.T) {
	// What is said twice is applied one after the other, the rest at once.
	if n := len(Batches(Parse("m2a g4\nm2b g4\nm2a x4 g3\nm2b x2\nm2a x2", nil, Source{}, asciiName))); n != 3 {
		t.Errorf("%d batches", n)
	}
	lines := Parse("m2a g4 @maker:2026-03-02#\"p. 41\" x4 @reading nvme\n@label:2026-04-18\nbat 52wh\n@seller "+
		"bat:large 76wh\nbat 11.4v", nil, Source{Name: "bench"}, asciiName)
	if faults := Faults(lines); len(faults) > 0 {
		t.Fatal(faults[0])
	}
	ch := &hw.Chassis{}
	var got []string
	for i := range lines {
		next, stated, err := Apply(ch, lines[i])
		if err != nil {
			t.Fatal(err)
		}
		ch = next
		for _, path := range []string{"/slots/m2a/purpose", "/slots/m2a/pcie_gen", "/slots/m2a/lanes",
			"/slots/m2a/protocols", "/batteries/pack/design_wh", "/batteries/large/design_wh",
			"/batteries/pack/nominal_v"} {
			if from, ok := stated.Of(path); ok {
				got = append(got, fmt.Sprintf("%s %s %s %s", path[strings.LastIndex(path, "/")+1:], from.Name, from.On,
					from.Note))
			}
		}
	}
	want := "purpose bench  |pcie_gen bench  |lanes maker_document 2026-03-02 p. 41|protocols reading  |design_wh " +
		"label 2026-04-18 |design_wh seller  |nominal_v label 2026-04-18 "
	if strings.Join(got, "|") != want {
		t.Errorf("%s", strings.Join(got, "|"))
	}
}

// TestFaults: each stands at its column with what was understood, what was expected and
// the nearest known word; the other words of the line are read all the same.
func TestFaults(t *testing.T) {
	for text, want := range map[string]string{
		"m2b 2280* 2242 g3x2 nvme sata pda": "line 1, column 31: pda is not a word of slot; did you mean pad?",
		"\n\n  mb2 nvme":                    "line 3, column 3: mb2 is nothing that a line can start with",
		"m2a nvme x4 x2":                    "line 1, column 13: lanes is said twice",
		"m2a @bnech nvme":                   `line 1, column 5: "@bnech" is no source; did you mean @bench?`,
		"m2a @maker:2026-13-02 nvme":        `line 1, column 5: "2026-13-02" is no date`,
		"slot:Two! nvme":                    `line 1, column 1: "Two!" is no id`,
		"m2a if:\"graphics":                 "line 1, column 5: a quote is opened and not closed",
		"m2a nv\x07me":                      "line 1, column 7: the control character U+0007",
		"unclip":                            "line 1, column 1: the step has no name",
		"service 5min":                      "line 1, column 1: it has no name",
		"slot nvme":                         "line 1, column 1: it is not said which slot",
		"none bays everything":              "line 1, column 11: everything is not a word of none",
		"ram 99x so":                        "line 1, column 5: 99xso is not a word of ram",
		"step:cover unclip wth:\"pick\"":    "column 19: wth:\"pick\" is not a word of step; did you mean with:?",
		"model a b c d":                     "line 1, column 13: d is not a word of model",
		strings.Repeat("x", 10_001):         "the line has more than 10000 characters",
		strings.Repeat("m2a nvme\n", 401):   "more than 400 lines",
		strings.Repeat("screws"+strings.Repeat(" 1xPH0", 300)+"\n", 5): "more than 1000 things",
	} {
		faults := Faults(Parse(text, nil, Source{Name: "bench"}, asciiName))
		if len(faults) == 0 || !strings.Contains(faults[0].Error(), want) {
			t.Errorf("%.40q: %v", text, faults)
		}
	}
	line := Parse("m2b pda g3x2 nvme", nil, Source{}, asciiName)[0]
	if len(line.Items[0].Fields) != 3 || len(line.Words) != 5 || line.Words[1].Fault == nil ||
		line.Words[2].Means != "generation 3" || line.Words[3].Col != 11 {
		t.Errorf("%+v", line.Words)
	}
}

// TestComplete proposes what can stand at the cursor.
func TestComplete(t *testing.T) {
	ch, err := build("step:battery-plug unplug battery\nbay25 7mm\nbat:large 76wh")
	if err != nil {
		t.Fatal(err)
	}
	for line, want := range map[string]string{
		"": "ba", "unc": "unclip", "m2a nv": "nvme", "m2a no-": "no-cache no-sata no-x2", "m2a >bat": ">battery-plug",
		"m2a xor:b":         "xor:battery:large xor:bay25",
		"m2a xor:bay25,bat": "xor:bay25,battery:large", "m2a @m": "@maker", "@la": "@label", "@bench m2a shr": "shroud",
		"lar": "large", "none b": "batteries bays", "zzz n": "",
	} {
		got := strings.Join(Complete(line, len([]rune(line)), ch), " ")
		if line == "" && strings.Contains(got, want) || line != "" && got == want {
			continue
		}
		t.Errorf("%q is completed by %q", line, got)
	}
}

// TestEveryFieldHasAWord: a fact of the formats that cannot be typed would be missed.
func TestEveryFieldHasAWord(t *testing.T) {
	for list, item := range map[string]any{"memory/soldered": hw.Soldered{}, "memory/sockets": hw.Socket{},
		"slots": hw.Slot{}, "bays": hw.Bay{}, "batteries": hw.Battery{},
		"fasteners": hw.Fastener{}, "steps": hw.Step{}, "services": hw.Service{}, "shapes": hw.Shape{},
		"suspected": hw.Suspected{}} {
		words := map[string]bool{"id": true}
		for _, k := range kinds {
			if k.list == list {
				for _, f := range k.fields {
					words[f.name] = true
				}
			}
		}
		for _, name := range fieldNames(item) {
			if !words[name] {
				t.Errorf("%s of %s has no word", name, list)
			}
		}
	}
	for _, h := range Help() {
		if faults := Faults(Parse(h.Example, nil, Source{}, asciiName)); len(faults) > 0 {
			t.Errorf("the example of %s: %v", h.Word, faults[0])
		}
	}
}

// TestDocs: the examples that are published are read, together, as one record.
func TestDocs(t *testing.T) {
	raw, err := os.ReadFile("../../docs/shorthand.md")
	if err != nil {
		t.Fatal(err)
	}
	blocks := strings.Split(string(raw), "```")
	if len(blocks) < 3 {
		t.Fatal("docs/shorthand.md has no example")
	}
	ch, err := build(blocks[1])
	if err != nil || len(ch.Steps) != 4 || len(ch.Slots) != 3 || len(ch.Fasteners) != 3 {
		t.Errorf("%v: %+v", err, ch)
	}
}

// FuzzParse: no text makes the parser fail, faults stand within their lines, and what
// is read without a fault reads the same after it was printed.
func FuzzParse(f *testing.F) {
	for _, h := range Help() {
		f.Add(h.Example)
	}
	f.Add("@maker:2026-03-02#\"p. 41\" limit maker24\n@-\nunscrew lid 7xPH0x6 cap2")
	f.Fuzz(func(t *testing.T, text string) {
		lines := Parse(text, nil, Source{Name: "bench"}, asciiName)
		all := strings.Split(strings.ReplaceAll(text, "\r\n", "\n"), "\n")
		for _, fault := range Faults(lines) {
			if fault.Line < 1 || fault.Line > len(all) || fault.Col < 1 ||
				fault.Col > len([]rune(all[fault.Line-1]))+1 {
				t.Fatalf("a fault outside: %v", fault)
			}
		}
		ch, err := build(text)
		if err != nil {
			return
		}
		once := Print(ch)
		again, err := build(once)
		if err != nil {
			t.Fatalf("%s\nis printed as\n%s\nand then: %v", text, once, err)
		}
		if twice := Print(again); twice != once {
			t.Fatalf("%s\nis printed as\n%s\nthen as\n%s", text, once, twice)
		}
	})
}

// BenchmarkLine is one key: the line is read and the record with it made.
func BenchmarkLine(b *testing.B) {
	ch, err := build("ram 8 sold a + 2x sodimm b a ddr4-3200 2ch max32\nm2a 2280* 2230 g4x4 nvme pad\nbat 52wh " +
		"11.4v 3s\npower-down\nunscrew cover 7xPH0x6\nunclip cover\nunplug battery iso")
	if err != nil {
		b.Fatal(err)
	}
	for b.Loop() {
		lines := Parse("m2b 2280* 2242 g3x2 nvme sata pad top1.5 bot0 >battery-plug", ch, Source{Name: "bench"}, asciiName)
		if _, _, err := Apply(ch, lines[0]); err != nil {
			b.Fatal(err)
		}
	}
}

// fieldNames are the names of a type's fields in the document.
func fieldNames(item any) []string {
	var out []string
	for _, f := range reflect.VisibleFields(reflect.TypeOf(item)) {
		name, _, _ := strings.Cut(f.Tag.Get("json"), ",")
		out = append(out, name)
	}
	return out
}

// TestNames: names are given, or made so that none clashes; a second line never takes the
// place of a first unseen, and what a line of screws says once holds for all its groups.
func TestNames(t *testing.T) {
	record := &hw.Chassis{ID: "tern",
		Steps: []hw.Step{{ID: "cover", Verb: "unclip", Part: "cover"},
			{ID: "shield", Verb: "lift", Part: "shield", Tool: "pick"}},
		Findings: []hw.Finding{{Path: "/steps/0/verb", Value: json.RawMessage(`"unclip"`), Source: "bench"},
			{Path: "/steps/1/verb", Value: json.RawMessage(`"lift"`), Source: "assumed"},
			{Path: "/steps/1/tool", Value: json.RawMessage(`"pick"`), Source: "seller"}}}
	record.Findings[0].Path, record.Findings[1].Path, record.Findings[2].Path = "/steps/cover/verb",
		"/steps/shield/verb", "/steps/shield/tool"
	for name, c := range map[string]struct{ text, ids, fault string }{
		"another move of a part": {"unscrew base cover 4xPH0\nloosen base cover 2xPH0",
			"base-cover-screws base-cover-screw base-cover-screws-loosen base-cover-screw-2", ""},
		"named by the person": {"unscrew base cover 4xPH0\nunscrew base cover 2xPH0 as rear-screws",
			"base-cover-screws base-cover-screw rear-screws base-cover-screw-2", ""},
		"as":                {"lift tray as fan-tray 2min", "fan-tray", ""},
		"as a place":        {"slot 2280* as left", "left", ""},
		"as twice named":    {"m2a 2280* as left", "", "has its name already"},
		"as without":        {"lift tray as", "", "the name after as is missing"},
		"as no name":        {"lift tray as Tray!", "", "is no id"},
		"lift after unclip": {"lift cover", "cover-lift", ""},
		"what was assumed":  {"remove shield", "shield", ""},
		"what was said": {`lift shield with:"driver"`, "shield",
			"shield says otherwise already, in the record"},
		"the same again": {"lift shield with:pick", "shield", ""},
		"on purpose":     {`lift:shield with:"driver"`, "shield", ""},
		"a second line of one step": {"unscrew lid 4xT5\nunscrew lid 2xT5", "",
			"line 2, column 1: lid-screws says otherwise already, in a line before"},
		"a date that there is not":   {"@bench:2026-02-31 m2a 2280*", "", "is no date"},
		"thread once for all groups": {"screws:cover 7xPH0x6 M2 head:flat 4xPH0x4 cap2", "cover-screw cover-screw-2 cover-screw-3", ""},
		"the pack's name":            {"screws:battery 4xPH0", "battery-screw", ""},
		"another kind's name":        {"service:cover Clean it", "cover-service", ""},
		"of a line before":           {"shape:fan blower\nservice:fan Clean the fan", "fan fan-service", ""},
		"all of them stay":           {"screws:lid 3xT15 cap3", "lid", ""},
		"more than there are":        {"screws:lid 3xT15 cap4", "", "4 of 3 screws cannot stay in"},
		"a stray word":               {"unscrew lid 4xPH0 frobnicate", "", "frobnicate is not a word of step"},
		"a mistyped word":            {"unscrew lid botom-up", "", "did you mean bottom-up?"},
		"a long name":                {"unclip the upper case half", "the-upper-case-half", ""},
		"none of what was seen":      {"none steps", "", "cover"},
		"none of what is in a line":  {"bat:small 40wh\nnone battery", "", "small"},
		"none of nothing":            {"none battery", "", ""},
		"a processor in a socket":    {"processor socket >cover", "processor", ""},
		"a clock cell":               {"clock cell 3min", "clock-cell", ""},
	} {
		lines := Parse(c.text, record, Source{Name: hw.Bench}, asciiName)
		var ids []string
		for _, l := range lines {
			for _, item := range l.Items {
				ids = append(ids, item.ID)
				if item.List == "fasteners" && strings.HasPrefix(c.text, "screws:cover") &&
					(item.Fields["thread"] != "M2" || item.Fields["head"] != "flat") {
					t.Errorf("%s: %s has %v", name, item.ID, item.Fields)
				}
			}
		}
		fault := ""
		if faults := Faults(lines); len(faults) > 0 {
			fault = faults[0].Error()
		}
		if c.ids != "" && strings.Join(ids, " ") != c.ids || (c.fault == "") != (fault == "") ||
			!strings.Contains(fault, c.fault) {
			t.Errorf("%s: %v, %q", name, ids, fault)
		}
	}
}

// TestEveryWord: each word of each table, in a document, written as lines and read again,
// is the document that it was.
func TestEveryWord(t *testing.T) {
	for doc, words := range map[string][]string{
		`{"kind":"%s"}`: hw.Builds.Words(), `{"memory":{"type":"%s"}}`: hw.MemoryTypes.Words(),
		`{"memory":{"sockets":[{"id":"dimm1","form":"%s"}]}}`:                                            hw.ModuleForms.Words(),
		`{"slots":[{"id":"m2a","purpose":"%s"}]}`:                                                        hw.Purposes.Words(),
		`{"slots":[{"id":"m2a","purpose":"storage","protocols":["%s"]}]}`:                                hw.Interfaces.Words(),
		`{"slots":[{"id":"m2a","purpose":"storage","refuses":["%s"]}]}`:                                  hw.Refusals.Words(),
		`{"slots":[{"id":"m2a","purpose":"storage","cooling":"%s"}]}`:                                    hw.Coolings.Words(),
		`{"slots":[{"id":"m2a","purpose":"storage","fixing":{"bit":"PH0","screw":"M2x3","from":"%s"}}]}`: hw.FixingsFrom.Words(),
		`{"bays":[{"id":"bay","form":"2.5in","interface":"%s"}]}`:                                        hw.DriveInterfaces.Words(),
		`{"bays":[{"id":"bay","form":"%s"}]}`:                                                            hw.DriveForms.Words(),
		`{"steps":[{"id":"one","verb":"%s","part":"lid","needs":[]}]}`:                                   hw.VerbWords().Words(),
		`{"steps":[{"id":"one","verb":"lift","part":"lid","needs":[],"side":"%s"}]}`:                     hw.Sides.Words(),
		`{"steps":[{"id":"one","verb":"unplug","part":"lid","needs":[],"connector":"%s"}]}`:              hw.Connectors.Words(),
		`{"steps":[{"id":"one","verb":"lift","part":"lid","needs":[],"cautions":["%s"]}]}`:               hw.Cautions.Words(),
		`{"quirks":["%s"]}`: hw.Quirks.Words(),
	} {
		for _, word := range words {
			var want hw.Chassis
			if err := json.Unmarshal([]byte(fmt.Sprintf(doc, word)), &want); err != nil {
				t.Fatal(err)
			}
			lines := Print(&want)
			got, err := build(lines)
			if err != nil {
				t.Errorf("%s: %v in\n%s", word, err, lines)
				continue
			}
			if a, b := plain(t, got), plain(t, &want); a != b {
				t.Errorf("%s comes back as %s, not %s, by\n%s", word, a, b, lines)
			}
		}
	}
}

func plain(t *testing.T, ch *hw.Chassis) string {
	t.Helper()
	raw, err := json.Marshal(ch)
	if err != nil {
		t.Fatal(err)
	}
	return string(raw)
}

// aCase is what is typed, and the document that it means.
type aCase struct{ text, want string }

// casesOf reads cases from testdata: lines that begin with > are typed, the others are what they mean, a blank
// line ends a case.
func casesOf(t *testing.T, name string) []aCase {
	t.Helper()
	raw, err := os.ReadFile("testdata/" + name)
	if err != nil {
		t.Fatal(err)
	}
	var out []aCase
	for _, block := range strings.Split(strings.TrimSpace(string(raw)), "\n\n") {
		var typed, means []string
		for _, line := range strings.Split(block, "\n") {
			if text, is := strings.CutPrefix(line, "> "); is {
				typed = append(typed, text)
			} else {
				means = append(means, line)
			}
		}
		out = append(out, aCase{strings.Join(typed, "\n"), strings.Join(means, "\n")})
	}
	if len(out) < 10 {
		t.Fatalf("%s has %d cases", name, len(out))
	}
	return out
}

// TestPageTerms: what the pages call a value is understood where it is typed, as one word with dashes, and means the same.
func TestPageTerms(t *testing.T) {
	typed := 0
	for _, k := range kinds {
		for _, f := range k.fields {
			var options choice
			switch c := f.codec.(type) {
			case choice:
				options = c
			case some:
				options = c.choice
			}
			for _, o := range options {
				read := false
				for _, first := range k.fields {
					value, means, ok := first.codec.read(spoken(o.says))
					if !ok {
						continue
					}
					if e, is := value.(entryOf); is {
						value = e.value
					}
					read = true
					if typed++; first.name != f.name || value != o.value && means != o.says {
						t.Errorf("%s: %q of %s is read as %v of %s", k.word, o.says, f.name, value, first.name)
					}
					break
				}
				if !read {
					t.Errorf("%s: %q of %s is not understood", k.word, o.says, f.name)
				}
			}
		}
	}
	if typed < 60 {
		t.Errorf("only %d terms were typed", typed)
	}
}
