package web

import (
	"errors"
	"net/http"
	"net/url"
	"strings"

	"github.com/labstack/echo/v5"

	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/core/memory"
	"yembo/core/teardown"
	"yembo/shop"
)

type modelRow struct {
	ID, Name, Code, Kind string
	Memory               string
	Limit                string
	Disputed             int
}

type modelList struct {
	*Form
	Query string
	Rows  []modelRow
	All   int
	Asked bool // something is looked for
}

func (s *server) listModels(c *echo.Context) error {
	f := newForm(c.Request().URL.Query())
	view := modelList{Form: f, Query: f.text("q")}
	want := shop.Capability{ReachesGB: f.dec("reaches"), SlotLength: f.whole("length"), SlotGen: f.whole("gen"), BatterySteps: f.whole("deep")}
	view.Asked = view.Query != "" || want.Asked()
	records, err := s.Shop.FindModels(c.Request().Context(), view.Query)
	if err != nil {
		return err
	}
	view.All = len(records)
	if view.Asked {
		all, err := s.Shop.Models(c.Request().Context())
		if err != nil {
			return err
		}
		view.All = len(all)
	}
	for _, r := range records {
		ch := r.Chassis
		if !want.Has(ch) {
			continue
		}
		row := modelRow{ID: ch.ID, Name: ch.Name(), Code: ch.Code, Kind: kindWords(ch.Kind), Memory: memorySummary(ch), Limit: gbWords(ch.Mem().Limits.Maker)}
		for _, fact := range evidence.Facts(ch.Findings) {
			if fact.Disputed {
				row.Disputed++
			}
		}
		view.Rows = append(view.Rows, row)
	}
	return s.render(c, http.StatusOK, "models", "Models", "models", view)
}

// matches reports whether every word of a query stands in one of the texts.
func matches(query string, texts ...string) bool {
	all := strings.ToLower(strings.Join(texts, " "))
	for _, word := range strings.Fields(strings.ToLower(query)) {
		if !strings.Contains(all, word) {
			return false
		}
	}
	return true
}

func kindWords(kind string) string {
	if kind == "mini_pc" {
		return "mini PC"
	}
	return kind
}

// memorySummary says in a few words what a model's memory is.
func memorySummary(ch *hw.Chassis) string {
	mem := ch.Mem()
	var words []string
	var soldered hw.Dec
	for i := range mem.Soldered {
		soldered += mem.Soldered[i].Capacity
	}
	if soldered > 0 {
		words = append(words, soldered.String()+" GB soldered")
	}
	switch n := len(mem.Sockets); {
	case mem.Sockets == nil:
		words = append(words, "sockets not yet known")
	case n == 0:
		words = append(words, "no socket")
	case n == 1:
		words = append(words, "1 socket")
	default:
		words = append(words, itoa(n)+" sockets")
	}
	return mem.Type.Or("type not yet known") + ", " + strings.Join(words, " + ")
}

// factRow is one fact as the record page lists it.
type factRow struct {
	Path     string
	Name     string
	Value    string
	Known    bool
	Disputed bool
	Source   string // "" when nobody said how it is known
	Date     string
	By       string
	Note     string
	Others   []findingRow
	Aside    []findingRow
}

type findingRow struct{ Value, Source, Date, By, Note string }

// placeRow is a socket or soldered memory with its facts.
type placeRow struct {
	ID    string
	Kind  string
	Facts []factRow
	Steps int
	Min   string
	Reach string
}

type modelView struct {
	ID, Name, Code, Kind string
	Year                 string
	Covers               []string
	Inside               *inside
	Places               []placeRow
	Facts                []factRow
	Disputed             []factRow
	Unknown              []unknownRow
	Ceiling              string
	History              []shop.Change
	Version              int
	Notice               string
	Copy                 *Form
	Quirks               []string
	FactCount            int
	Parts                []partRowOf
	Forms                []itemSpec
	Photos               []photoView
	Told                 []string // what lies on what
}

// unknownRow is something to find out, with the step that exposes it.
type unknownRow struct{ Name, How, Step string }

func (s *server) showModel(c *echo.Context) error {
	return s.modelPage(c, http.StatusOK, "", newForm(url.Values{}))
}

