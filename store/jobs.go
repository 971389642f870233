package store

import (
	"strconv"
	"time"
)

// Reading is what a machine told of itself. Doc is yembo.observed; Accepted says what was
// taken over, "" before anybody decided.
type Reading struct {
	ID        int64 `gorm:"primaryKey"`
	MachineID string
	JobID     *int64
	Doc       []byte
	Files     string
	Notes     string
	By        string
	Accepted  string
	Simulated bool
	CreatedAt time.Time
}

// Contact is a talk with the customer about a job.
type Contact struct {
	ID     int64 `gorm:"primaryKey"`
	JobID  int64
	At     time.Time
	By     string
	Who    string
	How    string
	Said   string
	Agreed string
}

// OpenJobs lists the jobs that are not closed, with machine, customer and model.
func (t Tx) OpenJobs() ([]Job, error) {
	var out []Job
	return out, t.db.Joins("Machine").
		Joins("Machine.Customer").
		Joins("Machine.Model").
		Where("jobs.closed_at IS NULL").
		Order("jobs.id").
		Find(&out).
		Error
}

// Job returns one job with machine, customer and model.
func (t Tx) Job(id int64) (Job, error) {
	return first[Job](t.db.Joins("Machine").Joins("Machine.Customer").Joins("Machine.Model"), "jobs.id = ?", id)
}

// JobsOf lists the jobs of a machine, newest first.
func (t Tx) JobsOf(machineID string) ([]Job, error) {
	var out []Job
	return out, t.db.Order("id desc").Find(&out, "machine_id = ?", machineID).Error
}

// NewestJobs returns the newest job of each of some machines, by machine.
func (t Tx) NewestJobs(machines []Machine) (map[string]Job, error) {
	ids := make([]string, len(machines))
	for i := range machines {
		ids[i] = machines[i].ID
	}
	var rows []Job
	err := t.db.Where("id IN (SELECT max(id) FROM jobs WHERE machine_id IN ? AND removed_at IS NULL GROUP BY machine_id)",
		ids).Find(&rows).Error
	out := map[string]Job{}
	for _, j := range rows {
		out[j.MachineID] = j
	}
	return out, err
}

// MachinesOfModel lists the machines of a model.
func (t Tx) MachinesOfModel(model string) ([]Machine, error) {
	var out []Machine
	return out, t.db.Order("id").Find(&out, "model_id = ?", model).Error
}

// MachinesOf lists the machines of a customer, also those that were removed: what is held of a person
// is all of it.
func (t Tx) MachinesOf(customer int64) ([]Machine, error) {
	var out []Machine
	return out, t.db.Unscoped().Order("id").Find(&out, "customer_id = ?", customer).Error
}

// MachineCount is how many machines there are.
func (t Tx) MachineCount() (int, error) {
	var n int64
	err := t.db.Model(&Machine{}).Count(&n).Error // by an index alone
	return int(n), err
}

// ModelCount is how many models there are.
func (t Tx) ModelCount() (int, error) {
	var n int64
	err := t.db.Table("model_briefs").Count(&n).Error // a model that was removed has none
	return int(n), err
}

// SaveMachine stores a changed machine. version is the one that was read.
func (t Tx) SaveMachine(m *Machine, version int) error {
	return t.save(m, m.ID, version, "Customer", "Model")
}

// ReadingsOf lists the readings of a machine, by its key or its tag, newest first.
func (t Tx) ReadingsOf(ref string) ([]Reading, error) {
	var out []Reading
	return out, t.db.Order("id desc").Find(&out, ofMachine, ref, ref).Error
}

// Reading returns one reading.
func (t Tx) Reading(id int64) (Reading, error) { return first[Reading](t.db, "id = ?", id) }

// SimulatedReadings are the numbers of a machine's readings that a stand-in gave and that
// were taken over.
func (t Tx) SimulatedReadings(machineID string) ([]int64, error) {
	var ids []int64
	err := t.db.Model(&Reading{}).Where("machine_id = ? AND simulated AND accepted <> ''",
		machineID).Order("id").Pluck("id", &ids).Error
	return ids, err
}

// AcceptReading notes what was taken over of a reading.
func (t Tx) AcceptReading(id int64, what string) error {
	return t.db.Model(&Reading{}).Where("id = ?", id).Update("accepted", what).Error
}

// SetReading stores what is left of a reading.
func (t Tx) SetReading(id int64, doc []byte) error {
	return t.db.Model(&Reading{}).Where("id = ?", id).Update("doc", doc).Error
}

// ContactsOf lists the talks about a job, newest first.
func (t Tx) ContactsOf(jobID int64) ([]Contact, error) {
	var out []Contact
	return out, t.db.Order("id desc").Find(&out, "job_id = ?", jobID).Error
}

// MachineKeys is what tells machines apart: "id X", and "serial MODEL X".
func (t Tx) MachineKeys() (map[string]bool, error) {
	var rows []Machine
	err := t.db.Unscoped().Select("tag, model_id, serial, removed_at").Find(&rows).Error
	out := map[string]bool{}
	for _, r := range rows {
		out["id "+r.Tag] = true
		if r.Serial != "" && !r.RemovedAt.Valid {
			out["serial "+r.ModelID+" "+r.Serial] = true
		}
	}
	return out, err
}

// EachMachine calls f with every machine, its customer and its model, by id.
func (t Tx) EachMachine(f func(m *Machine) error) error {
	const batch = 500
	last := ""
	for {
		var rows []Machine
		if err := t.db.Joins("Customer").Joins("Model").Where("machines.id > ?",
			last).Order("machines.id").Limit(batch).Find(&rows).Error; err != nil {
			return err
		}
		for i := range rows {
			if err := f(&rows[i]); err != nil {
				return err
			}
		}
		if len(rows) < batch {
			return nil
		}
		last = rows[len(rows)-1].ID
	}
}

// CreateMachines stores many machines with a line of history each, in the same order.
func (t Tx) CreateMachines(machines []Machine, notes []History) error {
	const batch = 200
	n, err := t.nextMachine()
	if err != nil {
		return err
	}
	for i := range machines {
		machines[i].ID = strconv.FormatInt(n+int64(i), 10)
		notes[i].Record = machines[i].ID
	}
	if err := t.db.Omit("Customer", "Model").CreateInBatches(machines, batch).Error; err != nil {
		return err
	}
	return t.db.CreateInBatches(notes, batch).Error
}

// MachineWithSerial is a machine that has a serial, but for one; ErrNotFound where none has.
func (t Tx) MachineWithSerial(serial, but string) (Machine, error) {
	return first[Machine](t.db, "serial = ? AND id <> ?", serial, but)
}

// ClosedOf is how many of the jobs that were taken in after a moment are closed.
func (t Tx) ClosedOf(after time.Time) (n int, err error) {
	var count int64
	err = t.db.Model(&Job{}).Where("created_at > ? AND closed_at IS NOT NULL AND removed_at IS NULL", after).Count(&count).Error
	return int(count), err
}
