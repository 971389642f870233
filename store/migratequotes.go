package store

// quotesAndInvoices is migration 0013: quotes have versions, and one that was shown is never changed;
// invoices are numbered without a gap, and never changed or deleted; neither are payments.
var quotesAndInvoices = []string{
	`CREATE TABLE quotes (
		id INTEGER PRIMARY KEY, number INTEGER NOT NULL, version INTEGER NOT NULL, job_id INTEGER NOT NULL REFERENCES jobs(id),
		doc BLOB NOT NULL, rests BLOB NOT NULL, valid_until TEXT NOT NULL, shown_at DATETIME, shown_how TEXT NOT NULL DEFAULT '',
		answer TEXT NOT NULL DEFAULT '', answer_doc BLOB NOT NULL DEFAULT '{}', answered_at DATETIME, ask_on TEXT NOT NULL DEFAULT '',
		key_hash TEXT NOT NULL DEFAULT '', at DATETIME NOT NULL, by TEXT NOT NULL,
		revision INTEGER NOT NULL DEFAULT 1, UNIQUE (number, version))`,
	`CREATE INDEX quotes_job ON quotes(job_id)`,
	`CREATE UNIQUE INDEX quotes_key ON quotes(key_hash) WHERE key_hash <> ''`,
	`CREATE TRIGGER quote_frozen BEFORE UPDATE OF number, version, job_id, doc, rests, valid_until ON quotes
		WHEN old.shown_at IS NOT NULL AND new.answer_doc <> 'forgotten' BEGIN
		SELECT RAISE(ABORT, 'a quote that was shown is never changed');
	END`,
	`CREATE TABLE invoices (
		number INTEGER PRIMARY KEY, job_id INTEGER NOT NULL REFERENCES jobs(id), quote_id INTEGER REFERENCES quotes(id),
		cancels INTEGER UNIQUE REFERENCES invoices(number), doc BLOB NOT NULL, cents INTEGER NOT NULL, currency TEXT NOT NULL,
		at DATETIME NOT NULL, by TEXT NOT NULL)`,
	`CREATE INDEX invoices_job ON invoices(job_id)`,
	`CREATE TRIGGER invoice_next BEFORE INSERT ON invoices WHEN new.number <> (SELECT COALESCE(MAX(number), 0) + 1
		FROM invoices) BEGIN
		SELECT RAISE(ABORT, 'invoices are numbered without a gap');
	END`,
	`CREATE TRIGGER invoice_kept BEFORE UPDATE ON invoices BEGIN SELECT RAISE(ABORT, 'an invoice is never changed'); END`,
	`CREATE TRIGGER invoice_stays BEFORE DELETE ON invoices BEGIN SELECT RAISE(ABORT, 'an invoice is never deleted'); END`,
	`CREATE TABLE payments (
		id INTEGER PRIMARY KEY, job_id INTEGER NOT NULL REFERENCES jobs(id), invoice INTEGER REFERENCES invoices(number),
		cents INTEGER NOT NULL, how TEXT NOT NULL, note TEXT NOT NULL, at DATETIME NOT NULL, by TEXT NOT NULL)`,
	`CREATE INDEX payments_job ON payments(job_id)`,
	`CREATE TRIGGER payment_kept BEFORE UPDATE OF job_id, cents, how, at, by ON payments BEGIN
		SELECT RAISE(ABORT, 'a payment is never changed');
	END`,
	`CREATE TRIGGER payment_stays BEFORE DELETE ON payments BEGIN SELECT RAISE(ABORT, 'a payment is never deleted'); END`,
}
