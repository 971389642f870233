package store

import "time"

// Photo is a picture that belongs to a record. Full and Thumb are JPEG files.
type Photo struct {
	ID        int64 `gorm:"primaryKey"`
	Kind      string
	Record    string
	Fact      string // path of the fact or place it shows, "" the whole
	Caption   string
	TakenOn   string // a date
	By        string
	Width     int
	Height    int
	Full      []byte
	Thumb     []byte
	Sum       string // SHA-256 of Full, in hex
	SourceSum string // the same of the file as it came
	Removed   bool   // taken off the record, can be put back
	CreatedAt time.Time
}

// withoutFiles are the columns of a photo that lists need.
const withoutFiles = "id, kind, record, fact, caption, taken_on, by, width, height, sum, source_sum, removed, " +
	"created_at"

// PhotosOf lists the photos of a record without their files, in the order in which
// they came, removed ones too.
func (t Tx) PhotosOf(kind, record string) ([]Photo, error) {
	var out []Photo
	return out, t.db.Select(withoutFiles).Order("id").Find(&out, "kind = ? AND record = ?", kind, record).Error
}

// Photo returns one photo with its files.
func (t Tx) Photo(kind, record string, id int64) (Photo, error) {
	return first[Photo](t.db, "kind = ? AND record = ? AND id = ?", kind, record, id)
}

// SetPhotoRemoved takes a photo off its record or puts it back.
func (t Tx) SetPhotoRemoved(id int64, removed bool) error {
	return t.db.Model(&Photo{}).Where("id = ?", id).Update("removed", removed).Error
}

// Upload is a file that was sent and looked at, and waits for an answer.
type Upload struct {
	ID        int64 `gorm:"primaryKey"`
	Content   []byte
	CreatedAt time.Time
}

// Upload returns a waiting file.
func (t Tx) Upload(id int64) (Upload, error) { return first[Upload](t.db, "id = ?", id) }

// DropUploads deletes the files that wait since before a time.
func (t Tx) DropUploads(before time.Time) error {
	return t.db.Where("created_at < ?", before).Delete(&Upload{}).Error
}
