package store

import "time"

// Supplier is whom parts are ordered from.
type Supplier struct {
	ID        int64 `gorm:"primaryKey"`
	Name      string
	Contact   string
	Days      *int   // that a delivery usually takes
	Closes    string // until when an order goes out the same day, "14:00"
	Note      string
	Version   int
	RetiredAt *time.Time
}

// Order is what was ordered from one supplier at one time.
type Order struct {
	ID         int64 `gorm:"primaryKey"`
	SupplierID int64
	At         time.Time
	By         string
	ExpectedOn string // a day, its time after it where that was said, "" where nobody said
	Confirmed  bool   // the supplier has said so
	Note       string
	Version    int
	ClosedAt   *time.Time
}

// OrderLine is one part of an order: how many, how many came, and how many never will.
type OrderLine struct {
	ID      int64 `gorm:"primaryKey"`
	OrderID int64
	PartID  string
	N       int
	Got     int
	Gone    int
	Cents   int64 // of each
}

// OpenLine is a line of which something has still to come, with its order and supplier.
type OpenLine struct {
	OrderLine
	ExpectedOn, Supplier, Contact string
	Confirmed                     bool
}

// Suppliers lists the suppliers by name, retired ones too.
func (t Tx) Suppliers() ([]Supplier, error) {
	var out []Supplier
	return out, t.db.Order("name").Find(&out).Error
}

// Supplier returns one supplier.
func (t Tx) Supplier(id int64) (Supplier, error) { return first[Supplier](t.db, "id = ?", id) }

// SupplierNamed finds a supplier by the exact name.
func (t Tx) SupplierNamed(name string) (Supplier, error) {
	return first[Supplier](t.db, "name = ?", name)
}

// SaveSupplier stores a changed supplier. version is the one that was read.
func (t Tx) SaveSupplier(s *Supplier, version int) error { return t.save(s, s.ID, version) }

// OpenLines lists what is ordered and not here, by the day it is expected; what nobody knows the
// day of comes last.
func (t Tx) OpenLines() ([]OpenLine, error) {
	var out []OpenLine
	return out, t.db.Table("order_lines").Joins("JOIN orders ON orders.id = order_lines.order_id").
		Joins("JOIN suppliers ON suppliers.id = orders.supplier_id").
		Select("order_lines.*, orders.expected_on, orders.confirmed, suppliers.name AS supplier, suppliers.contact").
		Where("orders.closed_at IS NULL AND order_lines.got + order_lines.gone < order_lines.n").
		Order("orders.expected_on = '', substr(orders.expected_on || ' 24:00', 1, 16), order_lines.id").Scan(&out).Error
}

// Orders lists orders, open ones first, then the newest.
func (t Tx) Orders(most int) ([]Order, error) {
	var out []Order
	return out, t.db.Order("closed_at IS NOT NULL, id DESC").Limit(most).Find(&out).Error
}

// Order returns one order.
func (t Tx) Order(id int64) (Order, error) { return first[Order](t.db, "id = ?", id) }

// SaveOrder stores a changed order. version is the one that was read.
func (t Tx) SaveOrder(o *Order, version int) error { return t.save(o, o.ID, version) }

// LinesOf lists the lines of an order.
func (t Tx) LinesOf(order int64) ([]OrderLine, error) {
	var out []OrderLine
	return out, t.db.Order("id").Find(&out, "order_id = ?", order).Error
}

// PaidLast is what a piece of each part cost in its newest order that told a price, in minor units.
func (t Tx) PaidLast() (map[string]int64, error) {
	var lines []OrderLine
	err := t.db.Find(&lines, "id IN (SELECT max(id) FROM order_lines WHERE cents > 0 GROUP BY part_id)").Error
	out := make(map[string]int64, len(lines))
	for _, l := range lines {
		out[l.PartID] = l.Cents
	}
	return out, err
}

// SaveLine stores a changed line.
func (t Tx) SaveLine(l *OrderLine) error { return t.db.Save(l).Error }

// Find is something that is looked for and on no shelf.
type Find struct {
	ID        int64 `gorm:"primaryKey"`
	At        time.Time
	By        string
	Kind      string
	Wanted    string
	Gives     string
	ModelID   *string
	MachineID *string
	Doubt     string
	DoneAt    *time.Time
}

// Finds lists what is still looked for.
func (t Tx) Finds() ([]Find, error) {
	var out []Find
	return out, t.db.Order("id").Find(&out, "done_at IS NULL").Error
}

// SoughtFor lists what is looked for for one machine.
func (t Tx) SoughtFor(machine string) ([]string, error) {
	var out []string
	return out, t.db.Model(&Find{}).Where("machine_id = ? AND done_at IS NULL", machine).Pluck("wanted", &out).Error
}

// FindDone takes something off the list of what is looked for.
func (t Tx) FindDone(id int64, at time.Time) error {
	return t.db.Model(&Find{}).Where("id = ? AND done_at IS NULL", id).Update("done_at", at).Error
}
