package store

import (
	"fmt"
	"slices"
	"strings"
)

// Whose is what a text of the data file is to people: whether it goes when a person asks to be
// forgotten.
type Whose string

// What texts are.
const (
	// OfPerson can say something of a person: it is told to who asks what is held, and goes when the
	// person is forgotten.
	OfPerson Whose = "person"
	// OfLaw has to be kept, as books are: it is told, and stays.
	OfLaw Whose = "law"
	// OfShop is the workshop's own: what it knows of models and parts, who works there, how it works.
	OfShop Whose = "shop"
	// NoText is a key, a code, a date or a word of a table.
	NoText Whose = "none"
)

// Column is a column of the data file in which text can stand.
type Column struct {
	Table, Name string
	Whose       Whose
	// Forget is the SQL of what is left of it; "" where more than that is done, in forgetting's own
	// statements.
	Forget string
	// Told says that what is held of a person has it among its own fields.
	Told bool
}

// The rows of each table that are a person's, @c being the customer.
const (
	jobsOf     = `(SELECT id FROM jobs WHERE customer_id = @c)`
	machinesOf = `(SELECT id FROM machines WHERE customer_id = @c)`
)

var rowsOf = map[string]string{
	"contacts": `job_id IN ` + jobsOf, "customers": `id = @c`,
	"finds": `machine_id IN ` + machinesOf,
	"histories": `(kind = 'machine' AND (job_id IN ` + jobsOf + ` OR job_id IS NULL AND (record IN ` + machinesOf + `
		OR record IN (SELECT machine_id FROM jobs WHERE customer_id = @c))))
		OR kind = 'customer' AND record = CAST(@c AS TEXT) OR kind = 'job' AND record IN ` + jobsOf + `
		OR kind = 'part' AND record IN (SELECT id FROM parts WHERE machine_id IN ` + machinesOf + `)`,
	"invoices": `job_id IN ` + jobsOf, "jobs": `customer_id = @c`, "machines": `customer_id = @c`,
	"movements": `job_id IN ` + jobsOf + ` OR machine_id IN ` + machinesOf + `
		OR part_id IN (SELECT id FROM parts WHERE machine_id IN ` + machinesOf + `)`,
	// An order is a person's as far as it brought something for their jobs, or still is to.
	"orders": `id IN (SELECT order_id FROM movements WHERE job_id IN ` + jobsOf + `)
		OR id IN (SELECT l.order_id FROM order_lines l JOIN jobs j ON j.customer_id = @c AND instr(CAST(j.choice AS TEXT),
			'"' || l.part_id || '"') > 0)
		OR id IN (SELECT l.order_id FROM order_lines l JOIN movements m ON m.part_id = l.part_id WHERE m.job_id IN ` + jobsOf + `)`,
	"parts": `machine_id IN ` + machinesOf, "payments": `job_id IN ` + jobsOf,
	"photos": `kind = 'job' AND record IN ` + jobsOf, "proofs": `job_id IN ` + jobsOf, "quotes": `job_id IN ` + jobsOf,
	"readings":   `machine_id IN ` + machinesOf + ` OR job_id IN ` + jobsOf,
	"run_events": `run_id IN (SELECT id FROM runs WHERE job_id IN ` + jobsOf + `)`, "runs": `job_id IN ` + jobsOf,
	"serials": `came IN (SELECT id FROM movements WHERE machine_id IN ` + machinesOf +
		`) OR went IN (SELECT id FROM movements WHERE machine_id IN ` + machinesOf + `)`,
	"uploads": `@c = @c`,
}

// Columns are all columns in which text can stand, each with what it is to people. A test fails for one
// that is not here.
var Columns = columns(map[string]string{
	"contacts":  "by shop, who person told, how none, said person told, agreed person told",
	"counters":  "name none",
	"customers": "name person told, contact person told, removed_by shop",
	"finds":     "by shop, kind none, wanted person, gives person, model_id none, machine_id none, doubt person",
	"histories": "by shop, kind none, record none, what person told, before person, event none, data shop, " +
		"screen none",
	"holds":    "part_id none",
	"invoices": "doc law told, currency none, by shop",
	"jobs": "machine_id none, complaint person told, wish shop, choice shop, " +
		"chosen_by shop, details person told, state person told, removed_by shop",
	"journal": "by shop, screen shop, what shop, kind none",
	"people":  "name shop, initials shop, role none, rights none, password none, pin none",
	"screens": "name shop, key_hash none, by shop, last_by shop", "sessions": "token none, data none",
	"machines":   "id none, model_id none, serial person told, doc person told, tag person told, removed_by shop",
	"migrations": "id none", "machine_numbers": "machine_id none", "machine_words": "words none", "model_words": "words shop",
	"model_briefs": "id none, maker shop, model shop, code shop, kind none, brief shop",
	"models":       "id none, maker shop, model shop, code shop, kind none, doc shop, removed_by shop",
	"movements":    "by shop, part_id none, kind none, machine_id none, note person",
	"order_lines":  "part_id none",
	"orders":       "by shop, expected_on none, note person",
	"parts": "id none, kind none, name person told, doc person told, " +
		"order_no person, note person, machine_id none, removed_by shop",
	"payments": "how none, note law told, by shop, struck_by shop, struck_why law",
	"photos": "kind none, record none, fact none, caption person told, taken_on none, " +
		"by shop, full person told, thumb person told, sum none, source_sum none",
	"proofs": "doc person told, signed_by shop, ask_on none",
	"quotes": "doc person told, rests shop, valid_until none, shown_how none, " +
		"answer none, answer_doc person told, ask_on none, key_hash none, by shop",
	"readings":   "machine_id none, doc person told, files person told, notes person, by shop, accepted shop",
	"run_events": "client none, kind none, step none, by shop, data person",
	"runs":       "model_id none, doc person, began_by shop, timings shop, targets none",
	"serials":    "part_id none, serial person",
	"settings":   "name none, value shop", "stocks": "part_id none",
	"submissions": "token none, result none, content none",
	"suppliers":   "name shop, contact shop, closes none, note shop",
	"uploads":     "content person told",
}, map[string]string{
	"readings.files": `''`, "readings.notes": `''`, "movements.note": `''`, "orders.note": `''`,
	"run_events.data": `CAST(json_remove(CAST(data AS TEXT), '$.text', '$.why', '$.in', '$.out', '$.goes') AS BLOB)`,
	"proofs.doc": `CAST(json_remove(CAST(doc AS TEXT), '$.hand', '$.notes', '$.by_hand', '$.tried', '$.really',
		'$.first', '$.measures', '$.data', '$.old', '$.memory_test.tool', '$.sign.why',
		'$.sign.agreed', '$.sign.open', '$.sign.learned') AS BLOB)`,
})

