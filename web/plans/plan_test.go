package plans_test

import (
	"cmp"
	"encoding/json"
	"html"
	"net/http"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"
	"yembo/shop/jobs"

	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/web/draw"
	"yembo/web/webtest"
)

// TestTwoWishes: a wish kept second does not take the place of one that was not seen.
func TestTwoWishes(t *testing.T) {
	e, _ := webtest.Application(t)
	key := regexp.MustCompile(`action="(/machines/[0-9]+)/wish"`)
	open := webtest.Page(e, "/machines/tarn-vet-03?wish=1&memory_gb=24")
	where := key.FindStringSubmatch(open)
	if where == nil {
		t.Fatal("no wish can be kept")
	}
	first, second := webtest.FieldsOf(t, open, where[1]+"/wish"), webtest.FieldsOf(t, open, where[1]+"/wish")
	first.Set("token", "one")
	first.Set("memory_gb", "40")
	second.Set("token", "two")
	if code, body := webtest.SendForm(e, where[1]+"/wish", first); code != http.StatusSeeOther {
		t.Fatalf("the first: %d %s", code, body)
	}
	code, body := webtest.SendForm(e, where[1]+"/wish", second)
	if code != http.StatusConflict || !strings.Contains(body, "changed on the job") ||
		!strings.Contains(body, "40 GB memory") || !strings.Contains(body, "24 GB memory") {
		t.Fatalf("the second is not known: %d", code)
	}
	again := webtest.FieldsOf(t, body, where[1]+"/wish")
	again.Set("token", "three")
	if code, _ := webtest.SendForm(e, where[1]+"/wish", again); code != http.StatusSeeOther ||
		!strings.Contains(webtest.Page(e, where[1]+"?wish=1&memory_gb=16"), "24 GB memory") {
		t.Errorf("chosen, it is not kept: %d", code)
	}
}

// TestHonestPlans: what is said first on the plan of machines that differ in one
// thing.
func TestHonestPlans(t *testing.T) {
	for name, c := range map[string]struct {
		changes []string
		say     []string
		not     []string
	}{
		"worth doing": {nil, []string{"Worth doing.",
			"It needs 14 ÷ 0.8 = 17.5 GB; the next total that can be reached is 24 GB.", "Choose A<span"}, []string{"Stop the job"}},
		"enough": {[]string{"/goals/memory_gb", "16"}, []string{"No upgrade needed.", "No option"}, []string{"Choose A<span"}},
		"not the cause": {[]string{"/usage/memory_peak_gb", "9"},
			[]string{"under 80 % of what is fitted: memory is not the cause"}, nil},
		"more than used": {[]string{"/usage/memory_peak_gb", "5", "/goals/memory_gb", "40"},
			[]string{"more memory than the work uses makes nothing faster"}, nil},
		"not measured": {[]string{"/usage/memory_peak_gb", ""}, []string{"the right size is not yet known"}, nil},
		"too dear": {[]string{"/budget_cents", "10"}, []string{"Not possible as asked.", "above the budget", "€54.18"},
			[]string{"Choose A<span"}},
		"out of reach": {[]string{"/goals/memory_gb", "40"}, []string{"Helps, but does not meet the whole request.",
			"Out of reach"}, nil},
		"above the limit": {[]string{"/fitted/memory/0/capacity_gb", "32"},
			[]string{"more than the 24 GB that the shop rule allows", "That can stay"}, nil},
		"swollen": {[]string{"/fitted/battery/option", "small", "/fitted/battery/swollen", "no", "/condition/swollen", "yes"},
			[]string{"Stop the job.", "The pack is swollen: stop. Do not charge, press or pry it"}, []string{"Choose A<span",
				"Plan</button>"}},
		"not known": {[]string{"/fitted/memory/0/capacity_gb", ""}, []string{"Not yet known.",
			"so nothing can be called an upgrade"}, nil},
	} {
		e, _ := webtest.Application(t)
		body := webtest.Page(e, webtest.Take(t, e, webtest.IntakeForm(c.changes...)))
		for _, want := range c.say {
			if !strings.Contains(body, want) {
				t.Errorf("%s: it does not say %q", name, want)
			}
		}
		for _, bad := range c.not {
			if strings.Contains(body, bad) {
				t.Errorf("%s: it says %q", name, bad)
			}
		}
	}
}

