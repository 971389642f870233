package main

import (
	"bytes"
	"context"
	"fmt"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"filippo.io/age"

	"yembo/exchange"
)

// TestMain lets the test binary be the command itself, so that exit statuses and
// streams are the real ones.
func TestMain(m *testing.M) {
	if os.Getenv("YEMBO_IS_THE_COMMAND") == "yes" {
		main()
	}
	os.Exit(m.Run())
}

func command(args ...string) *exec.Cmd {
	c := exec.Command(os.Args[0], args...)
	c.Env = append(os.Environ(), "YEMBO_IS_THE_COMMAND=yes")
	return c
}

func yembo(t *testing.T, args ...string) (stdout, stderr string, status int) {
	t.Helper()
	var out, errs bytes.Buffer
	c := command(args...)
	c.Stdout, c.Stderr = &out, &errs
	if err := c.Run(); err != nil && c.ProcessState == nil {
		t.Fatal(err)
	}
	return out.String(), errs.String(), c.ProcessState.ExitCode()
}

const demoDir = "../../shop/demo/"

func planArgs(chassis string) []string {
	return []string{"plan", "--chassis", chassis, "--machine", "testdata/machine.json", "--parts",
		demoDir + "parts.json", "--request", "testdata/request.json"}
}

// TestPlanBytes: the same documents give the same plan, to the byte.
func TestPlanBytes(t *testing.T) {
	want, err := os.ReadFile("testdata/plan.golden.json")
	if err != nil {
		t.Fatal(err)
	}
	for range 3 {
		out, errs, status := yembo(t, planArgs(demoDir+"aster.json")...)
		if status != 0 || errs != "" || out != string(want) {
			t.Fatalf("status %d %s\n%s", status, errs, out)
		}
	}
}

func TestVerbs(t *testing.T) {
	broken := filepath.Join(t.TempDir(), "broken.json")
	raw, err := os.ReadFile(demoDir + "aster.json")
	if err != nil {
		t.Fatal(err)
	}
	raw = bytes.Replace(raw, []byte(`"channel": "B"`), []byte(`"channel": "D"`), 1)
	raw = bytes.Replace(raw, []byte(`"reach": "ram-shield",`), nil, 1)
	if err := os.WriteFile(broken, raw, 0o600); err != nil {
		t.Fatal(err)
	}
	noReach := filepath.Join(t.TempDir(), "noreach.json")
	if err := os.WriteFile(noReach, bytes.Replace(raw, []byte(`"channel": "D"`), []byte(`"channel": "B"`), 1),
		0o600); err != nil {
		t.Fatal(err)
	}
	for name, c := range map[string]struct {
		args     []string
		status   int
		out, say string
	}{
		"fault with file and pointer": {planArgs(broken), 2, "", broken + `: /memory/sockets/0/channel: "D": no such channel`},
		"no such file":                {planArgs("nowhere.json"), 2, "", "nowhere.json"},
		"another model's machine": {planArgs(demoDir + "drover.json"), 2, "",
			`testdata/machine.json: /chassis: this is a machine of "quillon-aster-14"`},
		"run sheet": {[]string{"runsheet", "--chassis", demoDir + "aster.json", "--targets",
			"dimm1, m2a"}, 0, `"minutes": 22.1`, ""},
		"a way nobody knows": {[]string{"runsheet", "--chassis", noReach, "--targets", "dimm1"}, 1, "",
			"/memory/sockets/0/reach is not recorded"},
		"no such target": {[]string{"runsheet", "--chassis", demoDir + "aster.json", "--targets", "dimm7"},
			2, "", `"dimm7"`},
		"no target": {[]string{"runsheet", "--chassis", demoDir + "aster.json", "--targets", ","}, 2,
			"", "no target"},
		"decode": {[]string{"decode", "2280-D2-B-M", "DDR4 3200 MHz"}, 0,
			"\"m2_code\",\"width_mm\":22", "3200 MHz is read as 3200 MT/s"},
		"decode what is none": {[]string{"decode", "hello"}, 2, "", "column 1"},
		"another address": {[]string{"serve", "--data", t.TempDir(), "--addr", "0.0.0.0:0"}, 2, "",
			"while no one has a password"},
		"a clock that is none": {[]string{"demo", "--now", "noon"}, 2, "", "2026-05-14T11:20 is expected"},
		"no such verb":         {[]string{"dance"}, 2, "", "dance"},
	} {
		out, errs, status := yembo(t, c.args...)
		if status != c.status || !strings.Contains(out, c.out) || !strings.Contains(errs, c.say) ||
			(status != 0 && out != "") {
			t.Errorf("%s: status %d\n%s\n%s", name, status, out, errs)
		}
	}
}

