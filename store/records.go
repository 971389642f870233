package store

import (
	"errors"
	"fmt"
	"strconv"
	"time"

	"gorm.io/gorm"
)

// Model is a record of a model of machine. Doc is yembo.chassis with the findings'
// paths by place id.
type Model struct {
	ID        string `gorm:"primaryKey"`
	Maker     string
	Model     string
	Code      string
	Kind      string
	Doc       []byte
	Brief     []byte `gorm:"-"` // what lists show; kept beside the record
	Version   int
	CreatedAt time.Time
	UpdatedAt time.Time
	Removal
}

// Customer is who brought a machine.
type Customer struct {
	ID        int64 `gorm:"primaryKey"`
	Name      string
	Contact   string
	CreatedAt time.Time
	Removal
}

// Machine is one customer's machine. Doc is yembo.machine.
type Machine struct {
	ID         string `gorm:"primaryKey"` // a number, as text
	Tag        string // what people call it, the id of its document
	CustomerID int64
	Customer   Customer
	ModelID    string
	Model      Model
	Serial     string
	Doc        []byte
	Version    int
	CreatedAt  time.Time
	UpdatedAt  time.Time
	Removal
}

// Job is what is wanted for a machine, and what was chosen. Wish is the goals and
// the budget of a yembo.request; Choice is the option chosen with what it rests on.
// Details is what was agreed when the machine was taken in, State where the job stands.
type Job struct {
	ID         int64 `gorm:"primaryKey"`
	MachineID  string
	Machine    Machine
	CustomerID int64 // who wanted it; the machine may be another's by now
	Complaint  string
	Wish       []byte
	Choice     []byte
	ChosenAt   *time.Time
	ChosenBy   string
	Details    []byte
	State      []byte
	PromisedAt *time.Time
	ClosedAt   *time.Time
	Version    int
	CreatedAt  time.Time
	UpdatedAt  time.Time
	Removal
}

// Removal is of a record that was made by mistake: since it was removed nothing finds it, and for a
// while it can be brought back.
type Removal struct {
	RemovedAt gorm.DeletedAt
	RemovedBy string
}

// Setting is one of the shop's settings, as JSON.
type Setting struct {
	Name  string `gorm:"primaryKey"`
	Value []byte
}

// History is one change of a record: who, when, and the record before it.
type History struct {
	ID     int64 `gorm:"primaryKey"`
	At     time.Time
	By     string
	Kind   string // model, machine, job, setting
	Record string
	JobID  *int64 // that it belongs to, nil for none
	What   string // in words
	Event  string // of which kind it is, where the application looks for it again
	Data   string // what it needs then
	Before []byte // nil for a new record
	Screen string // that it was done at, "" for a browser of somebody's own
}

// Submission remembers a form that was taken, so that sending it twice stores one
// thing. Result is where the first one led.
type Submission struct {
	Token   string `gorm:"primaryKey"`
	Result  string
	Content string // what tells the form that was sent from others, "" where it was not told
	At      time.Time
}

// Models lists all model records without their documents' bytes being changed.
func (t Tx) Models() ([]Model, error) {
	var out []Model
	return out, t.db.Order("maker, model, id").Find(&out).Error
}

// Model returns one model record.
func (t Tx) Model(id string) (Model, error) { return first[Model](t.db, "id = ?", id) }

// Machine returns one machine, by its key or its tag, with customer and model.
func (t Tx) Machine(ref string) (Machine, error) {
	return first[Machine](t.db.Joins("Customer").Joins("Model"), "machines.id = ? OR machines.tag = ?", ref, ref)
}

// Customers lists all customers.
func (t Tx) Customers() ([]Customer, error) {
	var out []Customer
	return out, t.db.Order("name, id").Find(&out).Error
}

// CustomerByName finds a customer by the exact name.
func (t Tx) CustomerByName(name string) (Customer, error) {
	return first[Customer](t.db, "name = ?", name)
}

// ofMachine holds for what belongs to a machine, by its key or its tag.
const ofMachine = "machine_id = (SELECT id FROM machines WHERE id = ? OR tag = ?)"

