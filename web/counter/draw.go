package counter

import (
	"crypto/rand"
	"encoding/json"
	"fmt"
	"hash/fnv"
	"net/http"
	"net/url"
	"sync"
	"time"

	"yembo/shop/base"
	"yembo/shop/jobs"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/core/power"
	"yembo/standin/meter"
	"yembo/web/form"
	"yembo/web/kit"
)

// drawView is the page on which a machine's draw is measured.
type drawView struct {
	*form.Form
	kit.Tabs
	Model    string
	Now      string // what is on record, with its profile
	Profiles []string
	Rule     string
	Meter    bool // the simulated meter is offered
}

// profiles are proposed; any other text will do.
var profiles = []string{"idle, half brightness, balanced", "office, half brightness, balanced",
	"film, half brightness, balanced", "full load, full brightness, best performance"}

// trace is a measurement that runs or ran.
type trace struct {
	machine string
	power.Trace
	began   time.Time
	running bool
}

// traces holds the measurements until they are taken over or too old.
type traces struct {
	mu  sync.Mutex
	all map[string]*trace
}

// keepTrace is how long a measurement can be taken over, maxTraces how many run at once.
const (
	keepTrace = 2 * time.Hour
	maxTraces = 32
)

// begin opens a measurement; ok is false when too many run.
func (t *traces) begin(machine string, now time.Time) (id string, ok bool) {
	t.mu.Lock()
	defer t.mu.Unlock()
	for key, x := range t.all {
		if now.Sub(x.began) > keepTrace {
			delete(t.all, key)
		}
	}
	running, oldest := 0, ""
	for key, x := range t.all {
		if x.running {
			running++
		} else if oldest == "" || x.began.Before(t.all[oldest].began) {
			oldest = key
		}
	}
	if running >= maxTraces {
		return "", false
	}
	if len(t.all) >= 4*maxTraces {
		delete(t.all, oldest)
	}
	if t.all == nil {
		t.all = map[string]*trace{}
	}
	id = rand.Text()
	t.all[id] = &trace{machine: machine, began: now, running: true}
	return id, true
}

// end frees the place of a measurement that runs no more; it can still be taken over.
func (t *traces) end(id string) {
	t.mu.Lock()
	defer t.mu.Unlock()
	if x := t.all[id]; x != nil {
		x.running = false
	}
}

func (t *traces) add(id string, watts hw.Dec) power.Trace {
	t.mu.Lock()
	defer t.mu.Unlock()
	x := t.all[id]
	if x == nil {
		return power.Trace{}
	}
	x.Add(watts)
	return x.Trace
}

func (t *traces) of(id, machine string) (power.Trace, bool) {
	t.mu.Lock()
	defer t.mu.Unlock()
	x := t.all[id]
	if x == nil || x.machine != machine {
		return power.Trace{}, false
	}
	return x.Trace, true
}

func (s *pages) showDraw(c *echo.Context) error {
	return s.drawPage(c, http.StatusOK, form.New(url.Values{}))
}

func (s *pages) drawPage(c *echo.Context, status int, f *form.Form) error {
	r, err := s.Shop.Machine(c.Request().Context(), c.Param("id"))
	if err != nil {
		return err
	}
	v := drawView{Form: f, Tabs: kit.TabsOf(&r, "draw"), Model: r.Chassis.Name(), Profiles: profiles}
	how, err := s.Shop.Settings(c.Request().Context())
	if err != nil {
		return err
	}
	v.Meter = how.Simulated
	if w, ok := r.Machine.Usage.DrawW.Get(); ok {
		v.Now = w.String() + " W"
		if p := r.Machine.Usage.RuntimeProfile; p != "" {
			v.Now += " (" + p + ")"
		}
		if full, known := fullOf(r.Machine); known {
			v.Rule = fmt.Sprintf("0.95 × %s Wh when full ÷ %s W = %s h", full, w, power.HoursAt(full, w).Or(0))
		}
	}
	if f.Text("/profile") == "" {
		f.Values.Set("/profile", kit.OrDash(jobs.RealProfile(r.Machine.Usage.RuntimeProfile), profiles[1]))
	}
	return s.Render(c, status, "draw", "Draw of "+r.Machine.ID, "machines", v)
}

