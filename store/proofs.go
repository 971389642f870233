package store

import "time"

// Proof is what proves that a job is done: what was seen, tried and measured, and what was handed
// over. Doc says it; the columns are what lists look for.
type Proof struct {
	ID        int64 `gorm:"primaryKey"`
	JobID     int64
	Doc       []byte
	Version   int
	SignedAt  *time.Time
	SignedBy  string
	HandedAt  *time.Time
	AskOn     string // the day on which the customer is asked how it goes, "" for none
	CreatedAt time.Time
	UpdatedAt time.Time
}

// ProofOf is the proof of a job; ErrNotFound where nothing was noted yet.
func (t Tx) ProofOf(job int64) (Proof, error) { return first[Proof](t.db, "job_id = ?", job) }

// SaveProof stores a changed proof. version is the one that was read.
func (t Tx) SaveProof(p *Proof, version int) error { return t.save(p, p.ID, version) }

// ProofsToAsk are the proofs of jobs whose customers are to be asked by a day how it goes.
func (t Tx) ProofsToAsk(day string) ([]Proof, error) {
	var out []Proof
	return out, t.db.Where("ask_on <> '' AND ask_on <= ?", day).Order("ask_on, id").Find(&out).Error
}

// ProofsOfModel are the signed proofs of the jobs of a model's machines, the newest first.
func (t Tx) ProofsOfModel(model string) ([]Proof, error) {
	var out []Proof
	// From the proofs to their machines: a model may have thousands of machines, and a shop proves some a day.
	return out, t.db.Where(`signed_at IS NOT NULL AND EXISTS (SELECT 1 FROM jobs j JOIN machines m ON m.id = j.machine_id
		WHERE j.id = proofs.job_id AND m.model_id = ?)`, model).Order("signed_at DESC, id DESC").Find(&out).Error
}

// ProofsOfMachine are the signed proofs of a machine's jobs, the newest first.
func (t Tx) ProofsOfMachine(machine string) ([]Proof, error) {
	var out []Proof
	return out, t.db.Where("signed_at IS NOT NULL AND job_id IN (SELECT id FROM jobs WHERE machine_id = ?)", machine).
		Order("signed_at DESC, id DESC").Find(&out).Error
}

// proofs are the statements that bring in the proof of a job.
var proofs = []string{
	`CREATE TABLE proofs (
		id INTEGER PRIMARY KEY, job_id INTEGER NOT NULL UNIQUE REFERENCES jobs(id), doc BLOB NOT NULL, version INTEGER NOT NULL,
		signed_at DATETIME, signed_by TEXT NOT NULL, handed_at DATETIME, ask_on TEXT NOT NULL DEFAULT '', created_at DATETIME NOT NULL,
		updated_at DATETIME NOT NULL)`,
	`CREATE INDEX proofs_ask ON proofs(ask_on) WHERE ask_on <> ''`,
}