func columns(list, forget map[string]string) []Column {
	var out []Column
	for table, told := range list {
		for _, words := range strings.Split(told, ", ") {
			word := strings.Fields(words)
			c := Column{Table: table, Name: word[0], Whose: Whose(word[1]), Told: len(word) > 2, Forget: forget[table+"."+word[0]]}
			out = append(out, c)
		}
	}
	slices.SortFunc(out, func(a, b Column) int {
		return strings.Compare(a.Table+"."+a.Name, b.Table+"."+b.Name)
	})
	return out
}

// forgetColumns empties what is a person's and needs no more than that.
func (t Tx) forgetColumns(customer int64) error {
	for _, c := range Columns {
		if c.Whose != OfPerson || c.Forget == "" {
			continue
		}
		sql := fmt.Sprintf("UPDATE %s SET %s = %s WHERE %s", c.Table, c.Name, c.Forget, rowsOf[c.Table])
		if err := t.db.Exec(sql, map[string]any{"c": customer}).Error; err != nil {
			return fmt.Errorf("forgetting %s of %s: %w", c.Name, c.Table, err)
		}
	}
	return nil
}

// HeldText is a text that is held of a person, as it stands in the data file.
type HeldText struct {
	Where string `json:"where"` // table and column
	Text  string `json:"text"`
}

// HeldTexts lists what is held of a person and what has to be kept, but for what told says: those columns
// are among the fields of what is held already.
func (t Tx) HeldTexts(customer int64, told bool) ([]HeldText, error) {
	var out []HeldText
	for _, c := range Columns {
		if c.Whose != OfPerson && c.Whose != OfLaw || c.Told && !told {
			continue
		}
		var texts []string
		sql := fmt.Sprintf(
			"SELECT CAST(%[1]s AS TEXT) FROM %[2]s WHERE (%[3]s) AND %[1]s IS NOT NULL AND CAST(%[1]s AS TEXT) NOT IN "+
				"('', '{}', 'null') ORDER BY rowid",
			c.Name,
			c.Table,
			rowsOf[c.Table],
		)
		if err := t.db.Raw(sql, map[string]any{"c": customer}).Scan(&texts).Error; err != nil {
			return nil, fmt.Errorf("%s of %s: %w", c.Name, c.Table, err)
		}
		for _, text := range texts {
			out = append(out, HeldText{c.Table + "." + c.Name, text})
		}
	}
	return out, nil
}

// EachBrief calls f with what the list shows of each model.
func (t Tx) EachBrief(f func(model string, brief []byte) error) error {
	rows, err := t.db.Raw("SELECT id, brief FROM model_briefs ORDER BY n").Rows()
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		var model string
		var brief []byte
		if err := rows.Scan(&model, &brief); err != nil {
			return err
		}
		if err := f(model, brief); err != nil {
			return err
		}
	}
	return rows.Err()
}

// Tables lists the tables of the data file, without those that SQLite keeps for itself and for the search.
func (t Tx) Tables() ([]string, error) {
	var out []string
	err := t.db.Raw(`SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite_%'
		AND name NOT LIKE '%\_words\_%' ESCAPE '\' ORDER BY 1`).Scan(&out).Error
	return out, err
}

// TextColumns lists every column of the data file in which text can stand, as table.column.
func (t Tx) TextColumns() ([]string, error) {
	var out []string
	err := t.db.Raw(`SELECT m.name || '.' || c.name FROM sqlite_master m JOIN pragma_table_info(m.name) c
		WHERE m.type = 'table' AND m.name NOT LIKE 'sqlite_%' AND m.name NOT LIKE '%\_words\_%' ESCAPE '\'
		AND upper(c.type) NOT IN ('INTEGER', 'BOOLEAN', 'DATETIME', 'REAL') ORDER BY 1`).Scan(&out).Error
	return out, err
}

// MarkScrub notes that the file's own bytes are to be written over, until Scrub has done it: also where
// the program ends between.
func (t Tx) MarkScrub() error { return t.PutSetting(scrubDue, []byte("true")) }

// scrubDue is the setting that says that bytes wait to be written over.
const scrubDue = "scrub_due"

// ScrubDue reports whether bytes wait to be written over.
func (t Tx) ScrubDue() (bool, error) {
	value, err := t.Setting(scrubDue)
	return len(value) > 0, err
}