func (s *server) modelPage(c *echo.Context, status int, notice string, copied *Form) error {
	r, err := s.Shop.Model(c.Request().Context(), c.Param("id"))
	if err != nil {
		return err
	}
	view := buildModelView(r.Chassis)
	photos, err := s.Shop.Photos(c.Request().Context(), r.Chassis.ID)
	if err != nil {
		return err
	}
	view.Photos, _ = photoViews(r.Chassis.ID, photos)
	view.History, view.Version, view.Notice, view.Copy = r.History, r.Version, notice, copied
	if !copied.values.Has("/maker") {
		copied.values.Set("/maker", r.Chassis.Maker)
	}
	return s.render(c, status, "model", view.Name, "models", view)
}

// restoreModel brings an earlier state back.
func (s *server) restoreModel(c *echo.Context) error {
	if err := c.Request().ParseForm(); err != nil {
		return echo.ErrBadRequest.Wrap(err)
	}
	f := newForm(c.Request().PostForm)
	err := s.Shop.Restore(c.Request().Context(), s.Actor, f.text("token"), c.Param("id"), f.whole("version").Or(-1), int64(f.whole("change").Or(-1)))
	var faults hw.Faults
	switch {
	case err == nil:
		return c.Redirect(http.StatusSeeOther, "/models/"+c.Param("id"))
	case errors.Is(err, shop.ErrChanged):
		return s.modelPage(c, http.StatusConflict, "Someone else changed the record meanwhile. Nothing was restored; this is the record as it is now.", newForm(url.Values{}))
	case errors.As(err, &faults):
		return s.modelPage(c, http.StatusUnprocessableEntity, "The earlier state cannot be restored: "+faults[0].Error(), newForm(url.Values{}))
	}
	return err
}

// copyModel makes a new record out of this one.
func (s *server) copyModel(c *echo.Context) error {
	if err := c.Request().ParseForm(); err != nil {
		return echo.ErrBadRequest.Wrap(err)
	}
	f := newForm(c.Request().PostForm)
	general := hw.Chassis{ID: f.slug("/id", ""), Maker: f.text("/maker"), Model: f.text("/model"), Code: f.text("/code"), Year: f.whole("/year")}
	if f.Count() == 0 {
		id, err := s.Shop.Copy(c.Request().Context(), s.Actor, f.text("token"), c.Param("id"), general)
		if err == nil {
			return c.Redirect(http.StatusSeeOther, "/models/"+id)
		}
		if !f.take(err) {
			return err
		}
	}
	return s.modelPage(c, http.StatusUnprocessableEntity, "", f)
}

