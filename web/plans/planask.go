package plans

import (
	"context"
	"fmt"
	"strings"
	"yembo/shop/jobs"

	"yembo/core/hw"
	"yembo/core/label"
	"yembo/web/draw"
)

// askView is the answer to "why not this part?".
type askView struct {
	Asked string
	What  string // what was understood
	Rows  []askRow
	Note  string // why nothing can be said
}

type askRow struct {
	Place, Text, Says, Step string
	Fits, Unknown           bool
	Warnings                []string // what it brings with it, where it fits
}

// ask answers for a part of the shelf, by its id or name, or for a label typed by hand.
func ask(ctx context.Context, p *jobs.Planned, asked string) (*askView, error) {
	asked = strings.TrimSpace(asked)
	if asked == "" {
		return nil, nil
	}
	v := &askView{Asked: asked}
	part, what, err := partAsked(p.Parts, asked)
	if err != nil {
		v.Note = err.Error()
		return v, nil
	}
	v.What = what
	verdicts, err := p.Ask(ctx, part)
	if err != nil {
		return nil, err
	}
	for _, x := range verdicts {
		row := askRow{Place: x.Place, Text: x.Text, Says: x.Code.Row().Says, Fits: x.Fits(),
			Unknown: x.Severity() == hw.NotKnown}
		if row.Fits {
			row.Text = "fits"
		}
		for _, w := range x.Warnings {
			row.Warnings = append(row.Warnings, w.Text)
		}
		if i := p.Record.Chassis.StepByID(x.Step); x.Step != "" && i >= 0 {
			row.Step = draw.StepWords(p.Record.Chassis, &p.Record.Chassis.Steps[i])
		}
		v.Rows = append(v.Rows, row)
	}
	if len(v.Rows) == 0 {
		v.Note = "This kind of part goes into no place of its own."
	}
	return v, nil
}

// partAsked finds the part that is meant.
func partAsked(parts *hw.Parts, asked string) (hw.Part, string, error) {
	for i := range parts.Parts {
		if p := &parts.Parts[i]; p.ID == asked || strings.EqualFold(p.Name, asked) {
			return *p, p.Name, nil
		}
	}
	read, err := label.Decode(asked)
	if err != nil {
		return hw.Part{}, "", fmt.Errorf("no part of the shelf has this name, and it cannot be read as a label: %w",
			err)
	}
	part := hw.Part{ID: "asked", Kind: hw.KindMemory, Name: asked, Stock: hw.Known(1 << 20)}
	switch m := read.(type) {
	case *label.Memory:
		part.Memory = &hw.Module{Type: m.Type, Form: m.Form, Capacity: m.Capacity, Speed: m.SpeedMTs, Ranks: m.Ranks,
			Voltage: m.Voltage, ECC: m.ECC}
		return part, "A module: " + part.Memory.Words() + " " + string(m.Form), nil
	case *label.M2:
		// The code does not say what is spoken over the connector; two lanes with two
		// keys are SATA far more often than not.
		d := &hw.Drive{Interface: hw.NVMe, Length: hw.Known(m.Length), Top: m.Top, Bottom: m.Bottom,
			Capacity: hw.Known(hw.DecOf(1))}
		if len(m.Keys) > 0 {
			d.Key = hw.Known(strings.Join(m.Keys, "+"))
		}
		if len(m.Keys) == 2 {
			d.Interface = hw.SATA
		}
		part.Kind, part.Drive = hw.KindDrive, d
		return part, fmt.Sprintf("An M.2 drive, %d × %d mm, key %s; the code does not say which, so it is taken for %s",
			m.Width, m.Length, d.Key.Or("not known"), hw.Interfaces.Says(d.Interface)), nil
	}
	return hw.Part{}, "", fmt.Errorf("%q is read, but it is neither a module nor a drive", asked)
}

func positive(n int) hw.Maybe[int] {
	if n <= 0 {
		return hw.Maybe[int]{}
	}
	return hw.Known(n)
}
