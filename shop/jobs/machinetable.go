package jobs

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"strconv"
	"strings"

	"yembo/core/hw"
	"yembo/exchange"
	"yembo/exchange/slug"
	"yembo/shop/base"
	"yembo/shop/records"
	"yembo/store"
)

// Columns of a machine list, in the order in which they are offered.
var Columns = []struct{ Name, Words string }{
	{"customer", "customer"}, {"model", "model, its code or id"}, {"serial", "serial"}, {"id", "machine tag"},
	{"contact", "contact"},
}

// ListedMachine is a row of a machine list as it would be taken in.
type ListedMachine struct {
	Line                                 int
	Customer, Contact, Model, Serial, ID string
	Cells                                []string
	Fault                                string // why it is kept aside, "" for a sound row
	Taken                                string // the key of the machine that it became, "" for none yet
	TakenTag                             string
}

// LookAtList reads a machine list that was kept, and says for each row what it would
// become. columns gives the column of the file, from 0, for a column's name.
func (s *Jobs) LookAtList(ctx context.Context, upload int64, columns map[string]int) (*exchange.Table, []ListedMachine,
	error) {
	var table *exchange.Table
	var rows []ListedMachine
	err := s.Store.View(ctx, func(tx store.Tx) error {
		kept, err := tx.Upload(upload)
		if err != nil {
			return err
		}
		if table, err = exchange.ReadTable(kept.Content); err != nil {
			return hw.Faults{{Pointer: "/list", Text: err.Error()}}
		}
		rows, err = listed(tx, kept.Content, table, columns)
		return err
	})
	return table, rows, err
}

// listMark is what the history keeps of the machines that came from a list, each with its line behind it.
// A list is known by its content, so that the same one sent again has nothing left to take. It is made
// once for a list: made for each of 20,000 rows it took 23 s.
func listMark(content []byte) string {
	sum := sha256.Sum256(content)
	return "list " + hex.EncodeToString(sum[:9]) + " "
}

// listed settles each row: its model is found, a serial or an id that is taken is told, a row that was
// taken before says which machine it became.
func listed(tx store.Tx, content []byte, table *exchange.Table, columns map[string]int) ([]ListedMachine, error) {
	mark := listMark(content)
	before, err := tx.MachinesMarked(mark)
	if err != nil {
		return nil, err
	}
	models, err := tx.Models()
	if err != nil {
		return nil, err
	}
	byWord := map[string]string{}
	for i := range models {
		m := &models[i]
		record, err := records.ReadModel(m)
		if err != nil {
			return nil, err
		}
		for _, word := range append([]string{m.ID, m.Code, m.Model, m.Maker + " " + m.Model},
			record.Chassis.Covers...) {
			if word = strings.ToLower(strings.TrimSpace(word)); word != "" && byWord[word] == "" {
				byWord[word] = m.ID
			}
		}
	}
	taken, err := tx.MachineKeys()
	if err != nil {
		return nil, err
	}
	out := make([]ListedMachine, len(table.Rows))
	for i := range table.Rows {
		row := &table.Rows[i]
		l := &out[i]
		l.Line, l.Cells, l.Fault = row.Line, row.Cells, row.Fault
		cell := func(name string) string {
			if at, ok := columns[name]; ok && at >= 0 && at < len(row.Cells) {
				return row.Cells[at]
			}
			return ""
		}
		l.Customer, l.Contact, l.Serial, l.ID = cell("customer"), cell("contact"), cell("serial"), cell("id")
		if was, ok := before[mark+strconv.Itoa(l.Line)]; ok {
			l.Taken, l.TakenTag, l.Fault = was.ID, was.Tag, ""
			continue
		}
		if l.Fault == "" {
			l.settle(cell("model"), byWord, taken)
		}
	}
	return out, nil
}

// settle finds the row's model and checks it against what is there. taken holds ids and
// serials, those of rows before this one too.
func (l *ListedMachine) settle(model string, byWord map[string]string, taken map[string]bool) {
	l.Model = byWord[strings.ToLower(model)]
	switch {
	case l.Customer == "":
		l.Fault = "no customer"
	case model == "":
		l.Fault = "no model"
	case l.Model == "":
		l.Fault = "no record of the model " + strconv.Quote(model)
	case l.Serial == "" && l.ID == "":
		l.Fault = "neither serial nor machine tag: it could not be told from another"
	case l.ID != "" && l.ID != slug.Of(l.ID):
		l.Fault = "the machine tag has more than lower-case letters, digits and single dashes"
	case l.ID != "" && !hasLetter(l.ID):
		l.Fault = "the machine tag " + l.ID + " has no letter: it would be taken for a number of Yembo's own"
	case l.ID != "" && taken["id "+l.ID]:
		l.Fault = "the machine tag " + l.ID + " is taken"
	case l.Serial != "" && taken["serial "+l.Model+" "+l.Serial]:
		l.Fault = "a machine of this model with serial " + l.Serial + " is there"
	default:
		taken["id "+l.ID], taken["serial "+l.Model+" "+l.Serial] = l.ID != "", l.Serial != ""
	}
}

