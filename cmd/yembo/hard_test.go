package main

import (
	"bufio"
	"bytes"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"
	"time"

	"yembo/shop"
	"yembo/store"
)

// The tests of this file and those beside it with "hard" in their names drive the real program and
// treat it badly. They are short in "make test"; "make hard" runs them long and prints figures.

// hard reports whether the long form is wanted.
func hard() bool { return os.Getenv("YEMBO_HARD") != "" }

// length is how often something is done: in the short form, and in the long one.
func length(short, long int) int {
	if hard() {
		return long
	}
	return short
}

// program is the application, running on a data folder.
type program struct {
	cmd *exec.Cmd
	url string
	out *bytes.Buffer // what it said on standard error
}

// seeded is a data folder with the demo in it.
func seeded(t *testing.T) string {
	t.Helper()
	dir := t.TempDir()
	s, err := store.Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	if err := shop.New(s, time.Now).SeedDemo(t.Context()); err != nil {
		t.Fatal(err)
	}
	return dir
}

// serving starts the application on a data folder, by a command line in front of it where one is given.
func serving(t *testing.T, dir string, before ...string) *program {
	t.Helper()
	c := command("serve", "--data", dir, "--addr", "127.0.0.1:0")
	if len(before) > 0 {
		args := append(before, c.Args...)
		c = exec.Command(args[0], args[1:]...)
		c.Env = append(os.Environ(), "YEMBO_IS_THE_COMMAND=yes")
	}
	return started(t, c)
}

// started starts the application by a command, and waits until it says where it is.
func started(t *testing.T, c *exec.Cmd) *program {
	t.Helper()
	p := &program{cmd: c, out: &bytes.Buffer{}}
	c.Stderr = p.out
	says, err := c.StdoutPipe()
	if err != nil {
		t.Fatal(err)
	}
	if err := c.Start(); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(p.kill)
	line, err := bufio.NewReader(says).ReadString('\n')
	at := regexp.MustCompile(`http://[0-9.:]+`).FindString(line)
	if err != nil || at == "" {
		c.Wait()
		t.Fatalf("it does not start: %q %v\n%s", line, err, p.out)
	}
	p.url = at
	go io.Copy(io.Discard, says)
	return p
}

// kill ends the program at once, as a power cut would.
func (p *program) kill() {
	if p.cmd.Process != nil {
		p.cmd.Process.Kill()
		p.cmd.Wait()
	}
}

// peak is the most memory that the program has had, in MB.
func (p *program) peak(t *testing.T) int {
	t.Helper()
	status, err := os.ReadFile(filepath.Join("/proc", strconv.Itoa(p.cmd.Process.Pid), "status"))
	if err != nil {
		t.Skip("no /proc here to read the memory from")
	}
	m := regexp.MustCompile(`VmHWM:\s+([0-9]+) kB`).FindSubmatch(status)
	kb, err := strconv.Atoi(string(m[1]))
	if err != nil {
		t.Fatal(err)
	}
	return kb / 1024
}

var patient = &http.Client{Timeout: time.Minute,
	CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}

// post sends a form the way a page of the application does; status 0 is no answer at all.
func (p *program) post(path string, form url.Values) (status int, body string, to string) {
	r, err := http.NewRequest("POST", p.url+path, strings.NewReader(form.Encode()))
	if err != nil {
		return 0, err.Error(), ""
	}
	r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	return p.send(r)
}

func (p *program) send(r *http.Request) (status int, body string, to string) {
	r.Header.Set("Sec-Fetch-Site", "same-origin")
	w, err := patient.Do(r)
	if err != nil {
		return 0, err.Error(), ""
	}
	defer w.Body.Close()
	all, err := io.ReadAll(w.Body)
	if err != nil {
		return 0, err.Error(), ""
	}
	return w.StatusCode, string(all), w.Header.Get("Location")
}

func (p *program) get(path string) (status int, body string) {
	r, err := http.NewRequest("GET", p.url+path, nil)
	if err != nil {
		return 0, err.Error()
	}
	status, body, _ = p.send(r)
	return status, body
}

// sound fails where the data folder is not whole.
func sound(t *testing.T, dir string) {
	t.Helper()
	if out, errs, status := yembo(t, "check", "--data", dir); status != 0 {
		t.Errorf("the data is not sound: %d %s %s", status, out, errs)
	}
}

// note is a talk with a customer, by a mark.
func note(mark string) url.Values {
	return url.Values{"/how": {"phone"}, "/who": {"crew room"}, "/said": {mark}, "token": {mark}}
}

// marks counts how often each mark of a form "aaNNNNzz" stands on a page.
func marks(body string) map[string]int {
	out := map[string]int{}
	for _, m := range regexp.MustCompile(`aa[0-9]+zz`).FindAllString(body, -1) {
		out[m]++
	}
	return out
}

func mark(n int64) string { return fmt.Sprintf("aa%dzz", n) }
