package hw

import "strings"

// BatteryPlace is the name of the one place that holds a pack.
const BatteryPlace = "battery"

// indexOf returns the index of the entry with an id, -1 when there is none.
func indexOf[T any](list []T, id string, idOf func(*T) string) int {
	for i := range list {
		if idOf(&list[i]) == id {
			return i
		}
	}
	return -1
}

// SlotByID returns the index of a slot, -1 when there is none. The others below do
// the same for their lists.
func (c *Chassis) SlotByID(id string) int {
	return indexOf(c.Slots, id, func(s *Slot) string { return s.ID })
}

// BayByID returns the index of a bay.
func (c *Chassis) BayByID(id string) int {
	return indexOf(c.Bays, id, func(b *Bay) string { return b.ID })
}

// SocketByID returns the index of a socket.
func (c *Chassis) SocketByID(id string) int {
	return indexOf(c.Mem().Sockets, id, func(s *Socket) string { return s.ID })
}

// BatteryByID returns the index of a pack.
func (c *Chassis) BatteryByID(id string) int {
	return indexOf(c.Batteries, id, func(b *Battery) string { return b.ID })
}

// StepByID returns the index of a step.
func (c *Chassis) StepByID(id string) int {
	return indexOf(c.Steps, id, func(s *Step) string { return s.ID })
}

// ServiceByID returns the index of a service.
func (c *Chassis) ServiceByID(id string) int {
	return indexOf(c.Services, id, func(s *Service) string { return s.ID })
}

// FastenerByID returns the index of a screw group.
func (c *Chassis) FastenerByID(id string) int {
	return indexOf(c.Fasteners, id, func(f *Fastener) string { return f.ID })
}

// ReachOf returns the step after which a place, the battery or a service can be
// worked on, and whether there is such a place. The step is "" when not known.
func (c *Chassis) ReachOf(place string) (step string, exists bool) {
	if place == BatteryPlace {
		return c.BatteryReach, len(c.Batteries) > 0 || c.BatteryReach != "" || c.Batteries == nil
	}
	if p, ok := c.PlaceNamed(place); ok {
		return p.Reach, true
	}
	if i := c.ServiceByID(place); i >= 0 {
		return c.Services[i].Reach, true
	}
	return "", false
}

// Excluded reports whether the two names (place ids or battery:ID) cannot be used
// together. The record holds both ways, whichever side states it.
func (c *Chassis) Excluded(a, b string) bool {
	for _, p := range c.Places() {
		if p.Name == a && names(p.Excludes, b) || p.Name == b && names(p.Excludes, a) {
			return true
		}
	}
	return false
}

func names(list []string, want string) bool {
	for _, n := range list {
		if n == want {
			return true
		}
	}
	return false
}

// Needs splits "needs:bracket" into the accessory's name.
func Needs(how string) (accessory string, needed bool) {
	return strings.CutPrefix(how, "needs:")
}
