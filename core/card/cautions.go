package card

import "yembo/core/hw"

// Cautions are the usual ones at the bench (docs/rules.md, The way in), with those of the pack
// where there is one.
func Cautions(ch *hw.Chassis) []string {
	out := []string{
		"Power off and charger out before a screw is turned.",
		"Earthed wrist strap or mat, or touch bare earthed metal first. Boards by their edges.",
		"Plastic pry tools, shallow and slow. Plugs by their bodies. Never force: a part that will not move has one " +
			"more screw or clip.",
		"A cracked screen, a damp machine, a smell or heat stops the job.",
	}
	if ch.Batteries == nil || len(ch.Batteries) > 0 {
		out = append(out, "Look at the pack before it is unplugged. Swollen, dented, hot or leaking: stop. Do not "+
			"charge, press or pry it; move it away from anything that burns and follow local rules and the shop's "+
			"fire plan.")
	}
	return append(out, "Local electrical, battery and waste rules, and the maker's service sheet, come before this "+
		"card. Mains-side and cell-level work belongs to licensed people.")
}
