package web_test

import (
	"encoding/json"
	"fmt"
	"html"
	"io"
	"log/slog"
	"math/rand/v2"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/exchange"
	"yembo/shop"
	"yembo/shop/base"
	"yembo/shop/demo"
	"yembo/shop/jobs"
	"yembo/store"
	"yembo/web"
	"yembo/web/webtest"
)

// TestNoHoles reads the pages of a shop where facts are missing, few in one, nearly all in another: no sentence has a hole
// where one would stand.
func TestNoHoles(t *testing.T) {
	said := map[string]string{}
	for seed, share := range []float64{0.1, 0.5, 0.95} {
		e := forgetful(t, uint64(seed), share)
		for path, body := range crawled(e, 300) {
			for _, line := range linesOf(body) {
				for what, like := range holes {
					if at := like.FindStringIndex(line); at != nil && said[what+line] == "" {
						said[what+line] = what + " on " + path + ": …" + line[max(0, at[0]-60):min(len(line), at[1]+40)]
					}
				}
			}
		}
	}
	for _, where := range said {
		t.Error(where)
	}
}

var (
	hidden = regexp.MustCompile(
		`(?s)<(?:script|style|textarea|pre|select|datalist|head)\b.*?</(?:script|style|textarea|pre|select|datalist|head)>`)
	boxed  = regexp.MustCompile(`<span [^>]*class="[^"]*\b(?:under|block)\b`)
	inline = regexp.MustCompile(`</?(?:a|span|strong|b|em|i|small|abbr|time|u|s|label|q|code)\b[^>]*>`)
	holes  = map[string]*regexp.Regexp{
		"a blank before a stop":     regexp.MustCompile(`[^\s.0-9p] [,.;:)](?:\s|$)`),
		"two stops":                 regexp.MustCompile(`[,;:] ?[,.;:)]|\.[,;:]|\( *\)|["“] *["”]`),
		"a word that leads nowhere": regexp.MustCompile(`\b(?:of|with|by|from|than|and|or|the|a|an|its|their)[.,;)]`),
		"a stop that nothing leads": regexp.MustCompile(`^[,.;:)]`),
		"two words that do not meet": regexp.MustCompile(
			`\b(?:with|of|for|by|from|than|the|a|an) (?:is|are|of|with|for|by|than|and|or)\b`),
	}
)

// linesOf are the lines of text of a page, one for each box.
func linesOf(body string) []string {
	body = hidden.ReplaceAllString(body, "\n")
	body = strings.Join(strings.Fields(body), " ")
	body = inline.ReplaceAllString(boxed.ReplaceAllString(body, "\n$0"), "")
	var out []string
	for _, line := range strings.Split(anyTag.ReplaceAllString(body, "\n"), "\n") {
		if line = strings.Join(strings.Fields(html.UnescapeString(line)), " "); line != "" {
			out = append(out, line)
		}
	}
	return out
}

// forgetful is the demo's shop with a share of all facts not told.
func forgetful(t *testing.T, seed uint64, share float64) *echo.Echo {
	t.Helper()
	data, err := demo.Load(0)
	if err != nil {
		t.Fatal(err)
	}
	random := rand.New(rand.NewPCG(seed, 1))
	clock := func() time.Time { return webtest.TestNow }
	st, err := store.Open(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { st.Close() })
	sh, a := shop.New(st, clock), base.Actor{Name: "T"}
	err = sh.Store.Update(t.Context(), func(tx store.Tx) error {
		if err := base.PutSettings(tx, base.DefaultSettings(), time.Now()); err != nil {
			return err
		}
		for i, ch := range data.Models {
			data.Models[i] = less(random, share, ch, func(raw []byte) (*hw.Chassis, error) { return exchange.ReadChassis(raw) })
			if err := sh.AddModelIn(tx, a, data.Models[i], "/id", base.Event{What: "recorded"}); err != nil {
				return err
			}
		}
		for i := range data.Jobs {
			j := &data.Jobs[i]
			var ch *hw.Chassis
			for _, x := range data.Models {
				if x.ID == j.Machine.Chassis {
					ch = x
				}
			}
			m := less(random, share, j.Machine, func(raw []byte) (*hw.Machine, error) {
				m, err := exchange.ReadMachine(raw, nil)
				if err != nil {
					return nil, err
				}
				return m, hw.ValidateMachine(m, ch).Err()
			})
			in := jobs.Intake{Agreement: jobs.Agreement{Wish: j.Wish}, Machine: m}
			if _, err := sh.StoreIntake(tx, a, in, m); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
	e, err := web.New(web.Config{Shop: sh, Workshop: "W", Actor: a, Log: slog.New(slog.NewTextHandler(io.Discard, nil))})
	if err != nil {
		t.Fatal(err)
	}
	for i := range data.Jobs {
		at := fmt.Sprintf("/machines/%d", i+1)
		if _, rest, ok := strings.Cut(webtest.Page(e, at), `name="option" value="`); ok {
			option, _, _ := strings.Cut(rest, `"`)
			webtest.Request(e, "POST", at+"/choice", url.Values{"option": {option}, "token": {at}}, webtest.SameOrigin)
		}
	}
	return e
}

// less is a document without a share of its facts, as far as it is still one.
func less[T any](random *rand.Rand, share float64, doc T, read func([]byte) (T, error)) T {
	raw, err := json.Marshal(doc)
	if err != nil {
		panic(err)
	}
	for range 40 {
		var tree map[string]any
		if err := json.Unmarshal(raw, &tree); err != nil {
			panic(err)
		}
		forget(random, share, tree)
		cut, err := json.Marshal(tree)
		if err != nil {
			panic(err)
		}
		if out, err := read(cut); err == nil {
			doc, raw = out, cut
			if share > 0.9 {
				continue
			}
			return doc
		}
		share *= 0.9
	}
	return doc
}

func forget(random *rand.Rand, share float64, tree map[string]any) {
	for name, v := range tree {
		switch v := v.(type) {
		case map[string]any:
			forget(random, share, v)
		case []any:
			for _, x := range v {
				if x, ok := x.(map[string]any); ok {
					forget(random, share, x)
				}
			}
		}
		switch name {
		case "format", "id", "chassis", "kind", "name":
		default:
			if random.Float64() < share {
				delete(tree, name)
			}
		}
	}
}
