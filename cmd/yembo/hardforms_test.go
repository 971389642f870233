package main

import (
	"html"
	"math/rand/v2"
	"net/url"
	"regexp"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
)

// pages are where the forms are.
var pages = []string{"/", "/machines", "/machines/new", "/machines/new?model=quillon-aster-14", "/machines/import",
	"/machines/2",
	"/machines/3", "/machines/3/readings", "/machines/3/draw", "/machines/3/history", "/jobs/3", "/models",
	"/models/new",
	"/models/import", "/models/quillon-aster-14", "/models/quillon-aster-14/edit", "/models/quillon-aster-14/steps",
	"/models/quillon-aster-14/arrange", "/models/quillon-aster-14/findings", "/models/quillon-aster-14/photos",
	"/models/quillon-aster-14/parts/slots/m2a", "/models/quillon-aster-14/parts/steps/cover", "/customers",
	"/customers/2",
	"/settings", "/reckoner", "/parts", "/parts/cv-d4-8", "/parts/cv-d4-8-used", "/parts/new?kind=drive",
	"/parts/new?kind=memory", "/parts/count",
	"/parts/import", "/orders/1", "/orders/new", "/suppliers", "/suppliers?edit=1", "/shorthand"}

// hostile are values that no person types and every attacker does.
var hostile = []string{"", " ", "0", "-1", "99999999999999999999", "1e309", "NaN", "0,5", "1.000,00", "€ 12",
	"<script>alert(1)</script>",
	`"><img src=x onerror=alert(1)>`, "'; DROP TABLE jobs; --", "../../etc/passwd", "{{.}}", "%00", "a\x00b", "\xff\xfe", "\u202e",
	strings.Repeat("x", 100_000), strings.Repeat("(", 5000), "javascript:alert(1)", "//evil.example", "\r\nSet-Cookie: a=b", "ﷺ",
	"2026-02-31", "25:61", "m2a m2a m2a", strings.Repeat("step ", 2000), "/slots/0", "[]", "null", "\t", "yes"}

// sentForm is a form of a page: where it goes and what it holds.
type sentForm struct {
	to     string
	fields map[string]string
}

var (
	formTag  = regexp.MustCompile(`(?s)<form[^>]*method="post"[^>]*>.*?</form>`)
	action   = regexp.MustCompile(`<form[^>]*action="([^"]*)"`)
	fieldTag = regexp.MustCompile(`<(?:input|select|textarea|button)[^>]*\sname="([^"]+)"[^>]*>`)
	valueOf  = regexp.MustCompile(`\svalue="([^"]*)"`)
)

func forms(t *testing.T, p *program) []sentForm {
	t.Helper()
	var out []sentForm
	for _, page := range pages {
		_, body := p.get(page)
		for _, f := range formTag.FindAllString(body, -1) {
			at := action.FindStringSubmatch(f)
			if at == nil {
				continue
			}
			form := sentForm{html.UnescapeString(at[1]), map[string]string{}}
			for _, m := range fieldTag.FindAllStringSubmatch(f, -1) {
				if v := valueOf.FindStringSubmatch(m[0]); v != nil {
					form.fields[html.UnescapeString(m[1])] = html.UnescapeString(v[1])
				} else {
					form.fields[html.UnescapeString(m[1])] = ""
				}
			}
			out = append(out, form)
		}
	}
	if len(out) < 30 {
		t.Fatalf("only %d forms were found", len(out))
	}
	return out
}

// TestHostile: whatever is written into any field of any form is answered with what is wrong, never
// with a failure, and leaves the data sound.
func TestHostile(t *testing.T) {
	dir := seeded(t)
	p := serving(t, dir)
	all := forms(t, p)
	posts := length(400, 30_000)
	rnd := rand.New(rand.NewPCG(13, 13))
	var failed, refused atomic.Int64
	work := make(chan sentForm, 8)
	var workers sync.WaitGroup
	for range 8 {
		workers.Go(func() {
			for f := range work {
				form := url.Values{}
				for name, value := range f.fields {
					form.Set(name, value)
				}
				switch status, body, _ := p.post(f.to, form); {
				case status == 0 || status >= 500:
					if failed.Add(1) < 10 {
						t.Errorf("%s: %d %.300s\n%.600q", f.to, status, body, form.Encode())
					}
				case status >= 400:
					refused.Add(1)
				}
			}
		})
	}
	for range posts {
		f := all[rnd.IntN(len(all))]
		next := sentForm{f.to, map[string]string{}}
		for name, value := range f.fields {
			if name == "/backups" {
				continue // a folder of the machine's own is made where somebody names one
			}
			switch rnd.IntN(4) {
			case 0:
				value = hostile[rnd.IntN(len(hostile))]
			case 1:
				if name != "token" && rnd.IntN(4) == 0 {
					continue // left out
				}
			}
			next.fields[name] = value
		}
		work <- next
	}
	close(work)
	workers.Wait()
	t.Logf("%d forms of %d pages, %d posts: %d refused with a reason, %d failed", len(all), len(pages), posts, refused.Load(),
		failed.Load())
	p.kill()
	sound(t, dir)
}
