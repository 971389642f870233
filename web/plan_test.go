package web

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

	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/shop"
)

// TestPageIsTheCommandLine: the options on the page of each demo machine are those that
// the command line makes of the same documents.
func TestPageIsTheCommandLine(t *testing.T) {
	e, _, sh := started(t)
	dir := t.TempDir()
	bin := filepath.Join(dir, "yembo")
	if out, err := exec.CommandContext(t.Context(), "go", "build", "-o", bin,
		"../cmd/yembo").CombinedOutput(); err != nil {
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
	row := regexp.MustCompile(`<tr><td>(?:<span class="optmark">[A-C]</span>)?</td><td>(?:<a [^>]*>)?([^<]+).*?<td class="mono num">€([0-9.]+)</td>`)
	for _, id := range []string{"tarn-vet-03", "tarn-vet-04", "wath-08", "e-gale-01", "tarn-vet-01", "corrie-03",
		"wath-12", "wath-07"} {
		p, err := sh.Plan(t.Context(), id, shop.PlanQuery{})
		if err != nil {
			t.Fatal(err)
		}
		var model string
		for _, name := range []string{"aster", "drover", "osier", "reedmace", "aster16", "fennel"} {
			if raw, err := os.ReadFile("../shop/demo/" + name + ".json"); err == nil &&
				strings.Contains(string(raw[:400]), `"`+p.Record.Chassis.ID+`"`) {
				model = "../shop/demo/" + name + ".json"
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
			list = append(list, o.Words(p.Record.Chassis, p.Parts)+" "+strings.TrimPrefix(hw.Money("EUR", o.TotalCents),
				"€"))
		}
		body := page(e, "/machines/"+id)
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
	e, _ := application(t)
	for path, want := range map[string][]string{
		"?wish=1&memory_gb=40&budget=300,50&limit=proven": {"40 GB memory", "€300.50", "Keep as the wish",
			"limit 40 GB"},
		"?wish=1&memory_gb=viele": {"The stored wish is planned",
			"memory gb: \"viele\" stands here"},
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
			"40 GB in all; the maker's limit is 24 GB", "Cannot be chosen while something is against it"},
		"?own:dimm1=cv-d4-16": {"Your own", "Choose your own"},
		"?ask=16GB+2Rx8+PC4-3200AA-SE1-11": {"A module: 16 GB DDR4-3200 SO-DIMM",
			"<strong>fits</strong>"},
		"?ask=2280-D2-B-M":       {"taken for SATA"},
		"?ask=seventeen+bananas": {"cannot be read as a label"},
		"?find=DDR5":             {"a DDR5 module; the socket takes DDR4"},
		"?find=zebra":            {"Nothing has “zebra”"},
		"": {"8 onboard + 8 dimm1 = 16 GB", "2 × min(8, 8) = 16 GB",
			"3200 MT/s × 8 bytes × 2 channels = 51.2 GB/s", "generation 3 × 4 lanes carry 3938 MB/s",
			"0.8 × 9.5 = 7.6 min"},
	} {
		body := page(e, "/machines/tarn-vet-03"+path)
		for _, w := range want {
			if !strings.Contains(strings.ReplaceAll(body, "&#43;", "+"), w) {
				t.Errorf("%s does not say %q", path, w)
			}
		}
	}
	// What the forms of the page send along is no part of the address.
	if body := page(e, "/machines/tarn-vet-03?seen=1&version=2&token=x"); strings.Contains(body, "The address says") {
		t.Error("a field of a form is taken for a name of the address")
	}
	// Two matched sockets: what one channel and two carry is said.
	if body := page(e, "/machines/corrie-03"); !strings.Contains(body, "32 GB, on one channel") ||
		!strings.Contains(body, "32 GB, all interleaved") || !strings.Contains(body, "25.6 GB/s") ||
		!strings.Contains(body, "51.2 GB/s") {
		t.Error("one module of 32 GB and two of 16 do not stand side by side")
	}
	// Memory ten steps down, the drive on the way: one opening for both.
	if body := page(e, "/machines/wath-08"); !strings.Contains(body, "one opening saves") {
		t.Error("two wishes of one machine do not say what one opening saves")
	}
	wish := url.Values{"wish": {"1"}, "memory_gb": {"40"}, "budget": {"300"}, "limit": {"proven"}, "token": {"k"}}
	if w := request(e, "POST", "/machines/tarn-vet-03/wish", wish,
		sameOrigin); w.Header().Get("Location") != "/machines/tarn-vet-03?limit=proven" {
		t.Errorf("kept, it leads to %d %s", w.Code, w.Header().Get("Location"))
	}
	if body := page(e, "/machines/tarn-vet-03"); !strings.Contains(body, "budget €300.00") ||
		strings.Contains(body, "Keep as the wish") {
		t.Error("the wish was not kept")
	}
}

// TestChoosingOwn: a combination that was put together by hand is chosen like another, and
// its card stands.
func TestChoosingOwn(t *testing.T) {
	e, _ := application(t)
	body := page(e, "/machines/wath-07?own:dimm1=cv-d4-8&own:dimm2=cv-d4-8")
	at := strings.LastIndex(body, `name="option" value="`)
	option, _, _ := strings.Cut(body[at+len(`name="option" value="`):], `"`)
	form := url.Values{"option": {option}, "token": {"own"}, "own:dimm1": {"cv-d4-8"}, "own:dimm2": {"cv-d4-8"}}
	if w := request(e, "POST", "/machines/wath-07/choice", form, sameOrigin); w.Code != http.StatusSeeOther {
		t.Fatalf("%d", w.Code)
	}
	if card := page(e, "/machines/wath-07/card"); strings.Contains(card, "no longer among its options") ||
		!strings.Contains(card, "Corvane 8 GB DDR4-3200 SO-DIMM") {
		t.Error("the card of an own combination does not stand")
	}
	form.Set("own:dimm2", "cv-d4-32")
	form.Set("token", "other")
	if w := request(e, "POST", "/machines/wath-07/choice", form, sameOrigin); w.Code != http.StatusConflict {
		t.Errorf("another combination under the same mark: %d", w.Code)
	}
}

// TestReckoner: every sum works on its example, and says what is wrong at its field.
func TestReckoner(t *testing.T) {
	e, _ := application(t)
	body := page(e, "/reckoner")
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
		"sgen=4&slanes=4&cooling=none": "a drive that runs hot", "sgen=4&slanes=4": "what cools the slot was not told",
		"a=8&b=16": "part of the memory runs single",
	} {
		if body := page(e, "/reckoner?"+query); !strings.Contains(body, want) {
			t.Errorf("%.40s does not say %q", query, want)
		}
	}
}

// TestSettings: a setting that cannot be is told at its field and nothing is changed; one
// that can changes the plans.
func TestSettings(t *testing.T) {
	e, _ := application(t)
	form := url.Values{"/days/mon": {"yes"}, "/currency": {"GBP"}, "/labour": {"60"}, "/tax": {"20"}, "/paper": {"letter"},
		"/loosen": {"printed"}, "/practice/memory_limit": {"proven"}, "/practice/pairing": {"any"},
		"/practice/migration": {"clone"}, "/practice/allow_bay": {"yes"}, "/practice/allow_order": {"yes"},
		"/largest/SO-DIMM/DDR4": {"32"}, "/largest/SO-DIMM/DDR5": {"64"}}
	bad := url.Values{}
	for k, v := range form {
		bad[k] = v
	}
	bad.Set("/currency", "pounds")
	bad.Set("/tax", "200")
	bad.Set("/largest/SO-DIMM/DDR4", "-1")
	if w := request(e, "POST", "/settings", bad, sameOrigin); w.Code != http.StatusUnprocessableEntity ||
		strings.Count(w.Body.String(), `class="fault"`) != 3 {
		t.Errorf("%d with %d faults", w.Code, strings.Count(w.Body.String(), `class="fault"`))
	}
	if w := request(e, "POST", "/settings", form, sameOrigin); w.Code != http.StatusSeeOther {
		t.Fatalf("%d", w.Code)
	}
	body := page(e, "/machines/tarn-vet-03")
	for _, want := range []string{"£", "limit 40 GB", "with tax", "at £60.00 an hour", "unscrew bottom cover 3.25"} {
		if !strings.Contains(body, want) {
			t.Errorf("the plan does not say %q", want)
		}
	}
	if !strings.Contains(page(e, "/models/quillon-aster-14/sheet"), "recordsheet letter") {
		t.Error("the sheet is not on the shop's paper")
	}
}

// TestInPlace: the drawing beside an option says what goes in, what comes out, what moves and
// what cannot be used any more; a post that stands where it is needed does not move.
func TestInPlace(t *testing.T) {
	e, _ := application(t)
	mark := regexp.MustCompile(`<li class="(\w+)"><span>[a-z ]+</span> ([^<]*)</li>`)
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
		for _, m := range mark.FindAllStringSubmatch(page(e, path), -1) {
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
	e, _ := application(t)
	heads := regexp.MustCompile(`(?s)<th scope="col"><span class="optmark" aria-hidden="true">([A-C])</span> ([^<]+)(?:<span class="under short">([^<]*)</span>)?<span class="under">([^<]*)</span>`)
	for path, want := range map[string][]string{
		"/machines/tarn-vet-04": {"A Least money, soonest  m2b",
			"B Least work, lowest risk  m2a", "C Most headroom  m2a"},
		"/machines/tarn-vet-04?with=battery%2Bwx-qb-525": {"A Least money", "B Least work, lowest risk",
			"C Another way falls short: storage 512 of 1000 GB, battery 5.1 of 6 h battery: Wexcell"},
		// The one 32 GB module on the shelf is kept for another job.
		"/machines/corrie-03": {"A Least money, least work, lowest risk  dimm1: Corvane 32 GB",
			"B Soonest  dimm1: Corvane 16 GB DDR4-3200 SO-DIMM; dimm2: Corvane 16 GB",
			"C Most headroom  dimm2: Corvane 32 GB"},
		"/machines/wath-12": {"A The one way  renew the charging socket; renew " +
			"thermal paste"},
		"/machines/tarn-vet-04?wish=1&service=repaste&keep=m2a": {"A The one way  renew thermal paste"},
	} {
		got := heads.FindAllStringSubmatch(page(e, path), -1)
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
	if w := request(e, "POST", "/machines/tarn-vet-04/wish", wish, sameOrigin); w.Code != http.StatusSeeOther {
		t.Fatalf("%d", w.Code)
	}
	body := page(e, "/machines/tarn-vet-04")
	for _, w := range []string{`value="repaste" checked`, `value="m2a" checked`,
		`<option value="wifi6" selected>Wi-Fi 6`} {
		if !strings.Contains(body, w) {
			t.Errorf("the wish has lost %s", w)
		}
	}
	if body := page(e, "/machines/tarn-vet-04?wish=1&memory_gb=24&service=polish"); !strings.Contains(body,
		"The wish names polish, which") || !strings.Contains(body, "Choose this") {
		t.Error("a service that is gone stops the plan")
	}
}

// TestAssumedFactsAreOneLine: facts that are only assumed are one line that names them; pressed that all of
// them were seen, they are seen, and their points are gone from the plan.
func TestAssumedFactsAreOneLine(t *testing.T) {
	e, _, sh := started(t)
	ctx := t.Context()
	m, err := sh.Machine(ctx, "tarn-vet-03")
	if err != nil {
		t.Fatal(err)
	}
	r, err := sh.Model(ctx, m.Chassis.ID)
	if err != nil {
		t.Fatal(err)
	}
	next := 0
	for _, g := range r.Chassis.Findings { // what was seen of the memory becomes a guess
		if g.SetAside != nil || !strings.HasPrefix(g.Path, "/memory/") || g.Source == hw.Assumed {
			continue
		}
		f := hw.Finding{Path: g.Path, Value: g.Value, Source: hw.Assumed}
		r, err = sh.Model(ctx, r.Chassis.ID)
		if err == nil {
			err = sh.AddFinding(ctx, shop.Actor{Name: "T"}, "", r.Chassis.ID, r.Version, f)
		}
		if err != nil {
			t.Fatal(err)
		}
		r, _ = sh.Model(ctx, r.Chassis.ID)
		for k := range r.Chassis.Findings {
			if x := &r.Chassis.Findings[k]; x.Path == g.Path && x.SetAside == nil && x.Source != hw.Assumed {
				if err := sh.SetAside(ctx, shop.Actor{Name: "T"}, "", r.Chassis.ID, r.Version, k, "only guessed"); err != nil {
					t.Fatal(err)
				}
				r, _ = sh.Model(ctx, r.Chassis.ID)
			}
		}
		next++
	}
	if next < 2 {
		t.Fatalf("only %d facts of the memory have a source", next)
	}
	body := page(e, "/machines/"+m.Key)
	lines := strings.Count(body, "known from a seller or assumed")
	if lines == 0 || strings.Contains(body, "a fact known from a seller or assumed") ||
		!strings.Contains(body, "facts are known from a seller or assumed: ") {
		t.Fatalf("the facts are not named in one line: %d times", lines)
	}
	form := fieldsOf(t, body, "/models/"+m.Chassis.ID+"/findings/seen")
	if w := request(e, "POST", "/models/"+m.Chassis.ID+"/findings/seen", form, sameOrigin); w.Code != http.StatusSeeOther ||
		!strings.HasPrefix(w.Header().Get("Location"), "/machines/"+m.Key) {
		t.Fatalf("%d %s", w.Code, w.Header().Get("Location"))
	}
	if after := strings.Count(page(e, "/machines/"+m.Key), "known from a seller or assumed"); after >= lines {
		t.Errorf("looked at, and %d lines of %d are left", after, lines)
	}
}

// TestUnknownLeadsToItsField: each part that is ruled out for want of a fact leads to the field of that fact,
// and the field is there.
func TestUnknownLeadsToItsField(t *testing.T) {
	e, _, sh := started(t)
	link := regexp.MustCompile(`<a href="([^"#]+)#([^"]+)">Enter it</a>`)
	rows, err := sh.BenchList(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	seen := map[string]bool{}
	for i := range rows {
		w := request(e, "GET", "/machines/"+rows[i].Record.Key+"?wish=1&memory_gb=64&storage_gb=4000&wireless=wifi7", nil, nil)
		for _, m := range link.FindAllStringSubmatch(w.Body.String(), -1) {
			if seen[m[0]] {
				continue
			}
			seen[m[0]] = true
			there := page(e, html.UnescapeString(m[1]))
			if !strings.Contains(there, `id="`+m[2]+`"`) && !strings.Contains(there, `name="`+m[2]) {
				t.Errorf("%s: %s has no field %s", rows[i].Record.Machine.ID, m[1], m[2])
			}
		}
	}
	if len(seen) < 3 {
		t.Errorf("only %d links to fields: too few to show anything", len(seen))
	}
}