// JobOf returns the newest job of a machine, by its key or its tag.
func (t Tx) JobOf(ref string) (Job, error) {
	return first[Job](t.db.Order("id desc"), ofMachine, ref, ref)
}

// Setting returns a setting's value, nil when it was never set.
func (t Tx) Setting(name string) ([]byte, error) {
	s, err := first[Setting](t.db, "name = ?", name)
	if errors.Is(err, ErrNotFound) {
		return nil, nil
	}
	return s.Value, err
}

// PutSetting stores a setting.
func (t Tx) PutSetting(name string, value []byte) error {
	return t.db.Save(&Setting{name, value}).Error
}

// Create stores a new record.
func (t Tx) Create(record any) error { return t.db.Create(record).Error }

// HistoryOf lists the changes of a record, newest first.
func (t Tx) HistoryOf(kind, record string) ([]History, error) {
	var out []History
	return out, t.db.Order("id desc").Find(&out, "kind = ? AND record = ?", kind, record).Error
}

// LastNoted is when something was noted last, zero where nothing was.
func (t Tx) LastNoted() (time.Time, error) {
	var rows []History
	err := t.db.Select("at").Order("id desc").Limit(1).Find(&rows).Error
	if err != nil || len(rows) == 0 {
		return time.Time{}, err
	}
	return rows[0].At, nil
}

// HistoryEntry returns one change.
func (t Tx) HistoryEntry(id int64) (History, error) { return first[History](t.db, "id = ?", id) }

// SaveModel stores a changed model record. version is the one that was read.
func (t Tx) SaveModel(m *Model, version int) error {
	if err := t.save(m, m.ID, version); err != nil {
		return err
	}
	return t.indexModel(m)
}

// CreateModel stores a new model record.
func (t Tx) CreateModel(m *Model) error {
	if err := t.db.Create(m).Error; err != nil {
		return err
	}
	return t.indexModel(m)
}

// SaveJob stores a changed job. version is the one that was read.
func (t Tx) SaveJob(j *Job, version int) error {
	return t.save(j, j.ID, version, "Machine")
}

// save updates all columns of a record where it still has the version that was
// read; otherwise ErrChanged, and nothing is stored. Removing counts as a change.
// joined are its fields that are other records, which are left alone.
func (t Tx) save(record any, id any, version int, joined ...string) error {
	done := t.db.Unscoped().Model(record).Omit(joined...).
		Where("id = ? AND version = ?", id, version).Select("*").Updates(record)
	if done.Error != nil {
		return done.Error
	}
	if done.RowsAffected == 0 {
		return ErrChanged
	}
	return nil
}

// Submitted returns where a form led that was already taken, "" for a new one.
func (t Tx) Submitted(token string) (Submission, error) {
	s, err := first[Submission](t.db, "token = ?", token)
	if errors.Is(err, ErrNotFound) {
		return Submission{}, nil
	}
	return s, err
}

func first[T any](db *gorm.DB, where string, args ...any) (T, error) {
	var out T
	err := db.Where(where, args...).Take(&out).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return out, ErrNotFound
	}
	if err != nil {
		return out, fmt.Errorf("reading the data file: %w", err)
	}
	return out, nil
}

// CreateMachine stores a new machine.
func (t Tx) CreateMachine(m *Machine) error {
	n, err := t.nextMachine()
	if err != nil {
		return err
	}
	m.ID = strconv.FormatInt(n, 10)
	return t.db.Omit("Customer", "Model").Create(m).Error
}

// nextMachine is the number that the next machine gets. Numbers come once: that of a machine
// that is gone is not given again.
func (t Tx) nextMachine() (int64, error) {
	var n int64
	err := t.db.Raw("SELECT COALESCE(MAX(n), 0) + 1 FROM machine_numbers").Scan(&n).Error
	return n, err
}

// CreateJob stores a new job.
func (t Tx) CreateJob(j *Job) error { return t.db.Omit("Machine").Create(j).Error }
