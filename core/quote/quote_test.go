package quote

import (
	"errors"
	"reflect"
	"slices"
	"strings"
	"testing"

	"yembo/core/hw"
	"yembo/core/money"
	"yembo/core/plan"
)

func dec(text string) hw.Dec {
	d, err := hw.ParseDec(text)
	if err != nil {
		panic(err)
	}
	return d
}

func known(text string) hw.Maybe[hw.Dec] { return hw.Known(dec(text)) }

// input is a notebook whose work wants more memory than it has, and two ways out.
func input() Input {
	ch := &hw.Chassis{Memory: &hw.Memory{Sockets: []hw.Socket{{ID: "dimm1"}}}, Slots: []hw.Slot{{ID: "m2a", Purpose: hw.ForStorage}},
		Batteries: []hw.Battery{{ID: "pack", DesignWh: known("60.8")}}, Fixed: []string{"processor", "graphics"}}
	m := &hw.Machine{Usage: hw.Usage{MemoryPeak: known("21.4")}, Fitted: hw.Fitted{
		Drives:  []hw.FittedDrive{{Place: "m2a", UsedGB: known("230")}},
		Battery: &hw.FittedBattery{Option: "pack", FullWh: known("49.5")}}}
	parts := &hw.Parts{Parts: []hw.Part{{ID: "mem", Name: "Corvane 32 GB"}, {ID: "drv", Name: "Bexmoor 1 TB"}}}
	memory := plan.Action{Do: plan.DoReplace, Place: "dimm1", Part: "mem"}
	a := plan.Option{
		Actions: []plan.Action{memory},
		Memory:  &plan.MemoryState{TotalGB: dec("32")},
		Storage: &plan.StorageState{TotalGB: dec("512")},
		Buy: []plan.Buy{
			{Part: "mem", Quantity: 1, Cents: 7780},
		},
		LabourCents: 2624,
		Minutes:     dec("32.8"),
		ReadyInDays: hw.Known(0),
		Consents:    []hw.Consent{hw.ConsentSeal},
	}
	b := a
	b.Actions = []plan.Action{memory, {Do: plan.DoReplace, Place: "m2a", Part: "drv"}}
	b.Storage = &plan.StorageState{TotalGB: dec("1000")}
	b.Buy = append(b.Buy[:1:1], plan.Buy{Part: "drv", Quantity: 1, Cents: 7990})
	b.Migration, b.ReadyInDays = &plan.Migration{How: hw.Clone, Minutes: known("14")}, hw.Known(1)
	b.Consents = []hw.Consent{hw.ConsentSeal, hw.ConsentData}
	return Input{Promises: []string{"Thu 14 May 14:30", "Thu 14 May 14:30", "Thu 14 May 14:30"},
		Plan: plan.Input{Chassis: ch, Machine: m, Parts: parts, Request: &hw.Request{}}, Options: []plan.Option{a, b},
		Today: plan.Today{Memory: &plan.MemoryState{TotalGB: dec("16")}, Storage: &plan.StorageState{TotalGB: dec("512")}},
		Terms: Terms{Currency: "EUR", LabourRate: 4800, TaxPercent: dec("20"), DeclinedCents: 1200,
			Fixed: []FixedLine{{Text: "Intake and test", Cents: 1200, When: Always}, {Text: "Copying", Cents: 950, When: Copying},
				{Text: "Erasing", Cents: 400, When: Erasing, Tax: known("7")}, {Text: "Disposal", Cents: 300, When: Packing}}},
		Complaint: " The log book takes minutes to open. "}
}

