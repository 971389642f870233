package draw

import (
	"fmt"
	"slices"
	"strings"
	"yembo/core/hw"
	"yembo/core/teardown"
)

// fillScrews draws the screws of the wanted groups, lists them, and says what to mind.
func (v *Mat) fillScrews(ch *hw.Chassis, sheet *MatSheet, wanted map[string]bool) {
	letters := map[string]string{}
	y := matMargin + matHead + 4
	for i := range ch.Fasteners {
		f := &ch.Fasteners[i]
		if wanted != nil && !wanted[f.ID] {
			continue
		}
		letter := matLetter(len(letters))
		letters[f.ID] = letter
		captive := f.Captive.Or(false)
		shank := f.Length.Or(hw.DecOf(4)).Float()
		count := f.Count.Or(len(f.At))
		v.Screws += count
		if captive {
			sheet.Captive += count
		} else {
			sheet.Loose += count
		}
		if len(f.At) == 0 {
			v.NoPlaces = append(v.NoPlaces, ScrewGroupOf(ch, f))
		}
		size := strings.TrimPrefix(f.Thread+" × "+strings.TrimSuffix(lengthOr(f), " mm"), " × ")
		if captive {
			size = "captive"
		}
		sheet.Legend = append(sheet.Legend,
			matGroup{y, letter, shank, captive, fmt.Sprintf("%d × %s, %s", count, f.Bit.Or("?"), size), f.ID})
		y += 9.5
		for k := range f.At {
			at := &f.At[k]
			m := matScrew{X: at.X.Float() * sheet.Scale, Y: at.Y.Float() * sheet.Scale, Letter: letter, Shank: shank,
				Captive: captive, Hidden: f.Hidden != ""}
			m.Up = m.Y+shank+4 > sheet.OutH
			m.ShankY = m.Y + 2.2
			if m.Up {
				m.ShankY = m.Y - 2.2 - shank
			}
			if count == 1 && !captive && len(ch.Fasteners) > 1 {
				m.Odd = "odd one, " + lengthOr(f)
				m.OddLeft = m.X > sheet.OutW-34
			}
			sheet.Screws = append(sheet.Screws, m)
		}
	}
	sheet.MindY = y + 11
	sheet.Mind = mindLines(ch, letters)
	y = sheet.MindY
	if len(sheet.Mind) > 0 {
		y += 10 + 3.7*float64(len(sheet.Mind)) + 4
	}
	sheet.BoxesY = y
	y += 6
	// Counted back in the reverse of the order in which they come out.
	out := refitOrder(ch, letters)
	for _, id := range out {
		f := &ch.Fasteners[ch.FastenerByID(id)]
		if f.Captive.Or(false) {
			continue
		}
		line := matBoxes{Y: y, Letter: letters[id]}
		for n := range min(f.Count.Or(len(f.At)), 60) {
			if n > 0 && n%8 == 0 {
				sheet.Boxes = append(sheet.Boxes, line)
				y += 4.4
				line = matBoxes{Y: y}
			}
			line.Boxes = append(line.Boxes, 5+float64(n%8)*4.2)
		}
		sheet.Boxes = append(sheet.Boxes, line)
		y += 4.9
	}
	sheet.placesOf(ch)
}

// mindLines says which screws must not go into which holes.
func mindLines(ch *hw.Chassis, letters map[string]string) []string {
	shorter := map[string][]string{}
	for _, m := range teardown.MixUps(ch) {
		if letters[m.Long] != "" && letters[m.Short] != "" {
			shorter[letters[m.Long]] = append(shorter[letters[m.Long]], letters[m.Short])
		}
	}
	var out []string
	for i := range ch.Fasteners {
		long := letters[ch.Fasteners[i].ID]
		if names := shorter[long]; len(names) > 0 && len(out) < 15 {
			out = append(out, CutTo(long+" in a hole of "+strings.Join(names, ", ")+":", 26),
				"too long, can press through.", "Theirs may not hold in "+long+"'s.")
		}
	}
	return out
}

// refitOrder lists groups in the order in which they go back in.
func refitOrder(ch *hw.Chassis, letters map[string]string) []string {
	var taken []string
	seen := map[string]bool{}
	add := func(id string) {
		if letters[id] != "" && !seen[id] {
			seen[id] = true
			taken = append(taken, id)
		}
	}
	for i := range ch.Steps {
		for _, f := range ch.Steps[i].Fasteners {
			add(f.Group)
		}
	}
	for i := range ch.Fasteners {
		add(ch.Fasteners[i].ID)
	}
	for i, k := 0, len(taken)-1; i < k; i, k = i+1, k-1 {
		taken[i], taken[k] = taken[k], taken[i]
	}
	return taken
}

// matLetter is A to Z, then AA and so on.
func matLetter(n int) string {
	if n < 26 {
		return string(rune('A' + n))
	}
	return matLetter(n/26-1) + string(rune('A'+n%26))
}

func lengthOr(f *hw.Fastener) string {
	if mm, ok := f.Length.Get(); ok {
		return mm.String() + " mm"
	}
	return "? mm"
}

// placesOf draws what lies in the machine in thin lines, to find one's way.
func (sheet *MatSheet) placesOf(ch *hw.Chassis) {
	width, depth := OutlineOf(ch)
	l := Propose(ch, width, depth)
	for _, t := range Things(ch, l) {
		if t.Kind == "other" || t.Kind == "suspected" || t.Proposed {
			continue
		}
		k := sheet.Scale
		name := t.Name
		if t.Kind == "shape" {
			name = t.What
		}
		if 2*float64(len(name)) > t.R.W*k {
			name = ""
		}
		sheet.Places = append(sheet.Places, matPlace{t.R.X * k, t.R.Y * k, t.R.W * k, t.R.H * k, (t.R.X + t.R.W/2) * k,
			(t.R.Y + t.R.H/2) * k, name})
	}
}

// ScrewGroup is a group of screws in words, with the steps that turn it.
type ScrewGroup struct {
	ID, Says string
	Steps    []string
}

// ScrewGroupOf puts a group of screws into words.
func ScrewGroupOf(ch *hw.Chassis, g *hw.Fastener) ScrewGroup {
	out := ScrewGroup{ID: g.ID, Says: g.Says()}
	for i := range ch.Steps {
		if slices.ContainsFunc(ch.Steps[i].Fasteners, func(u hw.StepFasteners) bool { return u.Group == g.ID }) {
			out.Steps = append(out.Steps, ch.Steps[i].Does())
		}
	}
	return out
}
