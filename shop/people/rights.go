package people

import (
	"slices"
	"strings"

	"yembo/shop/base"
)

// Right is something that people may do here, or may not.
type Right string

// The rights. None is what needs no right but to be somebody of the shop; Open what needs nobody at all.
const (
	None     Right = "none"
	Open     Right = "open"
	Intake   Right = "intake"
	Customer Right = "customers"
	Quotes   Right = "quotes"
	Bills    Right = "invoices"
	Cancel   Right = "cancel"
	Record   Right = "record"
	Plan     Right = "plan"
	Work     Right = "work"
	Prove    Right = "proof"
	Sign     Right = "sign"
	TakeBack Right = "takeback"
	Shelf    Right = "shelf"
	Prices   Right = "prices"
	Remove   Right = "remove"
	Manage   Right = "people"
	Export   Right = "export"
)

// Grant is what a role has of a right.
type Grant string

// The grants. Lend is that a colleague who may can lend their PIN for this once; No that nobody can.
const (
	May  Grant = "may"
	Lend Grant = "lend"
	No   Grant = "no"
)

// RightRow is a right in the words of the job, with what each role has of it. The owner may everything.
type RightRow struct {
	Right               Right
	Group, Says         string
	Technician, Counter Grant
}

// Rights is the one table of what people may.
var Rights = []RightRow{
	{Intake, "Counter", "Take in machines, print intake sheets", May, May},
	{Customer, "Counter", "Customers and contact log", May, May},
	{Quotes, "Counter", "Write quotes, enter the answers", Lend, May},
	{Bills, "Counter", "Write invoices, enter payments", Lend, May},
	{Cancel, "Counter", "Cancel an invoice", Lend, Lend},
	{Record, "Bench", "Record models, settle findings", May, Lend},
	{Plan, "Bench", "Plan upgrades", May, Lend},
	{Work, "Bench", "Work at the bench, tick steps", May, Lend},
	{Prove, "Bench", "Fill in the proof", May, Lend},
	{Sign, "Bench", "Sign off a proof", Lend, Lend},
	{TakeBack, "Bench", "Take back a hand-over", Lend, Lend},
	{Shelf, "Bench", "Book parts in, count the stock", May, Lend},
	{Prices, "Office", "Set prices, labour and tax", Lend, Lend},
	{Remove, "Office", "Remove, restore; forget a customer", No, No},
	{Manage, "Office", "People, rights and screens", No, No},
	{Export, "Office", "Export the data, make backups", No, No},
}

// rowOf is the row of a right.
func rowOf(r Right) RightRow {
	i := slices.IndexFunc(Rights, func(x RightRow) bool { return x.Right == r })
	if i < 0 {
		return RightRow{Right: r, Technician: No, Counter: No}
	}
	return Rights[i]
}

// Says is a right in words.
func (r Right) Says() string { return rowOf(r).Says }

// Lendable reports whether a colleague's PIN can stand for it at all.
func (r Right) Lendable() bool { return rowOf(r).Technician != No }

// Roles are the roles that people have.
var Roles = []string{base.Owner, base.Technician, base.Counter}

// granted is what a person has of a right by their role and what was added or taken away for them.
func granted(role, own string, r Right) Grant {
	if r == None || r == Open || role == base.Owner {
		return May
	}
	row := rowOf(r)
	by := row.Technician
	switch role {
	case base.Counter:
		by = row.Counter
	case base.Technician:
	default:
		by = No
	}
	words := strings.Fields(own)
	switch {
	case by == No:
		return No // the owner's alone
	case slices.Contains(words, "+"+string(r)):
		return May
	case slices.Contains(words, "-"+string(r)):
		return Lend
	}
	return by
}

// differs reports whether a person has of a right something else than their role.
func differs(own string, r Right) bool {
	words := strings.Fields(own)
	return slices.Contains(words, "+"+string(r)) || slices.Contains(words, "-"+string(r))
}