// TestCard: no card before a choice; the card of a choice; a note on the card, and no
// new choice, when the plan is another by then.
func TestCard(t *testing.T) {
	e, _ := webtest.Application(t)
	at := webtest.Take(t, e, webtest.IntakeForm())
	if w := webtest.Request(e, "GET", at+"/card", nil, nil); w.Code != http.StatusConflict ||
		!strings.Contains(w.Body.String(), "No option is chosen yet") {
		t.Errorf("a card without a choice: %d", w.Code)
	}
	plan := webtest.Page(e, at)
	_, rest, _ := strings.Cut(plan, `name="option" value="`)
	option, _, _ := strings.Cut(rest, `"`)
	if w := webtest.Request(e, "POST", at+"/choice", url.Values{"option": {option}, "token": {"c"}},
		webtest.SameOrigin); w.Code != http.StatusSeeOther {
		t.Fatalf("choosing: %d", w.Code)
	}
	card := webtest.Page(e, at+"/card")
	for _, want := range []string{"Work card", "8 GB DDR4-3200", "Corvane 16 GB DDR4-3200 SO-DIMM",
		"19.1 min, €54.18 in all", "Shut down (not sleep), charger out",
		"Unscrew the bottom cover", "Plug the battery plug in: press straight down until it sits",
		"Swollen, dented, hot or leaking: stop", "Customer agrees"} {
		if !strings.Contains(card, want) {
			t.Errorf("the card does not say %q", want)
		}
	}
	if strings.Contains(card, "no longer in it") || !strings.Contains(webtest.Page(e, at), "chosen</span>") {
		t.Error("the choice does not stand on the plan")
	}
	if w := webtest.Request(e, "POST", at+"/choice", url.Values{"option": {"0000"}, "token": {"d"}},
		webtest.SameOrigin); w.Code != http.StatusConflict ||
		!strings.Contains(w.Body.String(), "The plan has changed (a part") {
		t.Errorf("an option that is not there: %d", w.Code)
	}
}

// TestPageIsTheCommandLine: the options on the page of each demo machine are those that
// the command line makes of the same documents.
func TestPageIsTheCommandLine(t *testing.T) {
	e, _, sh := webtest.Started(t)
	dir := t.TempDir()
	bin := filepath.Join(dir, "yembo")
	if out, err := exec.CommandContext(t.Context(), "go", "build", "-o", bin,
		"../../cmd/yembo").CombinedOutput(); err != nil {
		t.Fatalf("%v\n%s", err, out)
	}
	write := func(name string, doc any) string {
		path := filepath.Join(dir, name)
		raw, err := json.Marshal(doc)
		if err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(path, raw, 0o600); err != nil {
			t.Fatal(err)
		}
		return path
	}
	row := regexp.MustCompile(
		`<tr><td[^>]*>(?:<span[^>]*>[A-D]</span>)?</td><td[^>]*>(?:<a [^>]*>)?([^<]+).*?<td class="[^"]*mono num">€([0-9.]+)</td>`,
	)
	for _, id := range []string{"tarn-vet-03", "tarn-vet-04", "wath-08", "e-gale-01", "tarn-vet-01", "corrie-03",
		"wath-12", "wath-07"} {
		p, err := sh.Plan(t.Context(), id, jobs.PlanQuery{})
		if err != nil {
			t.Fatal(err)
		}
		var model string
		for _, name := range []string{"aster", "drover", "osier", "reedmace", "aster16", "fennel"} {
			if raw, err := os.ReadFile("../../shop/demo/" + name + ".json"); err == nil &&
				strings.Contains(string(raw[:400]), `"`+p.Record.Chassis.ID+`"`) {
				model = "../../shop/demo/" + name + ".json"
			}
		}
		out, err := exec.CommandContext(t.Context(), bin, "plan", "--chassis", model, "--machine",
			write("m.json", p.Record.Machine), "--parts", write("p.json", p.Parts), "--request",
			write("r.json", p.Request)).Output()
		if err != nil {
			t.Fatalf("%s: %v", id, err)
		}
		var want plan.Plan
		if err := json.Unmarshal(out, &want); err != nil {
			t.Fatal(err)
		}
		var list, got []string
		slices.SortStableFunc(want.Options, func(a, b plan.Option) int {
			return cmp.Compare(min(1, len(a.Short(p.Request.Goals))), min(1, len(b.Short(p.Request.Goals))))
		})
		for _, o := range want.Options {
			list = append(list, p.Words(&o)+" "+strings.TrimPrefix(hw.Money("EUR", o.TotalCents),
				"€"))
		}
		body := webtest.Page(e, "/machines/"+id)
		for _, m := range row.FindAllStringSubmatch(body, -1) {
			got = append(got, strings.TrimSpace(html.UnescapeString(m[1]))+" "+m[2])
		}
		if strings.Join(got, ", ") != strings.Join(list, ", ") {
			t.Errorf("%s: the page has %v, the command line %v", id, got, list)
		}
		if p.Record.Details.Told == "" && id != "wath-07" || !strings.Contains(body, p.Record.Details.Told) {
			t.Errorf("%s does not tell what it is about", id)
		}
	}
}

