package store

import (
	"fmt"
	"time"

	"gorm.io/gorm"
)

// The tables whose rows can be removed and brought back, by the kind that the history names them with.
var removable = map[string]struct {
	row   any
	table string
}{
	"model": {&Model{}, "models"}, "customer": {&Customer{}, "customers"}, "machine": {&Machine{}, "machines"},
	"job": {&Job{}, "jobs"}, "part": {&Part{}, "parts"},
}

// Remove takes a record out of everything that looks for records. ErrNotFound says that there is none.
func (t Tx) Remove(kind, id string, at time.Time, by string) error {
	return t.setRemoved(t.db, kind, id, map[string]any{"removed_at": at, "removed_by": by})
}

// BringBack puts a removed record where it was. ErrNotFound says that there is none.
func (t Tx) BringBack(kind, id string) error {
	return t.setRemoved(t.db.Unscoped().Where("removed_at IS NOT NULL"), kind, id,
		map[string]any{"removed_at": nil, "removed_by": ""})
}

func (t Tx) setRemoved(db *gorm.DB, kind, id string, to map[string]any) error {
	if kind != "customer" { // whoever has an older version open is told
		to["version"] = gorm.Expr("version + 1")
	}
	if kind == "machine" { // the search finds what is there
		if err := t.db.Exec("DELETE FROM machine_words WHERE rowid = CAST(? AS INTEGER)", id).Error; err != nil {
			return err
		}
		if to["removed_at"] == nil {
			if err := t.db.Exec("INSERT INTO machine_words (rowid, words) SELECT n, words FROM machine_texts WHERE id = ?",
				id).Error; err != nil {
				return err
			}
		}
	}
	done := db.Model(removable[kind].row).Where("id = ?", id).Updates(to)
	if done.Error == nil && done.RowsAffected == 0 {
		return ErrNotFound
	}
	return done.Error
}

// RemovedModel returns a removed record of a model.
func (t Tx) RemovedModel(id string) (Model, error) { return removedRow[Model](t, id) }

// RemovedMachine returns a removed machine.
func (t Tx) RemovedMachine(id string) (Machine, error) { return removedRow[Machine](t, id) }

// RemovedJob returns a removed job.
func (t Tx) RemovedJob(id string) (Job, error) { return removedRow[Job](t, id) }

// RemovedJobs lists the jobs that were removed with a machine at that moment.
func (t Tx) RemovedJobs(machine string, at time.Time) ([]Job, error) {
	var out []Job
	return out, t.db.Unscoped().Order("id").Find(&out, "machine_id = ? AND removed_at = ?", machine, at).Error
}

func removedRow[T any](t Tx, id string) (T, error) {
	return first[T](t.db.Unscoped(), "id = ? AND removed_at IS NOT NULL", id)
}

// Taken reports whether a kind of record has an id, or machines a tag, be it of one that was removed.
func (t Tx) Taken(kind, column, value string) (bool, error) {
	var n int64
	err := t.db.Unscoped().Model(removable[kind].row).Where(map[string]any{column: value}).Count(&n).Error
	return n > 0, err
}

// Removed is a record that was removed.
type Removed struct {
	Kind, ID, Name string
	At             time.Time
	By             string
}

// RemovedList lists what was removed since a time, the newest of each kind first; jobs that went with their machines are not
// named apart.
func (t Tx) RemovedList(since time.Time) ([]Removed, error) {
	var out []Removed
	for _, x := range []struct{ kind, name, but string }{
		{"model", "maker || ' ' || model", ""}, {"customer", "name", ""}, {"machine", "tag", ""}, {"part", "name", ""},
		{"job", "complaint", " AND NOT EXISTS (SELECT 1 FROM machines m WHERE m.id = jobs.machine_id AND m.removed_at " +
			"= jobs.removed_at)"},
	} {
		var rows []struct {
			ID, Name string
			Removal
		}
		err := t.db.Unscoped().Table(removable[x.kind].table).Select("id, "+x.name+" AS name, removed_at, removed_by").
			Where("removed_at >= ?"+x.but, since).Order("removed_at DESC").Scan(&rows).Error
		if err != nil {
			return nil, err
		}
		for _, r := range rows {
			out = append(out, Removed{x.kind, r.ID, r.Name, r.RemovedAt.Time, r.RemovedBy})
		}
	}
	return out, nil
}

// Unlist takes a model out of the lists and the search.
func (t Tx) Unlist(model string) error {
	if err := t.db.Exec("DELETE FROM model_words WHERE rowid = (SELECT n FROM model_briefs WHERE id = ?)", model).Error; err != nil {
		return err
	}
	return t.db.Exec("DELETE FROM model_briefs WHERE id = ?", model).Error
}

// List puts a model into the lists and the search again.
func (t Tx) List(m *Model) error { return t.indexModel(m) }

// HangsOn counts what belongs to a machine or a job beside its own row.
type HangsOn struct{ Jobs, Readings, Photos, Talks, Brought int }

// HangsOnMachine counts what belongs to a machine.
func (t Tx) HangsOnMachine(id string) (HangsOn, error) {
	var out HangsOn
	err := t.db.Raw(`SELECT (SELECT count(*) FROM jobs WHERE machine_id = ? AND removed_at IS NULL) AS jobs,
		(SELECT count(*) FROM readings WHERE machine_id = ?) AS readings,
		(SELECT count(*) FROM photos WHERE kind = 'job' AND record IN (SELECT id FROM jobs WHERE machine_id = ?)) AS photos,
		(SELECT count(*) FROM contacts WHERE job_id IN (SELECT id FROM jobs WHERE machine_id = ?)) AS talks,
		(SELECT count(*) FROM parts WHERE machine_id = ? AND removed_at IS NULL) AS brought`, id, id, id, id, id).Scan(&out).Error
	return out, err
}

