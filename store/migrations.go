package store

import (
	"strings"

	"github.com/go-gormigrate/gormigrate/v2"
	"gorm.io/gorm"
)

// migrations are numbered and never changed once released: a data file of any age
// is brought up to date by running those it has not seen. They are statements alone and call
// nothing of the application, which goes on changing while they must not.
var migrations = []*gormigrate.Migration{
	{ID: "0001", Migrate: statements(
		`CREATE TABLE models (
			id TEXT PRIMARY KEY, maker TEXT NOT NULL, model TEXT NOT NULL, code TEXT NOT NULL, kind TEXT NOT NULL,
			doc BLOB NOT NULL, version INTEGER NOT NULL, created_at DATETIME NOT NULL, updated_at DATETIME NOT NULL)`,
		`CREATE TABLE customers (
			id INTEGER PRIMARY KEY, name TEXT NOT NULL, contact TEXT NOT NULL, created_at DATETIME NOT NULL)`,
		`CREATE INDEX customers_name ON customers(name)`,
		`CREATE TABLE machines (
			id TEXT PRIMARY KEY, customer_id INTEGER NOT NULL REFERENCES customers(id), model_id TEXT NOT NULL REFERENCES models(id),
			serial TEXT NOT NULL, doc BLOB NOT NULL, version INTEGER NOT NULL, created_at DATETIME NOT NULL,
			updated_at DATETIME NOT NULL)`,
		`CREATE INDEX machines_customer ON machines(customer_id)`,
		`CREATE INDEX machines_model ON machines(model_id)`,
		`CREATE TABLE jobs (
			id INTEGER PRIMARY KEY, machine_id TEXT NOT NULL REFERENCES machines(id), complaint TEXT NOT NULL, wish BLOB NOT NULL,
			choice BLOB, chosen_at DATETIME, chosen_by TEXT NOT NULL, version INTEGER NOT NULL,
			created_at DATETIME NOT NULL, updated_at DATETIME NOT NULL)`,
		`CREATE INDEX jobs_machine ON jobs(machine_id)`,
		`CREATE TABLE parts (
			id TEXT PRIMARY KEY, position INTEGER NOT NULL, kind TEXT NOT NULL, name TEXT NOT NULL, doc BLOB NOT NULL)`,
		`CREATE TABLE settings (name TEXT PRIMARY KEY, value BLOB NOT NULL)`,
		`CREATE TABLE histories (
			id INTEGER PRIMARY KEY, at DATETIME NOT NULL, by TEXT NOT NULL, kind TEXT NOT NULL, record TEXT NOT NULL,
			what TEXT NOT NULL, before BLOB)`,
		`CREATE INDEX histories_record ON histories(kind, record)`,
		`CREATE TABLE submissions (token TEXT PRIMARY KEY, result TEXT NOT NULL, at DATETIME NOT NULL)`,
	)},
	// The words of each model record, for the search; 0004 lays them out anew.
	{ID: "0002", Migrate: statements(`CREATE VIRTUAL TABLE model_words USING fts5(id UNINDEXED, words, prefix='2 3')`)},
	{ID: "0003", Migrate: statements(
		`CREATE TABLE photos (
			id INTEGER PRIMARY KEY, kind TEXT NOT NULL, record TEXT NOT NULL, fact TEXT NOT NULL, caption TEXT NOT NULL,
			taken_on TEXT NOT NULL, by TEXT NOT NULL, width INTEGER NOT NULL, height INTEGER NOT NULL,
			"full" BLOB NOT NULL, thumb BLOB NOT NULL, sum TEXT NOT NULL, source_sum TEXT NOT NULL,
			removed BOOLEAN NOT NULL, created_at DATETIME NOT NULL)`,
		`CREATE INDEX photos_record ON photos(kind, record)`,
		`CREATE TABLE uploads (id INTEGER PRIMARY KEY, content BLOB NOT NULL, created_at DATETIME NOT NULL)`,
	)},
	// A job has what was agreed at the counter, where it stands, and what was said; a
	// machine has what it told of itself.
	{ID: "0004", Migrate: statements(jobsAndReadings...)},
	// What a stand-in told is marked for good; until now only the names of its files said so.
	{ID: "0005", Migrate: statements(
		`ALTER TABLE readings ADD COLUMN simulated BOOLEAN NOT NULL DEFAULT FALSE`,
		`UPDATE readings SET simulated = TRUE WHERE files LIKE 'simulated %'`,
	)},
	// A machine's key is a number that says nothing about its owner; what people read, the
	// key until now, is its tag. A tag has a letter, so that neither is taken for the other.
	{ID: "0006", Migrate: statements(
		`PRAGMA defer_foreign_keys = ON`,
		`DROP TRIGGER machine_new`,
		`DROP TRIGGER machine_changed`,
		`DROP TRIGGER customer_renamed`,
		`DROP TRIGGER model_renamed`,
		`DROP VIEW machine_texts`,
		`ALTER TABLE machines ADD COLUMN tag TEXT NOT NULL DEFAULT ''`,
		`UPDATE machines SET tag = CASE WHEN id GLOB '*[a-z]*' THEN id ELSE 'm-' || id END`,
		`UPDATE machines SET doc = CAST(json_set(CAST(doc AS TEXT), '$.id', tag) AS BLOB) WHERE tag <> id`,
		`UPDATE jobs SET machine_id = (SELECT n.n || '' FROM machine_numbers n WHERE n.machine_id = jobs.machine_id)`,
		`UPDATE readings SET machine_id = (SELECT n.n || '' FROM machine_numbers n WHERE n.machine_id = readings.machine_id)`,
		`UPDATE histories SET record = (SELECT n.n || '' FROM machine_numbers n WHERE n.machine_id = histories.record)
			WHERE kind = 'machine' AND record IN (SELECT machine_id FROM machine_numbers)`,
		`UPDATE machines SET id = '#' || id`,
		`UPDATE machines SET id = (SELECT n.n || '' FROM machine_numbers n WHERE '#' || n.machine_id = machines.id)`,
		`UPDATE machine_numbers SET machine_id = '#' || n`,
		`UPDATE machine_numbers SET machine_id = n || ''`,
		`CREATE UNIQUE INDEX machines_tag ON machines(tag)`,
		`CREATE VIEW machine_texts AS SELECT n.n, m.id, m.customer_id, m.model_id,
			m.tag || ' ' || m.serial || ' ' || c.name || ' ' || d.maker || ' ' || d.model || ' ' || d.code AS words
			FROM machine_numbers n JOIN machines m ON m.id = n.machine_id JOIN customers c ON c.id = m.customer_id
			JOIN models d ON d.id = m.model_id`,
		`CREATE TRIGGER machine_new AFTER INSERT ON machines BEGIN
			INSERT INTO machine_numbers (n, machine_id) VALUES (CAST(new.id AS INTEGER), new.id);
			INSERT INTO machine_words (rowid, words) SELECT n, words FROM machine_texts WHERE id = new.id;
		END`,
		`CREATE TRIGGER machine_changed AFTER UPDATE OF tag, serial, customer_id, model_id ON machines
			WHEN old.tag <> new.tag OR old.serial <> new.serial OR old.customer_id <> new.customer_id OR old.model_id <> new.model_id BEGIN
			UPDATE machine_words SET words = (SELECT words FROM machine_texts WHERE id = new.id) WHERE rowid = CAST(new.id AS INTEGER);
		END`,
		`CREATE TRIGGER customer_renamed AFTER UPDATE OF name ON customers WHEN old.name <> new.name BEGIN
			UPDATE machine_words SET words = (SELECT words FROM machine_texts WHERE n = machine_words.rowid)
			WHERE rowid IN (SELECT n FROM machine_texts WHERE customer_id = new.id);
		END`,
		`CREATE TRIGGER model_renamed AFTER UPDATE OF maker, model, code ON models WHEN old.maker <> new.maker
			OR old.model <> new.model OR old.code <> new.code BEGIN
			UPDATE machine_words SET words = (SELECT words FROM machine_texts WHERE n = machine_words.rowid)
			WHERE rowid IN (SELECT n FROM machine_texts WHERE model_id = new.id);
		END`,
	)},
	// What is looked for in the history has a kind and its data; until now only its wording.
	{ID: "0007", Migrate: statements(
		`ALTER TABLE histories ADD COLUMN event TEXT NOT NULL DEFAULT ''`,
		`ALTER TABLE histories ADD COLUMN data TEXT NOT NULL DEFAULT ''`,
		`UPDATE histories SET event = 'talk' WHERE kind = 'machine' AND what LIKE '%: spoke with %'`,
		`UPDATE histories SET event = 'signed' WHERE kind = 'machine' AND what LIKE '%: signed by %'`,
		`UPDATE histories SET event = 'line', data = substr(what, 7) WHERE kind = 'model' AND what LIKE 'line: %'
			AND what NOT LIKE '% more lines)' AND what NOT LIKE '%…'`,
	)},
	// A form that is sent again with other content under the same token is another form.
	{ID: "0008", Migrate: statements(`ALTER TABLE submissions ADD COLUMN content TEXT NOT NULL DEFAULT ''`)},
	// What lies on the shelf is the sum of its movements; until now it was a number in a part's document.
	{ID: "0009", Migrate: statements(shelf...)},
	// A job is one customer's, whoever has the machine later; what happened in it says so.
	{ID: "0010", Migrate: statements(
		`ALTER TABLE jobs ADD COLUMN customer_id INTEGER NOT NULL DEFAULT 0`,
		`UPDATE jobs SET customer_id = (SELECT customer_id FROM machines WHERE machines.id = jobs.machine_id)`,
		`CREATE INDEX jobs_customer ON jobs(customer_id)`,
		`ALTER TABLE histories ADD COLUMN job_id INTEGER`,
		`UPDATE histories SET job_id = CAST(substr(what, 4, instr(what, ':') - 4) AS INTEGER) WHERE kind = 'machine'
			AND what GLOB 'YB-[0-9]*:*'`,
	)},
	// How often models, machines and jobs were changed, for what is worked out aside from them; and parts
	// are found by their place in the list.
	{ID: "0011", Migrate: statements(append(counting("models", "machines", "jobs"),
		`CREATE INDEX parts_position ON parts(position)`)...)},
	// What was made by mistake is removed, and for a while can be brought back.
	{ID: "0012", Migrate: statements(withRemoval("models", "customers", "machines", "jobs", "parts")...)},
	// What a customer was offered and answered, what was charged and paid.
	{ID: "0013", Migrate: statements(quotesAndInvoices...)},
	// The work at the bench, step by step.
	{ID: "0014", Migrate: statements(runs...)},
	// What proves that a job is done, and what was handed over.
	{ID: "0015", Migrate: statements(proofs...)},
	// A payment that was noted wrongly is struck; cash may be rounded.
	{ID: "0016", Migrate: statements(
		`ALTER TABLE payments ADD COLUMN rounding INTEGER NOT NULL DEFAULT 0`,
		`ALTER TABLE payments ADD COLUMN struck_at DATETIME`,
		`ALTER TABLE payments ADD COLUMN struck_by TEXT NOT NULL DEFAULT ''`,
		`ALTER TABLE payments ADD COLUMN struck_why TEXT NOT NULL DEFAULT ''`,
		`CREATE TRIGGER payment_struck_once BEFORE UPDATE OF rounding, struck_at ON payments
			WHEN old.struck_at IS NOT NULL OR new.rounding <> old.rounding BEGIN
			SELECT RAISE(ABORT, 'a payment is never changed');
		END`)},
	// What is there is counted by indexes alone: 20,000 machines need not be read for a number.
	{ID: "0017", Migrate: statements(
		`DROP INDEX machines_model`, `CREATE INDEX machines_model ON machines(model_id, removed_at)`,
		`DROP INDEX machines_customer`, `CREATE INDEX machines_customer ON machines(customer_id, removed_at)`,
		`DROP INDEX jobs_customer`, `CREATE INDEX jobs_customer ON jobs(customer_id, removed_at, closed_at)`,
		`CREATE INDEX parts_there ON parts(retired_at, removed_at)`)},
	// Who works here is on record, on which screens, in which browsers they signed in, and a journal that nothing changes. Whom
	// the settings named comes along, the first as the owner.
	{ID: "0018", Migrate: statements(
		`CREATE TABLE people (
			id INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE, initials TEXT NOT NULL, role TEXT NOT NULL, rights TEXT NOT NULL,
			password TEXT NOT NULL, pin TEXT NOT NULL, left_at DATETIME, version INTEGER NOT NULL, created_at DATETIME NOT NULL)`,
		`CREATE TABLE screens (
			id INTEGER PRIMARY KEY, name TEXT NOT NULL, bench INTEGER NOT NULL, key_hash TEXT NOT NULL UNIQUE, by TEXT NOT NULL,
			last_by TEXT NOT NULL, seen_at DATETIME, struck_at DATETIME, created_at DATETIME NOT NULL)`,
		`CREATE TABLE sessions (token TEXT PRIMARY KEY, data BLOB NOT NULL, expiry DATETIME NOT NULL)`,
		`CREATE TABLE journal (
			id INTEGER PRIMARY KEY, at DATETIME NOT NULL, by TEXT NOT NULL, screen TEXT NOT NULL, what TEXT NOT NULL, kind TEXT NOT NULL)`,
		`CREATE TRIGGER journal_kept BEFORE UPDATE ON journal BEGIN SELECT RAISE(ABORT, 'the journal is never changed'); END`,
		`CREATE TRIGGER journal_whole BEFORE DELETE ON journal BEGIN SELECT RAISE(ABORT, 'the journal is never changed'); END`,
		`ALTER TABLE histories ADD COLUMN screen TEXT NOT NULL DEFAULT ''`,
		`INSERT INTO people (name, initials, role, rights, password, pin, version, created_at)
			SELECT n.value, '', CASE n.key WHEN 0 THEN 'owner' ELSE 'technician' END, '', '', '', 1, CURRENT_TIMESTAMP
			FROM settings s, json_each(CAST(s.value AS TEXT), '$.technicians') n WHERE s.name = 'shop' GROUP BY n.value ORDER BY n.key`)},
	// Whether a supplier has said when an order comes, or the shop expects it by then.
	{ID: "0019", Migrate: statements(`ALTER TABLE orders ADD COLUMN confirmed BOOLEAN NOT NULL DEFAULT 0`,
		// How long hands were on a whole run, and on what: of those that ended, as their history and their job's choice have it.
		`ALTER TABLE runs ADD COLUMN targets TEXT NOT NULL DEFAULT ''`,
		`ALTER TABLE runs ADD COLUMN sure_ms INTEGER`,
		`UPDATE runs SET targets = COALESCE((SELECT group_concat(place, ' ') FROM (SELECT a.value ->> '$.place' AS place
			FROM jobs j, json_each(CAST(j.choice AS TEXT), '$.option.actions') a WHERE j.id = runs.job_id AND a.value ->> '$.do' <> 'keep'
			UNION SELECT s.value FROM jobs j, json_each(CAST(j.choice AS TEXT), '$.option.services') s WHERE j.id = runs.job_id
			ORDER BY place)), '')
			WHERE ended_at IS NOT NULL`,
		`UPDATE runs SET sure_ms = (SELECT MAX(h.data ->> '$.hands_ms') FROM histories h WHERE h.job_id = runs.job_id
			AND h.data LIKE '%hands_ms%' AND h.event = 'work')
			WHERE ended_at IS NOT NULL AND CAST(timings AS TEXT) NOT LIKE '%"unsure":true%'
			AND (SELECT COUNT(*) FROM runs r WHERE r.job_id = runs.job_id) = 1`,
		`CREATE INDEX runs_sure ON runs(id) WHERE sure_ms > 0`)},
}

