package plans

import (
	"encoding/json"
	"fmt"
	"net/http"
	"net/url"
	"strings"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/core/label"
	"yembo/core/memory"
	"yembo/core/power"
	"yembo/core/storage"
	"yembo/core/teardown"
	"yembo/web/form"
	"yembo/web/kit"
)

// The reckoner is the core's own sums on one page: typed, seen, copied; nothing is kept.

// sum is one of them.
type sum struct {
	ID, Title, Rule, Term string // Term is where the glossary tells of it, "" where it does not
	Fields                []sumField
	work                  func(f *form.Form, currency string) (answer string, lines []string)
}

type sumField struct {
	Name, Label, Unit, Start string
	Words                    []hw.Term[string] // a choice
	Wide                     bool
}

// sumView is a sum with what was typed and what comes out.
type sumView struct {
	*form.Form
	sum
	Answer string
	Lines  []string
}

type reckonerView struct{ Sums []sumView }

// sums are all of them, in the order of the page. The first value of each field is an
// example that works, so that the page shows what each sum does.
var sums = []sum{
	{"label", "What does this label say?",
		"Memory labels of three generations, in the standard's form and in trade forms; M.2 size codes.", "rank",
		[]sumField{{Name: "label", Label: "Label or code", Start: "16GB 2Rx8 PC4-3200AA-SE1-11", Wide: true}},
		reckonLabel},
	{"fit", "Does this M.2 drive fit that slot?",
		"Key, then length, protocol and thickness, each against what the slot has; the first that fails is the answer.", "key",
		[]sumField{{Name: "code", Label: "Size code", Start: "2280-D2-M"},
			{Name: "speaks", Label: "Speaks", Words: hw.DriveInterfaces.Terms()},
			{Name: "key", Label: "Slot's key", Words: plainTerms("M", "B", "E")},
			{Name: "holds", Label: "Slot holds", Unit: "mm, separated by commas", Start: "42, 80"},
			{Name: "takes", Label: "Slot takes",
				Words: []hw.Term[string]{{Word: "nvme", Says: "NVMe"}, {Word: "nvme and sata", Says: "NVMe and SATA"},
					{Word: "sata", Says: "SATA"}}},
			{Name: "above", Label: "Room above", Unit: "mm", Start: "1.5"},
			{Name: "below", Label: "Room below", Unit: "mm", Start: "0"}}, reckonFit},
	{"link", "What does this link carry?",
		"Generation and lanes are the lower of slot and drive; a lane carries 250, 500, 985, 1969 or 3938 MB/s.",
		"generation-and-lanes",
		[]sumField{{Name: "sgen", Label: "Slot, generation", Start: "3"},
			{Name: "slanes", Label: "Slot, lanes", Start: "2"}, {Name: "dgen", Label: "Drive, generation", Start: "4"},
			{Name: "dlanes", Label: "Drive, lanes", Start: "4"},
			{Name: "read", Label: "Drive reads", Unit: "MB/s", Start: "5000"},
			{Name: "cooling", Label: "Cooling at the slot",
				Words: append([]hw.Term[string]{{Word: "", Says: "not known"}}, hw.Coolings.Terms()...)}}, reckonLink},
	{"memory", "What do these modules give?",
		"Interleaved = 2 × the smaller channel; bandwidth = MT/s × 8 bytes × channels; all run at the slowest.", "interleaved",
		[]sumField{{Name: "a", Label: "Channel A", Unit: "GB, + between", Start: "8 + 16"},
			{Name: "b", Label: "Channel B", Unit: "GB", Start: "8"},
			{Name: "speeds", Label: "Speeds", Unit: "MT/s, separated by commas", Start: "3200, 2666"}}, reckonMemory},
	{"wh", "How much does this pack hold?", "Wh = V × Ah; mAh ÷ 1000 = Ah.", "health",
		[]sumField{{Name: "volts", Label: "Nominal", Unit: "V", Start: "11.4"},
			{Name: "charge", Label: "Charge", Unit: "mAh, or Ah below 100", Start: "4605"}}, reckonWh},
	{"runtime", "How long does it last?", "0.95 × Wh ÷ mean draw in W.", "runtime",
		[]sumField{{Name: "holds_wh", Label: "Holds", Unit: "Wh", Start: "39.2"},
			{Name: "draw", Label: "Draws", Unit: "W", Start: "8.4"}}, reckonRuntime},
	{"clone", "How long does the copy take?",
		"Used ÷ (0.7 × the slowest of old read, new write and the enclosure); no copy above 0.9 of the new drive.", "copying",
		[]sumField{{Name: "used", Label: "Used", Unit: "GB", Start: "431"},
			{Name: "to", Label: "New drive", Unit: "GB", Start: "1000"},
			{Name: "oldread", Label: "Old reads", Unit: "MB/s", Start: "540"},
			{Name: "newwrite", Label: "New writes", Unit: "MB/s", Start: "4200"}}, reckonClone},
	{"price", "What does a GB cost?", "Price ÷ capacity.", "",
		[]sumField{{Name: "price", Label: "Price", Start: "79.90"},
			{Name: "size", Label: "Capacity", Unit: "GB", Start: "1000"}}, reckonPrice},
	{"gib", "What will the system show?", "Drives are sold in GB of 10^9 bytes and shown in GiB of 2^30.", "",
		[]sumField{{Name: "gb", Label: "Sold as", Unit: "GB", Start: "512"}}, reckonGiB},
	{"full", "When is the drive full?", "(Capacity − used) ÷ growth a month.", "",
		[]sumField{{Name: "cap", Label: "Capacity", Unit: "GB", Start: "512"},
			{Name: "inuse", Label: "Used", Unit: "GB", Start: "431"},
			{Name: "grows", Label: "Grows by", Unit: "GB a month", Start: "9"}}, reckonFull},
	{"labour", "What does the work cost?", "Minutes × rate ÷ 60; the way back counts 0.8 of the way in.", "labour",
		[]sumField{{Name: "way", Label: "Way in", Unit: "min", Start: "9.5"},
			{Name: "swaps", Label: "Swaps", Unit: "min", Start: "2"},
			{Name: "rate", Label: "Rate", Unit: "an hour", Start: "48"}}, reckonLabour},
}