// TestPlanAddress: the address is planned, not the stored wish, and says so; it is kept on
// request. What cannot be read is told, and nothing is lost.
func TestPlanAddress(t *testing.T) {
	e, _ := webtest.Application(t)
	for path, want := range map[string][]string{
		"?wish=1&memory_gb=40&budget=300,50&limit=proven": {"40 GB memory", "€300.50", "Save as the request",
			"limit 40 GB"},
		"?wish=1&memory_gb=viele": {"The stored request is planned",
			"memory gb: \"viele\" is not valid here"},
		"?wish=1&memory_gb=-5&budget=12.345": {"2 things in the address are not right"},
		"?wish=1&memory_gb=999999":           {"is out of range"},
		"?limit=most":                        {"limit:"},
		"?colour=green&o=2": {"The address says colour, o, which this version does " +
			"not know"},
		"?pin=cv-d4-16": {"only with <strong>Corvane 16 GB DDR4-3200 SO-DIMM</strong>"},
		"?ban=cv-d4-16&pin=gone": {"never <strong>Corvane 16 GB",
			"gone, not on the shelf any more"},
		"?model=7": {"made for version 7 of the model's record"},
		"?own:dimm1=cv-d4-32": {"Your own", "against it",
			"40 GB in all; the maker's limit is 24 GB", "Cannot be chosen until its problems"},
		"?own:dimm1=cv-d4-16": {"Your own", "Choose your own"},
		"?ask=16GB+2Rx8+PC4-3200AA-SE1-11": {"A module: 16 GB DDR4-3200 SO-DIMM",
			"<strong>fits</strong>"},
		"?ask=2280-D2-B-M":               {"taken for SATA"},
		"?wish=1&memory_gb=32&risk=5000": {"at most 1000"},
		"?ask=seventeen+bananas":         {"cannot be read as a label"},
		"?find=DDR5":                     {"a DDR5 module; the socket takes DDR4"},
		"?find=zebra":                    {"Nothing has “zebra”"},
		"": {"8 onboard + 8 dimm1 = 16 GB", "2 × min(8, 8) = 16 GB",
			"3200 MT/s × 8 bytes × 2 channels = 51.2 GB/s", "generation 3 × 4 lanes carry 3938 MB/s",
			"0.8 × 9.5 = 7.6 min"},
	} {
		body := webtest.Page(e, "/machines/tarn-vet-03"+path)
		for _, w := range want {
			if !strings.Contains(strings.ReplaceAll(body, "&#43;", "+"), w) {
				t.Errorf("%s does not say %q", path, w)
			}
		}
	}
	// What the forms of the page send along is no part of the address.
	if body := webtest.Page(e, "/machines/tarn-vet-03?seen=1&version=2&token=x"); strings.Contains(body, "The address says") {
		t.Error("a field of a form is taken for a name of the address")
	}
	// Two matched sockets: a pair stands beside what costs least, and is the one of lowest risk.
	if body := webtest.Page(e, "/machines/corrie-03"); !strings.Contains(body, "32 GB, all interleaved") ||
		!strings.Contains(body, "51.2 GB/s") || !strings.Contains(body, "single-channel") ||
		!strings.Contains(body, "more than the cheapest for a point of risk less.") {
		t.Error("the pair of 16 GB does not stand beside the one module, or one channel is not known")
	}
	// Memory ten steps down, the drive on the way: one opening for both.
	if body := webtest.Page(e, "/machines/wath-08"); !strings.Contains(body, "one opening saves") {
		t.Error("two wishes of one machine do not say what one opening saves")
	}
	wish := url.Values{"wish": {"1"}, "memory_gb": {"40"}, "budget": {"300"}, "limit": {"proven"}, "token": {"k"}}
	if w := webtest.Request(e, "POST", "/machines/tarn-vet-03/wish", wish,
		webtest.SameOrigin); w.Header().Get("Location") != "/machines/tarn-vet-03?limit=proven" {
		t.Errorf("kept, it leads to %d %s", w.Code, w.Header().Get("Location"))
	}
	if body := webtest.Page(e, "/machines/tarn-vet-03"); !strings.Contains(body, "budget €300.00") ||
		strings.Contains(body, "Save as the request") {
		t.Error("the wish was not kept")
	}
}

