package store

import (
	"errors"
	"time"

	"modernc.org/sqlite"
)

// Part is one line of the shelf or the order list. Doc is one part of yembo.parts without what
// lies on the shelf, which is the sum of its movements.
type Part struct {
	ID         string `gorm:"primaryKey"`
	Position   int
	Kind       string
	Name       string
	Doc        []byte
	Orderable  bool // also where nobody said how many days it takes
	Low        int  // as many are to be free; 0 for no such line
	SupplierID *int64
	OrderNo    string // what its supplier calls it
	Note       string
	Uncounted  bool    // in stock, not counted
	MachineID  *string // whose customer brings it
	Version    int
	RetiredAt  *time.Time
	Removal
}

// Movement is one change of what lies on the shelf or is held there. It is never changed.
type Movement struct {
	ID        int64 `gorm:"primaryKey"`
	At        time.Time
	By        string
	PartID    string
	Kind      string
	Shelf     int // more or fewer on the shelf
	Held      int // more or fewer of them for the job
	Tested    int // more or fewer of them tested, of those pulled from machines
	JobID     *int64
	MachineID *string
	OrderID   *int64
	Cents     int64 // of each, where it was paid
	Note      string
}

// Stock is what a part's movements come to.
type Stock struct {
	PartID              string `gorm:"primaryKey"`
	Shelf, Held, Tested int
}

// Free is what lies on the shelf for nobody.
func (s *Stock) Free() int { return s.Shelf - s.Held }

// Hold is what is held of a part for a job, and what of it was fitted already.
type Hold struct {
	JobID  int64
	PartID string
	N      int
	Fitted int
}

// Serial is one piece of a part: the movement that brought it, and the one that took it away.
type Serial struct {
	ID     int64 `gorm:"primaryKey"`
	PartID string
	Serial string
	Came   int64
	Went   *int64
}

// ErrTaken means that more was taken from the shelf, or of what is held, than is there.
var ErrTaken = errors.New("there are not so many on the shelf")

const sqliteConstraintCheck = 275

