package record

import (
	"strconv"
	"strings"
	"yembo/shop/base"
	"yembo/shop/work"

	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/core/memory"
	"yembo/core/teardown"
	"yembo/web/draw"
	"yembo/web/form"
	"yembo/web/kit"
)

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
	More     int // other findings beyond those listed
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
	Inside               *draw.Inside
	Places               []placeRow
	Facts                []factRow
	Disputed             []factRow
	Unknown              []unknownRow
	Ceiling              string
	History              []base.Change
	Version              int
	Notice               string
	Copy                 *form.Form
	Quirks               []string
	FactCount            int
	Parts                []partRowOf
	Forms                []form.ItemSpec
	Photos               []kit.PhotoView
	Told                 []string // what lies on what
	Replace              []replaceRow
	Line                 *kit.LineView
	Reach                *draw.Reach
	Learned              []work.Learned
	Remarks              int // about the way in
}

// unknownRow is something to find out, with the step that exposes it.
type unknownRow struct{ Name, How, Step, Form, Does string }

// formOf is where a fact is entered, under the model's address.
func formOf(path string) string {
	words := strings.Split(strings.Trim(path, "/"), "/")
	switch {
	case words[0] == "memory" && len(words) > 3:
		return "parts/" + words[1] + "/" + words[2]
	case words[0] == "memory" || words[0] == "outline":
		return "edit"
	case len(words) > 1 && words[0] == "suspected":
		return "suspected/" + words[1]
	case len(words) > 1:
		return "parts/" + words[0] + "/" + words[1]
	case words[0] == "battery_reach":
		return "parts/record/all"
	}
	return "parts/" + words[0] + "/new"
}

// toFindOut puts what is not yet known into words.
func toFindOut(ch *hw.Chassis) []unknownRow {
	var out []unknownRow
	for _, o := range evidence.ToFindOut(ch) {
		row := unknownRow{Name: kit.FactName(o.Path), How: o.How, Step: o.Step, Form: formOf(o.Path), Does: "Record it"}
		if id, ok := strings.CutPrefix(o.Path, "/suspected/"); ok {
			for i := range ch.Suspected {
				if ch.Suspected[i].ID == id {
					row.Name, row.Does = ch.Suspected[i].Text, "Say what it was"
				}
			}
		}
		out = append(out, row)
	}
	return out
}