// TestVerify: differences are printed, and told by the status; a machine of another model is not taken.
func TestVerify(t *testing.T) {
	seen := filepath.Join(t.TempDir(), "seen.json")
	write := func(text string) {
		if err := os.WriteFile(seen, []byte(text), 0o600); err != nil {
			t.Fatal(err)
		}
	}
	args := func(chassis string) []string {
		return []string{"verify", "--chassis", demoDir + chassis, "--machine", "testdata/machine.json", "--observed", seen}
	}
	write(`{"format":"yembo.observed/1","from":["dmidecode"],"memory":{"devices":[]}}`)
	out, errs, status := yembo(t, args("aster.json")...)
	if status != 1 || !strings.Contains(out, `"code": "proof.module_absent"`) || !strings.Contains(errs, "differences") {
		t.Errorf("status %d\n%s\n%s", status, out, errs)
	}
	write(`{"format":"yembo.observed/1","from":["dmidecode"]}`)
	if out, errs, status = yembo(t, args("aster.json")...); status != 1 || !strings.Contains(out, `"differences": []`) ||
		!strings.Contains(errs, "nothing was compared") {
		t.Errorf("nothing is told by both: status %d\n%s\n%s", status, out, errs)
	}
	write(`{"format":"yembo.observed/1","from":["upower"],"batteries":[{"design_wh":52.5}]}`)
	if out, errs, status = yembo(t, args("aster.json")...); status != 0 || !strings.Contains(out, `"compared": 1`) {
		t.Errorf("status %d\n%s\n%s", status, out, errs)
	}
	if out, errs, status = yembo(t, args("drover.json")...); status != 2 || out != "" || !strings.Contains(errs, "/chassis") {
		t.Errorf("status %d\n%s\n%s", status, out, errs)
	}
	write(`{"format":"yembo.observed/1","from":["dmidecode"],"memory":{"devices":{}}}`)
	if out, errs, status = yembo(t, args("aster.json")...); status != 2 || out != "" || !strings.Contains(errs, "/memory/devices") {
		t.Errorf("status %d\n%s\n%s", status, out, errs)
	}
}

// TestDemo starts the demo, asks for a page and stops it the way Ctrl-C does.
func TestDemo(t *testing.T) {
	ctx, cancel := context.WithTimeout(t.Context(), 20*time.Second)
	defer cancel()
	c := command("demo", "--addr", "127.0.0.1:0", "--now", "2026-05-14T11:20")
	out, err := c.StdoutPipe()
	if err != nil {
		t.Fatal(err)
	}
	if err := c.Start(); err != nil {
		t.Fatal(err)
	}
	defer context.AfterFunc(ctx, func() { c.Process.Kill() })()
	line := make([]byte, 200)
	n, err := out.Read(line)
	if err != nil {
		t.Fatal(err)
	}
	_, rest, found := strings.Cut(string(line[:n]), "Yembo is at ")
	if !found {
		t.Fatalf("it says %q", line[:n])
	}
	url, _, _ := strings.Cut(rest, " ")
	res, err := http.Get(url + "/machines/tarn-vet-03")
	if err != nil || res.StatusCode != 200 {
		t.Fatalf("%v %v", res, err)
	}
	res.Body.Close()
	if err := c.Process.Signal(os.Interrupt); err != nil {
		t.Fatal(err)
	}
	if err := c.Wait(); err != nil {
		t.Errorf("stopped with %v", err)
	}
}