func buildModelView(ch *hw.Chassis) modelView {
	v := modelView{ID: ch.ID, Name: ch.Name(), Code: ch.Code, Kind: kindWords(ch.Kind), Covers: ch.Covers, Inside: drawInside(ch, deskStyle)}
	if y, ok := ch.Year.Get(); ok {
		v.Year = itoa(y)
	}
	for _, q := range ch.Quirks {
		v.Quirks = append(v.Quirks, strings.ReplaceAll(q, "_", " "))
	}
	width, depth := outlineOf(ch)
	v.Told = proposeLayout(ch, width, depth).told(ch)
	mem := ch.Mem()
	v.fact(ch, "Memory type", "/memory/type", mem.Type.Or(""), "", "read the label of a module, or the chips' marking")
	v.fact(ch, "Platform speed", "/memory/max_speed_mts", intWords(mem.MaxSpeed, " MT/s"), "", "the processor's document states it")
	v.fact(ch, "Channels", "/memory/channels", intWords(mem.Channels, ""), "", "the processor's document states it; a reading shows it in use")
	v.fact(ch, "Maker's limit", "/memory/limits/maker_gb", knownGB(mem.Limits.Maker), "", "the maker's service sheet or data page")
	v.fact(ch, "Proven", "/memory/limits/proven_gb", knownGB(mem.Limits.Proven), "", "fit more and run a memory test")
	v.fact(ch, "Controller's limit", "/memory/limits/controller_gb", knownGB(mem.Limits.Controller), "", "the processor's document states it")
	for i := range mem.Soldered {
		so := &mem.Soldered[i]
		at := "/memory/soldered/" + so.ID
		p := placeRow{ID: so.ID, Kind: "soldered"}
		p.Facts = append(p.Facts,
			v.placeFact(ch, so.ID, "capacity", at+"/capacity_gb", so.Capacity.String()+" GB", "", ""),
			v.placeFact(ch, so.ID, "channel", channelPath(at, so.Channels), channelValue(so.Channel, so.Channels), "", "a reading in a machine with one module shows it"),
			v.placeFact(ch, so.ID, "speed", at+"/speed_mts", intWords(so.Speed, " MT/s"), "", "read the chips' marking"),
			v.placeFact(ch, so.ID, "ranks", at+"/ranks", intWords(so.Ranks, ""), "", "a reading tells"))
		v.Places = append(v.Places, p)
	}
	for i := range mem.Sockets {
		so := &mem.Sockets[i]
		at := "/memory/sockets/" + so.ID
		p := placeRow{ID: so.ID, Kind: so.Form + " socket", Reach: so.Reach}
		if so.Reach != "" {
			down := teardown.Down(ch, []string{so.Reach})
			for _, d := range down {
				if d {
					p.Steps++
				}
			}
			p.Min = teardown.DownMinutes(ch, down).Shown().String()
		}
		p.Facts = append(p.Facts,
			v.placeFact(ch, so.ID, "form", at+"/form", so.Form, so.Reach, ""),
			v.placeFact(ch, so.ID, "channel", channelPath(at, so.Channels), channelValue(so.Channel, so.Channels), so.Reach, "a reading with one module fitted shows it"),
			v.placeFact(ch, so.ID, "largest module", at+"/max_module_gb", knownGB(so.MaxModule), so.Reach, "the maker's document, or a module that ran clean"))
		v.Places = append(v.Places, p)
	}
	if mem.Sockets == nil {
		v.Unknown = append(v.Unknown, unknownRow{Name: "sockets", How: "open it and look; memory under a shield is not yet known until the shield is off"})
	}
	for i := range ch.Suspected {
		v.Unknown = append(v.Unknown, unknownRow{Name: ch.Suspected[i].Text, How: "look there", Step: ch.Suspected[i].Step})
	}
	if l := memory.InForce(ch, nil, memory.LimitMaker, memory.Largest()); l.Unreachable {
		v.Ceiling = "The stated " + l.Stated.String() + " GB cannot be reached: " + l.Arithmetic + "."
	}
	// Disputes about places that this page does not list stand with the others.
	listed := map[string]bool{}
	for _, d := range v.Disputed {
		listed[d.Path] = true
	}
	for _, f := range evidence.Facts(ch.Findings) {
		if f.Disputed && !listed[f.Path] {
			v.placeFact(ch, "", factName(f.Path), f.Path, valueWords(f.Path, f.InForce.Value), "", "")
		}
	}
	v.Parts = partsOf(ch)
	for _, spec := range itemSpecs {
		if spec.List != "" {
			v.Forms = append(v.Forms, spec)
		}
	}
	v.FactCount = len(evidence.Facts(ch.Findings))
	return v
}

func (v *modelView) fact(ch *hw.Chassis, name, path, value, step, how string) {
	v.Facts = append(v.Facts, v.placeFact(ch, "", name, path, value, step, how))
}

// placeFact states one fact, and notes it among the disputed or the unknown ones.
func (v *modelView) placeFact(ch *hw.Chassis, place, name, path, value, step, how string) factRow {
	full := name
	if place != "" {
		full = place + ", " + name
	}
	row := factRow{Path: path, Name: name, Value: value, Known: value != ""}
	if !row.Known {
		row.Value = "not yet known"
		if how != "" {
			v.Unknown = append(v.Unknown, unknownRow{full, how, step})
		}
	}
	f := evidence.Of(ch.Findings, path)
	if f.InForce != nil {
		row.Source, row.Date, row.By, row.Note = f.InForce.Source, day(f.InForce.On), f.InForce.By, f.InForce.Note
	}
	for _, o := range f.Others {
		row.Others = append(row.Others, findingWords(o))
	}
	for _, o := range f.Aside {
		w := findingWords(o)
		w.Note = strings.TrimSpace(w.Note + " Set aside " + day(o.SetAside.On) + ": " + o.SetAside.Note)
		row.Aside = append(row.Aside, w)
	}
	if f.Disputed {
		row.Disputed = true
		named := row
		named.Name = full
		v.Disputed = append(v.Disputed, named)
	}
	return row
}

func findingWords(f *hw.Finding) findingRow {
	return findingRow{valueWords(f.Path, f.Value), f.Source, day(f.On), f.By, f.Note}
}

func channelPath(at string, several []string) string {
	if len(several) > 0 {
		return at + "/channels"
	}
	return at + "/channel"
}

func channelValue(one string, several []string) string {
	return strings.Join(hw.OnChannels(one, several), ", ")
}

func knownGB(m hw.Maybe[hw.Dec]) string {
	if v, ok := m.Get(); ok {
		return v.String() + " GB"
	}
	return ""
}

func intWords(m hw.Maybe[int], unit string) string {
	if v, ok := m.Get(); ok {
		return itoa(v) + unit
	}
	return ""
}
