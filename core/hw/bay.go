package hw

// Says is what goes into a bay of a form, in words.
func (f DriveForm) Says() string { return DriveForms.Says(f) + " drive" }

// Size is the usual size of what goes into a bay of a form, as seen from below, in mm; a
// maker's own form is drawn as a 2.5-inch one.
func (f DriveForm) Size() (width, depth float64) {
	if f == FormOptical {
		return 128, 126
	}
	return 100, 70
}

// Words says a bay line by line: its height, how a drive plugs in, and for an optical bay
// what a caddy makes of it.
func (b *Bay) Words() []string {
	height := "height not yet known"
	if mm, ok := b.Height.Get(); ok {
		height = mm.String() + " mm high"
	}
	out := []string{height, "connector not yet known"}
	if how, known := b.Connector.Get(); known {
		out[1] = heldAs(how, "connector fitted", "nothing to plug into")
	}
	if b.Form != FormOptical {
		return out
	}
	caddy, known := b.Caddy.Get()
	if !known {
		return append(out, "2.5-inch: not yet known")
	}
	return append(out, heldAs(caddy, "2.5-inch in its caddy", "optical drives alone", "2.5-inch with ", ""))
}

// heldAs words how a connector or a caddy is held; around stands before and behind the name
// of an accessory that is needed.
func heldAs(how, fitted, none string, around ...string) string {
	name, needed := Needs(how)
	switch {
	case needed && len(around) == 2:
		return around[0] + name + around[1]
	case needed:
		return "needs " + name
	case how == HeldFitted:
		return fitted
	}
	return none
}