// TestChoosingOwn: a combination that was put together by hand is chosen like another, and
// its card stands.
func TestChoosingOwn(t *testing.T) {
	e, _ := webtest.Application(t)
	body := webtest.Page(e, "/machines/wath-07?own:dimm1=cv-d4-8&own:dimm2=cv-d4-8")
	at := strings.LastIndex(body, `name="option" value="`)
	option, _, _ := strings.Cut(body[at+len(`name="option" value="`):], `"`)
	form := url.Values{"option": {option}, "token": {"own"}, "own:dimm1": {"cv-d4-8"}, "own:dimm2": {"cv-d4-8"}}
	if w := webtest.Request(e, "POST", "/machines/wath-07/choice", form, webtest.SameOrigin); w.Code != http.StatusSeeOther {
		t.Fatalf("%d", w.Code)
	}
	if card := webtest.Page(e, "/machines/wath-07/card"); strings.Contains(card, "no longer in it") ||
		!strings.Contains(card, "Corvane 8 GB DDR4-3200 SO-DIMM") {
		t.Error("the card of an own combination does not stand")
	}
	form.Set("own:dimm2", "cv-d4-32")
	form.Set("token", "other")
	if w := webtest.Request(e, "POST", "/machines/wath-07/choice", form, webtest.SameOrigin); w.Code != http.StatusConflict {
		t.Errorf("another combination under the same mark: %d", w.Code)
	}
}

// TestReckoner: every sum works on its example, and says what is wrong at its field.
func TestReckoner(t *testing.T) {
	e, _ := webtest.Application(t)
	body := webtest.Page(e, "/reckoner")
	for _, want := range []string{"16 GB DDR4 SO-DIMM", "needs 1.35 mm below the module", "1969 MB/s",
		"32 GB, asymmetric", "42.7 GB/s", "52.5 Wh", "4.4 h", "about 25.7 min", "8 cents a GB", "476.8 GiB",
		"in 9 months", "€15.28"} {
		if !strings.Contains(body, want) {
			t.Errorf("it does not say %q", want)
		}
	}
	for query, want := range map[string]string{
		"label=gibberish": "column 1", "code=9999x": "is expected", "sgen=9": "generations go from 1 to 5",
		"a=8+%2B+x": "is no module", "speeds=fast": "is no speed", "volts=": "a number is missing",
		"used=950": "more than 0.9", "inuse=900": "more is used than there is", "draw=-3": "above 0",
		"gb=9999999999999": "9999999999999", "price=a": "an amount",
		"label=" + strings.Repeat("x", 300): "longer than 200", "code=2280-S3-M": "It fits.",
		"sgen=4&slanes=4&cooling=none": "a drive that runs hot", "sgen=4&slanes=4": "what cools the slot is not known",
		"a=8&b=16": "part of the memory runs single-channel",
	} {
		if body := webtest.Page(e, "/reckoner?"+query); !strings.Contains(body, want) {
			t.Errorf("%.40s does not say %q", query, want)
		}
	}
}

