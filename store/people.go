package store

import (
	"fmt"

	"gorm.io/gorm"
)

// Customer returns one customer.
func (t Tx) Customer(id int64) (Customer, error) { return first[Customer](t.db, "id = ?", id) }

// SaveCustomer stores a changed customer.
func (t Tx) SaveCustomer(c *Customer) error { return t.db.Save(c).Error }

// MoveMachines gives all machines and jobs of one customer to another and deletes the first.
func (t Tx) MoveMachines(from, to int64) error {
	for _, table := range []any{&Machine{}, &Job{}} {
		if err := t.db.Unscoped().Model(table).Where("customer_id = ?", from).Update("customer_id", to).Error; err != nil {
			return err
		}
	}
	return t.db.Unscoped().Delete(&Customer{}, from).Error
}

// JobsFor lists the jobs of a customer, also those of machines that are another's by now and those
// that were removed.
func (t Tx) JobsFor(customer int64) ([]Job, error) {
	var out []Job
	return out, t.db.Unscoped().Order("id").Find(&out, "customer_id = ?", customer).Error
}

// What of the history is a person's: what belongs to their jobs, and what happened to their machines
// beside any job or while nobody else had them.
const historyOf = `kind = 'machine' AND event <> 'work' AND (job_id IN (SELECT id FROM jobs WHERE customer_id = ?)
	OR job_id IS NULL AND (record IN (SELECT id FROM machines WHERE customer_id = ?)
		OR record IN (SELECT machine_id FROM jobs WHERE customer_id = ?)))`

// ForgetJob empties a job of what is a person's: what was complained of and said, photos of the
// machine as it was handed in. details and state are what is left of those.
func (t Tx) ForgetJob(id int64, details, state []byte) error {
	err := t.db.Unscoped().Model(&Job{}).Where("id = ?",
		id).Updates(map[string]any{"complaint": "", "details": details, "state": state,
		"version": gorm.Expr("version + 1")}).Error
	if err != nil {
		return err
	}
	if err := t.db.Where("job_id = ?", id).Delete(&Contact{}).Error; err != nil {
		return err
	}
	for _, table := range []any{&Photo{}, &History{}} {
		if err := t.db.Where("kind = 'job' AND record = ?", fmt.Sprint(id)).Delete(table).Error; err != nil {
			return err
		}
	}
	return nil
}

// ForgetTexts writes words in place of everything that was noted about a customer's jobs and
// machines, and empties what else may name a person: the names of report files, notes of the shelf,
// files that wait for an answer.
func (t Tx) ForgetTexts(customer int64, words string) error {
	if err := t.forgetColumns(customer); err != nil {
		return err
	}
	for _, x := range []struct {
		sql  string
		args []any
	}{
		{`UPDATE histories SET what = ?, data = '', before = NULL WHERE ` + historyOf,
			[]any{words, customer, customer, customer}},
		{`UPDATE histories SET before = NULL WHERE kind = 'machine' AND event = 'work' AND (job_id IN
			(SELECT id FROM jobs WHERE customer_id = ?) OR record IN (SELECT id FROM machines WHERE customer_id = ?))`,
			[]any{customer, customer}},
		{`UPDATE histories SET what = ?, before = NULL WHERE kind = 'customer' AND record = ?`,
			[]any{words, fmt.Sprint(customer)}},
		{`UPDATE histories SET before = NULL, data = '' WHERE event = 'corrected' AND data <> ''
			AND json_extract(data, '$.customer') = ?`, []any{customer}},
		{`UPDATE histories SET what = ?, before = NULL WHERE kind = 'part' AND record IN (SELECT id FROM parts WHERE machine_id IN
			(SELECT id FROM machines WHERE customer_id = ?))`, []any{words, customer}},
		{`DELETE FROM finds WHERE machine_id IN (SELECT id FROM machines WHERE customer_id = ?)`, []any{customer}},
		{`DELETE FROM uploads`, nil},
	} {
		if err := t.db.Exec(x.sql, x.args...).Error; err != nil {
			return err
		}
	}
	return nil
}

