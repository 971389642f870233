package web

import (
	"context"
	"encoding/json"
	"net/http"
	"net/url"
	"strings"
	"testing"
	"time"

	"yembo/core/hw"
	"yembo/shop"
	"yembo/shop/demo"
	"yembo/web/form"
)

// TestPartForms: every part of the demo, and one with every field of its kind, goes through its form and
// comes back as it was.
func TestPartForms(t *testing.T) {
	data, err := demo.Load(0)
	if err != nil {
		t.Fatal(err)
	}
	parts := append(data.Parts.Parts,
		hw.Part{Kind: hw.KindMemory, Name: "all of a module",
			Memory: &hw.Module{Type: "DDR5", Form: "SO-DIMM", Capacity: hw.Known(hw.DecOf(24)), Speed: hw.Known(5600),
				Ranks: hw.Known(1), Voltage: hw.Known(hw.DecOf(1)), ECC: hw.Known(false), Maker: "Corvane",
				PartNumber: "C-1"}},
		hw.Part{Kind: hw.KindDrive, Name: "all of a drive", PriceCents: 1, LeadDays: hw.Known(0), Count: hw.Known(2),
			Drive: &hw.Drive{Interface: "sata", Form: hw.Form25,
				Key: hw.Known("M"), Length: hw.Known(80), Gen: hw.Known(4), Lanes: hw.Known(4),
				Capacity: hw.Known(hw.DecOf(1)), ReadMBs: hw.Known(hw.DecOf(2)),
				WriteMBs: hw.Known(hw.DecOf(3)), Top: hw.Known(hw.Dec(0)), Bottom: hw.Known(hw.DecOf(1)),
				Height: hw.Known(hw.DecOf(7)), PowerW: hw.Known(hw.DecOf(5)),
				CacheModule: hw.Known(true), Heatsink: hw.Known(false), Rotational: hw.Known(true), Maker: "B",
				Model: "X"}})
	for _, p := range parts {
		p.Stock = hw.Maybe[int]{}
		line := shop.ShelfLine{PartLine: shop.PartLine{Part: p, Orderable: true, Low: 3, OrderNo: "N-1", Note: "a note",
			Supplier: 1}}
		f := form.New(partTyped(&line))
		back := sentPart(f, p.Kind, "EUR")
		back.Part.ID = p.ID
		want, errW := json.Marshal(line.PartLine)
		got, errG := json.Marshal(back)
		if errW != nil || errG != nil || string(got) != string(want) || f.Count() != 0 {
			t.Errorf("%s\n%s, not\n%s %v", p.Name, got, want, f.AllFaults())
		}
	}
}

// longWork goes on until it is stopped.
func longWork(begun chan struct{}) func(ctx context.Context, step func(done, of int)) (any, error) {
	return func(ctx context.Context, step func(done, of int)) (any, error) {
		step(3, 10)
		close(begun)
		<-ctx.Done()
		return nil, ctx.Err()
	}
}

// TestWorkAside: one long thing is done at a time and can be stopped; the same form leads to the same
// one, another is told to wait.
func TestWorkAside(t *testing.T) {
	e, _, sh := started(t)
	begun := make(chan struct{})
	id, ok := sh.Begin(shop.Actor{Name: "T"}, "token", "Something long", longWork(begun))
	if <-begun; !ok {
		t.Fatal("it was not begun")
	}
	if again, ok := sh.Begin(shop.Actor{Name: "T"}, "token", "Something long", longWork(nil)); !ok || again != id {
		t.Errorf("the same form: %s %v", again, ok)
	}
	w := request(e, "GET", "/underway/"+id, nil, nil)
	if w.Code != 200 || w.Header().Get("Refresh") == "" || !strings.Contains(w.Body.String(), "3 of 10 are done") {
		t.Errorf("%d %.400s", w.Code, w.Body)
	}
	look := sent(t, e, "/parts/import", url.Values{"pasted": {"part;price\n8GB DDR4-3200 SO-DIMM;3\n"}}, nil, "list")
	form := formValues(look.Body.String())
	form.Set("do", "take")
	if w := request(e, "POST", "/parts/import/take", form, sameOrigin); w.Code != http.StatusConflict ||
		!strings.Contains(w.Body.String(), "Yours was not begun") {
		t.Errorf("another meanwhile: %d", w.Code)
	}
	if w := request(e, "POST", "/underway/"+id+"/stop", url.Values{}, sameOrigin); w.Code != http.StatusSeeOther {
		t.Errorf("stop: %d", w.Code)
	}
	if w, err := sh.Work(t.Context(), id, time.Second); err != nil || !w.Ended || !w.Stopped {
		t.Errorf("%+v %v", w, err)
	}
	if w := doneAside(e, "/parts/import/take", form); !strings.Contains(w.Body.String(), "1 new, 0 changed") {
		t.Errorf("after it: %d %.600s", w.Code, w.Body)
	}
	if w := request(e, "GET", "/underway/none", nil, nil); w.Code != http.StatusNotFound {
		t.Errorf("%d", w.Code)
	}
}
