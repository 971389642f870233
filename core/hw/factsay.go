package hw

import "strings"

// FactSays names a fact for people by its path: "dimm1, largest module".
func FactSays(path string) string {
	thing, fact := FactOf(path)
	if thing == "" {
		return fact
	}
	if fact == "" {
		return thing
	}
	return thing + ", " + fact
}

// FactOf splits the path of a fact into the thing that it is of, "" for the model as a
// whole, and what is said of it.
func FactOf(path string) (thing, fact string) {
	words := strings.Split(strings.Trim(path, "/"), "/")
	fact = FieldSays(words[len(words)-1])
	switch {
	case len(words) == 1 || words[0] == "memory" && len(words) == 2 || len(words) >= 3 && words[1] == "limits":
		return "", fact
	case len(words) == 2:
		return words[1], ""
	case words[0] == "memory" && len(words) == 3:
		return words[2], ""
	case len(words) > 4 || words[0] != "memory" && len(words) > 3:
		// A value within a fact: where a thing lies, how a length is held.
		return words[len(words)-3], FieldSays(words[len(words)-2]) + " " + fact
	}
	return words[len(words)-2], fact
}

// FieldSays is a field of a record as pages call it.
func FieldSays(field string) string {
	if known, ok := factWords[field]; ok {
		return known
	}
	return strings.NewReplacer("_gb", "", "_mts", "", "_mm", "", "_wh", "", "_v", "", "_", " ").Replace(field)
}

// factWords are the names of facts whose field says it too shortly.
var factWords = map[string]string{"type": "memory type", "max_speed_mts": "platform speed",
	"channels": "memory channels", "ecc": "error correction", "clocked": "clocked modules", "maker_gb": "maker's memory limit",
	"controller_gb": "controller's memory limit", "proven_gb": "memory proven", "max_module_gb": "largest module",
	"pcie_gen": "PCIe generation", "max_top_mm": "room above",
	"max_bottom_mm": "room below", "protocols": "takes", "reach": "way in", "battery_reach": "way to the battery",
	"design_wh": "energy", "nominal_v": "volts", "series": "cells in series",
	"antennas": "antenna leads", "outline": "size of the base",
	"depth_mm": "depth", "width_mm": "width", "goals": "what is wanted",
	"slots": "M.2 slots", "bays": "drive bays",
	"batteries": "battery packs", "sockets": "memory sockets", "soldered": "soldered memory", "count": "how many",
	"at": "where it lies", "turn_deg": "turn", "x_mm": "left", "y_mm": "top", "w_mm": "width", "h_mm": "height",
	"fixing": "held by", "failing": "health by its own report", "length_mm": "length", "refuses": "refuses",
	"excludes": "not together with", "only_on": "only on", "hold_s": "holding the power button",
	"lead_mm": "connectors of its leads", "firmware_key": "key for the firmware's page", "firmware": "firmware from",
	"thickness_mm": "thickness"}

// valueWords are the tables that the values of a field come from.
var valueWords = map[string][]Term[string]{"protocols": Interfaces.Terms(), "interface": Interfaces.Terms(),
	"purpose": Purposes.Terms(), "verb": VerbWords().Terms(),
	"connector": Connectors.Terms(), "kind": Builds.Terms(), "quirks": Quirks.Terms(), "cautions": Cautions.Terms(),
	"ecc": ECCUses.Terms(), "clocked": ClockedUses.Terms(), "refuses": Refusals.Terms(), "cooling": Coolings.Terms(),
	"form": DriveForms.Terms(), "side": Sides.Terms(), "standard": Standards.Terms(), "from": FixingsFrom.Terms()}

// ValueSays is a value of a field as pages have it; what is no word of the formats stays.
func ValueSays(field, value string) string {
	for _, t := range valueWords[field] {
		if t.Word == value {
			return t.Says
		}
	}
	if name, needed := Needs(value); needed {
		return "needs " + strings.ReplaceAll(name, "-", " ")
	}
	if len(valueWords[field]) > 0 || value == NoHeader || value == CaddyNotUsed {
		return strings.ReplaceAll(value, "_", " ")
	}
	return value
}
