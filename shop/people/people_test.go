package people

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"yembo/core/hw"
	"yembo/shop/base"
	"yembo/store"
)

// TestGranted: the owner may everything, a role what its row says; what was added or taken for one person counts, but for what
// is the owner's alone; a role that is none may nothing.
func TestGranted(t *testing.T) {
	for _, x := range []struct {
		role, own string
		right     Right
		want      Grant
	}{
		{base.Owner, "", Manage, May}, {base.Owner, "-sign", Sign, May}, {base.Technician, "", Plan, May},
		{base.Technician, "", Sign, Lend}, {base.Technician, "+sign", Sign, May}, {base.Technician, "-plan", Plan, Lend},
		{base.Technician, "+people", Manage, No}, {base.Counter, "", Bills, May}, {base.Counter, "", Work, Lend},
		{base.Counter, "+export", Export, No}, {"", "", Plan, No}, {"", "", None, May}, {base.Technician, "", "", No},
	} {
		if got := granted(x.role, x.own, x.right); got != x.want {
			t.Errorf("%s %q has %s of %q, want %s", x.role, x.own, got, x.right, x.want)
		}
	}
	words := map[string]bool{}
	for _, row := range Rights {
		if row.Group == "" || row.Says == "" || words[row.Says] || (row.Technician == No) != (row.Counter == No) {
			t.Errorf("the row of %q is not whole, or says what another says", row.Right)
		}
		words[row.Says] = true
	}
}

// TestLastOwner: while anybody needs a password, an owner with one stays.
func TestLastOwner(t *testing.T) {
	left := time.Now()
	owner := store.Person{ID: 1, Role: base.Owner, Password: "x"}
	tech := store.Person{ID: 2, Role: base.Technician, Password: "x"}
	for name, x := range map[string]struct {
		all  []store.Person
		next store.Person
		at   string
	}{
		"the last leaves": {[]store.Person{owner, tech}, store.Person{ID: 1, Role: base.Owner, Password: "x",
			LeftAt: &left}, "/leaves"},
		"the last becomes another": {[]store.Person{owner, tech}, store.Person{ID: 1, Role: base.Technician,
			Password: "x"}, "/role"},
		"the last gives up the password": {[]store.Person{owner, tech}, store.Person{ID: 1, Role: base.Owner}, "/password"},
		"a technician before any owner":  {[]store.Person{{ID: 1, Role: base.Owner}}, tech, "/role"},
		"nobody signs in any more":       {[]store.Person{owner}, store.Person{ID: 1, Role: base.Owner}, ""},
		"another owner is there": {[]store.Person{owner, {ID: 3, Role: base.Owner, Password: "x"}},
			store.Person{ID: 1, Role: base.Owner, Password: "x", LeftAt: &left}, ""},
	} {
		if at, text := lastOwner(x.all, &x.next); at != x.at || (at == "") != (text == "") {
			t.Errorf("%s: %q at %q, want %q", name, text, at, x.at)
		}
	}
}

// TestTries: wrong tries wait longer and longer, by person and by address, five minutes at most, and a right one ends it.
func TestTries(t *testing.T) {
	var tr tries
	now := time.Unix(1_000_000, 0)
	var waits []time.Duration
	for range 12 {
		waits = append(waits, tr.wrong(now, "pin 1", "from a"))
	}
	if got := fmt.Sprint(waits[:4]); got != "[2s 4s 8s 16s]" || waits[11] != longestWait {
		t.Errorf("waits %v", waits)
	}
	if tr.wait(now, "pin 1", "from b") != longestWait || tr.wait(now, "pin 2", "from b") != 0 || tr.wait(now, "pin 2",
		"from a") == 0 {
		t.Error("a person waits from everywhere, others from elsewhere do not")
	}
	if tr.wait(now.Add(longestWait+time.Second), "pin 1", "from a") != 0 {
		t.Error("it locks for good")
	}
	if tr.right("pin 1", "from a"); tr.wait(now, "pin 1", "from a") != 0 {
		t.Error("it waits after the right one")
	}
}

// TestEntries: what is no name, role, password or PIN is refused at its field.
func TestEntries(t *testing.T) {
	all := []store.Person{{ID: 1, Name: "R. Okell"}}
	for at, e := range map[string]Entry{
		"/name ":     {Name: "<b>", Role: base.Owner},
		"/name  ":    {Name: "r. OKELL", Role: base.Owner},
		"/name   ":   {Name: strings.Repeat("a", 81), Role: base.Owner},
		"/name    ":  {Name: " ", Role: base.Owner},
		"/initials ": {Name: "A", Initials: "ABCD", Role: base.Owner},
		"/role ":     {Name: "A", Role: "boss"},
		"/password ": {Name: "A", Role: base.Owner, Password: "short"},
		"/pin ":      {Name: "A", Role: base.Owner, PIN: "12x4"},
		"/pin  ":     {Name: "A", Role: base.Owner, PIN: "123456789"},
	} {
		var faults hw.Faults
		e.check(&faults, all)
		if len(faults) != 1 || faults[0].Pointer != strings.TrimSpace(at) {
			t.Errorf("%+v: %v", e, faults)
		}
	}
	if got := initials("Mary-Ann van der Velde"); got != "MAV" {
		t.Errorf("initials %s", got)
	}
}