// counting are the statements that count the changes of tables.
func counting(tables ...string) []string {
	var out []string
	for _, t := range tables {
		out = append(out, "INSERT INTO counters VALUES ('"+t+"', 0)")
		for _, does := range []string{"INSERT", "UPDATE", "DELETE"} {
			out = append(out, "CREATE TRIGGER count_"+t+"_"+strings.ToLower(does)+" AFTER "+does+" ON "+t+
				" BEGIN UPDATE counters SET n = n + 1 WHERE name = '"+t+"'; END")
		}
	}
	return out
}

// withRemoval are the statements that let the rows of tables be removed.
func withRemoval(tables ...string) []string {
	var out []string
	for _, t := range tables {
		out = append(out, "ALTER TABLE "+t+" ADD COLUMN removed_at DATETIME",
			"ALTER TABLE "+t+" ADD COLUMN removed_by TEXT NOT NULL DEFAULT ''",
			"CREATE INDEX "+t+"_removed ON "+t+"(removed_at) WHERE removed_at IS NOT NULL")
	}
	return out
}

var jobsAndReadings = []string{
	`ALTER TABLE jobs ADD COLUMN details BLOB NOT NULL DEFAULT '{}'`,
	`ALTER TABLE jobs ADD COLUMN state BLOB NOT NULL DEFAULT '{}'`,
	`ALTER TABLE jobs ADD COLUMN promised_at DATETIME`,
	`ALTER TABLE jobs ADD COLUMN closed_at DATETIME`,
	`CREATE INDEX jobs_open ON jobs(closed_at)`,
	`CREATE INDEX machines_serial ON machines(serial)`,
	`CREATE TABLE readings (
		id INTEGER PRIMARY KEY, machine_id TEXT NOT NULL REFERENCES machines(id), job_id INTEGER REFERENCES jobs(id), doc BLOB NOT NULL,
		files TEXT NOT NULL, notes TEXT NOT NULL, by TEXT NOT NULL, accepted TEXT NOT NULL, created_at DATETIME NOT NULL)`,
	`CREATE INDEX readings_machine ON readings(machine_id)`,
	`CREATE TABLE contacts (
		id INTEGER PRIMARY KEY, job_id INTEGER NOT NULL REFERENCES jobs(id), at DATETIME NOT NULL, by TEXT NOT NULL, who TEXT NOT NULL,
		how TEXT NOT NULL, said TEXT NOT NULL, agreed TEXT NOT NULL)`,
	`CREATE INDEX contacts_job ON contacts(job_id)`,
	// What lists show of a model, so that they need not read its document, and the words
	// that it is found by, from two letters up. Both go by number: the ids would have to be
	// looked up one by one.
	`CREATE TABLE model_briefs (n INTEGER PRIMARY KEY, id TEXT NOT NULL UNIQUE, maker TEXT NOT NULL, model TEXT NOT NULL,
		code TEXT NOT NULL, kind TEXT NOT NULL, brief BLOB)`,
	`CREATE INDEX model_briefs_names ON model_briefs(maker, model, id)`,
	`DROP TABLE model_words`,
	`CREATE VIRTUAL TABLE model_words USING fts5(words, prefix='2 3')`,
	// The model's name was left as it was first stored when a record was changed.
	`UPDATE models SET model = COALESCE(json_extract(CAST(doc AS TEXT), '$.model'), model)`,
	// How often the shelf was changed, so that it need not be read when it was not.
	`CREATE TABLE counters (name TEXT PRIMARY KEY, n INTEGER NOT NULL)`,
	`INSERT INTO counters VALUES ('parts', 0)`,
	`CREATE TRIGGER part_new AFTER INSERT ON parts BEGIN UPDATE counters SET n = n + 1 WHERE name = 'parts'; END`,
	`CREATE TRIGGER part_changed AFTER UPDATE ON parts BEGIN UPDATE counters SET n = n + 1 WHERE name = 'parts'; END`,
	`CREATE TRIGGER part_gone AFTER DELETE ON parts BEGIN UPDATE counters SET n = n + 1 WHERE name = 'parts'; END`,
	// The words of each machine, for the search. The triggers keep them, so that no use
	// case can forget to. Machines are numbered as they come; a later number is newer.
	`CREATE TABLE machine_numbers (n INTEGER PRIMARY KEY, machine_id TEXT NOT NULL UNIQUE)`,
	`CREATE VIRTUAL TABLE machine_words USING fts5(words, prefix='2 3')`,
	`CREATE VIEW machine_texts AS SELECT n.n, m.id, m.customer_id, m.model_id,
		m.id || ' ' || m.serial || ' ' || c.name || ' ' || d.maker || ' ' || d.model || ' ' || d.code AS words
		FROM machine_numbers n JOIN machines m ON m.id = n.machine_id JOIN customers c ON c.id = m.customer_id
		JOIN models d ON d.id = m.model_id`,
	`INSERT INTO machine_numbers (machine_id) SELECT id FROM machines ORDER BY created_at, id`,
	`INSERT INTO machine_words (rowid, words) SELECT n, words FROM machine_texts`,
	`CREATE TRIGGER machine_new AFTER INSERT ON machines BEGIN
		INSERT INTO machine_numbers (machine_id) VALUES (new.id);
		INSERT INTO machine_words (rowid, words) SELECT n, words FROM machine_texts WHERE id = new.id;
	END`,
	`CREATE TRIGGER machine_changed AFTER UPDATE OF serial, customer_id, model_id ON machines
		WHEN old.serial <> new.serial OR old.customer_id <> new.customer_id OR old.model_id <> new.model_id BEGIN
		UPDATE machine_words SET words = (SELECT words FROM machine_texts WHERE id = new.id) WHERE rowid = (SELECT n
			FROM machine_numbers WHERE machine_id = new.id);
	END`,
	`CREATE TRIGGER customer_renamed AFTER UPDATE OF name ON customers WHEN old.name <> new.name BEGIN
		UPDATE machine_words SET words = (SELECT words FROM machine_texts WHERE n = machine_words.rowid)
		WHERE rowid IN (SELECT n FROM machine_texts WHERE customer_id = new.id);
	END`,
	`CREATE TRIGGER model_renamed AFTER UPDATE OF maker, model, code ON models WHEN old.maker <> new.maker
		OR old.model <> new.model OR old.code <> new.code BEGIN
		UPDATE machine_words SET words = (SELECT words FROM machine_texts WHERE n = machine_words.rowid)
		WHERE rowid IN (SELECT n FROM machine_texts WHERE model_id = new.id);
	END`,
	// What was recorded before is listed and found as it was by that version.
	`INSERT INTO model_briefs (id, maker, model, code, kind) SELECT id, maker, model, code, kind FROM models`,
	`INSERT INTO model_words (rowid, words) SELECT b.n, group_concat(t.atom, char(10)) FROM model_briefs b
		JOIN models m ON m.id = b.id, json_tree(CAST(m.doc AS TEXT)) t
		WHERE t.type = 'text' AND (t.key IN ('id', 'maker', 'model', 'code', 'covers_note', 'note', 'by', 'name', 'text',
			'part', 'only_on', 'hidden')
			OR t.path LIKE '%.covers' OR t.path LIKE '%part_numbers%') GROUP BY b.n`,
}

func migrate(db *gorm.DB) error {
	options := *gormigrate.DefaultOptions
	options.UseTransaction = true
	return gormigrate.New(db, &options, migrations).Migrate()
}

func statements(list ...string) gormigrate.MigrateFunc {
	return func(db *gorm.DB) error {
		for _, s := range list {
			if err := db.Exec(s).Error; err != nil {
				return err
			}
		}
		return nil
	}
}
