package store

import (
	"strings"

	"gorm.io/gorm"
)

// ListQuery is what a list is asked for. Words is what every row has, from the beginning of a word.
type ListQuery struct {
	Words       string
	Customer    int64  // 0 for all
	Where       string // one of the keys of standing, "" for all
	Sort        string // one of the keys of the list's orders, "" for the newest first
	From, Limit int
}

// standing are the conditions on where the job j of a row stands.
var standing = map[string]string{
	"none":     "j.id IS NULL",
	"open":     "j.id IS NOT NULL AND j.closed_at IS NULL",
	"danger":   "j.closed_at IS NULL AND json_extract(CAST(j.state AS TEXT), '$.danger') <> ''",
	"bench":    "j.closed_at IS NULL AND json_extract(CAST(j.state AS TEXT), '$.running') IS NOT NULL",
	"customer": "j.closed_at IS NULL AND json_extract(CAST(j.state AS TEXT), '$.waits') = 'customer'",
	"parts":    "j.closed_at IS NULL AND json_extract(CAST(j.state AS TEXT), '$.waits') = 'parts'",
	"ready": "j.id IS NOT NULL AND j.closed_at IS NULL AND COALESCE(json_extract(CAST(j.state AS TEXT), '$.waits'), '') = '' " +
		"AND COALESCE(json_extract(CAST(j.state AS TEXT), '$.danger'), '') = '' AND json_extract(CAST(j.state AS " +
		"TEXT), '$.running') IS NULL",
	"closed": "j.closed_at IS NOT NULL",
}

// machineOrders are the orders of the list of machines, by their words in the address.
var machineOrders = map[string]string{
	"": "machine_numbers.n DESC", "tag": "machines.tag", "customer": "Customer.name, machines.tag",
	"model": "Model.maker, Model.model, machines.tag", "promised": "j.promised_at IS NULL, j.promised_at, machine_numbers.n DESC",
}

// MachinesPage lists machines with customer and model, and how many there are that the query asks for.
func (t Tx) MachinesPage(q ListQuery) (out []Machine, found int, err error) {
	// A model's document is long, and no list needs it.
	db := t.db.Joins("Customer").Joins("Model", t.db.Select("id", "maker", "model", "code", "kind")).
		Joins("JOIN machine_numbers ON machine_numbers.machine_id = machines.id")
	count := t.db.Model(&Machine{})
	if q.Words != "" {
		count = count.Joins("JOIN machine_numbers ON machine_numbers.machine_id = machines.id")
	}
	if q.Where != "" || q.Sort == "promised" {
		const newest = "LEFT JOIN jobs j ON j.id = (SELECT max(id) FROM jobs WHERE machine_id = machines.id AND removed_at IS NULL)"
		db, count = db.Joins(newest), count.Joins(newest)
	}
	terms := match(q.Words)
	narrow := func(db *gorm.DB) *gorm.DB {
		if where := standing[q.Where]; where != "" {
			db = db.Where(where)
		}
		if q.Customer != 0 {
			db = db.Where("machines.customer_id = ?", q.Customer)
		}
		if terms != "" {
			db = db.Where("machine_numbers.n IN (SELECT rowid FROM machine_words WHERE machine_words MATCH ?)", terms)
		}
		return db
	}
	var n int64
	plain := terms != "" && q.Where == "" && q.Sort == "" && q.Customer == 0
	if plain { // the search counts and orders its own: of 20,000 machines the others need not be read
		count = t.db.Table("machine_words").Where("machine_words MATCH ?", terms)
		db = db.Where("machine_numbers.n IN (SELECT rowid FROM machine_words WHERE machine_words MATCH ? ORDER BY rowid DESC LIMIT ?)",
			terms, q.From+q.Limit)
	} else {
		count, db = narrow(count), narrow(db)
	}
	if err := count.Count(&n).Error; err != nil {
		return nil, 0, err
	}
	order, ok := machineOrders[q.Sort]
	if !ok {
		order = machineOrders[""]
	}
	err = db.Order(order).Offset(q.From).Limit(q.Limit).Find(&out).Error
	return out, int(n), err
}

