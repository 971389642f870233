package record

import (
	"net/http"
	"strconv"
	"strings"

	"github.com/labstack/echo/v5"

	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/core/memory"
	"yembo/core/teardown"
	"yembo/shop/base"
	"yembo/web/draw"
	"yembo/web/kit"
)

// replaceRow is one place of a model in words that a customer or buyer can read: what
// it takes, and how deep it lies.
type replaceRow struct {
	ID, Name string
	Takes    string
	Depth    teardown.Depth
	Minutes  string // down
	Tools    string // bits and tools
	Mind     string // glue, a seal, the board
	Only     string // the configuration that has it
	Source   string // how its leading fact is known
	Date     string
	Disputed bool
	Unknown  bool // something that decides what it takes is not yet known
}

// replaceable lists what can be replaced, in the order of the record.
func replaceable(ch *hw.Chassis) []replaceRow {
	open := map[string]bool{}
	for _, o := range evidence.ToFindOut(ch) {
		open[o.Path] = true
	}
	var out []replaceRow
	add := func(p *hw.Place, name, takes, leading string, decides ...string) {
		row := replaceRow{ID: p.ID, Name: name, Takes: takes, Only: p.OnlyOn}
		row.depth(ch, p.Reach)
		row.Source, row.Date, row.Disputed = draw.KnownFrom(ch, p.Path(), leading)
		for _, fact := range decides {
			row.Unknown = row.Unknown || open[p.Path()+"/"+fact]
		}
		out = append(out, row)
	}
	mem := ch.Mem()
	kind := mem.Type.Or("type not yet known")
	for _, p := range ch.Places() {
		switch p.Kind {
		case hw.InSocket:
			s := &mem.Sockets[p.Index]
			takes := string(kind) + " " + string(s.Form) + ", largest module not yet known"
			if gb, ok := s.MaxModule.Get(); ok {
				takes = string(kind) + " " + string(s.Form) + " up to " + gb.String() + " GB"
			}
			add(&p, "memory", takes, "form", "max_module_gb")
		case hw.InSlot:
			s := &ch.Slots[p.Index]
			name := "drive"
			if s.Purpose != hw.ForStorage {
				name = strings.TrimPrefix(hw.Purposes.Says(s.Purpose), "for a ")
			}
			add(&p, name, slotTakes(s), "key", "key", "lengths", "protocols", "pcie_gen")
		case hw.InBay:
			b := &ch.Bays[p.Index]
			takes := hw.DriveForms.Says(b.Form) + " " + hw.Interfaces.Says(b.Interface.Or("interface?")) + ", " +
				strings.Join(b.Words(), ", ")
			add(&p, "drive", takes, "connector", "height_mm", "connector", "interface")
		case hw.InPack:
			b := &ch.Batteries[p.Index]
			takes := draw.EnergyWords(b)
			if len(b.PartNumbers) > 0 {
				takes += ", " + strings.Join(b.PartNumbers, " or ")
			}
			add(&p, "battery", takes, "design_wh", "design_wh", "part_numbers")
		}
	}
	for i := range ch.Services {
		s := &ch.Services[i]
		row := replaceRow{ID: s.ID, Name: "service", Takes: s.Name}
		row.depth(ch, s.Reach)
		out = append(out, row)
	}
	return out
}

func (row *replaceRow) depth(ch *hw.Chassis, reach string) {
	row.Depth = teardown.DepthOf(ch, reach)
	row.Minutes = row.Depth.Minutes.Shown().String()
	row.Tools = strings.Join(append(append([]string(nil), row.Depth.Bits...), row.Depth.Tools...), ", ")
	var mind []string
	for _, m := range []struct {
		holds bool
		words string
	}{{row.Depth.Sealed, "a seal is broken"}, {row.Depth.Glued, "glue gives way"},
		{row.Depth.Board, "the board comes out"}} {
		if m.holds {
			mind = append(mind, m.words)
		}
	}
	row.Mind = strings.Join(mind, ", ")
}

// slotTakes says what a slot takes in one line.
func slotTakes(s *hw.Slot) string {
	link := "link not yet known"
	if gen, ok := s.Gen.Get(); ok {
		link = "gen " + strconv.Itoa(gen)
		if lanes, ok := s.Lanes.Get(); ok {
			link += " ×" + strconv.Itoa(lanes)
		}
	}
	lengths := "lengths not yet known"
	if s.Lengths != nil {
		tree := map[string]any{}
		for mm, how := range s.Lengths {
			if how != "none" {
				tree[mm] = strings.NewReplacer("fitted", "", "movable", "(post moves)", "needs:", "with ").Replace(how)
			}
		}
		lengths = strings.ReplaceAll(hw.LengthList(tree), " ,", ",")
	}
	words := []string{draw.ProtocolNames(s.Protocols), link, strings.TrimSpace(lengths)}
	if s.Purpose != "storage" {
		words = []string{"key " + s.Key.Or("?"), hw.SaysAll(s.Protocols), strconv.Itoa(len(s.Antennas)) + " antenna leads"}
		if s.Antennas == nil {
			words[2] = "leads not yet known"
		}
	}
	if len(s.Refuses) > 0 {
		refused := make([]string, len(s.Refuses))
		for i, r := range s.Refuses {
			refused[i] = hw.Refusals.Says(r)
		}
		words = append(words, "refuses "+strings.Join(refused, ", "))
	}
	return strings.Join(words, ", ")
}

