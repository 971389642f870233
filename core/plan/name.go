package plan

import (
	"strings"

	"yembo/core/hw"
)

// Key says what an option does in a form for addresses: "dimm2+corvane-16.m2a-". Unlike
// its number it stays the same when other options come or go.
func (o *Option) Key() string {
	var words []string
	for _, a := range o.Actions {
		switch a.Do {
		case DoKeep:
		case DoRemove:
			words = append(words, a.Place+"-")
		default:
			words = append(words, a.Place+"+"+a.Part)
		}
	}
	if len(words) == 0 {
		return strings.Join(o.Services, ".")
	}
	return strings.Join(words, ".")
}

// Words sums an option up for people: what comes in and out where, and the services that
// are done in the same opening. names are those of the parts by their ids; who words many options makes
// them once.
func (o *Option) Words(ch *hw.Chassis, names map[string]string) string {
	var words []string
	for _, a := range o.Actions {
		switch a.Do {
		case DoKeep:
		case DoRemove:
			words = append(words, a.Place+" out")
		default:
			name := names[a.Part]
			if name == "" {
				name = "a part that is no longer listed"
			}
			words = append(words, a.Place+": "+name)
		}
	}
	for _, id := range o.Services {
		words = append(words, ch.ServiceName(id))
	}
	return strings.Join(words, "; ")
}

// Short says of what an option falls short of the wish, and by how much: "memory 16 of
// 32 GB"; it is empty where the option meets everything.
func (o *Option) Short(goals hw.Goals) []string {
	var out []string
	for _, kind := range allKinds {
		if met, asked := kind.meets(&o.Meets).Get(); asked && !met {
			out = append(out, kind.falls(o, &goals))
		}
	}
	return out
}

// GoalSays is a goal of the formats as pages call it.
func GoalSays(goal string) string {
	for _, kind := range allKinds {
		if n := kind.names(); n.goal == goal {
			return n.says
		}
	}
	return goal
}