// jobOrders are the orders of the list of jobs.
var jobOrders = map[string]string{
	"": "j.id DESC", "promised": "j.promised_at IS NULL, j.promised_at, j.id DESC",
	"customer": "c.name, j.id DESC", "machine": "m.tag, j.id DESC",
}

// ListedJob is a job in a list.
type ListedJob struct {
	Job
	Tag, Maker, ModelName, CustomerName string
}

// JobsPage lists jobs with machine, customer and model, and how many there are that the query asks for.
// A job is found by the words of its machine, and by those of its complaint.
func (t Tx) JobsPage(q ListQuery) (out []ListedJob, found int, err error) {
	db := t.db.Table("jobs j").Joins("JOIN machines m ON m.id = j.machine_id").Joins("JOIN customers c ON c.id = j.customer_id").
		Joins("JOIN models d ON d.id = m.model_id").Where("j.removed_at IS NULL")
	if where := standing[q.Where]; where != "" {
		db = db.Where(where)
	}
	if q.Customer != 0 {
		db = db.Where("j.customer_id = ?", q.Customer)
	}
	if strings.TrimSpace(q.Words) != "" {
		terms := match(q.Words)
		said := t.db.Where("CAST(m.id AS INTEGER) IN (SELECT rowid FROM machine_words WHERE machine_words MATCH ?)", terms)
		complaint := t.db
		for _, word := range strings.Fields(q.Words) {
			complaint = complaint.Where("j.complaint || ' ' || c.name LIKE ? ESCAPE '!'", "%"+likeText.Replace(word)+"%")
		}
		if terms == "" { // signs alone, which no machine is found by
			db = db.Where(complaint)
		} else {
			db = db.Where(said.Or(complaint))
		}
	}
	var n int64
	if err := db.Session(&gorm.Session{}).Count(&n).Error; err != nil {
		return nil, 0, err
	}
	order, ok := jobOrders[q.Sort]
	if !ok {
		order = jobOrders[""]
	}
	err = db.Select("j.*, m.tag, d.maker, d.model AS model_name, c.name AS customer_name").Order(order).Offset(q.From).
		Limit(q.Limit).Scan(&out).Error
	return out, int(n), err
}

var likeText = strings.NewReplacer("!", "!!", "%", "!%", "_", "!_")

// CustomerFacts is what a list tells of a customer beside the name.
type CustomerFacts struct {
	CustomerID         int64
	Machines, OpenJobs int
	LastJob            int64
}

// CustomerFacts counts each customer's machines and open jobs, and names their last job.
func (t Tx) CustomerFacts() (map[int64]CustomerFacts, error) {
	var rows []CustomerFacts
	err := t.db.Raw(`SELECT c.id AS customer_id, (SELECT count(*) FROM machines WHERE customer_id = c.id
		AND removed_at IS NULL) AS machines,
		(SELECT count(*) FROM jobs WHERE customer_id = c.id AND removed_at IS NULL AND closed_at IS NULL) AS open_jobs,
		(SELECT COALESCE(max(id), 0) FROM jobs WHERE customer_id = c.id AND removed_at IS NULL) AS last_job
		FROM customers c WHERE c.removed_at IS NULL`).Scan(&rows).Error
	out := make(map[int64]CustomerFacts, len(rows))
	for _, r := range rows {
		out[r.CustomerID] = r
	}
	return out, err
}

// Marked is a machine whose history has a mark.
type Marked struct{ ID, Tag, Data string }

// MachinesMarked lists the machines in whose history something is marked so that the mark begins with a
// text, by the mark.
func (t Tx) MachinesMarked(begins string) (map[string]Marked, error) {
	var rows []Marked
	err := t.db.Raw(`SELECT m.id, m.tag, h.data FROM histories h JOIN machines m ON m.id = h.record AND m.removed_at IS NULL
		WHERE h.kind = 'machine' AND h.event = 'work' AND h.data >= ? AND h.data < ?`, begins, begins+"~").Scan(&rows).Error
	out := make(map[string]Marked, len(rows))
	for _, r := range rows {
		out[r.Data] = r
	}
	return out, err
}