// TestZip: the records of one data folder go into another with their photos; what is
// only looked at stores nothing, and an existing file is not written over.
func TestZip(t *testing.T) {
	from, to, file := t.TempDir(), t.TempDir(), filepath.Join(t.TempDir(), "all.zip")
	for _, name := range []string{"aster", "osier"} {
		if _, errs, status := yembo(t, "import", "--data", from, demoDir+name+".json"); status != 0 {
			t.Fatal(errs)
		}
	}
	if _, errs, status := yembo(t, "export", "--data", from, "--zip", file); status != 0 {
		t.Fatal(errs)
	}
	if _, _, status := yembo(t, "export", "--data", from, "--zip", file); status != 2 {
		t.Error("an existing file was written over")
	}
	if _, errs, status := yembo(t, "export", "--data", from); status != 2 || !strings.Contains(errs, "--zip") {
		t.Errorf("all of them as one document: %d %s", status, errs)
	}
	if out, _, status := yembo(t, "import", "--data", to, "--look", file); status != 0 ||
		!strings.Contains(out, "marrowby-osier-14, ") || !strings.Contains(out, "only looked at") {
		t.Errorf("%d %s", status, out)
	}
	if out, _, status := yembo(t, "import", "--data", to, file); status != 0 ||
		strings.Count(out, "a new record") != 2 {
		t.Errorf("%d %s", status, out)
	}
	before, _, _ := yembo(t, "export", "--data", from, "marrowby-osier-14")
	after, _, _ := yembo(t, "export", "--data", to, "marrowby-osier-14")
	if before != after || before == "" {
		t.Error("the record is another one now")
	}
}

// TestPartsInAndOut: a parts document goes into a data folder and comes out as it was; a second time
// nothing is new, and what lies there is never written over.
func TestPartsInAndOut(t *testing.T) {
	dir := t.TempDir()
	if out, errs, status := yembo(t, "import", "--data", dir, demoDir+"parts.json"); status != 0 ||
		!strings.Contains(out, "21 new parts, 0 changed, 0 as they were") {
		t.Fatalf("%d %s %s", status, out, errs)
	}
	if out, _, status := yembo(t, "import", "--data", dir, demoDir+"parts.json"); status != 0 ||
		!strings.Contains(out, "0 new parts, 0 changed, 21 as they were") {
		t.Errorf("a second time: %d %s", status, out)
	}
	out, errs, status := yembo(t, "export", "--data", dir, "--parts")
	if status != 0 {
		t.Fatal(errs)
	}
	sent, err := os.ReadFile(demoDir + "parts.json")
	if err != nil {
		t.Fatal(err)
	}
	want, errW := exchange.ReadParts(sent)
	got, errG := exchange.ReadParts([]byte(out))
	if errW != nil || errG != nil || len(got.Parts) != len(want.Parts) {
		t.Fatalf("%v %v", errW, errG)
	}
	for i := range want.Parts {
		a, b := want.Parts[i], got.Parts[i]
		if fmt.Sprint(a.ID, a.Stock, a.LeadDays, a.PriceCents) != fmt.Sprint(b.ID, b.Stock, b.LeadDays, b.PriceCents) {
			t.Errorf("%s came out with %v in stock at %d, went in with %v at %d", b.ID, b.Stock, b.PriceCents, a.Stock, a.PriceCents)
		}
	}
	bad := filepath.Join(t.TempDir(), "bad.json")
	doc := `{"format":"yembo.parts/1","currency":"USD","parts":[]}`
	if err := os.WriteFile(bad, []byte(doc), 0o600); err != nil {
		t.Fatal(err)
	}
	if _, errs, status := yembo(t, "import", "--data", dir, bad); status != 2 || !strings.Contains(errs, "in USD") {
		t.Errorf("another currency: %d %s", status, errs)
	}
	sound(t, dir)
}

// TestPeople: who is locked out is let in at the machine itself, and the journal tells of it.
func TestPeople(t *testing.T) {
	dir := t.TempDir()
	for _, x := range []struct {
		typed  string
		args   []string
		status int
		says   string // on either stream
	}{
		{"", []string{"people", "add", "A. Gaunt", "--role", "owner"}, 0, ""},
		{"", []string{"people", "add", "a. gaunt"}, 2, "another has this name"},
		{"short\n", []string{"people", "password", "A. Gaunt"}, 2, "10 to 200 characters"},
		{"\n", []string{"people", "password", "A. Gaunt"}, 2, "nothing was typed"},
		{"a few good words\n", []string{"people", "password", "nobody"}, 2, "no nobody works here"},
		{"a few good words\n", []string{"people", "password", "a. gaunt"}, 0, ""},
		{"", []string{"people", "list"}, 0, "A. Gaunt\towner\tpassword\n"},
		{"", []string{"journal"}, 0, "command line\t\tA. Gaunt: new password\n"},
		{"", []string{"journal", "--find", "no such"}, 0, ""},
	} {
		var out bytes.Buffer
		c := command(append(x.args, "--data", dir)...)
		c.Stdin, c.Stdout, c.Stderr = strings.NewReader(x.typed), &out, &out
		if err := c.Run(); err != nil && c.ProcessState == nil {
			t.Fatal(err)
		}
		if c.ProcessState.ExitCode() != x.status || !strings.Contains(out.String(), x.says) {
			t.Errorf("%v: status %d, %q; want %d, %q", x.args, c.ProcessState.ExitCode(), out.String(), x.status, x.says)
		}
	}
}