// TestInPlace: the drawing beside an option says what goes in, what comes out, what moves and
// what cannot be used any more; a post that stands where it is needed does not move.
func TestInPlace(t *testing.T) {
	e, _ := webtest.Application(t)
	mark := regexp.MustCompile(`<li class="[^"]*?(\w+)"><span[^>]*>[a-z ]+</span> ([^<]*)</li>`)
	for path, want := range map[string][]string{
		"/machines/tarn-vet-03?wish=1&storage_gb=1000": {"new m2a: Bexmoor 1 TB NVMe 2280, generation 4",
			"moved the post of m2a, to 80 mm", "moved mounting screw, pad of m2a, from the old part to the new one"},
		"/machines/tarn-vet-03?wish=1&own:m2a=remove": {"out m2a"},
		"/machines/tarn-vet-04?wish=1&runtime_h=8&with=battery%2Bwx-qb-760": {"new battery: Wexcell QB-760, 76 Wh",
			"moved four screws of battery, from the old part to the new one",
			"excluded bay25"},
		"/machines/tarn-vet-04?wish=1&storage_gb=1500&with=m2b%2Bbx-n4-1000": {"new m2b: Bexmoor 1 TB NVMe 2280, generation 4"},
	} {
		var got []string
		for _, m := range mark.FindAllStringSubmatch(webtest.Page(e, path), -1) {
			got = append(got, m[1]+" "+m[2])
		}
		if !slices.Equal(got, want) {
			t.Errorf("%s: %q", path, got)
		}
	}
}

// TestColumns: after today comes the best option that meets the wish, then the one that is
// looked at; what falls short stands last and says of what.
func TestColumns(t *testing.T) {
	e, _ := webtest.Application(t)
	heads := regexp.MustCompile(
		`(?s)<th scope="col" class="[a-z]*">\s*<span [^>]*aria-hidden="true">([A-D])</span> ([^<]+)(?:<span ` +
			`class="[^"]*">(falls short:[^<]*)</span>)?<span class="under">([^<]*)</span>`,
	)
	for path, want := range map[string][]string{
		"/machines/tarn-vet-04": {
			"A Recommended  m2b: Bexmoor 500 GB SATA 2280; battery: Wexcell QB-760, 76 Wh; also cheapest, soonest",
			"B Least work  m2a", "C Most headroom  m2a", "D Another way  m2b"},
		"/machines/tarn-vet-04?with=battery%2Bwx-qb-525": {"A Recommended", "B Least work", "C Most headroom",
			"D Another way falls short: storage 512 of 1000 GB, battery 5.1 of 6 h battery: Wexcell"},
		// The one 32 GB module on the shelf is kept for another job.
		// A matched pair before one module on one channel that costs a little less.
		"/machines/corrie-03": {
			"A Recommended  dimm1: Corvane 16 GB DDR4-3200 SO-DIMM; dimm2: Corvane 16 GB",
			"B Cheapest  dimm2: Corvane 32 GB"},
		"/machines/wath-12": {"A Only option  renew the charging socket; renew " +
			"thermal paste"},
		"/machines/tarn-vet-04?wish=1&service=repaste&keep=m2a": {"A Only option  renew thermal paste"},
	} {
		got := heads.FindAllStringSubmatch(webtest.Page(e, path), -1)
		for i, w := range want {
			if i >= len(got) || !strings.HasPrefix(strings.Join(got[i][1:], " "), w) {
				t.Errorf("%s: %q, not %q", path, got, w)
				break
			}
		}
	}
	// Services and places left alone are kept as the wish, and a service that the record has
	// no more is told rather than failing.
	wish := url.Values{"wish": {"1"}, "service": {"repaste"}, "keep": {"m2a"}, "ap": {"wifi6"}, "token": {"w"}}
	if w := webtest.Request(e, "POST", "/machines/tarn-vet-04/wish", wish, webtest.SameOrigin); w.Code != http.StatusSeeOther {
		t.Fatalf("%d", w.Code)
	}
	body := webtest.Page(e, "/machines/tarn-vet-04")
	for _, w := range []string{`value="repaste" checked`, `value="m2a" checked`,
		`<option value="wifi6" selected>Wi-Fi 6`} {
		if !strings.Contains(body, w) {
			t.Errorf("the wish has lost %s", w)
		}
	}
	if body := webtest.Page(e, "/machines/tarn-vet-04?wish=1&memory_gb=24&service=polish"); !strings.Contains(body,
		"The request names polish, which") || !strings.Contains(body, "Choose A<span") {
		t.Error("a service that is gone stops the plan")
	}
}

