package memory

import (
	"fmt"

	"yembo/core/hw"
)

// Codes of the memory checks, in their order.
const (
	CodeSolderedOnly = "memory.soldered_only"
	CodeForm         = "memory.form"
	CodeType         = "memory.type"
	CodeOverSocket   = "memory.over_socket"
	CodeOverLimit    = "memory.over_limit"
	CodePairing      = "memory.pairing"
)

// Codes of warnings and notes.
const (
	CodeMixed       = "memory.mixed"
	CodeAsymmetric  = "memory.asymmetric"
	CodeSlower      = "memory.slower"
	CodeUnreachable = "memory.limit_unreachable"
	CodeMoreThan    = "memory.more_than_needed"
	CodeBeyond      = "memory.beyond_maker"
)

// NoSocket is the verdict for any module in a machine with no socket, or where
// nobody knows the sockets. ok is false when there are sockets to try.
func NoSocket(mem *hw.Memory) (hw.Verdict, bool) {
	if mem.Sockets == nil {
		v := hw.Unknown("chassis:/memory/sockets", "nobody has recorded whether this model has memory sockets")
		v.Place = "memory"
		return v, true
	}
	if len(mem.Sockets) == 0 {
		v := hw.Refuse(CodeSolderedOnly, "this model has no memory socket: all its memory is soldered")
		v.Place = "memory"
		return v, true
	}
	return hw.Verdict{}, false
}

// Fit checks one module in one socket, in the order of the handbook. The limit is
// compared with soldered (the machine's, in all) + this module alone.
func Fit(ch *hw.Chassis, soldered hw.Dec, socket int, mod *hw.Module, limit Limit, largest LargestModule) hw.Verdict {
	s := &ch.Memory.Sockets[socket]
	v := fit(ch, soldered, socket, mod, limit, largest)
	v.Place = s.ID
	if v.Code == hw.CodeUnknown && v.Step == "" && v.Fact != "" && v.Fact[0] == 'c' {
		v.Step = s.Reach
	}
	return v
}

func fit(ch *hw.Chassis, soldered hw.Dec, socket int, mod *hw.Module, limit Limit, largest LargestModule) hw.Verdict {
	mem := ch.Memory
	s := &mem.Sockets[socket]
	if mod.Form != s.Form {
		return hw.Refuse(CodeForm, "the module is a %s; the socket takes %s", mod.Form, s.Form)
	}
	kind, ok := mem.Type.Get()
	if !ok {
		return hw.Unknown("chassis:/memory/type", "the memory generation of this model is not known")
	}
	if !TypeEnters(mod.Type, kind) {
		text := fmt.Sprintf("a %s module; the socket takes %s", mod.Type, kind)
		if mod.Type == "DDR3" && kind == "DDR3L" {
			text += ": 1.5 V never into a 1.35 V socket"
		}
		return hw.Verdict{Code: CodeType, Text: text}
	}
	gb, _ := mod.Capacity.Get()
	most, ok := s.MaxModule.Get()
	var defaulted []string
	if !ok {
		at := fmt.Sprintf("/memory/sockets/%d/max_module_gb", socket)
		if most, ok = largest.row(s.Form, kind); !ok {
			return hw.Unknown("chassis:"+at, "the largest module that the socket takes is not known")
		}
		defaulted = append(defaulted, at)
	}
	if gb > most {
		return hw.Refuse(CodeOverSocket, "%s GB; the socket holds %s GB at most", gb, most)
	}
	ceiling, ok := limit.GB.Get()
	if !ok {
		return hw.Unknown("chassis:"+limit.Path, "how much memory this model takes in all is not known (%s)", limitName(limit.Path))
	}
	if soldered+gb > ceiling {
		if soldered > 0 {
			return hw.Refuse(CodeOverLimit, "%s GB soldered + %s GB = %s GB; %s is %s GB", soldered, gb, soldered+gb, LimitWords(limit), ceiling)
		}
		return hw.Refuse(CodeOverLimit, "%s GB alone; %s is %s GB", gb, LimitWords(limit), ceiling)
	}
	return hw.Verdict{Defaulted: defaulted}
}

// TypeEnters reports whether a module of one generation works in a machine of
// another. DDR3L goes into DDR3 sockets too; DDR3 (1.5 V) never into DDR3L ones.
func TypeEnters(module, machine string) bool {
	return module == machine || (module == "DDR3L" && machine == "DDR3")
}

func limitName(path string) string {
	switch path {
	case limits + "maker_gb":
		return "the maker's limit"
	case limits + "proven_gb":
		return "the proven limit"
	}
	return "the controller's limit"
}

// LimitWords names the limit for a sentence.
func LimitWords(l Limit) string {
	if l.Unreachable {
		return "what the sockets can hold"
	}
	return limitName(l.Path)
}

// Mixed reports whether modules in sockets differ in capacity, speed or ranks. A
// figure that nobody knows is not called different.
func Mixed(sticks []Stick) bool {
	for i := range sticks {
		for j := range i {
			if !sticks[i].Soldered && !sticks[j].Soldered && Differ(&sticks[i].Module, &sticks[j].Module) {
				return true
			}
		}
	}
	return false
}

// Differ reports whether two modules differ in capacity, speed or ranks.
func Differ(a, b *hw.Module) bool {
	return differ(a.Capacity, b.Capacity) || differ(a.Speed, b.Speed) || differ(a.Ranks, b.Ranks)
}

func differ[T comparable](a, b hw.Maybe[T]) bool {
	x, okX := a.Get()
	y, okY := b.Get()
	return okX && okY && x != y
}

// Pairings of the practice.
const (
	PairAny   = "any"
	PairEqual = "equal"
	PairMatch = "match"
)

// Paired reports whether a set of modules is allowed under a pairing practice
// ("" is any). kept are the modules that stay, added the new ones.
//
//	equal  all modules in sockets have one capacity and one speed
//	match  every module has the capacity, speed and ranks of each kept one;
//	       where none is kept, the new ones equal one another
//
// A figure that is not known matches nothing, except on a module standing alone.
func Paired(practice string, kept, added []*hw.Module) bool {
	switch practice {
	case PairEqual:
		all := append(append([]*hw.Module{}, kept...), added...)
		return allAlike(all, all, false)
	case PairMatch:
		against := kept
		if len(kept) == 0 {
			against = added
		}
		return allAlike(against, added, true)
	}
	return true
}

// allAlike compares every module of a with every other one of b.
func allAlike(a, b []*hw.Module, ranks bool) bool {
	for _, x := range a {
		for _, y := range b {
			if x == y {
				continue
			}
			if !hw.MaybeEqual(x.Capacity, y.Capacity) || !hw.MaybeEqual(x.Speed, y.Speed) {
				return false
			}
			if ranks && !hw.MaybeEqual(x.Ranks, y.Ranks) {
				return false
			}
		}
	}
	return true
}