// TestMake: two alternatives, each with its lines and sums, what is better on one scale, what was found,
// what is asked for and by which of them.
func TestMake(t *testing.T) {
	q, err := Make(input())
	if err != nil {
		t.Fatal(err)
	}
	a, b := &q.Alternatives[0], &q.Alternatives[1]
	if a.Sum.Total != 13925 || a.Sum.Net != 11604 {
		t.Errorf("A comes to %+v", a.Sum)
	}
	texts := func(lines []money.Line) string {
		var out []string
		for _, l := range lines {
			out = append(out, string(l.Kind)+" "+l.Text)
		}
		return strings.Join(out, "; ")
	}
	if got := texts(a.Lines); got != "part 1 × Corvane 32 GB; labour 32.8 min at €48.00 an hour; fixed Intake and test" {
		t.Errorf("A is charged %s", got)
	}
	if got := texts(b.Lines); !strings.Contains(got, "Copying; fixed Erasing") || strings.Contains(got, "Disposal") ||
		len(b.Sum.Taxes) != 2 {
		t.Errorf("B is charged %s, %+v", got, b.Sum)
	}
	for what, pair := range map[string][2]string{
		"told": {q.Told, "The log book takes minutes to open."}, "found": {q.Found,
			"The work takes 21.4 GB of memory at once; the machine has 16 and fetches the rest from the drive."},
		"A": {a.Name, "Memory"}, "B": {b.Name, "Memory and a new drive"}, "memory": {a.Memory.Says,
			"All of it fits at once, with 33 % to spare."},
		"the drive of A": {a.Storage.Says, "Stays as it is. 45 % full."}, "the drive of B": {b.Storage.Says, "23 % full."},
		"data of A": {a.Data, "Not touched."}, "data of B": {b.Data,
			"All copied to the new drive, about 14 min. The old one is only read."},
		"ready": {a.Ready, "Thu 14 May 14:30"}, "left": {strings.Join(q.Left, " "),
			"Battery: it holds 49.5 of 60.8 Wh, 81 %. Processor, graphics: part of the main board."},
		"risk": {q.Risk, risk},
	} {
		if pair[0] != pair[1] {
			t.Errorf("%s: %q, want %q", what, pair[0], pair[1])
		}
	}
	var asked []string
	for _, c := range q.Consents {
		asked = append(asked, string(c.Code)+" "+strings.Join(c.Letters, ""))
	}
	if want := []string{"seal AB", "data B"}; !reflect.DeepEqual(asked, want) {
		t.Errorf("asked for %v, want %v", asked, want)
	}
	if q.DeclinedSum.Total != 1440 {
		t.Errorf("declined it costs %d", q.DeclinedSum.Total)
	}
}

func off(q *Quote, o Off) error {
	q.Off = &o
	return q.Settle()
}

// TestSettle: the minimum charge is looked at after the discount, a discount in per cent follows what it
// is taken off, a drive that goes back is not erased, and labour is told so that its line adds up.
func TestSettle(t *testing.T) {
	in := input()
	in.Options = in.Options[:1]
	in.Options[0].Actions = []plan.Action{{Do: plan.DoReplace, Place: "m2a"}}
	in.Terms.Fixed = []FixedLine{{Text: "Erasing", Cents: 900, When: Erasing}}
	q, err := Make(in)
	if err != nil {
		t.Fatal(err)
	}
	net := q.Alternatives[0].Sum.Net
	if err := off(q, Off{Text: "a tenth", Percent: dec("10")}); err != nil ||
		q.Alternatives[0].Sum.Net != net-money.Percent(net, dec("10")) {
		t.Errorf("a tenth off %d: %d, %v", net, q.Alternatives[0].Sum.Net, err)
	}
	q.LeastCents = net
	if err := off(q, Off{Text: "much", Percent: dec("50")}); err != nil || q.Alternatives[0].Sum.Net != net {
		t.Errorf("with the minimum after the discount: %d, not %d, %v", q.Alternatives[0].Sum.Net, net, err)
	}
	q.Off, q.LeastCents = nil, 0
	for old, want := range map[OldParts]int64{Ask: net, Kept: net, Recycle: net, Back: net - 900} {
		a, err := q.Charged("A", old)
		if err != nil || a.Sum.Net != want || q.Alternatives[0].Sum.Net != net {
			t.Errorf("the old drive %s: %d, not %d, and the quote %d; %v", old, a.Sum.Net, want, q.Alternatives[0].Sum.Net, err)
		}
		q.OldParts = old
		if err := q.Settle(); err != nil || q.Alternatives[0].Sum.Net != want {
			t.Errorf("the quote says %s: %d, not %d, %v", old, q.Alternatives[0].Sum.Net, want, err)
		}
		q.OldParts = Ask
		if err := q.Settle(); err != nil || q.Alternatives[0].Sum.Net != net {
			t.Errorf("asked again: %d, %v", q.Alternatives[0].Sum.Net, err)
		}
	}
	for _, c := range []struct {
		thousandths int64
		rate        int64
		want        string
	}{{18_300, 4800, "18.3 min"}, {18_340, 4800, "18.34 min"}, {18_344, 12_000, "18.343 min"}, {18_345, 60_000, "18.345 min"}} {
		m := hw.Minutes(c.thousandths)
		o := plan.Option{Minutes: m.Shown(), LabourCents: m.Labour(c.rate)}
		words := labourWords(&o, &Terms{Currency: "EUR", LabourRate: c.rate})
		said, _, _ := strings.Cut(words, " at ")
		if said != c.want {
			t.Errorf("%d thousandths at %d: %q, not %q", c.thousandths, c.rate, words, c.want)
		}
	}
}

