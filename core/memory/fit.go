package memory

import (
	"fmt"
	"strings"

	"yembo/core/hw"
)

// NoSocket is the verdict for any module in a machine with no socket, or where
// nobody knows the sockets. ok is false when there are sockets to try.
func NoSocket(mem *hw.Memory) (hw.Verdict, bool) {
	if mem.Sockets == nil {
		v := hw.Unknown("chassis:/memory/sockets", "not recorded whether this model has memory sockets")
		v.Place = "memory"
		return v, true
	}
	if len(mem.Sockets) == 0 {
		v := hw.Refuse(hw.CodeMemorySoldered, "this model has no memory socket: all its memory is soldered")
		v.Place = "memory"
		return v, true
	}
	return hw.Verdict{}, false
}

// Stays is the memory that stays in the machine beside a module, in GB.
type Stays struct {
	Soldered hw.Dec // in all
	Kept     hw.Dec // the modules in the other sockets that are to be left as they are
}

// and is the arithmetic of a module beside what stays.
func (s Stays) and(gb hw.Dec) string {
	var terms []string
	if s.Soldered > 0 {
		terms = append(terms, fmt.Sprintf("%s GB soldered", s.Soldered))
	}
	if s.Kept > 0 {
		terms = append(terms, fmt.Sprintf("%s GB that stay", s.Kept))
	}
	if terms == nil {
		return fmt.Sprintf("%s GB alone", gb)
	}
	return fmt.Sprintf("%s + %s GB = %s GB", strings.Join(terms, " + "), gb, s.Soldered+s.Kept+gb)
}

// Fit checks one module in one socket, in the order of docs/rules.md. The limit is
// compared with what stays + this module. part is the module's index in the parts list.
func Fit(ch *hw.Chassis, stays Stays, socket int, mod *hw.Module, part int, limit Limit,
	largest LargestModule) hw.Verdict {
	s := &ch.Memory.Sockets[socket]
	v := fit(ch, stays, socket, mod, part, limit, largest)
	v.Place = s.ID
	if v.Code == hw.CodeUnknown && strings.HasPrefix(v.Fact, "chassis:") && !inDocuments[v.Fact] {
		v.Step = s.Reach
	}
	return v
}

func fit(ch *hw.Chassis, stays Stays, socket int, mod *hw.Module, part int, limit Limit,
	largest LargestModule) hw.Verdict {
	mem := ch.Memory
	s := &mem.Sockets[socket]
	at := hw.Where{PartIndex: part, Body: "memory"}
	if mod.Form == "" {
		return hw.Unknown(at.Part("form"), "the form of this module is not known; the socket takes %s", s.Form)
	}
	if mod.Form != s.Form {
		return hw.Refuse(hw.CodeMemoryForm, "the module is a %s; the socket takes %s", mod.Form, s.Form)
	}
	kind, ok := mem.Type.Get()
	if !ok {
		return hw.Unknown("chassis:/memory/type", "the memory generation of this model is not known")
	}
	if mod.Type == "" {
		return hw.Unknown(at.Part("type"), "the generation of this module is not known; the socket takes %s", kind)
	}
	if !TypeEnters(mod.Type, kind) {
		text := fmt.Sprintf("a %s module; the socket takes %s", mod.Type, kind)
		if mod.Type == "DDR3" && kind == "DDR3L" {
			text += ": 1.5 V never into a 1.35 V socket"
		}
		return hw.Verdict{Code: hw.CodeMemoryType, Text: text}
	}
	if v := special(mem, mod); !v.Fits() {
		return v
	}
	gb, sized := mod.Capacity.Get()
	if !sized {
		return hw.Unknown(at.Part("capacity_gb"), "the capacity of this module is not known")
	}
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
		return hw.Refuse(hw.CodeMemoryOverSocket, "%s GB; the socket holds %s GB at most", gb, most)
	}
	ceiling, ok := limit.GB.Get()
	if !ok {
		return hw.Unknown(UnknownLimitFact,
			"how much memory this model takes in all is not known: the maker's or the controller's document tells it")
	}
	if sum := stays.Soldered + stays.Kept + gb; sum > ceiling {
		return hw.Refuse(hw.CodeMemoryOverLimit, "%s; %s is %s GB", stays.and(gb), limit.Words(), ceiling)
	}
	return hw.Verdict{Defaulted: defaulted}
}

