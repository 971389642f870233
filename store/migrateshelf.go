package store

// shelf is migration 0009: parts are edited, retired and ordered; their pieces move, are held
// for jobs, and carry serials.
var shelf = []string{
	`CREATE TABLE suppliers (
		id INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE, contact TEXT NOT NULL, days INTEGER, closes TEXT NOT NULL,
		note TEXT NOT NULL, version INTEGER NOT NULL, retired_at DATETIME)`,
	`ALTER TABLE parts ADD COLUMN orderable BOOLEAN NOT NULL DEFAULT FALSE`,
	`ALTER TABLE parts ADD COLUMN low INTEGER NOT NULL DEFAULT 0`,
	`ALTER TABLE parts ADD COLUMN supplier_id INTEGER REFERENCES suppliers(id)`,
	`ALTER TABLE parts ADD COLUMN order_no TEXT NOT NULL DEFAULT ''`,
	`ALTER TABLE parts ADD COLUMN note TEXT NOT NULL DEFAULT ''`,
	`ALTER TABLE parts ADD COLUMN uncounted BOOLEAN NOT NULL DEFAULT FALSE`,
	`ALTER TABLE parts ADD COLUMN machine_id TEXT REFERENCES machines(id)`,
	`ALTER TABLE parts ADD COLUMN version INTEGER NOT NULL DEFAULT 1`,
	`ALTER TABLE parts ADD COLUMN retired_at DATETIME`,
	`CREATE INDEX parts_machine ON parts(machine_id)`,
	`CREATE TABLE orders (
		id INTEGER PRIMARY KEY, supplier_id INTEGER NOT NULL REFERENCES suppliers(id), at DATETIME NOT NULL, by TEXT NOT NULL,
		expected_on TEXT NOT NULL, note TEXT NOT NULL, version INTEGER NOT NULL, closed_at DATETIME)`,
	`CREATE INDEX orders_open ON orders(closed_at)`,
	`CREATE TABLE order_lines (
		id INTEGER PRIMARY KEY, order_id INTEGER NOT NULL REFERENCES orders(id), part_id TEXT NOT NULL REFERENCES parts(id),
		n INTEGER NOT NULL CHECK (n > 0), got INTEGER NOT NULL DEFAULT 0 CHECK (got >= 0),
		gone INTEGER NOT NULL DEFAULT 0 CHECK (gone >= 0 AND got + gone <= n), cents INTEGER NOT NULL CHECK (cents >= 0))`,
	`CREATE INDEX order_lines_order ON order_lines(order_id)`,
	`CREATE INDEX order_lines_part ON order_lines(part_id)`,
	`CREATE TABLE movements (
		id INTEGER PRIMARY KEY, at DATETIME NOT NULL, by TEXT NOT NULL, part_id TEXT NOT NULL REFERENCES parts(id), kind TEXT NOT NULL,
		shelf INTEGER NOT NULL, held INTEGER NOT NULL, tested INTEGER NOT NULL, job_id INTEGER REFERENCES jobs(id),
		machine_id TEXT REFERENCES machines(id), order_id INTEGER REFERENCES orders(id), cents INTEGER NOT NULL,
		note TEXT NOT NULL)`,
	`CREATE INDEX movements_part ON movements(part_id)`,
	`CREATE INDEX movements_job ON movements(job_id)`,
	// What the movements come to. The checks hold also where two take the last piece at once.
	`CREATE TABLE stocks (
		part_id TEXT PRIMARY KEY REFERENCES parts(id), shelf INTEGER NOT NULL DEFAULT 0 CHECK (shelf >= 0),
		held INTEGER NOT NULL DEFAULT 0 CHECK (held >= 0 AND held <= shelf),
		tested INTEGER NOT NULL DEFAULT 0 CHECK (tested >= 0 AND tested <= shelf))`,
	`CREATE TABLE holds (
		job_id INTEGER NOT NULL REFERENCES jobs(id), part_id TEXT NOT NULL REFERENCES parts(id),
		n INTEGER NOT NULL CHECK (n >= 0), fitted INTEGER NOT NULL DEFAULT 0 CHECK (fitted >= 0), PRIMARY KEY (job_id, part_id))`,
	`CREATE INDEX holds_part ON holds(part_id)`,
	`INSERT INTO counters VALUES ('stock', 0)`,
	`CREATE TRIGGER movement_new AFTER INSERT ON movements BEGIN
		INSERT OR IGNORE INTO stocks (part_id) VALUES (new.part_id);
		UPDATE stocks SET shelf = shelf + new.shelf, held = held + new.held, tested = tested + new.tested WHERE part_id = new.part_id;
		INSERT OR IGNORE INTO holds (job_id, part_id, n) SELECT new.job_id, new.part_id, 0 WHERE new.job_id IS NOT NULL;
		UPDATE holds SET n = n + new.held, fitted = fitted + CASE new.kind WHEN 'fitted' THEN -new.shelf WHEN 'unfitted'
			THEN -new.shelf ELSE 0 END
			WHERE job_id = new.job_id AND part_id = new.part_id;
		UPDATE counters SET n = n + 1 WHERE name = 'stock';
	END`,
	`CREATE TRIGGER movement_kept BEFORE UPDATE OF part_id, kind, shelf, held, tested, job_id ON movements BEGIN
		SELECT RAISE(ABORT, 'a movement is never changed');
	END`,
	`CREATE TRIGGER movement_stays BEFORE DELETE ON movements BEGIN SELECT RAISE(ABORT, 'a movement is never removed'); END`,
	`CREATE TABLE serials (
		id INTEGER PRIMARY KEY, part_id TEXT NOT NULL REFERENCES parts(id), serial TEXT NOT NULL,
		came INTEGER NOT NULL REFERENCES movements(id), went INTEGER REFERENCES movements(id))`,
	`CREATE UNIQUE INDEX serials_here ON serials(part_id, serial) WHERE went IS NULL`,
	`CREATE INDEX serials_serial ON serials(serial)`,
	// What is looked for and on no shelf: its price is open.
	`CREATE TABLE finds (
		id INTEGER PRIMARY KEY, at DATETIME NOT NULL, by TEXT NOT NULL, kind TEXT NOT NULL, wanted TEXT NOT NULL, gives TEXT NOT NULL,
		model_id TEXT REFERENCES models(id), machine_id TEXT REFERENCES machines(id), doubt TEXT NOT NULL, done_at DATETIME)`,
	// The shelf as it was: a count each, and what lies there is held for the jobs that chose it, the
	// first to choose first.
	`UPDATE parts SET orderable = json_extract(CAST(doc AS TEXT), '$.stock') IS NULL`,
	`INSERT INTO movements (at, by, part_id, kind, shelf, held, tested, cents, note)
		SELECT CURRENT_TIMESTAMP, '', id, 'counted', json_extract(CAST(doc AS TEXT), '$.stock'), 0, 0, 0,
			'as it was recorded before movements were kept'
		FROM parts WHERE json_extract(CAST(doc AS TEXT), '$.stock') > 0 ORDER BY position, id`,
	`UPDATE parts SET doc = CAST(json_remove(CAST(doc AS TEXT), '$.stock') AS BLOB)`,
	`INSERT INTO movements (at, by, part_id, kind, shelf, held, tested, job_id, cents, note)
		SELECT CURRENT_TIMESTAMP, '', part, 'reserved', 0, min(quantity, stock - before), 0, job, 0, '' FROM (
			SELECT j.id AS job, b.value ->> '$.part' AS part, b.value ->> '$.quantity' AS quantity, s.shelf AS stock,
				COALESCE(SUM(b.value ->> '$.quantity') OVER (PARTITION BY b.value ->> '$.part' ORDER BY j.chosen_at, j.id
					ROWS BETWEEN UNBOUNDED PRECEDING AND 1 PRECEDING), 0) AS before
			FROM jobs j, json_each(CAST(j.choice AS TEXT), '$.option.buy') b JOIN stocks s ON s.part_id = b.value ->> '$.part'
			WHERE j.closed_at IS NULL AND j.choice IS NOT NULL)
		WHERE before < stock`,
}
