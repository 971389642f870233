package plan

import (
	"fmt"
	"runtime"
	"slices"
	"sort"
	"strconv"
	"strings"
	"sync"

	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/core/teardown"
)

// fewOptions are those that one hand writes out faster than several share them.
const fewOptions = 64

// writeOptions writes out what was kept, in its order, with as many hands as there are processors.
func (s *search) writeOptions(kept []found) []Option {
	out := make([]Option, len(kept))
	hands := max(1, min(runtime.GOMAXPROCS(0), len(kept)/fewOptions))
	var done sync.WaitGroup
	for h := range hands {
		own := s
		if h > 0 {
			own = s.hand()
		}
		done.Go(func() {
			for i := h * len(kept) / hands; i < (h+1)*len(kept)/hands; i++ {
				out[i] = own.option(&kept[i], i)
			}
		})
	}
	done.Wait()
	return out
}

// option writes out one kept combination in full.
func (s *search) option(f *found, number int) Option {
	open := s.opened(f)
	o := Option{ID: "o" + strconv.Itoa(number+1), Buy: []Buy{}, Missing: []string{}, Warnings: []Warning{},
		Consents: []hw.Consent{}}
	o.Meets, o.MeetsAll = s.meetsOf(f)
	o.PartsCents, o.LabourCents, o.TotalCents = f.partsC, open.labour, f.total
	for _, i := range s.service {
		o.Services = append(o.Services, s.ch.Services[i].ID)
	}
	if len(s.service) > 0 {
		o.ServicesCents = hw.Known(s.servicesCents)
	}
	o.Minutes = open.minutes.Shown()
	s.actions(&o, f)
	flags := open.flags | s.buy(&o, f) | s.states(&o, f)
	s.checksWarn(&o, f)
	s.wayWarns(&o, f)
	for k := range kinds {
		flags |= f.parts[k].flags
	}
	if s.accessories(f.needs()).pulled {
		flags |= fPulled
	}
	s.risk(&o, f, flags, open.down)
	return o
}

func (s *search) meetsOf(f *found) (Meets, bool) {
	var m Meets
	all := !f.missing
	for k, kind := range allKinds {
		if s.named[k] {
			*kind.meets(&m) = hw.Known(f.met[k])
			all = all && f.met[k]
		}
	}
	return m, all
}

func (s *search) actions(o *Option, f *found) {
	o.Actions = make([]Action, 0, len(s.places))
	for i := range s.places {
		p := &s.places[i]
		c := s.choiceAt(f, i)
		if p.kind != kNone && s.untold[p.kind] && c == unchanged && !(p.kind == kBattery && p.occupied) {
			continue
		}
		a := Action{Place: p.id}
		switch {
		case c == unchanged && p.occupied:
			a.Do = DoKeep
		case c == unchanged:
			continue
		case c == remove:
			a.Do, a.Out = DoRemove, p.sits
		case p.occupied:
			a.Do, a.Part, a.Out = DoReplace, s.parts[c].ID, p.sits
		default:
			a.Do, a.Part = DoAdd, s.parts[c].ID
		}
		o.Actions = append(o.Actions, a)
	}
}

// counted adds pieces of a part to a list of few.
func counted(list []purchase, part, n int) []purchase {
	for i := range list {
		if list[i].part == part {
			list[i].n += n
			return list
		}
	}
	return append(list, purchase{part, n})
}

// buy lists what is bought, in the order of the parts document, and when it is here; it
// returns the flag of what the customer brings.
func (s *search) buy(o *Option, f *found) (flags uint32) {
	pieces, bought := make([]purchase, 0, 16), make([]purchase, 0, 16) // by part, few of them
	for k := range kinds {
		for _, c := range f.parts[k].choice {
			if c < remove {
				pieces = counted(pieces, int(c), 1)
			}
		}
	}
	for _, x := range pieces {
		bought = counted(bought, x.part, s.parts[x.part].Purchases(x.n))
	}
	n := f.needs()
	for i, name := range s.needNames {
		if n[i] == 0 {
			continue
		}
		got := s.supplied(name, int(n[i]))
		if got.missing {
			o.Missing = append(o.Missing, name)
		}
		for _, x := range got.buy {
			bought = counted(bought, x.part, x.n)
		}
	}
	sort.Strings(o.Missing)
	slices.SortFunc(bought, func(a, b purchase) int { return a.part - b.part })
	days := int32(0)
	o.Buy = make([]Buy, 0, len(bought))
	for _, x := range bought {
		p, q := &s.parts[x.part], x.n
		o.Buy = append(o.Buy, Buy{p.ID, q, int64(q) * p.PriceCents})
		days = max(days, s.daysFor(p, q*p.Pieces()))
		if p.Brought() {
			flags |= fCustomer
		}
	}
	if days != late {
		o.ReadyInDays = hw.Known(int(days))
	}
	return flags
}