// inDocuments are the facts that a document tells and no opening does.
var inDocuments = map[string]bool{UnknownLimitFact: true, eccFact: true, clockedFact: true}

const (
	eccFact     = "chassis:/memory/ecc"
	clockedFact = "chassis:/memory/clocked"
)

// special checks error correction and clocked modules; a module of which neither is told has neither.
func special(mem *hw.Memory, mod *hw.Module) hw.Verdict {
	ecc := mem.ECC.Or("")
	switch with := mod.ECC.Or(false); {
	case with && ecc == "":
		return hw.Unknown(eccFact, "whether this model takes modules with error correction is not known")
	case with && ecc == hw.ECCNone:
		return hw.Refuse(hw.CodeMemoryECC, "a module with error correction; this model takes none")
	case !with && ecc == hw.ECCRequired:
		return hw.Refuse(hw.CodeMemoryECC, "a module without error correction; this model takes no other than those with it")
	}
	if !mod.Clocked.Or(false) {
		return hw.Verdict{}
	}
	switch mem.Clocked.Or("") {
	case "":
		return hw.Unknown(clockedFact, "whether this model takes modules with a clock driver is not known")
	case hw.ClockedNone:
		return hw.Refuse(hw.CodeMemoryClocked, "a module with a clock driver; this model takes none")
	case hw.ClockedSupported: // it takes them
	}
	return hw.Verdict{}
}

// TypeEnters reports whether a module of one generation works in a machine of
// another. DDR3L goes into DDR3 sockets too; DDR3 (1.5 V) never into DDR3L ones.
func TypeEnters(module, machine hw.MemoryType) bool {
	return module == machine || (module == "DDR3L" && machine == "DDR3")
}

// Words names the limit for a sentence.
func (l Limit) Words() string {
	if l.Unreachable {
		return "what the sockets can hold"
	}
	switch l.From {
	case ByMaker:
		return "the maker's limit"
	case ByProof:
		return "the proven limit"
	case ByController:
		return "the controller's limit"
	case BySockets:
		return "what the sockets take"
	case Inferred:
		return "the limit inferred from what runs in it now"
	case ByNobody: // they change nothing here
	}
	return "no limit"
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

// Paired reports whether a set of modules is allowed under a pairing practice
// ("" is any). kept are the modules that stay, added the new ones; pieces of one part are
// the same module.
//
//	equal      all modules in sockets have one capacity and one speed
//	match      every module has the capacity, speed and ranks of each kept one;
//	           where none is kept, the new ones equal one another
//	identical  as match, and of the same maker and part number
//
// What is not known matches nothing, except on a module standing alone and between pieces
// of one part.
func Paired(practice hw.Pairing, kept, added []*hw.Module) bool {
	if practice == hw.PairEqual {
		all := append(append([]*hw.Module{}, kept...), added...)
		return allAlike(all, all, Equal)
	}
	alike := Matches
	switch practice {
	case hw.PairMatch:
	case hw.PairIdentical:
		alike = Identical
	case hw.PairAny, hw.PairEqual:
		return true
	}
	against := kept
	if len(kept) == 0 {
		against = added
	}
	return allAlike(against, added, alike)
}

// Equal reports whether two modules have one capacity and one speed, both known.
func Equal(a, b *hw.Module) bool {
	return hw.MaybeEqual(a.Capacity, b.Capacity) && hw.MaybeEqual(a.Speed, b.Speed)
}

// Matches reports whether two modules are equal and have the same ranks.
func Matches(a, b *hw.Module) bool { return Equal(a, b) && hw.MaybeEqual(a.Ranks, b.Ranks) }

// Identical reports whether two modules match and are of one maker and part number.
func Identical(a, b *hw.Module) bool {
	return Matches(a, b) && a.Maker != "" && a.Maker == b.Maker && a.PartNumber != "" && a.PartNumber == b.PartNumber
}

// allAlike compares every module of a with every other one of b.
func allAlike(a, b []*hw.Module, alike func(a, b *hw.Module) bool) bool {
	for _, x := range a {
		for _, y := range b {
			if x != y && !alike(x, y) {
				return false
			}
		}
	}
	return true
}
