package hw

// Machine is one customer's machine.
type Machine struct {
	Format  string   `json:"format"`
	ID      string   `json:"id"`
	Chassis string   `json:"chassis"`
	Serial  string   `json:"serial,omitempty"`
	Variant []string `json:"variant,omitzero"`
	Fitted  Fitted   `json:"fitted,omitzero"`
	Usage   Usage    `json:"usage,omitzero"`
}

// Fitted is what is in the machine now.
type Fitted struct {
	SolderedGB map[string]Dec  `json:"soldered_gb,omitempty"`
	Memory     []FittedModule  `json:"memory,omitzero"`
	Drives     []FittedDrive   `json:"drives,omitzero"`
	Battery    *FittedBattery  `json:"battery,omitempty"`
	Wireless   *FittedWireless `json:"wireless,omitempty"`
}

// FittedModule is a memory module in a socket.
type FittedModule struct {
	Socket string `json:"socket"`
	Module Module `json:"module,omitzero"`
}

// FittedDrive is a drive in a slot or bay.
type FittedDrive struct {
	Place          string        `json:"place"`
	Drive          Drive         `json:"drive,omitzero"`
	UsedGB         Maybe[Dec]    `json:"used_gb,omitzero"`
	Boot           Maybe[bool]   `json:"boot,omitzero"`
	Encrypted      Maybe[bool]   `json:"encrypted,omitzero"`
	Failing        Maybe[bool]   `json:"failing,omitzero"`
	Unreadable     Maybe[bool]   `json:"unreadable,omitzero"`
	New            Maybe[bool]   `json:"new,omitzero"`
	Raid0          Maybe[bool]   `json:"raid0,omitzero"`
	PartitionTable Maybe[string] `json:"partition_table,omitzero"`
}

// Fails reports whether nothing on the drive can be counted on: it is failing, or cannot be read at all. An optical
// drive stores nothing, and so loses nothing.
func (d *FittedDrive) Fails() bool {
	return d.Drive.Form != FormOptical && (d.Failing.Or(false) || d.Unreadable.Or(false))
}

// DataFirst says of a drive that fails what of its data comes before anything else.
func (d *FittedDrive) DataFirst() string {
	if d.Unreadable.Or(false) {
		return "the drive in " + d.Place + " cannot be read: ask what of it is to be saved before anything else"
	}
	return "the drive in " + d.Place + " is failing: image it before anything else"
}

// FittedBattery is the pack in the machine: one of the model's (option) or an
// unlisted one by its part number.
type FittedBattery struct {
	Option     string      `json:"option,omitempty"`
	PartNumber string      `json:"part_number,omitempty"`
	FullWh     Maybe[Dec]  `json:"full_wh,omitzero"`
	Cycles     Maybe[int]  `json:"cycles,omitzero"`
	Swollen    Maybe[bool] `json:"swollen,omitzero"`
}

// FittedWireless is the wireless card in a slot.
type FittedWireless struct {
	Slot      string           `json:"slot"`
	Standard  Maybe[Standard]  `json:"standard,omitzero"`
	Interface Maybe[Interface] `json:"interface,omitzero"`
}

// Usage is what was measured while the machine still ran.
type Usage struct {
	MemoryPeak     Maybe[Dec] `json:"memory_peak_gb,omitzero"`
	DrawW          Maybe[Dec] `json:"draw_w,omitzero"`
	RuntimeH       Maybe[Dec] `json:"runtime_h,omitzero"`
	RuntimeProfile string     `json:"runtime_profile,omitempty"`
	DiskGrowth     Maybe[Dec] `json:"disk_growth_gb_month,omitzero"`
}

// Module is a memory module.
type Module struct {
	Type       MemoryType  `json:"type,omitempty"`
	Form       ModuleForm  `json:"form,omitempty"`
	Capacity   Maybe[Dec]  `json:"capacity_gb,omitzero"`
	Speed      Maybe[int]  `json:"speed_mts,omitzero"`
	Ranks      Maybe[int]  `json:"ranks,omitzero"`
	Voltage    Maybe[Dec]  `json:"voltage_v,omitzero"`
	ECC        Maybe[bool] `json:"ecc,omitzero"`
	Clocked    Maybe[bool] `json:"clocked,omitzero"`
	Maker      string      `json:"maker,omitempty"`
	PartNumber string      `json:"part_number,omitempty"`
	Serial     string      `json:"serial,omitempty"`
}

// Drive is a solid-state or spinning drive; an M.2 one has a key and a length, a
// 2.5-inch one a form.
type Drive struct {
	Interface   Interface     `json:"interface,omitempty"`
	Form        DriveForm     `json:"form,omitempty"`
	Key         Maybe[string] `json:"key,omitzero"`
	Length      Maybe[int]    `json:"length_mm,omitzero"`
	Gen         Maybe[int]    `json:"pcie_gen,omitzero"`
	Lanes       Maybe[int]    `json:"lanes,omitzero"`
	Capacity    Maybe[Dec]    `json:"capacity_gb,omitzero"`
	ReadMBs     Maybe[Dec]    `json:"read_mbs,omitzero"`
	WriteMBs    Maybe[Dec]    `json:"write_mbs,omitzero"`
	Top         Maybe[Dec]    `json:"top_mm,omitzero"`
	Bottom      Maybe[Dec]    `json:"bottom_mm,omitzero"`
	Height      Maybe[Dec]    `json:"height_mm,omitzero"`
	PowerW      Maybe[Dec]    `json:"power_w,omitzero"`
	CacheModule Maybe[bool]   `json:"cache_module,omitzero"`
	Heatsink    Maybe[bool]   `json:"heatsink,omitzero"`
	Rotational  Maybe[bool]   `json:"rotational,omitzero"`
	Maker       string        `json:"maker,omitempty"`
	Model       string        `json:"model,omitempty"`
	Serial      string        `json:"serial,omitempty"`
}