func buildModelView(ch *hw.Chassis, how *base.Settings) modelView {
	v := modelView{ID: ch.ID, Name: ch.Name(), Code: ch.Code, Kind: hw.Builds.Says(ch.Kind), Covers: ch.Covers,
		Inside: draw.Model(ch, draw.Desk)}
	if y, ok := ch.Year.Get(); ok {
		v.Year = strconv.Itoa(y)
	}
	for _, q := range ch.Quirks {
		v.Quirks = append(v.Quirks, hw.Quirks.Says(q))
	}
	width, depth := draw.OutlineOf(ch)
	v.Told = draw.Propose(ch, width, depth).Told(ch)
	mem := ch.Mem()
	v.fact(ch, "Memory type", "/memory/type", string(mem.Type.Or("")))
	v.fact(ch, "Platform speed", "/memory/max_speed_mts", intWords(mem.MaxSpeed, " MT/s"))
	v.fact(ch, "Channels", "/memory/channels", intWords(mem.Channels, ""))
	v.fact(ch, "Error correction", "/memory/ecc", wordSays(hw.ECCUses, mem.ECC))
	v.fact(ch, "Clocked modules", "/memory/clocked", wordSays(hw.ClockedUses, mem.Clocked))
	v.fact(ch, "Maker's limit", "/memory/limits/maker_gb", knownGB(mem.Limits.Maker))
	v.fact(ch, "Proven", "/memory/limits/proven_gb", knownGB(mem.Limits.Proven))
	v.fact(ch, "Controller's limit", "/memory/limits/controller_gb", knownGB(mem.Limits.Controller))
	for i := range mem.Soldered {
		so := &mem.Soldered[i]
		at := "/memory/soldered/" + so.ID
		p := placeRow{ID: so.ID, Kind: "soldered"}
		p.Facts = append(p.Facts,
			v.placeFact(ch, so.ID, "capacity", at+"/capacity_gb", so.Capacity.String()+" GB"),
			v.placeFact(ch, so.ID, "channel", channelPath(at, so.Channels), channelValue(so.Channel, so.Channels)),
			v.placeFact(ch, so.ID, "speed", at+"/speed_mts", intWords(so.Speed, " MT/s")),
			v.placeFact(ch, so.ID, "ranks", at+"/ranks", intWords(so.Ranks, "")))
		v.Places = append(v.Places, p)
	}
	for i := range mem.Sockets {
		so := &mem.Sockets[i]
		at := "/memory/sockets/" + so.ID
		p := placeRow{ID: so.ID, Kind: string(so.Form) + " socket", Reach: so.Reach}
		if depth := teardown.DepthOf(ch, so.Reach); depth.Known {
			p.Steps, p.Min = depth.Steps, depth.Minutes.Shown().String()
		}
		p.Facts = append(p.Facts,
			v.placeFact(ch, so.ID, "form", at+"/form", string(so.Form)),
			v.placeFact(ch, so.ID, "channel", channelPath(at, so.Channels), channelValue(so.Channel, so.Channels)),
			v.placeFact(ch, so.ID, "largest module", at+"/max_module_gb", knownGB(so.MaxModule)))
		v.Places = append(v.Places, p)
	}
	v.Unknown = toFindOut(ch)
	if l := memory.InForce(ch, nil, how.Practice.MemoryLimit.Or(hw.LimitMaker), how.LargestModules()); l.Unreachable {
		v.Ceiling = "The stated " + l.Stated.String() + " GB cannot be reached: " + l.Arithmetic + "."
	}
	// Disputes about places that this page does not list stand with the others.
	listed := map[string]bool{}
	for _, d := range v.Disputed {
		listed[d.Path] = true
	}
	for _, f := range evidence.Facts(ch.Findings) {
		if f.Disputed && !listed[f.Path] {
			v.placeFact(ch, "", kit.FactName(f.Path), f.Path, hw.ValueWords(f.Path, f.InForce.Value))
		}
	}
	v.Parts = partsOf(ch)
	v.Replace, v.Reach, v.Remarks = replaceable(ch), draw.ReachOf(ch), len(teardown.Check(ch))
	for _, spec := range form.Items {
		if spec.List != "" {
			v.Forms = append(v.Forms, spec)
		}
	}
	v.FactCount = factsOf(ch)
	return v
}

func (v *modelView) fact(ch *hw.Chassis, name, path, value string) {
	v.Facts = append(v.Facts, v.placeFact(ch, "", name, path, value))
}

// mostOthers is how many findings that disagree are listed beside the one in force;
// the page of findings has them all.
const mostOthers = 3

// placeFact states one fact, and notes it among the disputed ones.
func (v *modelView) placeFact(ch *hw.Chassis, place, name, path, value string) factRow {
	full := name
	if place != "" {
		full = place + ", " + name
	}
	row := factRow{Path: path, Name: name, Value: value, Known: value != ""}
	if !row.Known {
		row.Value = "not yet known"
	}
	f := evidence.Of(ch.Findings, path)
	if f.InForce != nil {
		row.Source, row.Date, row.By, row.Note = string(f.InForce.Source), hw.Day(f.InForce.On), f.InForce.By,
			f.InForce.Note
	}
	for i, o := range f.Others {
		if i == mostOthers {
			row.More = len(f.Others) - mostOthers
			break
		}
		row.Others = append(row.Others, findingWords(o))
	}
	for _, o := range f.Aside {
		w := findingWords(o)
		w.Note = strings.TrimSpace(w.Note + " Set aside " + hw.Day(o.SetAside.On) + ": " + o.SetAside.Note)
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
	return findingRow{hw.ValueWords(f.Path, f.Value), string(f.Source), hw.Day(f.On), f.By, f.Note}
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
		return strconv.Itoa(v) + unit
	}
	return ""
}

// wordSays is a word of the formats as pages have it, "" where it is not known.
func wordSays[W ~string](table hw.Vocabulary[W], word hw.Maybe[W]) string {
	if w, ok := word.Get(); ok {
		return table.Says(w)
	}
	return ""
}