// fixedWords lists what cannot be replaced without the board.
func fixedWords(ch *hw.Chassis) []string {
	var out []string
	for i := range ch.Mem().Soldered {
		s := &ch.Memory.Soldered[i]
		out = append(out, s.Capacity.String()+" GB of memory, soldered")
	}
	if ch.Mem().Sockets != nil && len(ch.Memory.Sockets) == 0 {
		out = append(out, "memory: no socket")
	}
	return append(out, ch.Fixed...)
}

// sheetView is the printed record: on its first page what can be done, on its second
// how it is known, the screws and the steps.
type sheetView struct {
	modelView
	Paper          string
	Fixed          []string
	Limit, LimitBy string // of memory, and by which practice
	Screws         []screwRow
	Steps          []stepRow
	All            []findingFact
	More           int // facts that found no room
	Changed        string
	Short          bool // the first page alone

	CoversNote  string
	MoreUnknown int // open facts beyond those that the page names
}

type screwRow struct {
	ID, Count, Bit, Size, Head, Note string
}

type stepRow struct {
	Number             int
	ID, Words, Minutes string
	Marks              []string
}

type findingFact struct {
	Name, Value, Source, Date, Note string
	Disputed                        bool
}

// What the two pages have room for.
const (
	sheetFacts   = 66
	sheetUnknown = 6
)

func (s *pages) showBench(c *echo.Context) error {
	r, err := s.Shop.Model(c.Request().Context(), c.Param("id"))
	if err != nil {
		return err
	}
	v := buildModelView(r.Chassis, s.Settings(c))
	v.Inside = draw.Model(r.Chassis, draw.Bench)
	if v.Photos, err = s.photosOf(c, r.Chassis.ID); err != nil {
		return err
	}
	return s.Render(c, http.StatusOK, "bench", v.Name+" at the bench", "models", v)
}

func (s *pages) showSheet(c *echo.Context) error {
	r, err := s.Shop.Model(c.Request().Context(), c.Param("id"))
	if err != nil {
		return err
	}
	v := buildSheet(r.Chassis, s.Settings(c))
	if v.Paper, err = s.PaperOf(c); err != nil {
		return err
	}
	v.Changed, v.Short = kit.Stamp(r.Updated), c.QueryParam("part") == "summary"
	return s.Render(c, http.StatusOK, "sheet", "Record of "+v.Name, "models", v)
}

func buildSheet(ch *hw.Chassis, how *base.Settings) sheetView {
	v := sheetView{modelView: buildModelView(ch, how), Fixed: fixedWords(ch), CoversNote: ch.CoversNote}
	v.MoreUnknown = max(len(v.Unknown)-sheetUnknown, 0)
	practice := how.Practice.MemoryLimit.Or(hw.LimitMaker)
	if gb, ok := memory.InForce(ch, nil, practice, how.LargestModules()).GB.Get(); ok {
		v.Limit, v.LimitBy = gb.String()+" GB", hw.LimitPractices.Says(practice)
	}
	for i := range ch.Fasteners {
		f := &ch.Fasteners[i]
		row := screwRow{ID: f.ID, Count: intWords(f.Count, ""), Bit: f.Bit.Or("?"), Size: f.Thread, Head: f.Head}
		if mm, ok := f.Length.Get(); ok {
			row.Size = strings.TrimSpace(row.Size + " × " + mm.String() + " mm")
		}
		var notes []string
		if f.Captive.Or(false) {
			notes = append(notes, "captive")
		}
		if f.Hidden != "" {
			notes = append(notes, f.Hidden)
		}
		if len(f.Order) > 0 {
			words := make([]string, len(f.Order))
			for k, n := range f.Order {
				words[k] = strconv.Itoa(n)
			}
			notes = append(notes, "tighten in the order "+strings.Join(words, " "))
		}
		row.Note = strings.Join(notes, ", ")
		v.Screws = append(v.Screws, row)
	}
	for i := range ch.Steps {
		st := &ch.Steps[i]
		row := stepRow{Number: i + 1, ID: st.ID, Words: draw.StepWords(ch, st),
			Minutes: teardown.StepMinutes(st).Shown().String()}
		for _, m := range []struct {
			holds bool
			words string
		}{{teardown.Sealed(st), "breaks a seal"}, {teardown.Glued(st), "glued"}, {teardown.BoardOut(st), "board out"}} {
			if m.holds {
				row.Marks = append(row.Marks, m.words)
			}
		}
		v.Steps = append(v.Steps, row)
	}
	for _, f := range evidence.Facts(ch.Findings) {
		if f.InForce == nil || evidence.Within(f.Path, "/fasteners") {
			continue // the screws have a table of their own
		}
		if len(v.All) >= sheetFacts {
			v.More++
			continue
		}
		v.All = append(v.All, findingFact{kit.FactName(f.Path), hw.ValueWords(f.Path, f.InForce.Value),
			string(f.InForce.Source), hw.Day(f.InForce.On), f.InForce.Note, f.Disputed})
	}
	return v
}