// after is what one kind's part of an option leaves in the machine, with the warnings that
// follow and the flags that only the finished state shows. Options share their parts, so
// that each is worked out once.
type after struct {
	flags     uint32
	warnings  []Warning
	memory    *MemoryState
	storage   *StorageState
	battery   *BatteryState
	wireless  *WirelessState
	migration *Migration
}

func (a *after) warn(code hw.Code, place, format string, args ...any) {
	a.warnings = append(a.warnings, Warning{code, place, fmt.Sprintf(format, args...)})
}

// writeTo puts what is left of the kind into an option.
func (a *after) writeTo(o *Option) {
	if a.memory != nil {
		o.Memory = a.memory
	}
	if a.storage != nil {
		o.Storage, o.Migration = a.storage, a.migration
	}
	if a.battery != nil {
		o.Battery = a.battery
	}
	if a.wireless != nil {
		o.Wireless = a.wireless
	}
	o.Warnings = append(o.Warnings, a.warnings...)
}

// states fills what the machine has afterwards, and the warnings that follow; it
// returns flags that only the finished state shows.
func (s *search) states(o *Option, f *found) uint32 {
	var flags uint32
	for k, kind := range allKinds {
		a, seen := s.afters[f.parts[k]]
		if !seen {
			a = &after{}
			kind.after(s, a, f)
			s.afters[f.parts[k]] = a
		}
		flags |= a.flags
		a.writeTo(o)
	}
	return flags
}

// risk fills points, reasons and consents in the order of table 10.
func (s *search) risk(o *Option, f *found, flags uint32, down []bool) {
	facts := s.factsUsed(f.changed, f.pack(), down)
	asked := make([]hw.Consent, 0, 8)
	if s.dataAtStake(f) || s.locksData() {
		asked = append(asked, hw.ConsentData)
	}
	o.Risk.Reasons = make([]Reason, 0, 4)
	add := func(row hw.CodeRow, fact string) {
		o.Risk.Reasons = append(o.Risk.Reasons, Reason{row.Code, row.Points, fact})
		o.Risk.Points += row.Points
		asked = append(asked, row.Consent)
	}
	for i, row := range risks {
		switch {
		case flags&riskFlags[i] != 0:
			add(row, "")
		case row.Code == hw.CodeFactAssumed:
			for i := range facts {
				if evidence.Weak(facts[i].InForce.Source) {
					add(row, facts[i].Path)
				}
			}
		case row.Code == hw.CodeFactDisputed:
			for i := range facts {
				if facts[i].Disputed {
					add(row, facts[i].Path)
				}
			}
		}
	}
	for _, row := range hw.Consents {
		if slices.Contains(asked, row.Consent) {
			o.Consents = append(o.Consents, row.Consent)
		}
	}
}

// wayWarns warns, once an option, where nobody recorded the way to something that it changes.
func (s *search) wayWarns(o *Option, f *found) {
	var places []string
	for i := range s.places {
		if f.changed&(1<<i) != 0 && s.places[i].way == teardown.NotRecorded {
			places = append(places, s.places[i].id)
		}
	}
	if places != nil {
		o.Warnings = append(o.Warnings, Warning{hw.CodeNoReach, places[0], "which step gives access to " +
			strings.Join(places, ", ") + " is not recorded: reckoned with every step that does not take the main board out"})
	}
}

// locksData reports whether a service that is asked for changes what an encrypted drive is locked to.
func (s *search) locksData() bool {
	changes := slices.ContainsFunc(s.service, func(i int) bool { return s.ch.Services[i].ChangesSecurity.Or(false) })
	return changes && slices.ContainsFunc(s.m.Fitted.Drives, func(d hw.FittedDrive) bool { return d.Encrypted.Or(false) })
}
