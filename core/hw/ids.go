package hw

// IDs returns the ids of one of a record's lists, named as in its document without the
// first slash ("slots", "memory/sockets"); nil for a name that is no list of things.
func (ch *Chassis) IDs(list string) []string {
	switch list {
	case "memory/soldered":
		return idsOf(ch.Mem().Soldered, func(x *Soldered) string { return x.ID })
	case "memory/sockets":
		return idsOf(ch.Mem().Sockets, func(x *Socket) string { return x.ID })
	case "slots":
		return idsOf(ch.Slots, func(x *Slot) string { return x.ID })
	case "bays":
		return idsOf(ch.Bays, func(x *Bay) string { return x.ID })
	case "batteries":
		return idsOf(ch.Batteries, func(x *Battery) string { return x.ID })
	case "fasteners":
		return idsOf(ch.Fasteners, func(x *Fastener) string { return x.ID })
	case "steps":
		return idsOf(ch.Steps, func(x *Step) string { return x.ID })
	case "services":
		return idsOf(ch.Services, func(x *Service) string { return x.ID })
	case "shapes":
		return idsOf(ch.Shapes, func(x *Shape) string { return x.ID })
	case "suspected":
		return idsOf(ch.Suspected, func(x *Suspected) string { return x.ID })
	}
	return nil
}

func idsOf[T any](list []T, id func(*T) string) []string {
	out := make([]string, len(list))
	for i := range list {
		out[i] = id(&list[i])
	}
	return out
}