// TestTerms: the minimum charge, a discount and its limit, what is not known, and options that are too
// many.
func TestTerms(t *testing.T) {
	in := input()
	in.Options = in.Options[:1]
	in.Terms.LeastCents = 20000
	q, err := Make(in)
	if err != nil || q.Alternatives[0].Sum.Net != 20000 {
		t.Fatalf("with a minimum: %+v %v", q.Alternatives[0].Sum, err)
	}
	if err := off(q, Off{Text: "for old times", Cents: 500}); err != nil || q.Alternatives[0].Sum.Net != 20000 {
		t.Errorf("with a discount: %+v %v", q.Alternatives[0].Sum, err)
	}
	var faults hw.Faults
	if err := off(q, Off{Text: "too much", Cents: 20001}); !errors.As(err, &faults) || faults[0].Pointer != "/discount" {
		t.Errorf("a discount above the sum: %v", err)
	}
	if err := off(q, Off{}); err != nil || q.Alternatives[0].Sum.Net != 20000 {
		t.Errorf("taken back: %+v %v", q.Alternatives[0].Sum, err)
	}
	in.Plan.Machine.Usage.MemoryPeak = hw.Maybe[hw.Dec]{}
	in.Options[0].ReadyInDays = hw.Maybe[int]{}
	if q, err = Make(in); err != nil || q.Found != "Memory use was not measured." ||
		q.Alternatives[0].Memory.Says != "Memory use was not measured." ||
		!strings.Contains(q.Alternatives[0].Ready, "date not known") {
		t.Errorf("what is not known: %q, %q, %q", q.Found, q.Alternatives[0].Memory.Says, q.Alternatives[0].Ready)
	}
	for _, x := range []struct {
		days    int
		promise string
		want    string
	}{
		{0, "Thu 14 May 14:30, if you accept on 14 May", "Thu 14 May 14:30, if you accept on 14 May"},
		{5, "Wed 20 May 11:00, if you accept on 14 May",
			"Wed 20 May 11:00, if you accept on 14 May: the parts are ordered then and take 5 days"},
		{0, "", "no date yet; we will tell you"},
	} {
		in.Options[0].ReadyInDays, in.Promises = hw.Known(x.days), []string{x.promise}
		if q, err = Make(in); err != nil || q.Alternatives[0].Ready != x.want {
			t.Errorf("%+v: %q %v", x, q.Alternatives[0].Ready, err)
		}
	}
	in.Terms.LabourRate = 0
	if q, err = Make(in); err != nil ||
		slices.ContainsFunc(q.Alternatives[0].Lines, func(l money.Line) bool { return l.Kind == money.Labour }) {
		t.Errorf("labour at no price: %+v %v", q.Alternatives[0].Lines, err)
	}
	in.Options = make([]plan.Option, 4)
	if _, err := Make(in); err == nil {
		t.Error("four options are offered")
	}
	in.Options = nil
	if _, err := Make(in); err == nil {
		t.Error("nothing is offered")
	}
}
