package plan

import (
	"yembo/core/hw"
	"yembo/core/teardown"
)

// JobOf is the machine as an option finds and leaves it, for its run sheet, and the
// option's targets: the places it changes in the order of its actions, then its services.
func JobOf(ch *hw.Chassis, m *hw.Machine, o *Option) (job teardown.Job, targets []string) {
	is := teardown.InsideOf(ch, m)
	job = teardown.Job{Is: is, Ends: is, Planned: true}
	for _, a := range o.Actions {
		switch {
		case a.Do == DoKeep:
			continue
		case a.Do == DoRemove:
			job.Ends = job.Ends.Emptied(a.Place)
		case a.Place == hw.BatteryPlace && o.Battery != nil:
			job.Ends = job.Ends.WithPack(o.Battery.Option)
		default:
			job.Ends = job.Ends.Filled(a.Place)
		}
		targets = append(targets, a.Place)
	}
	return job, append(targets, o.Services...)
}
