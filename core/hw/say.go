package hw

import "fmt"

// Words names a memory module: "8 GB DDR4-3200"; what is not known is left out.
func (m *Module) Words() string {
	words := "module"
	if gb, ok := m.Capacity.Get(); ok {
		words = gb.String() + " GB"
	}
	if m.Type != "" {
		words += " " + string(m.Type)
		if mts, ok := m.Speed.Get(); ok {
			words += fmt.Sprintf("-%d", mts)
		}
	}
	return words
}

// Words names a drive: "512 GB NVMe".
func (d *Drive) Words() string {
	if d.Form == FormOptical {
		return "optical drive"
	}
	words := "drive"
	if gb, ok := d.Capacity.Get(); ok {
		words = gb.String() + " GB"
	}
	if d.Interface != "" {
		words += " " + Interfaces.Says(d.Interface)
	}
	if d.Form != "" {
		words += " " + string(d.Form)
	}
	return words
}

// Named is how people call a step: "unscrew bottom cover".
func (s *Step) Named() string {
	if s.Part == "" {
		return s.Verb.Says()
	}
	return s.Verb.Says() + " " + s.Part
}

// Says is how people call a service.
func (s *Service) Says() string {
	if s.Name != "" {
		return s.Name
	}
	return s.ID
}
