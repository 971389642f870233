package draw

import (
	"cmp"
	"yembo/core/hw"
)

// Thing is one movable thing: where it lies, in mm, and how it is drawn.
type Thing struct {
	Key      string // slots/m2a
	Name     string // m2a
	What     string // M.2 slot
	Kind     string // socket, slot, chips, bay, pack, other (pack), shape, suspected
	R        Rect
	Turn     int
	Proposed bool // nobody recorded where it lies
}

// Field is the name of a field of the thing's place in the form.
func (t Thing) Field(name string) string { return "/" + t.Key + "/at/" + name }

// X, Y, Width and Height are the thing's place as the fields show it.
func (t Thing) X() string      { return MM(t.R.X) }
func (t Thing) Y() string      { return MM(t.R.Y) }
func (t Thing) Width() string  { return MM(t.R.W) }
func (t Thing) Height() string { return MM(t.R.H) }

// Things lists what can be arranged, in the order of the record.
func Things(ch *hw.Chassis, l *Layout) []Thing {
	proposed := map[string]bool{}
	for _, name := range l.Proposed {
		proposed[name] = true
	}
	var out []Thing
	add := func(key, name, what, kind string, at *hw.At) {
		t := Thing{Key: key + "/" + name, Name: name, What: what, Kind: kind}
		id := name
		if kind == "pack" {
			id = "battery:" + name
		}
		t.R, t.Proposed = l.At[id], proposed[id]
		if kind == "shape" || kind == "suspected" {
			t.Proposed = at == nil
			t.R, _ = RectOf(at, 30, 20)
			if at == nil {
				t.R = Rect{X: l.Width - 44, Y: l.Depth - 30, W: 30, H: 20}
			}
		}
		if at != nil {
			t.Turn = at.Turn.Or(0)
		} else if kind == "slot" && t.R.H > t.R.W {
			t.Turn = 90
		}
		out = append(out, t)
	}
	mem := ch.Mem()
	for i := range mem.Soldered {
		add("memory/soldered", mem.Soldered[i].ID, "soldered memory", "chips", mem.Soldered[i].At)
	}
	for _, p := range ch.Places() {
		kind := placeShapes[p.Kind]
		add(p.List(), p.ID, p.Kind.Says(), kind, p.At)
		if p.Kind == hw.InPack && p.Index > 0 {
			out[len(out)-1].Kind = "other"
		}
	}
	for i := range ch.Shapes {
		add("shapes", ch.Shapes[i].ID, cmp.Or(ch.Shapes[i].What, "shape"), "shape", ch.Shapes[i].At)
	}
	for _, x := range ch.Open() {
		add("suspected", x.ID, "not yet seen", "suspected", x.At)
	}
	return out
}

// placeShapes is how each kind of place is drawn while it is moved.
var placeShapes = [...]string{hw.InSocket: "socket", hw.InSlot: "slot", hw.InBay: "bay", hw.InPack: "pack"}