func (s *pages) showReckoner(c *echo.Context) error {
	how, err := s.Shop.Settings(c.Request().Context())
	if err != nil {
		return err
	}
	var v reckonerView
	for _, x := range sums {
		f := form.New(url.Values{})
		for _, field := range x.Fields {
			typed, told := c.QueryParams()[field.Name]
			switch {
			case told:
				f.Values[field.Name] = typed
			case len(field.Words) > 0:
				f.Values.Set(field.Name, field.Words[0].Word)
			default:
				f.Values.Set(field.Name, field.Start)
			}
			if len([]rune(f.Value(field.Name))) > label.MaxText {
				f.Fault(field.Name, fmt.Sprintf("longer than %d characters", label.MaxText))
			}
		}
		one := sumView{Form: f, sum: x}
		if f.Count() == 0 {
			one.Answer, one.Lines = x.work(f, how.Currency)
		}
		v.Sums = append(v.Sums, one)
	}
	return s.Render(c, http.StatusOK, "reckoner", "Reckoner", "reckoner", v)
}

func reckonLabel(f *form.Form, _ string) (string, []string) {
	text := f.Text("label")
	if text == "" {
		return "", nil
	}
	read, err := label.Decode(text)
	if err != nil {
		f.Fault("label", err.Error())
		return "", nil
	}
	var fields map[string]any
	raw, err := json.Marshal(read)
	if err == nil {
		err = json.Unmarshal(raw, &fields)
	}
	if err != nil {
		f.Fault("label", err.Error())
		return "", nil
	}
	switch m := read.(type) {
	case *label.Memory:
		answer := strings.TrimSpace(fmt.Sprintf("%s %s %s", kit.GBWords(m.Capacity), m.Type, m.Form))
		var lines []string
		if v, ok := m.SpeedMTs.Get(); ok {
			lines = append(lines, fmt.Sprintf("%d MT/s × 8 bytes = %s GB/s a channel", v, hw.Dec(v*8)*1000))
		}
		for _, x := range []struct{ name, words string }{{"ranks", "ranks"}, {"chip_width", "bits a chip"},
			{"voltage_v", "V"}, {"cas", "clocks CAS latency"}} {
			if v, ok := fields[x.name]; ok {
				lines = append(lines, fmt.Sprintf("%v %s", v, x.words))
			}
		}
		return answer, append(lines, m.Notes...)
	case *label.M2:
		answer := fmt.Sprintf("%d mm wide, %d mm long", m.Width, m.Length)
		var lines []string
		if top, ok := m.Top.Get(); ok {
			lines = append(lines, fmt.Sprintf("components %s mm above, %s mm below", top, m.Bottom.Or(0)))
		}
		if len(m.Keys) > 0 {
			lines = append(lines, "key "+strings.Join(m.Keys, " and "))
		}
		return answer, lines
	}
	return "", nil
}

