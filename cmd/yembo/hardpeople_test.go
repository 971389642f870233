package main

import (
	"fmt"
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"yembo/shop"
	"yembo/shop/base"
	"yembo/shop/people"
	"yembo/store"
)

// member is somebody of a large shop, in a browser of their own at an address of their own.
type member struct {
	name, password, address string
	role                    string
	at                      *program
	browser                 *http.Client
}

// do asks for a page, or sends a form, as their browser does; it returns how long that took.
func (m *member) do(method, path string, form url.Values) (status int, body string, took time.Duration) {
	r, err := http.NewRequest(method, m.at.url+path, strings.NewReader(form.Encode()))
	if err != nil {
		return 0, err.Error(), 0
	}
	if method == "POST" {
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	}
	r.Header.Set("Sec-Fetch-Site", "same-origin")
	r.Header.Set("X-Forwarded-For", m.address)
	began := time.Now()
	w, err := m.browser.Do(r)
	if err != nil {
		return 0, err.Error(), 0
	}
	defer w.Body.Close()
	all, err := io.ReadAll(w.Body)
	if err != nil {
		return 0, err.Error(), 0
	}
	return w.StatusCode, string(all), time.Since(began)
}

// staffed is a data folder with the demo in it and so many people who sign in, the first the owner.
func staffed(t *testing.T, many int) (dir string, all []*member) {
	t.Helper()
	dir = seeded(t)
	s, err := store.Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	sh := shop.New(s, time.Now)
	known, err := sh.People.People(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	for i := range many {
		m := &member{name: fmt.Sprintf("Person %c", 'A'+i), password: fmt.Sprintf("ferry lantern %d", i),
			address: fmt.Sprintf("10.0.0.%d", i+1), role: base.Technician}
		e := people.Entry{Name: m.name, Password: m.password}
		switch {
		case i == 0:
			m.role = base.Owner
			e.ID, e.Version = known[0].ID, known[0].Version
		case i%3 == 0:
			m.role = base.Counter
		}
		e.Role = m.role
		if err := sh.SavePerson(t.Context(), base.Actor{Name: "test"}, "", e); err != nil {
			t.Fatal(err)
		}
		all = append(all, m)
	}
	return dir, all
}

// TestManyPeople: twenty people sign in at once, from as many addresses behind a proxy, and work at once: everyone is who they
// are, nobody may what is not theirs, one who floods the shop is held up alone, and somebody outside who tries passwords of
// one of them all the while locks no one out.
func TestManyPeople(t *testing.T) {
	dir, all := staffed(t, length(6, 20))
	p := started(t, command("serve", "--data", dir, "--addr", "127.0.0.1:0", "--behind-proxy", "127.0.0.1"))
	for _, m := range all {
		jar, err := cookiejar.New(nil)
		if err != nil {
			t.Fatal(err)
		}
		m.at, m.browser = p, &http.Client{Jar: jarOf{jar}, Timeout: time.Minute,
			CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	}
	var mu sync.Mutex
	var signing, pages []time.Duration
	var group sync.WaitGroup
	stranger := &member{address: "10.9.9.9", at: p, browser: all[0].browser}
	stranger.browser = &http.Client{Timeout: time.Minute, CheckRedirect: stranger.browser.CheckRedirect}
	stop := make(chan struct{})
	var tries sync.WaitGroup
	tries.Go(func() {
		for i := 0; ; i++ {
			select {
			case <-stop:
				return
			default:
				form := url.Values{"~name": {all[1].name}, "~password": {fmt.Sprint("guess ", i)}}
				if status, body, _ := stranger.do("POST", "/signin", form); status != 401 && status != 429 {
					t.Errorf("a guess: %d %.200s", status, body)
					return
				}
			}
		}
	})
	each := length(6, 60)
	for i, m := range all {
		group.Go(func() {
			status, body, took := m.do("POST", "/signin", url.Values{"~name": {m.name}, "~password": {m.password}})
			for range 200 {
				if status == 303 || !strings.Contains(body, "before the next try") {
					break
				}
				time.Sleep(200 * time.Millisecond) // somebody outside guesses at this name
				status, body, took = m.do("POST", "/signin", url.Values{"~name": {m.name}, "~password": {m.password}})
			}
			if status != 303 {
				t.Errorf("%s is not let in: %d %.300s", m.name, status, body)
				return
			}
			mu.Lock()
			signing = append(signing, took)
			mu.Unlock()
			for n := range each {
				status, body, took := m.do("GET", "/", nil)
				if status != 200 || !strings.Contains(body, m.name) {
					t.Errorf("%s: the bench list is another's, or none: %d", m.name, status)
				}
				mu.Lock()
				pages = append(pages, took)
				mu.Unlock()
				if status, body, _ := m.do("POST", "/jobs/8/contacts", note(mark(int64(i*1000+n)))); status != 303 {
					t.Errorf("%s: a talk: %d %.200s", m.name, status, body)
				}
				want := 200
				if m.role != base.Owner {
					want = 403
				}
				if status, _, _ := m.do("GET", "/people", nil); status != want {
					t.Errorf("%s, %s: people: %d", m.name, m.role, status)
				}
			}
		})
	}
	group.Wait()
	close(stop)
	tries.Wait()
	held := 0
	for range 1000 { // somebody's tablet asks without end
		if status, _, _ := all[1].do("GET", "/health", nil); status == 429 {
			held++
		}
	}
	if status, _, _ := all[0].do("GET", "/", nil); held == 0 || status != 200 {
		t.Errorf("%d of 1000 requests made at once were held up; to another the shop answers %d", held, status)
	}
	// Everyone's talks are on the job, as theirs: a line of its history names who noted it.
	st, err := store.Look(dir)
	if err != nil {
		t.Fatal(err)
	}
	defer st.Close()
	j, err := shop.New(st, time.Now).Job(t.Context(), 8)
	if err != nil {
		t.Fatal(err)
	}
	by := map[string]string{}
	for _, c := range j.Contacts {
		by[c.Said] = c.By
	}
	for i, m := range all {
		for n := range each {
			if got := by[mark(int64(i*1000+n))]; got != m.name {
				t.Errorf("the talk of %s is %q's", m.name, got)
			}
		}
	}
	slices.Sort(signing)
	slices.Sort(pages)
	t.Logf("%d people: signing in %v at the median, %v the last; a page %v at the median, %v at the 95th percentile; "+
		"%d of 1000 requests of one who floods held up; at most %d MB", len(all), signing[len(signing)/2], signing[len(signing)-1],
		pages[len(pages)/2], pages[len(pages)*95/100], held, p.peak(t))
	p.kill()
	sound(t, dir)
}

// jarOf is a jar that keeps the cookies of a page served behind a proxy: it is the proxy that speaks TLS.
type jarOf struct{ http.CookieJar }

func secure(u *url.URL) *url.URL {
	x := *u
	x.Scheme = "https"
	return &x
}

// SetCookies keeps cookies.
func (j jarOf) SetCookies(u *url.URL, all []*http.Cookie) { j.CookieJar.SetCookies(secure(u), all) }

// Cookies are those that are sent.
func (j jarOf) Cookies(u *url.URL) []*http.Cookie { return j.CookieJar.Cookies(secure(u)) }
