package base

import (
	"fmt"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"yembo/core/hw"
	"yembo/store"
)

// Limits of what is told of the shop.
const (
	maxTechnicians  = 40
	maxTechnician   = 80 // characters of a name
	maxAddress      = 400
	maxAddressLines = 6
)

// NamesIn reads names that stand on lines of their own or with commas between; a name that stands
// twice counts once.
func NamesIn(text string) []string {
	var out []string
	for _, name := range strings.FieldsFunc(text, func(r rune) bool { return r == '\n' || r == '\r' || r == ',' || r == ';' }) {
		if name = strings.Join(strings.Fields(name), " "); name != "" && !slices.Contains(out, name) {
			out = append(out, name)
		}
	}
	return out
}

// Roles of people.
const (
	Owner      = "owner"
	Technician = "technician"
	Counter    = "counter"
)

// namesOfPeople are the names of who works here, and of those who may work at the benches: all but who is at the counter
// without that right, or has had it taken away.
func namesOfPeople(tx store.Tx) (names, atBench []string, err error) {
	all, err := tx.People()
	for i := range all {
		x := &all[i]
		if x.LeftAt != nil {
			continue
		}
		names = append(names, x.Name)
		words := strings.Fields(x.Rights)
		if x.Role == Owner || x.Role == Counter && slices.Contains(words, "+work") ||
			x.Role != Counter && !slices.Contains(words, "-work") {
			atBench = append(atBench, x.Name)
		}
	}
	return names, atBench, err
}

// putNames brings who works here in line with a list of names: who is new on it is a technician, the first of all the owner;
// who is not on it any more has left. Once somebody can sign in, people are changed where they are alone: a right to set prices
// is none to let people in.
func putNames(tx store.Tx, names []string, now time.Time) error {
	all, err := tx.People()
	if err != nil || slices.ContainsFunc(all, func(p store.Person) bool { return p.LeftAt == nil && p.Password != "" }) {
		return err
	}
	for i := range all {
		p := &all[i]
		on := slices.Contains(names, p.Name)
		if on == (p.LeftAt == nil) {
			continue
		}
		if p.LeftAt = nil; !on {
			p.LeftAt = &now
		}
		if err := tx.SavePerson(p); err != nil {
			return err
		}
	}
	owned := slices.ContainsFunc(all, func(p store.Person) bool { return p.Role == Owner && p.LeftAt == nil })
	for _, name := range names {
		if slices.ContainsFunc(all, func(p store.Person) bool { return p.Name == name }) {
			continue
		}
		role := Technician
		if !owned {
			role, owned = Owner, true
		}
		if err := tx.SavePerson(&store.Person{Name: name, Role: role, CreatedAt: now}); err != nil {
			return err
		}
	}
	return nil
}

func checkTechnicians(faults *hw.Faults, names []string) {
	if len(names) > maxTechnicians {
		faults.Add("/technicians", hw.FaultRange, fmt.Sprint(len(names), " names"), fmt.Sprintf("at most %d", maxTechnicians))
	}
	for _, name := range names {
		if utf8.RuneCountInString(name) > maxTechnician {
			faults.Add("/technicians", hw.FaultRange, "a name", fmt.Sprintf("at most %d characters", maxTechnician))
			return
		}
	}
}