func reckonFit(f *form.Form, _ string) (string, []string) {
	m, err := label.ParseM2(f.Text("code"))
	if err != nil {
		f.Fault("code", err.Error())
		return "", nil
	}
	above, below := f.Dec("above"), f.Dec("below")
	lengths := map[string]string{}
	for _, word := range strings.FieldsFunc(f.Text("holds"), func(r rune) bool { return r == ',' || r == ' ' }) {
		lengths[word] = "fitted"
	}
	if f.Count() > 0 {
		return "", nil
	}
	slot := hw.Slot{ID: "here", Purpose: "storage", Key: f.Choice("key", []string{"M", "B", "E"}), Lengths: lengths,
		Refuses: []hw.Refusal{}, MaxTop: above, MaxBottom: below}
	for _, word := range strings.Split(f.Choice("takes", []string{"nvme", "nvme and sata", "sata"}).Or("nvme"),
		" and ") {
		slot.Protocols = append(slot.Protocols, hw.Interface(word))
	}
	d := hw.Drive{Interface: form.Choose(f, "speaks", hw.DriveInterfaces).Or(hw.NVMe), Length: hw.Known(m.Length),
		Top: m.Top, Bottom: m.Bottom, Lanes: hw.Known(4), CacheModule: hw.Known(false)}
	if len(m.Keys) > 0 {
		d.Key = hw.Known(strings.Join(m.Keys, "+"))
	}
	v := storage.FitSlot(&hw.Chassis{Slots: []hw.Slot{slot}}, 0, &d, 0)
	switch {
	case v.Fits():
		return "It fits.", nil
	case v.Code == hw.CodeUnknown:
		return "Not known.", []string{v.Text}
	}
	return "It does not fit.", []string{v.Text}
}

func reckonLink(f *form.Form, _ string) (string, []string) {
	whole := func(name string) hw.Maybe[int] { return f.Whole(name) }
	slot := &hw.Slot{ID: "slot", Gen: whole("sgen"), Lanes: whole("slanes"),
		Cooling: form.Choose(f, "cooling", hw.Coolings)}
	d := &hw.Drive{Interface: hw.NVMe, Gen: whole("dgen"), Lanes: whole("dlanes"), ReadMBs: f.Dec("read")}
	if f.Count() > 0 {
		return "", nil
	}
	for name, v := range map[string]hw.Maybe[int]{"sgen": slot.Gen, "slanes": slot.Lanes, "dgen": d.Gen,
		"dlanes": d.Lanes} {
		if n, ok := v.Get(); !ok || n < 1 || n > 16 || strings.HasSuffix(name, "gen") && n > 5 {
			f.Fault(name, "generations go from 1 to 5, lanes from 1 to 16")
		}
	}
	if f.Count() > 0 {
		return "", nil
	}
	l := storage.Connect("slot", slot, d)
	lines := []string{fmt.Sprintf("generation %d, %d lanes", l.Gen.Or(0), l.Lanes.Or(0))}
	if storage.HeldBack(l, d) {
		lines = append(lines, fmt.Sprintf("the drive could read %s MB/s: the link holds it back", d.ReadMBs.Or(0)))
	} else if d.ReadMBs.IsKnown() {
		lines = append(lines, fmt.Sprintf("the drive reads %s MB/s: its own speed", d.ReadMBs.Or(0)))
	}
	switch {
	case storage.Hot(l, slot, d):
		lines = append(lines, fmt.Sprintf("to mind: %s: from %d MB/s on a drive needs a pad or a spreader",
			hw.CodeHot.Row().Says, storage.HotLink))
	case !slot.Cooling.IsKnown() && l.MBs.Or(0) >= storage.HotLink:
		lines = append(lines, "whether it runs hot is not known: what cools the slot is not known")
	}
	return fmt.Sprintf("%d MB/s", l.MBs.Or(0)), lines
}

func reckonMemory(f *form.Form, _ string) (string, []string) {
	var sticks []memory.Stick
	read := func(name, channel string) {
		for _, word := range strings.FieldsFunc(f.Text(name),
			func(r rune) bool { return r == '+' || r == ' ' || r == ',' }) {
			gb, err := hw.ParseDec(word)
			if err != nil || gb <= 0 || gb > hw.DecOf(1024) || len(sticks) >= 16 {
				f.Fault(name, fmt.Sprintf("%q is no module of 1 to 1024 GB", word))
				return
			}
			sticks = append(sticks, memory.Stick{Place: channel, Channels: []string{channel},
				Module: hw.Module{Capacity: hw.Known(gb)}})
		}
	}
	read("a", "A")
	read("b", "B")
	slowest := 0
	for _, word := range strings.FieldsFunc(f.Text("speeds"), func(r rune) bool { return r == ',' || r == ' ' }) {
		var n int
		if _, err := fmt.Sscanf(word, "%d", &n); err != nil || n < 100 || n > 20_000 {
			f.Fault("speeds", fmt.Sprintf("%q is no speed in MT/s", word))
			break
		}
		if slowest == 0 || n < slowest {
			slowest = n
		}
	}
	if f.Count() > 0 || len(sticks) == 0 {
		return "", nil
	}
	for i := range sticks {
		sticks[i].Module.Speed = positive(slowest)
	}
	l := memory.Arrange(&hw.Memory{Channels: hw.Known(2), MaxSpeed: positive(slowest)}, sticks)
	lines := []string{fmt.Sprintf("%s GB interleaved, %s GB single-channel", l.Interleaved.Or(0), l.Single.Or(0))}
	if l.Mode.Or("") == "asymmetric" {
		lines = append(lines, "to mind: "+hw.CodeAsymmetric.Row().Says)
	}
	if bw, ok := l.Bandwidth.Get(); ok {
		lines = append(lines, fmt.Sprintf("all at %d MT/s; %s GB/s on the widest part", slowest, bw))
	}
	return fmt.Sprintf("%s GB, %s", l.Total, l.Mode.Or("not known")), lines
}