// ForgetSerials empties the serials of pieces that a customer brought or that were fitted for them.
func (t Tx) ForgetSerials(customer int64) error {
	return t.db.Exec(`UPDATE serials SET serial = 'removed-' || id WHERE came IN (SELECT id FROM movements WHERE machine_id IN
		(SELECT id FROM machines WHERE customer_id = ?)) OR went IN (SELECT id FROM movements WHERE machine_id IN
		(SELECT id FROM machines WHERE customer_id = ?))`, customer, customer).Error
}

// PartsFor lists what customers bring for a machine.
func (t Tx) PartsFor(machine string) ([]Part, error) {
	var out []Part
	return out, t.db.Order("position, id").Find(&out, "machine_id = ?", machine).Error
}

// Scrub takes what was removed out of the file's own bytes: the search's, the log's and those of
// pages that nothing uses. It waits for readers, a few seconds at most. It asks the connection itself:
// the cache of prepared statements would hold its lock while it waits for the only writer.
func (s *Store) Scrub() error {
	pool, err := s.write.DB()
	if err != nil {
		return err
	}
	for _, sql := range []string{
		"INSERT INTO machine_words(machine_words) VALUES('optimize')",
		"INSERT INTO model_words(model_words) VALUES('optimize')",
		"PRAGMA wal_checkpoint(TRUNCATE)", "VACUUM",
	} {
		if _, err := pool.Exec(sql); err != nil {
			return named(err)
		}
	}
	var busy, log, checkpointed int
	if err := pool.QueryRow("PRAGMA wal_checkpoint(TRUNCATE)").Scan(&busy, &log, &checkpointed); err != nil {
		return named(err)
	}
	if busy != 0 {
		return fmt.Errorf("%w: a reader holds the log", ErrBusy)
	}
	_, err = pool.Exec("DELETE FROM settings WHERE name = ?", scrubDue)
	return named(err)
}

// QuotesFor lists what was offered for the jobs of a customer.
func (t Tx) QuotesFor(customer int64) ([]Quote, error) {
	var out []Quote
	return out, t.db.Order("id").Find(&out, "job_id IN (SELECT id FROM jobs WHERE customer_id = ?)", customer).Error
}

// ForgetQuote leaves of a quote what doc is, in place of what it said of a person; nobody's answer is
// kept, but that there was one.
func (t Tx) ForgetQuote(id int64, doc []byte) error {
	// That the answer is forgotten lets the frozen document be changed.
	err := t.db.Exec("UPDATE quotes SET doc = ?, answer_doc = 'forgotten', key_hash = '' WHERE id = ?", doc, id).Error
	if err != nil {
		return err
	}
	return t.db.Exec("UPDATE quotes SET answer_doc = '{}' WHERE id = ?", id).Error
}

// RunsFor lists the runs of the jobs of a customer.
func (t Tx) RunsFor(customer int64) ([]Run, error) {
	var out []Run
	return out, t.db.Order("id").Find(&out, "job_id IN (SELECT id FROM jobs WHERE customer_id = ?)", customer).Error
}

// ForgetRun leaves of what a run was made from what doc is.
func (t Tx) ForgetRun(id int64, doc []byte) error {
	return t.db.Model(&Run{}).Where("id = ?", id).Update("doc", doc).Error
}

// ReplaceInHistory writes another word in place of one wherever the history of a machine has it.
func (t Tx) ReplaceInHistory(machine, word, with string) error {
	return t.db.Exec(`UPDATE histories SET what = replace(what, ?, ?), before = NULL
		WHERE kind = 'machine' AND record = ? AND (instr(what, ?) > 0 OR instr(CAST(before AS TEXT), ?) > 0)`,
		word, with, machine, word, word).Error
}