// TakeList stores the sound rows of a machine list as machines without a job, in one
// transaction, and returns how many. The others are left out.
func (s *Jobs) TakeList(ctx context.Context, a base.Actor, token string, upload int64, columns map[string]int) (int, error) {
	result, err := s.Once(ctx, token, func(tx store.Tx) (string, error) {
		kept, err := tx.Upload(upload)
		if err != nil {
			return "", err
		}
		table, err := exchange.ReadTable(kept.Content)
		if err != nil {
			return "", hw.Faults{{Pointer: "/list", Text: err.Error()}}
		}
		rows, err := listed(tx, kept.Content, table, columns)
		if err != nil {
			return "", err
		}
		n, err := s.takeRows(tx, a, kept.Content, rows)
		if err != nil {
			return "", err
		}
		if n == 0 {
			return "", hw.Faults{{Pointer: "/list", Text: "no row can be imported"}}
		}
		return strconv.Itoa(n), nil
	})
	if err != nil {
		return 0, err
	}
	return strconv.Atoi(result)
}

// takeRows stores the sound rows, many at once: a list may have thousands.
func (s *Jobs) takeRows(tx store.Tx, a base.Actor, content []byte, rows []ListedMachine) (int, error) {
	taken, err := tx.MachineKeys()
	if err != nil {
		return 0, err
	}
	for i := range rows {
		if rows[i].Fault == "" && rows[i].ID != "" {
			taken["id "+rows[i].ID] = true // no made-up id takes it first
		}
	}
	customers := map[string]int64{}
	next := map[string]int{} // the next number for an id made from a name
	var machines []store.Machine
	var notes []store.History
	mark := listMark(content)
	for i := range rows {
		l := &rows[i]
		if l.Fault != "" || l.Taken != "" {
			continue
		}
		if _, known := customers[l.Customer]; !known {
			c, err := s.customerFor(tx, l.Customer, l.Contact)
			if err != nil {
				return 0, err
			}
			customers[l.Customer] = c.ID
		}
		m := &hw.Machine{Format: hw.FormatMachine, ID: l.ID, Chassis: l.Model, Serial: l.Serial}
		stem := slug.Make(l.Customer, "machine")
		for m.ID == "" || l.ID == "" && taken["id "+m.ID] {
			next[stem]++
			m.ID = fmt.Sprintf("%s-%02d", stem, next[stem])
		}
		taken["id "+m.ID] = true
		doc, err := json.Marshal(m)
		if err != nil {
			return 0, err
		}
		machines = append(machines, store.Machine{Tag: m.ID, CustomerID: customers[l.Customer], ModelID: m.Chassis,
			Serial: m.Serial, Doc: doc, Version: 1, CreatedAt: s.Now(), UpdatedAt: s.Now()})
		notes = append(notes, store.History{At: s.Now(), By: a.Name, Kind: base.KindMachine,
			Event: base.EventWork, Data: mark + strconv.Itoa(l.Line), What: fmt.Sprintf("from a list, line %d", l.Line)})
	}
	if len(machines) == 0 {
		return 0, nil
	}
	return len(machines), tx.CreateMachines(machines, notes)
}

// MachineTable is all machines as a table, with what is fitted.
func (s *Jobs) MachineTable(ctx context.Context) ([]byte, error) {
	var rows [][]string
	err := s.Store.View(ctx, func(tx store.Tx) error {
		return tx.EachMachine(func(m *store.Machine) error {
			var doc hw.Machine
			if err := json.Unmarshal(m.Doc, &doc); err != nil {
				return fmt.Errorf("machine %s: %w", m.ID, err)
			}
			var memory, drives []string
			for _, f := range doc.Fitted.Memory {
				memory = append(memory, f.Socket+": "+gbText(f.Module.Capacity))
			}
			for _, f := range doc.Fitted.Drives {
				drives = append(drives, f.Place+": "+gbText(f.Drive.Capacity))
			}
			rows = append(rows, []string{m.Tag, m.Customer.Name, m.Customer.Contact, m.Model.Maker, m.Model.Model,
				m.Model.Code, m.Serial,
				strings.Join(memory, "; "), strings.Join(drives, "; "), m.CreatedAt.Format("2006-01-02")})
			return nil
		})
	})
	if err != nil {
		return nil, err
	}
	return exchange.WriteTable([]string{"id", "customer", "contact", "maker", "model", "code", "serial", "memory",
		"drives", "since"}, rows)
}

func gbText(v hw.Maybe[hw.Dec]) string {
	if gb, ok := v.Get(); ok {
		return gb.String() + " GB"
	}
	return "?"
}

// AsideTable is the rows of a list that were kept aside, as they came, with the reason.
func AsideTable(table *exchange.Table, rows []ListedMachine) ([]byte, error) {
	var out [][]string
	for _, l := range rows {
		if l.Fault != "" {
			cells := make([]string, len(table.Head))
			copy(cells, l.Cells)
			out = append(out, append(cells, fmt.Sprintf("line %d: %s", l.Line, l.Fault)))
		}
	}
	if len(out) == 0 {
		return nil, errors.New("no row was kept aside")
	}
	return exchange.WriteTable(append(append([]string{}, table.Head...), "skipped because"), out)
}

// MachineDocument is one machine as yembo.machine.
func (s *Jobs) MachineDocument(ctx context.Context, id string) ([]byte, error) {
	r, err := s.Machine(ctx, id)
	if err != nil {
		return nil, err
	}
	return exchange.Write(r.Machine)
}