// Pack is a battery pack that can be bought.
type Pack struct {
	PartNumber string     `json:"part_number,omitempty"`
	DesignWh   Maybe[Dec] `json:"design_wh,omitzero"`
	NominalV   Maybe[Dec] `json:"nominal_v,omitzero"`
	Series     Maybe[int] `json:"series,omitzero"`
}

// Card is a wireless card that can be bought.
type Card struct {
	Key        Maybe[string] `json:"key,omitzero"`
	Length     Maybe[int]    `json:"length_mm,omitzero"`
	Interface  Interface     `json:"interface,omitempty"`
	Standard   Standard      `json:"standard,omitempty"`
	Antennas   Maybe[int]    `json:"antennas,omitzero"`
	PartNumber string        `json:"part_number,omitempty"`
}

// Parts is what can be bought or is on the shelf.
type Parts struct {
	Format   string `json:"format"`
	Currency string `json:"currency,omitempty"`
	Parts    []Part `json:"parts"`
}

// Part is one line of the parts list. Count is how many pieces one purchase
// brings, Stock counts purchases.
type Part struct {
	ID         string     `json:"id"`
	Kind       PartKind   `json:"kind"`
	Name       string     `json:"name"`
	PriceCents int64      `json:"price_cents"`
	Stock      Maybe[int] `json:"stock,omitzero"`
	LeadDays   Maybe[int] `json:"lead_days,omitzero"`
	Count      Maybe[int] `json:"count,omitzero"`
	Source     Origin     `json:"source,omitempty"`
	For        string     `json:"for,omitempty"`
	Memory     *Module    `json:"memory,omitempty"`
	Drive      *Drive     `json:"drive,omitempty"`
	Battery    *Pack      `json:"battery,omitempty"`
	Wireless   *Card      `json:"wireless,omitempty"`
	Provides   string     `json:"provides,omitempty"`
}

// Pulled reports whether this is a used part from the shop's own shelf.
func (p *Part) Pulled() bool { return p.Source == OriginPulled }

// Brought reports whether the customer brings this part with a machine.
func (p *Part) Brought() bool { return p.Source == OriginCustomer }

// Pieces is how many pieces one purchase brings.
func (p *Part) Pieces() int { return p.Count.Or(1) }

// Purchases is how many times the part must be bought for n pieces.
func (p *Part) Purchases(n int) int { return (n + p.Pieces() - 1) / p.Pieces() }

// InStock is how many purchases are on the shelf; what a customer brings is there once
// unless it says otherwise.
func (p *Part) InStock() int {
	if p.Brought() {
		return p.Stock.Or(1)
	}
	return p.Stock.Or(0)
}

// CanBeHad reports whether that many purchases are in stock or can be ordered
// (formats: Stock). It is false for the quantity, not for the part.
func (p *Part) CanBeHad(purchases int, allowOrder bool) bool {
	stock, counted := p.Stock.Get()
	if p.Brought() {
		return p.Stock.Or(1) >= purchases // what a customer brings is never ordered
	}
	if counted && stock >= purchases {
		return true
	}
	return allowOrder && (!counted || p.LeadDays.IsKnown())
}

// Request is what the customer wants and how the shop works.
type Request struct {
	Format      string       `json:"format"`
	Goals       Goals        `json:"goals"`
	BudgetCents Maybe[int64] `json:"budget_cents,omitzero"`
	LabourRate  Maybe[int64] `json:"labour_cents_per_hour,omitzero"`
	Practice    Practice     `json:"practice,omitzero"`
	// Services are done in the same opening; Keep are places left as they are.
	Services []AskedService `json:"services,omitzero"`
	Keep     []string       `json:"keep,omitzero"`
}

// AskedService is a service of the chassis to be done, and what is charged for what it
// uses up.
type AskedService struct {
	ID     string       `json:"id"`
	Charge Maybe[int64] `json:"charge_cents,omitzero"`
}

// Goals each mean "at least".
type Goals struct {
	MemoryGB  Maybe[Dec]      `json:"memory_gb,omitzero"`
	StorageGB Maybe[Dec]      `json:"storage_gb,omitzero"`
	RuntimeH  Maybe[Dec]      `json:"runtime_h,omitzero"`
	Wireless  Maybe[Standard] `json:"wireless,omitzero"`
}

// Practice is how the shop decides where good technicians differ.
type Practice struct {
	MemoryLimit          Maybe[LimitPractice] `json:"memory_limit,omitzero"`
	Pairing              Maybe[Pairing]       `json:"pairing,omitzero"`
	Migration            Maybe[MigrationHow]  `json:"migration,omitzero"`
	AllowBay             Maybe[bool]          `json:"allow_bay,omitzero"`
	AllowOrder           Maybe[bool]          `json:"allow_order,omitzero"`
	AllowUnlistedBattery Maybe[bool]          `json:"allow_unlisted_battery,omitzero"`
	AccessPoint          Maybe[Standard]      `json:"access_point,omitzero"`
	Rotational           Maybe[RotationalUse] `json:"rotational,omitzero"`
	RiskCents            Maybe[int64]         `json:"risk_cents,omitzero"` // what a point of risk is worth
}

// UsualRiskCents is what a point of risk is worth where the shop says nothing else, and MostRiskCents the most.
const (
	UsualRiskCents = 1500
	MostRiskCents  = 100_000
)
