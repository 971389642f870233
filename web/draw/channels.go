package draw

import (
	"math"

	"yembo/core/hw"
	"yembo/core/memory"
	"yembo/core/plan"
)

// Channels draws memory channels as bars to one scale. Between two bars the
// interleaved part is a zip of teeth, one a GB.
type Channels struct {
	W, H  float64
	Bars  []channelBar
	Teeth []float64 // x of each tooth
	Y1    float64
	Y2    float64
	Text  string
	Off   []barPart // memory whose channel is not yet known
	OffY  float64
}

type channelBar struct {
	Letter string
	Y      float64
	Parts  []barPart
	Total  string
	TotalX float64
}

type barPart struct {
	X, W     float64
	Label    string
	Soldered bool
	New      bool
	Narrow   bool
}

// Mid is the middle of a part, from its left edge.
func (p barPart) Mid() float64 { return p.W / 2 }

const (
	barX     = 18.0
	barRoom  = 130.0 // room for the longest bar
	barH     = 20.0
	barPitch = 30.0
	maxTeeth = 64
)

// BarScale is how many pixels a GB gets, so that the columns compare.
func BarScale(in plan.Input, p *plan.Plan, shown map[string]bool) float64 {
	longest := widestChannel(plan.Modules(in, nil))
	for i := range p.Options {
		if shown[p.Options[i].ID] {
			longest = math.Max(longest, widestChannel(plan.Modules(in, &p.Options[i])))
		}
	}
	if longest == 0 {
		return 5.4
	}
	return math.Min(5.4, barRoom/longest)
}

func widestChannel(mods []plan.ModuleAt) float64 {
	sums := map[string]float64{}
	widest := 0.0
	for _, m := range mods {
		letters := m.Channels
		if len(letters) == 0 {
			letters = []string{"?"}
		}
		for _, l := range letters {
			sums[l] += m.GB.Float() / float64(len(letters))
			widest = math.Max(widest, sums[l])
		}
	}
	return widest
}

// ChannelsOf draws modules on their channels. told is false where nobody said what sits
// in the sockets, so that a channel may have more than is drawn.
func ChannelsOf(ch *hw.Chassis, mods []plan.ModuleAt, scale float64, told bool) *Channels {
	n := memory.ChannelCount(ch.Mem())
	d := &Channels{W: 200}
	sums := make([]float64, n)
	for i := range n {
		d.Bars = append(d.Bars, channelBar{Letter: string(rune('A' + i)), Y: 2 + float64(i)*barPitch})
	}
	offX := barX
	d.OffY = 2 + float64(n)*barPitch
	for _, m := range mods {
		part := barPart{Label: m.GB.String(), Soldered: m.Soldered, New: m.New}
		if m.New {
			part.Label = "+" + part.Label
		}
		if len(m.Channels) == 0 {
			part.X, part.W = offX, m.GB.Float()*scale
			offX += part.W
			d.Off = append(d.Off, part)
			continue
		}
		share := m.GB.Float() / float64(len(m.Channels))
		for _, letter := range m.Channels {
			i := int(letter[0] - 'A')
			if i >= n {
				continue
			}
			own := part
			own.X, own.W = barX+sums[i]*scale, share*scale
			own.Narrow = own.W < 9*float64(len(own.Label))
			sums[i] += share
			d.Bars[i].Parts = append(d.Bars[i].Parts, own)
		}
	}
	for i := range d.Bars {
		d.Bars[i].TotalX = barX + sums[i]*scale + 6
		switch {
		case sums[i] == 0 && (!told || len(d.Off) > 0): // what lies on no known channel may lie on this one
			d.Bars[i].Total = "not known"
		case sums[i] == 0:
			d.Bars[i].Total = "empty"
		default:
			d.Bars[i].Total = gbFloat(sums[i])
		}
	}
	if n == 2 && len(d.Off) == 0 {
		both := math.Min(sums[0], sums[1])
		d.Y1, d.Y2 = d.Bars[0].Y+barH+1, d.Bars[1].Y-1
		if both > 0 && both <= maxTeeth {
			for gb := 0.5; gb < both; gb++ {
				d.Teeth = append(d.Teeth, barX+gb*scale)
			}
		}
	}
	d.H = 4 + float64(n)*barPitch
	if len(d.Off) > 0 {
		d.H += barPitch
	}
	for i := range d.Bars {
		if i > 0 {
			d.Text += ", "
		}
		d.Text += "channel " + d.Bars[i].Letter + " " + d.Bars[i].Total
	}
	return d
}

func gbFloat(gb float64) string {
	return hw.Dec(math.Round(gb*10)*100_000).String() + " GB"
}