// TestLinkBars: lanes in use and idle are drawn, what holds a drive back is said.
func TestLinkBars(t *testing.T) {
	p := &jobs.Planned{Parts: &hw.Parts{Parts: []hw.Part{{ID: "fast", Kind: hw.KindDrive,
		Drive: &hw.Drive{Interface: "nvme", Gen: hw.Known(4), Lanes: hw.Known(4), Capacity: hw.Known(hw.DecOf(2000)),
			ReadMBs: hw.Known(hw.DecOf(5000))}}}}}
	p.Record.Chassis = &hw.Chassis{Slots: []hw.Slot{{ID: "m2a", Gen: hw.Known(3), Lanes: hw.Known(2)}, {ID: "m2b"}},
		Bays: []hw.Bay{{ID: "bay"}}}
	p.Record.Machine = &hw.Machine{Fitted: hw.Fitted{Drives: []hw.FittedDrive{{Place: "m2a",
		Drive: hw.Drive{Interface: "nvme", Lanes: hw.Known(2), Capacity: hw.Known(hw.DecOf(256)),
			ReadMBs: hw.Known(hw.DecOf(1500))}},
		{Place: "bay", Drive: hw.Drive{Interface: "sata", Capacity: hw.Known(hw.DecOf(1000))}},
		{Place: "m2b", Drive: hw.Drive{Interface: "nvme"}}}}}
	links := []plan.Link{{Place: "m2a", Gen: hw.Known(3), Lanes: hw.Known(2), LinkMBs: hw.Known(1969),
		ReadMBs: hw.Known(hw.DecOf(1500))}, {Place: "bay", LinkMBs: hw.Known(600)}, {Place: "m2b"}}
	today := draw.LinksOf(p.Input(), &plan.StorageState{Links: links}, nil)
	for i, want := range []draw.Link{{Drive: "256 GB", Label: "gen 3 ×2", Sub: "1500 MB/s: the drive's own speed"},
		{Drive: "1 TB", Label: "SATA", Sub: "link 600 MB/s; the drive's speed is not known"},
		{Drive: "?", Label: "not known", Sub: "its link is not yet known"}} {
		if got := today[i]; got.Drive != want.Drive || got.Label != want.Label || got.Sub != want.Sub || got.New ||
			got.Held {
			t.Errorf("%+v, want %+v", got, want)
		}
	}
	o := &plan.Option{Actions: []plan.Action{{Do: plan.DoReplace, Place: "m2a", Part: "fast"}}}
	links[0].ReadMBs = hw.Known(hw.DecOf(1969))
	if got := draw.LinksOf(p.Input(), &plan.StorageState{Links: links[:1]}, o)[0]; !got.New || !got.Held ||
		got.Drive != "+2 TB" || len(got.Lanes) != 2 || len(got.Idle) != 2 ||
		got.Sub != "1969 of 5000 MB/s: the link holds it back" {
		t.Errorf("a drive that is held back: %+v", got)
	}
}