func fullOf(m *hw.Machine) (hw.Dec, bool) {
	if m.Fitted.Battery == nil {
		return 0, false
	}
	return m.Fitted.Battery.FullWh.Get()
}

// meterPoint is one reading as the page gets it, with the sums so far. The page draws; it
// does not compute.
type meterPoint struct {
	ID   string `json:"id"`
	T    int    `json:"t"`
	W    hw.Dec `json:"w"`
	Mean hw.Dec `json:"mean"`
	Min  hw.Dec `json:"min"`
	Max  hw.Dec `json:"max"`
	Wh   string `json:"wh"`
}

// drawEvents sends one reading a second until whoever watches goes.
func (s *pages) drawEvents(c *echo.Context) error {
	ctx := c.Request().Context()
	r, err := s.Shop.Machine(ctx, c.Param("id"))
	if err != nil {
		return err
	}
	how, err := s.Shop.Settings(ctx)
	if err != nil {
		return err
	}
	if !how.Simulated {
		return base.ErrNotFound
	}
	id, ok := s.traces.begin(r.Key, s.Shop.Now())
	if !ok {
		return echo.NewHTTPError(http.StatusTooManyRequests, "too many measurements run at once")
	}
	defer s.traces.end(id)
	h := fnv.New32a()
	h.Write([]byte(r.Machine.ID))
	m := meter.NewSimulated(r.Machine.Usage.DrawW.Or(hw.DecOf(7)), h.Sum32())
	w := c.Response()
	w.Header().Set("Content-Type", "text/event-stream")
	w.WriteHeader(http.StatusOK)
	send := http.NewResponseController(w)
	every := time.NewTicker(s.meterEvery())
	defer every.Stop()
	for {
		watts, err := m.Watts()
		if err != nil {
			return err
		}
		t := s.traces.add(id, watts)
		data, err := json.Marshal(meterPoint{id, t.Seconds, watts, t.Mean().Tenths(), t.Min, t.Max, wattHours(t.Wh())})
		if err != nil {
			return err
		}
		if err := send.SetWriteDeadline(time.Now().Add(10 * time.Second)); err != nil {
			return err
		}
		if _, err := fmt.Fprintf(w, "data: %s\n\n", data); err != nil {
			return nil // whoever watched has gone
		}
		if err := send.Flush(); err != nil {
			return nil
		}
		select {
		case <-ctx.Done():
			return nil
		case <-kit.Stopping(ctx):
			return nil
		case <-every.C:
		}
	}
}

// wattHours shows an energy to a thousandth.
func wattHours(wh hw.Dec) string { return (wh / 1000 * 1000).String() }

func (s *pages) meterEvery() time.Duration {
	if s.MeterEvery > 0 {
		return s.MeterEvery
	}
	return time.Second
}

// takeDraw keeps the mean of a measurement. It is the server's own figure; the page only
// says which one.
func (s *pages) takeDraw(c *echo.Context) error {
	f, err := form.Sent(c)
	if err != nil {
		return err
	}
	r, err := s.Shop.Machine(c.Request().Context(), c.Param("id"))
	if err != nil {
		return err
	}
	id := r.Key
	m := jobs.Measured{Profile: f.Text("/profile")}
	if typed := f.Text("/mean"); typed != "" {
		// Read off a meter by eye.
		m.Mean, m.Seconds = f.Dec("/mean").Or(0), int(f.Whole("/seconds").Or(0))
	} else if t, ok := s.traces.of(f.Text("trace"), id); ok {
		m.Mean, m.Seconds, m.Simulated = t.Mean(), t.Seconds, true
	}
	if f.Count() == 0 {
		err := s.Shop.TakeDraw(c.Request().Context(), s.Acting(c), f.Text("token"), id, m)
		switch {
		case err == nil:
			return kit.SeeOther(c, "/machines/"+id+"/draw")
		case !f.Take(err):
			return err
		}
	}
	return s.drawPage(c, http.StatusUnprocessableEntity, f)
}
