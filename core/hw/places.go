package hw

import "strings"

// BatteryPlace is the name of the one place that holds a pack.
const BatteryPlace = "battery"

// SlotByID, BayByID and the like return the index of a thing, -1 when there is none.
func (c *Chassis) SlotByID(id string) int {
	for i := range c.Slots {
		if c.Slots[i].ID == id {
			return i
		}
	}
	return -1
}

// BayByID returns the index of a bay, -1 when there is none.
func (c *Chassis) BayByID(id string) int {
	for i := range c.Bays {
		if c.Bays[i].ID == id {
			return i
		}
	}
	return -1
}

// SocketByID returns the index of a socket, -1 when there is none.
func (c *Chassis) SocketByID(id string) int {
	for i := range c.Mem().Sockets {
		if c.Memory.Sockets[i].ID == id {
			return i
		}
	}
	return -1
}

// BatteryByID returns the index of a pack, -1 when there is none.
func (c *Chassis) BatteryByID(id string) int {
	for i := range c.Batteries {
		if c.Batteries[i].ID == id {
			return i
		}
	}
	return -1
}

// StepByID returns the index of a step, -1 when there is none.
func (c *Chassis) StepByID(id string) int {
	for i := range c.Steps {
		if c.Steps[i].ID == id {
			return i
		}
	}
	return -1
}

// ServiceByID returns the index of a service, -1 when there is none.
func (c *Chassis) ServiceByID(id string) int {
	for i := range c.Services {
		if c.Services[i].ID == id {
			return i
		}
	}
	return -1
}

// FastenerByID returns the index of a screw group, -1 when there is none.
func (c *Chassis) FastenerByID(id string) int {
	for i := range c.Fasteners {
		if c.Fasteners[i].ID == id {
			return i
		}
	}
	return -1
}

// ReachOf returns the step after which a place, the battery or a service can be
// worked on, and whether there is such a place. The step is "" when not known.
func (c *Chassis) ReachOf(place string) (step string, exists bool) {
	if place == BatteryPlace {
		return c.BatteryReach, len(c.Batteries) > 0 || c.BatteryReach != "" || c.Batteries == nil
	}
	if i := c.SocketByID(place); i >= 0 {
		return c.Memory.Sockets[i].Reach, true
	}
	if i := c.SlotByID(place); i >= 0 {
		return c.Slots[i].Reach, true
	}
	if i := c.BayByID(place); i >= 0 {
		return c.Bays[i].Reach, true
	}
	if i := c.ServiceByID(place); i >= 0 {
		return c.Services[i].Reach, true
	}
	return "", false
}

// Excluded reports whether the two names (place ids or battery:ID) cannot be used
// together. The record holds both ways, whichever side states it.
func (c *Chassis) Excluded(a, b string) bool {
	return names(c.excludesOf(a), b) || names(c.excludesOf(b), a)
}

func (c *Chassis) excludesOf(name string) []string {
	if id, ok := strings.CutPrefix(name, "battery:"); ok {
		if i := c.BatteryByID(id); i >= 0 {
			return c.Batteries[i].Excludes
		}
		return nil
	}
	if i := c.SlotByID(name); i >= 0 {
		return c.Slots[i].Excludes
	}
	if i := c.BayByID(name); i >= 0 {
		return c.Bays[i].Excludes
	}
	return nil
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