// HangsOnJob counts what belongs to a job.
func (t Tx) HangsOnJob(id int64) (HangsOn, error) {
	var out HangsOn
	err := t.db.Raw(`SELECT (SELECT count(*) FROM readings WHERE job_id = ?) AS readings,
		(SELECT count(*) FROM photos WHERE kind = 'job' AND record = ?) AS photos,
		(SELECT count(*) FROM contacts WHERE job_id = ?) AS talks`, id, fmt.Sprint(id), id).Scan(&out).Error
	return out, err
}

// UsesOfPart counts the movements of a part for jobs and the orders that name it.
func (t Tx) UsesOfPart(id string) (moved, ordered int, err error) {
	var n struct{ Moved, Ordered int }
	err = t.db.Raw(`SELECT (SELECT count(*) FROM movements WHERE part_id = ? AND job_id IS NOT NULL) AS moved,
		(SELECT count(*) FROM order_lines WHERE part_id = ?) AS ordered`, id, id).Scan(&n).Error
	return n.Moved, n.Ordered, err
}

// BroughtParts removes the parts that come with a machine, or brings back those that went with it at
// that moment.
func (t Tx) BroughtParts(machine string, at time.Time, by string, back bool) error {
	db, to := t.db.Where("machine_id = ?", machine), map[string]any{"removed_at": at, "removed_by": by}
	if back {
		db, to = t.db.Unscoped().
			Where("machine_id = ? AND removed_at = ?", machine, at),
			map[string]any{
				"removed_at": nil,
				"removed_by": "",
			}
	}
	to["version"] = gorm.Expr("version + 1")
	return db.Model(&Part{}).Updates(to).Error
}

// Purge removes for good what was removed before a time, with all that belonged to it. What the shelf's
// movements name stays as an empty row that nothing finds.
func (t Tx) Purge(before time.Time) error {
	const gone = "removed_at IS NOT NULL AND removed_at < @before"
	jobs, machines := "(SELECT id FROM jobs WHERE "+gone+")", "(SELECT id FROM machines WHERE "+gone+")"
	moved := "(SELECT job_id FROM movements WHERE job_id IS NOT NULL UNION SELECT job_id FROM holds)"
	for _, sql := range []string{
		"DELETE FROM run_events WHERE run_id IN (SELECT id FROM runs WHERE job_id IN " + jobs + ")",
		"DELETE FROM runs WHERE job_id IN " + jobs,
		"DELETE FROM proofs WHERE job_id IN " + jobs,
		"DELETE FROM contacts WHERE job_id IN " + jobs,
		"DELETE FROM photos WHERE kind = 'job' AND record IN " + jobs,
		"UPDATE readings SET job_id = NULL WHERE job_id IN " + jobs,
		"DELETE FROM quotes WHERE job_id IN " + jobs + " AND shown_at IS NULL",
		"DELETE FROM readings WHERE machine_id IN " + machines,
		"DELETE FROM histories WHERE kind = 'machine' AND (job_id IN " + jobs + " OR record IN " + machines + ")",
		"DELETE FROM finds WHERE machine_id IN " + machines,
		"DELETE FROM jobs WHERE " + gone + " AND id NOT IN " + moved,
		"UPDATE jobs SET complaint = '', details = '{}', state = '{}', wish = '{\"goals\":{}}', choice = NULL WHERE " + gone,
		"DELETE FROM machine_words WHERE rowid IN (SELECT CAST(id AS INTEGER) FROM machines WHERE " + gone + ")",
		"DELETE FROM parts WHERE " + gone + " AND id NOT IN (SELECT part_id FROM movements) AND id NOT IN (SELECT part_id FROM stocks)",
		"DELETE FROM machines WHERE " + gone + ` AND id NOT IN (SELECT machine_id FROM jobs) AND id NOT IN (SELECT machine_id FROM
			movements WHERE machine_id IS NOT NULL) AND id NOT IN (SELECT machine_id FROM parts WHERE machine_id IS NOT NULL)`,
		"UPDATE machines SET serial = '', tag = 'machine-' || id, doc = json_object('format', 'yembo.machine/1', 'id', " +
			"'machine-' || id, 'chassis', model_id) WHERE " + gone,
		"DELETE FROM photos WHERE kind = 'model' AND record IN (SELECT id FROM models WHERE " + gone +
			" AND id NOT IN (SELECT model_id FROM machines))",
		"DELETE FROM histories WHERE kind = 'model' AND record IN (SELECT id FROM models WHERE " + gone +
			" AND id NOT IN (SELECT model_id FROM machines))",
		"DELETE FROM models WHERE " + gone +
			` AND id NOT IN (SELECT model_id FROM machines) AND id NOT IN (SELECT model_id FROM finds WHERE
			model_id IS NOT NULL)`,
		"DELETE FROM histories WHERE kind = 'customer' AND record IN (SELECT id FROM customers WHERE " + gone + ")",
		"DELETE FROM customers WHERE " + gone +
			" AND id NOT IN (SELECT customer_id FROM machines) AND id NOT IN (SELECT customer_id FROM jobs)",
		"UPDATE customers SET name = '(removed) ' || id, contact = '' WHERE " + gone,
	} {
		if err := t.db.Exec(sql, map[string]any{"before": before}).Error; err != nil {
			return err
		}
	}
	return nil
}
