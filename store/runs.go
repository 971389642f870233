package store

import "time"

// Run is the work on one job at the bench. Doc is what it is made from: the records as they
// were when it began; it never changes. Timings is filled when it ends.
type Run struct {
	ID           int64 `gorm:"primaryKey"`
	JobID        int64
	ModelID      string
	ModelVersion int // that the model had, or was brought to by the run itself
	Doc          []byte
	BeganAt      time.Time
	BeganBy      string
	EndedAt      *time.Time
	Timings      []byte
	Targets      string // the places that were worked on and the services that were done, in order
	SureMS       *int64 // how long hands were on all of it; nil where a pause lay in it, or it was left as it was
}

// RunEvent is one thing that happened in a run. Client names it: the same name twice is one
// event.
type RunEvent struct {
	ID      int64 `gorm:"primaryKey"`
	RunID   int64
	Client  string
	Kind    string
	Step    string
	At      time.Time // as it happened
	By      string
	Data    []byte
	TakenAt time.Time // when it came here
}

// RunsOf lists the runs of a job, newest first.
func (t Tx) RunsOf(job int64) ([]Run, error) {
	var out []Run
	return out, t.db.Order("id desc").Find(&out, "job_id = ?", job).Error
}

// Run returns one run.
func (t Tx) Run(id int64) (Run, error) { return first[Run](t.db, "id = ?", id) }

// RunEvents lists what happened in a run after an event, in the order in which it was taken.
func (t Tx) RunEvents(run, after int64) ([]RunEvent, error) {
	var out []RunEvent
	return out, t.db.Order("id").Find(&out, "run_id = ? AND id > ?", run, after).Error
}

// RunEventOf is the event with a client's name, with an empty one where there is none.
func (t Tx) RunEventOf(run int64, client string) (RunEvent, error) {
	var rows []RunEvent
	err := t.db.Limit(1).Find(&rows, "run_id = ? AND client = ?", run, client).Error
	if err != nil || len(rows) == 0 {
		return RunEvent{}, err
	}
	return rows[0], nil
}

// SetRunVersion notes that a run itself brought the model's record to a version.
func (t Tx) SetRunVersion(id int64, version int) error {
	return t.db.Model(&Run{}).Where("id = ?", id).Update("model_version", version).Error
}

// SetRunDoc replaces what a run is made from, where a first opening becomes a way back.
func (t Tx) SetRunDoc(id int64, doc []byte, version int) error {
	return t.db.Model(&Run{}).Where("id = ?", id).Updates(map[string]any{"doc": doc, "model_version": version}).Error
}

// EndRun notes that a run ended, with the times that its steps took, what was worked on and how long hands were on all of it,
// where that is sure.
func (t Tx) EndRun(id int64, at time.Time, timings []byte, targets string, sure *int64) error {
	return t.db.Model(&Run{}).Where("id = ?", id).Updates(map[string]any{"ended_at": at, "timings": timings, "targets": targets,
		"sure_ms": sure}).Error
}

// RunTime is how long hands were on a whole run.
type RunTime struct {
	ModelID, Targets string
	SureMS           int64
}

// mostRunTimes is how many runs are looked at for how long work takes: the newest.
const mostRunTimes = 5000

// RunTimes are the times of the runs that measure something, the newest first.
func (t Tx) RunTimes() ([]RunTime, error) {
	var out []RunTime
	return out, t.db.Model(&Run{}).Where("sure_ms > 0").Order("id DESC").Limit(mostRunTimes).Select("model_id, targets, sure_ms").
		Scan(&out).Error
}

// TimingsOf are the times of the steps of all runs of a model that ended, the oldest first.
func (t Tx) TimingsOf(model string) ([][]byte, error) {
	var out [][]byte
	return out, t.db.Model(&Run{}).Where("model_id = ? AND ended_at IS NOT NULL AND timings IS NOT NULL", model).Order("id").
		Pluck("timings", &out).Error
}

// runs are the statements that bring in the work at the bench.
var runs = []string{
	`CREATE TABLE runs (
		id INTEGER PRIMARY KEY, job_id INTEGER NOT NULL REFERENCES jobs(id), model_id TEXT NOT NULL, model_version INTEGER NOT NULL,
		doc BLOB NOT NULL, began_at DATETIME NOT NULL, began_by TEXT NOT NULL, ended_at DATETIME, timings BLOB)`,
	`CREATE INDEX runs_job ON runs(job_id)`,
	`CREATE UNIQUE INDEX runs_open ON runs(job_id) WHERE ended_at IS NULL`,
	`CREATE INDEX runs_model ON runs(model_id) WHERE ended_at IS NOT NULL`,
	`CREATE TABLE run_events (
		id INTEGER PRIMARY KEY, run_id INTEGER NOT NULL REFERENCES runs(id), client TEXT NOT NULL, kind TEXT NOT NULL,
			step TEXT NOT NULL,
		at DATETIME NOT NULL, by TEXT NOT NULL, data BLOB NOT NULL, taken_at DATETIME NOT NULL)`,
	`CREATE UNIQUE INDEX run_events_client ON run_events(run_id, client)`,
}

// LastRunEvent is the number of the last event of a run, 0 for none.
func (t Tx) LastRunEvent(run int64) (int64, error) {
	var n int64
	return n, t.db.Model(&RunEvent{}).Where("run_id = ?", run).Select("COALESCE(MAX(id), 0)").Scan(&n).Error
}
