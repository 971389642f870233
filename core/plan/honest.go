package plan

import (
	"fmt"

	"yembo/core/hw"
	"yembo/core/wireless"
)

// Honest says what comes before any option that costs money: what gains nothing, and what
// is not known until something is opened.
func Honest(in Input, p *Plan) []string {
	var out []string
	ch, m := in.Chassis, in.Machine
	if want, ok := in.Request.Goals.Wireless.Get(); ok {
		if ap, told := in.Request.Practice.AccessPoint.Get(); told && wireless.Rank(ap) < wireless.Rank(want) {
			out = append(out, fmt.Sprintf("%s has %s: a card with %s gains nothing until it is changed.", "T"+in.accessPoint()[1:],
				hw.Standards.Says(ap), hw.Standards.Says(want)))
		}
	}
	for i := range m.Fitted.Drives {
		f := &m.Fitted.Drives[i]
		if k := ch.SlotByID(f.Place); k >= 0 {
			s := &ch.Slots[k]
			slot, okS := s.Gen.Get()
			drive, okD := f.Drive.Gen.Get()
			if okS && okD && f.Drive.Interface == hw.NVMe && drive >= slot && in.Request.Goals.StorageGB.IsKnown() {
				out = append(out, fmt.Sprintf("A newer generation than %d gains nothing in %s: the slot itself is "+
					"generation %d.", slot, s.ID, slot))
			}
		}
		used, okU := f.UsedGB.Get()
		size, okG := f.Drive.Capacity.Get()
		if okU && okG && size > 0 && in.Request.Goals.StorageGB.IsKnown() {
			words := fmt.Sprintf("The drive in %s is %d %% full", f.Place, used*100/size)
			if grows, ok := m.Usage.DiskGrowth.Get(); ok && grows > 0 && size > used {
				words += fmt.Sprintf(" and fills by %s GB a month: full in %d months", grows, (size-used)/grows)
			}
			out = append(out, words+".")
		}
	}
	said := map[string]bool{}
	for _, r := range p.Rejected {
		if r.Code != "unknown" || r.Step == "" || said[r.Step+r.Place] {
			continue
		}
		said[r.Step+r.Place] = true
		if i := ch.StepByID(r.Step); i >= 0 && len(said) <= 3 {
			out = append(out, fmt.Sprintf("Not known of %s until this is done: %s.", r.Place,
				hw.LowerFirst(ch.Steps[i].Does())))
		}
	}
	return out
}

// Words says how much memory there is and how it lies on its channels: "32 GB, all
// interleaved".
func (m *MemoryState) Words() string {
	if m == nil {
		return "not known"
	}
	line := m.TotalGB.String() + " GB"
	switch m.Mode.Or("") {
	case "dual":
		return line + ", all interleaved"
	case "asymmetric":
		return line + fmt.Sprintf(", %s interleaved, %s single", m.Interleaved.Or(0), m.Single.Or(0))
	case "single":
		return line + ", single-channel"
	}
	return line + ", channels not yet known"
}