func reckonWh(f *form.Form, _ string) (string, []string) {
	v, ok := f.Needs("volts", "charge")
	if !ok {
		return "", nil
	}
	ah := v[1]
	if ah >= hw.DecOf(100) {
		ah /= 1000
	}
	return power.EnergyWh(v[0], ah).String() + " Wh", []string{fmt.Sprintf("%s V × %s Ah", v[0], ah)}
}

func reckonRuntime(f *form.Form, _ string) (string, []string) {
	v, ok := f.Needs("holds_wh", "draw")
	if !ok {
		return "", nil
	}
	return power.HoursAt(v[0], v[1]).Or(0).String() + " h", []string{fmt.Sprintf("0.95 × %s Wh ÷ %s W", v[0], v[1])}
}

func reckonClone(f *form.Form, _ string) (string, []string) {
	v, ok := f.Needs("used", "to", "oldread", "newwrite")
	if !ok {
		return "", nil
	}
	c := storage.PlanClone(&hw.FittedDrive{UsedGB: hw.Known(v[0]), Drive: hw.Drive{ReadMBs: hw.Known(v[2])}},
		&hw.Drive{Capacity: hw.Known(v[1]), WriteMBs: hw.Known(v[3])}, storage.Link{})
	if !c.Possible {
		return "No copy", []string{c.Why}
	}
	return "about " + c.Minutes.Or(0).String() + " min",
		[]string{fmt.Sprintf("%s GB ÷ (0.7 × %s MB/s)", v[0], min(v[2], v[3], hw.DecOf(storage.EnclosureMBs)))}
}

func reckonPrice(f *form.Form, currency string) (string, []string) {
	f.Currency = currency
	cents, ok := f.Cents("price").Get()
	size, okS := f.Need("size")
	if !ok || !okS {
		return "", nil
	}
	each, known := storage.CentsPerGB(cents, size).Get()
	if !known {
		return "", nil
	}
	return each.String() + " cents a GB", []string{fmt.Sprintf("%s ÷ %s GB", hw.Money(currency, cents), size)}
}

func reckonGiB(f *form.Form, _ string) (string, []string) {
	gb, ok := f.Need("gb")
	if !ok {
		return "", nil
	}
	return storage.GiB(gb).String() + " GiB", []string{fmt.Sprintf("%s × 10^9 ÷ 2^30; nothing is missing", gb)}
}

func reckonFull(f *form.Form, _ string) (string, []string) {
	v, ok := f.Needs("cap", "inuse", "grows")
	if !ok {
		return "", nil
	}
	if v[1] > v[0] {
		f.Fault("inuse", "more is used than there is")
		return "", nil
	}
	months, known := storage.MonthsUntilFull(v[0], v[1], v[2]).Get()
	if !known {
		return "", nil
	}
	return "in " + months.String() + " months", []string{fmt.Sprintf("(%s − %s) ÷ %s", v[0], v[1], v[2])}
}

func reckonLabour(f *form.Form, currency string) (string, []string) {
	v, ok := f.Needs("way", "swaps")
	cents, okR := f.Cents("rate").Get()
	if !ok || !okR {
		return "", nil
	}
	way := hw.MinutesOf(v[0])
	all := way + way.Back() + hw.MinutesOf(v[1])
	return hw.Money(currency, all.Labour(cents)),
		[]string{fmt.Sprintf("%s + 0.8 × %s + %s = %s min; a module counts %s, a drive %s, a pack %s", v[0], v[0], v[1],
			all.Shown(),
			teardown.SwapMemory.Shown(), teardown.SwapDrive.Shown(), teardown.SwapBattery.Shown())}
}

// plainTerms are words that are shown as they are.
func plainTerms(words ...string) []hw.Term[string] {
	out := make([]hw.Term[string], len(words))
	for i, w := range words {
		out[i] = hw.Term[string]{Word: w, Says: w}
	}
	return out
}