// TestEncryptedCopy: a copy for a key cannot be read without it, and comes back with it, without who was signed in.
func TestEncryptedCopy(t *testing.T) {
	key, err := age.GenerateX25519Identity()
	if err != nil {
		t.Fatal(err)
	}
	dir := t.TempDir()
	keyFile, copied, back := filepath.Join(dir, "key"), filepath.Join(dir, "copy.age"), filepath.Join(dir, "back")
	data := filepath.Join(dir, "data")
	if err := os.WriteFile(keyFile, []byte(key.String()+"\n"), 0o600); err != nil {
		t.Fatal(err)
	}
	if _, errs, status := yembo(t, "people", "add", "A. Gaunt", "--data", data); status != 0 {
		t.Fatal(errs)
	}
	if _, errs, status := yembo(t, "backup", copied, "--data", data, "--for", "age1nonsense"); status != 2 ||
		!strings.Contains(errs, "an age recipient is expected") {
		t.Errorf("for nobody: %d %s", status, errs)
	}
	if _, errs, status := yembo(t, "backup", copied, "--data", data, "--for", key.Recipient().String()); status != 0 {
		t.Fatal(errs)
	}
	raw, err := os.ReadFile(copied)
	if err != nil || bytes.Contains(raw, []byte("SQLite format")) || bytes.Contains(raw, []byte("A. Gaunt")) {
		t.Errorf("the copy can be read as it is, %v", err)
	}
	if _, errs, status := yembo(t, "backup", copied, "--data", data, "--for", key.Recipient().String()); status != 2 {
		t.Errorf("a copy that is there is written over: %d %s", status, errs)
	}
	if _, errs, status := yembo(t, "restore", copied, "--data", back); status != 2 || !strings.Contains(errs, "it is encrypted") {
		t.Errorf("without the key: %d %s", status, errs)
	}
	if _, errs, status := yembo(t, "restore", copied, "--data", back, "--key", keyFile); status != 0 {
		t.Fatal(errs)
	}
	if out, _, _ := yembo(t, "people", "list", "--data", back); !strings.Contains(out, "A. Gaunt") {
		t.Errorf("what came back: %q", out)
	}
	phrased := filepath.Join(dir, "phrase.age")
	for _, x := range []struct {
		typed  string
		args   []string
		status int
		says   string
	}{
		{"short\n", []string{"backup", phrased, "--data", data, "--passphrase"}, 2, "12 characters or more"},
		{"", []string{"backup", phrased, "--data", data, "--passphrase"}, 2, "nothing was typed"},
		{"ferry boat lantern\n", []string{"backup", phrased, "--data", data, "--passphrase"}, 0, ""},
		{"ferry boat candle\n", []string{"restore", phrased, "--data", back}, 2, "incorrect passphrase"},
		{"ferry boat lantern\n", []string{"restore", phrased, "--data", back}, 0, ""},
	} {
		c := command(x.args...)
		c.Stdin = strings.NewReader(x.typed)
		said, err := c.CombinedOutput()
		if c.ProcessState.ExitCode() != x.status || !strings.Contains(string(said), x.says) {
			t.Errorf("%v with %q: %v %s", x.args, x.typed, err, said)
		}
	}
	for _, folder := range []string{data, back} {
		if left, err := filepath.Glob(filepath.Join(folder, ".yembo-copy-*")); err != nil || len(left) > 0 {
			t.Errorf("a readable copy is left: %v %v", left, err)
		}
	}
}