// Move stores a movement with the serials of its pieces, where they have some. The error is
// ErrTaken where the shelf does not hold so many.
func (t Tx) Move(m *Movement, serials []string) error {
	err := t.db.Create(m).Error
	var from *sqlite.Error
	if errors.As(err, &from) && from.Code() == sqliteConstraintCheck {
		return ErrTaken
	}
	if err != nil {
		return err
	}
	for _, serial := range serials {
		if m.Shelf > 0 {
			err = t.db.Create(&Serial{PartID: m.PartID, Serial: serial, Came: m.ID}).Error
		} else {
			err = t.db.Model(&Serial{}).Where("part_id = ? AND serial = ? AND went IS NULL", m.PartID, serial).
				Update("went", m.ID).Error
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// SerialsHere lists the pieces of a part on the shelf that have a serial.
func (t Tx) SerialsHere(part string) ([]Serial, error) {
	var out []Serial
	return out, t.db.Order("id").Find(&out, "part_id = ? AND went IS NULL", part).Error
}

// SerialsOf lists the pieces of a part that have a serial, those that went too.
func (t Tx) SerialsOf(part string) ([]Serial, error) {
	var out []Serial
	return out, t.db.Order("id").Find(&out, "part_id = ?", part).Error
}

// AllMovementsOf lists the movements of a part, the oldest first.
func (t Tx) AllMovementsOf(part string) ([]Movement, error) {
	var out []Movement
	return out, t.db.Order("id").Find(&out, "part_id = ?", part).Error
}

// SerialsNamed lists the pieces of any part with a serial, those on the shelf first.
func (t Tx) SerialsNamed(serial string) ([]Serial, error) {
	var out []Serial
	return out, t.db.Order("went IS NOT NULL, id DESC").Find(&out, "serial = ?", serial).Error
}

// Parts lists the shelf in its order.
func (t Tx) Parts() ([]Part, error) {
	var out []Part
	return out, t.db.Order("position, id").Find(&out).Error
}

// Part returns one part.
func (t Tx) Part(id string) (Part, error) { return first[Part](t.db, "id = ?", id) }

// AnyPart returns one part, also one that was removed.
func (t Tx) AnyPart(id string) (Part, error) { return first[Part](t.db.Unscoped(), "id = ?", id) }

// CreatePart stores a new part after those there are.
func (t Tx) CreatePart(p *Part) error {
	if err := t.db.Raw("SELECT COALESCE(MAX(position), 0) + 1 FROM parts").Scan(&p.Position).Error; err != nil {
		return err
	}
	return t.db.Create(p).Error
}

// CreateParts stores new parts after those there are, with a line of history each.
func (t Tx) CreateParts(parts []Part, notes []History) error {
	const batch = 200
	var last int
	if err := t.db.Raw("SELECT COALESCE(MAX(position), 0) FROM parts").Scan(&last).Error; err != nil {
		return err
	}
	for i := range parts {
		parts[i].Position = last + 1 + i
	}
	if err := t.db.CreateInBatches(parts, batch).Error; err != nil {
		return err
	}
	return t.db.CreateInBatches(notes, batch).Error
}

// SavePart stores a changed part. version is the one that was read.
func (t Tx) SavePart(p *Part, version int) error { return t.save(p, p.ID, version) }

// ShelfChanged counts the changes of the parts, and of what lies on the shelf.
func (t Tx) ShelfChanged() (parts, stock int64, err error) {
	n, err := t.Changes()
	return n["parts"], n["stock"], err
}

// Changes counts the changes of parts, stock, models, machines and jobs.
func (t Tx) Changes() (map[string]int64, error) {
	var rows []struct {
		Name string
		N    int64
	}
	err := t.db.Raw("SELECT name, n FROM counters").Scan(&rows).Error
	out := map[string]int64{}
	for _, r := range rows {
		out[r.Name] = r.N
	}
	return out, err
}

// Stocks is what lies on the shelf, by part; a part that never moved is not in it.
func (t Tx) Stocks() (map[string]Stock, error) {
	var rows []Stock
	err := t.db.Find(&rows).Error
	out := make(map[string]Stock, len(rows))
	for _, r := range rows {
		out[r.PartID] = r
	}
	return out, err
}

// Stock is what lies on the shelf of one part.
func (t Tx) Stock(part string) (Stock, error) {
	out, err := first[Stock](t.db, "part_id = ?", part)
	if errors.Is(err, ErrNotFound) {
		return Stock{PartID: part}, nil
	}
	return out, err
}

// HoldsOf lists what is held for a job or was fitted by it.
func (t Tx) HoldsOf(job int64) ([]Hold, error) {
	var out []Hold
	return out, t.db.Order("part_id").Find(&out, "job_id = ?", job).Error
}

// Holds lists what is held for open jobs or was fitted by them.
func (t Tx) Holds() ([]Hold, error) {
	var out []Hold
	return out, t.db.Where("job_id IN (SELECT id FROM jobs WHERE closed_at IS NULL AND removed_at IS NULL) OR n > 0").
		Order("job_id, part_id").Find(&out).Error
}

// MovementsOf lists the newest movements of a part; of all parts for "".
func (t Tx) MovementsOf(part string, most int) ([]Movement, error) {
	var out []Movement
	q := t.db.Order("id DESC").Limit(most)
	if part != "" {
		q = q.Where("part_id = ?", part)
	}
	return out, q.Find(&out).Error
}

// MovementsFor lists what was moved for a job, the oldest first.
func (t Tx) MovementsFor(job int64) ([]Movement, error) {
	var out []Movement
	return out, t.db.Order("id").Find(&out, "job_id = ?", job).Error
}

// Wanting is an open job with an option chosen, as far as its parts go.
type Wanting struct {
	ID         int64
	MachineID  string
	Tag        string
	Choice     []byte
	State      []byte
	PromisedAt *time.Time
	CreatedAt  time.Time
}

// Wanting lists the open jobs that have an option chosen: promised ones first, by when, then the
// others as they came in.
func (t Tx) Wanting() ([]Wanting, error) {
	var out []Wanting
	return out, t.db.Table("jobs").Joins("JOIN machines ON machines.id = jobs.machine_id").
		Select("jobs.id, jobs.machine_id, machines.tag, jobs.choice, jobs.state, jobs.promised_at, jobs.created_at").
		Where("jobs.closed_at IS NULL AND jobs.removed_at IS NULL AND jobs.choice IS NOT NULL").
		Order("jobs.promised_at IS NULL, jobs.promised_at, jobs.id").Scan(&out).Error
}

// Tags is what people call some machines, by their keys.
func (t Tx) Tags(keys []string) (map[string]string, error) {
	var rows []Machine
	err := t.db.Select("id, tag").Find(&rows, "id IN ?", keys).Error
	out := make(map[string]string, len(rows))
	for _, r := range rows {
		out[r.ID] = r.Tag
	}
	return out, err
}

// Counts is how many models, parts and machines there are.
func (t Tx) Counts() (models, parts, machines int, err error) {
	var n struct{ Models, Parts, Machines int }
	err = t.db.Raw(`SELECT (SELECT count(*) FROM model_briefs) AS models, (SELECT count(*) FROM parts
		WHERE retired_at IS NULL AND removed_at IS NULL) AS parts,
		(SELECT count(*) FROM machines WHERE removed_at IS NULL) AS machines`).Scan(&n).Error
	return n.Models, n.Parts, n.Machines, err
}

// ModelVersions is the version of every model record.
func (t Tx) ModelVersions() (map[string]int, error) {
	var rows []struct {
		ID      string
		Version int
	}
	err := t.db.Raw("SELECT id, version FROM models WHERE removed_at IS NULL").Scan(&rows).Error
	out := make(map[string]int, len(rows))
	for _, r := range rows {
		out[r.ID] = r.Version
	}
	return out, err
}

// Wished is a machine whose newest job has a wish, with the versions that its plan rests on.
type Wished struct {
	MachineID                                string
	MachineVersion, JobVersion, ModelVersion int
}

// Wished lists the machines whose newest job asks for something, the newest job first.
func (t Tx) Wished(most int) ([]Wished, error) {
	var out []Wished
	return out, t.db.Raw(`SELECT m.id AS machine_id, m.version AS machine_version, j.version AS job_version,
		d.version AS model_version
		FROM jobs j JOIN machines m ON m.id = j.machine_id JOIN models d ON d.id = m.model_id
		WHERE j.id = (SELECT max(id) FROM jobs WHERE machine_id = j.machine_id AND removed_at IS NULL)
		AND (json_extract(CAST(j.wish AS TEXT), '$.goals') <> '{}' OR json_array_length(CAST(j.wish AS TEXT), '$.services') > 0)
		ORDER BY j.id DESC LIMIT ?`, most).Scan(&out).Error
}
