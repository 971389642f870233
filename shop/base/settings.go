package base

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net"
	"net/url"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"yembo/core/card"
	"yembo/core/grade"
	"yembo/core/hw"
	"yembo/core/memory"
	"yembo/core/quote"
	"yembo/store"
)

// checkService refuses an address that is not on this machine: no request leaves it.
func checkService(faults *hw.Faults, address string) {
	if address == "" {
		return
	}
	u, err := url.Parse(address)
	if err != nil || u.Scheme != "http" || u.Host == "" {
		faults.Add("/supplier_service", hw.FaultChoice, fmt.Sprintf("%q", address),
			"an address such as http://127.0.0.1:8424")
		return
	}
	if ip := net.ParseIP(u.Hostname()); u.Hostname() != "localhost" && (ip == nil || !ip.IsLoopback()) {
		faults.Add("/supplier_service", hw.FaultConflict, u.Hostname()+" is another machine",
			"no request leaves this one: 127.0.0.1")
	}
}

// Terms are how the shop charges, as a quote is made with them.
func (v *Settings) Terms() quote.Terms {
	return quote.Terms{Currency: v.Currency, LabourRate: v.LabourRate, TaxPercent: v.TaxPercent, Fixed: v.Pricing.Fixed,
		LeastCents: v.Pricing.LeastCents, DeclinedCents: v.Pricing.DeclinedCents,
		RoundTo: v.Pricing.TotalStep(), TaxIn: v.Pricing.TaxIn}
}

// Floor is where and when the shop works: its benches, and the hours in which it is open.
type Floor struct {
	Benches       int  `json:"benches,omitempty"`
	Opens, Closes int  `json:",omitempty"` // in whole hours; kept by shops that were set up before each day had its own
	Days          Days `json:"days,omitempty"`
}

// Days are the days of the week on which the shop is open: bit 0 is Sunday.
type Days uint8

// Has reports whether a day of the week is one of them.
func (d Days) Has(day time.Weekday) bool { return d&(1<<day) != 0 }

// Limits of a shop's floor.
const (
	usualBenches = 2
	usualOpens   = 9
	usualCloses  = 18
	mostBenches  = 12
	usualDays    = Days(0b0111110) // Monday to Friday
)

// orUsual is a floor with what is not set as it usually is.
func (f Floor) orUsual() Floor {
	if f.Benches == 0 {
		f.Benches = usualBenches
	}
	if f.Closes == 0 {
		f.Opens, f.Closes = usualOpens, usualCloses
	}
	if f.Days == 0 {
		f.Days = usualDays
	}
	return f
}

// check adds what cannot be.
func (f Floor) check(faults *hw.Faults) {
	if f.Benches < 0 || f.Benches > mostBenches {
		faults.Add("/benches", hw.FaultRange, strconv.Itoa(f.Benches), fmt.Sprintf("1 to %d", mostBenches))
	}
}

// Settings is how the shop works.
type Settings struct {
	// Workshop is its name in the head of each page and on prints; "" leaves that to how it was started.
	Workshop string `json:"workshop,omitempty"`
	// Technicians are the names of who works here, as the history has them; the people on record are the truth of them.
	Technicians []string `json:"technicians,omitempty"`
	// AtBench are those of them who may work at the benches.
	AtBench []string `json:"-"`
	// Address stands on prints, a line each.
	Address    string      `json:"address,omitempty"`
	Floor      Floor       `json:"floor,omitzero"`
	Practice   hw.Practice `json:"practice"`
	LabourRate int64       `json:"labour_cents_per_hour"`
	Currency   string      `json:"currency"`
	// Loosen is how the screws of a heat sink are loosened: in the printed order reversed,
	// which unloads it evenly, or as printed, where makers say so (docs/rules.md, Battery and wireless).
	Loosen string `json:"loosen"`
	// TaxPercent is added to prices where they are shown to customers; 0 shows none.
	TaxPercent hw.Dec `json:"tax_percent,omitempty"`
	// ShelfTax shows the prices of the shelf with tax; they are kept without.
	ShelfTax bool   `json:"shelf_tax,omitempty"`
	Paper    string `json:"paper,omitempty"` // a4 or letter
	// Trial is when a machine is started before its cover goes on, "" for the usual.
	Trial card.TrialWhen `json:"trial_start,omitempty"`
	// WarrantyMonths is how long the shop answers for what it fitted; 0 is not told.
	WarrantyMonths int `json:"warranty_months,omitempty"`
	// MeasuredTimes takes the median of what at least three jobs of a model took for a step.
	MeasuredTimes bool `json:"measured_times,omitempty"`
	// UsualTimes plans with the usual time of each kind of step (docs/rules.md, The way in), whatever
	// minutes a record gives: for records whose minutes are another workshop's.
	UsualTimes bool `json:"usual_times,omitempty"`
	// Simulated offers the simulated machine and power meter that ship with Yembo.
	Simulated bool `json:"simulated_devices,omitempty"`
	// SupplierService is the address of a supplier's service on this machine, "" for none: then nobody is
	// asked.
	SupplierService string `json:"supplier_service,omitempty"`
	// Backups is the folder that daily copies of the data go into, "" for none.
	Backups string `json:"backups,omitempty"`
	// CopiesFor is the age recipient that daily copies are encrypted for, "" for copies in plain.
	CopiesFor string `json:"copies_for,omitempty"`
	// PINMinutes is after how many minutes a shared screen asks again who works there; 0 is as usual.
	PINMinutes int `json:"pin_minutes,omitempty"`
	// Hours are when the shop is open; nil is as Floor and Break had it. PeopleHours are those of people whose hours are
	// others. Closed are days on which the shop is closed, Away when somebody is not there.
	Hours       Hours            `json:"hours,omitempty"`
	Break       string           `json:"break,omitempty"`
	PeopleHours map[string]Hours `json:"people_hours,omitempty"`
	Closed      []Spell          `json:"closed,omitempty"`
	Away        []Spell          `json:"away,omitempty"`
	// Week is how the shop promises.
	Week WeekPractice `json:"week,omitzero"`
	// TimeZone is where the shop is, such as Europe/Vienna, from the next start on; "" is the computer's.
	TimeZone string `json:"time_zone,omitempty"`
	// ServeAt is the address at which Yembo answers from its next start, "" for this machine alone; OwnTLS says that it
	// does with a certificate of its own.
	ServeAt string `json:"serve_at,omitempty"`
	OwnTLS  bool   `json:"own_tls,omitempty"`
	// PublicAddress stands in the links of customers, "" where none is served to them.
	PublicAddress string `json:"public_address,omitempty"`
	// Pricing is how quotes and invoices are made.
	Pricing Pricing `json:"pricing,omitzero"`
	// Grade is how much each kind counts in how easily a model is upgraded, where it is not as usual.
	Grade grade.Weights `json:"grade_weights,omitempty"`
	// Largest is the table of the largest modules made, by form and type, in GB.
	Largest memory.LargestModule `json:"largest_modules,omitempty"`
}

// LargestModules is the table in use: the shop's own, else the one that ships.
func (v *Settings) LargestModules() memory.LargestModule {
	if len(v.Largest) > 0 {
		return v.Largest
	}
	return memory.Largest()
}

// TrialOf is when a machine is started before its cover goes on.
func (v *Settings) TrialOf() card.TrialWhen {
	if v.Trial == "" {
		return card.TrialMore
	}
	return v.Trial
}

// usualPINMinutes is after how long a shared screen asks again who works there.
const usualPINMinutes = 5

// PINAfter is after how long a shared screen asks again who works there.
func (v *Settings) PINAfter() time.Duration {
	minutes := v.PINMinutes
	if minutes == 0 {
		minutes = usualPINMinutes
	}
	return time.Duration(minutes) * time.Minute
}

// PaperOf is the paper that sheets print on.
func (v *Settings) PaperOf() string {
	if v.Paper == "letter" {
		return v.Paper
	}
	return "a4"
}

const SettingsName = "shop"

// DefaultSettings hold until the shop sets its own.
func DefaultSettings() Settings {
	return Settings{Currency: "EUR", Loosen: LoosenReversed,
		Practice: hw.Practice{MemoryLimit: hw.Known[hw.LimitPractice]("maker"), Pairing: hw.Known[hw.Pairing]("any")}}
}

// SettingsIn reads the settings.
func SettingsIn(tx store.Tx) (Settings, error) {
	out := DefaultSettings()
	raw, err := tx.Setting(SettingsName)
	if err != nil {
		return out, err
	}
	if raw != nil {
		if err := json.Unmarshal(raw, &out); err != nil {
			return out, fmt.Errorf("the shop's settings: %w", err)
		}
	}
	out.Technicians, out.AtBench, err = namesOfPeople(tx)
	return out, err
}

// Settings returns the shop's settings.
func (s *Base) Settings(ctx context.Context) (Settings, error) {
	var out Settings
	err := s.Store.View(ctx, func(tx store.Tx) (err error) {
		out, err = SettingsIn(tx)
		return err
	})
	return out, err
}

// checkGrade adds a fault for each weight out of its range, and where nothing counts.
func checkGrade(faults *hw.Faults, w grade.Weights) {
	sum := 0
	for _, t := range grade.Kinds {
		n := w.Of(t.Word)
		if sum += n; n < 0 || n > grade.MostWeight {
			faults.Add("/grade/"+string(t.Word), hw.FaultRange, strconv.Itoa(n), fmt.Sprintf("0 to %d", grade.MostWeight))
		}
	}
	if sum == 0 {
		faults.Add("/grade/"+string(grade.Memory), hw.FaultRange, "0", "one kind at least counts")
	}
}

// checkPractice adds a fault for each word that a practice does not know.
func checkPractice(faults *hw.Faults, p *hw.Practice) {
	checkWord(faults, "/practice/memory_limit", p.MemoryLimit, hw.LimitPractices)
	checkWord(faults, "/practice/pairing", p.Pairing, hw.Pairings)
	checkWord(faults, "/practice/migration", p.Migration, hw.Migrations)
	checkWord(faults, "/practice/rotational", p.Rotational, hw.RotationalUses)
	checkWord(faults, "/practice/access_point", p.AccessPoint, hw.Standards)
	if cents, ok := p.RiskCents.Get(); ok && (cents < 0 || cents > hw.MostRiskCents) {
		faults.Add("/practice/risk_cents", hw.FaultRange, strconv.FormatInt(cents, 10),
			fmt.Sprintf("0 to %d of the smallest unit", hw.MostRiskCents))
	}
}

func checkWord[W ~string](faults *hw.Faults, pointer string, value hw.Maybe[W], table hw.Vocabulary[W]) {
	if got, ok := value.Get(); ok && table.Index(got) < 0 {
		faults.Add(pointer, hw.FaultChoice, strconv.Quote(string(got)), strings.Join(table.Words(), ", "))
	}
}

// SetLoosen changes how the screws of a heat sink are loosened.
func (s *Base) SetLoosen(ctx context.Context, a Actor, way string) error {
	if way != LoosenReversed && way != LoosenPrinted {
		return hw.Faults{{Pointer: "/loosen",
			Text: hw.Word(hw.FaultChoice, fmt.Sprintf("%q", way), LoosenReversed+", "+LoosenPrinted)}}
	}
	return s.Store.Update(ctx, func(tx store.Tx) error {
		now, err := SettingsIn(tx)
		if err != nil || now.Loosen == way {
			return err
		}
		before, err := json.Marshal(now)
		if err != nil {
			return err
		}
		now.Loosen = way
		if err := PutSettings(tx, now, s.Now()); err != nil {
			return err
		}
		return s.Note(tx, a, kindSetting, SettingsName, "practice: heat sinks are loosened "+way, before)
	})
}

// SaveSettings changes all settings at once; was is what they were when they were looked
// at. The error is hw.Faults for one that cannot be, ErrChanged where somebody changed them
// since; nothing is changed then.
func (s *Base) SaveSettings(ctx context.Context, a Actor, was, next Settings) error {
	var faults hw.Faults
	if len(next.Currency) != 3 || strings.ToUpper(next.Currency) != next.Currency {
		faults.Add("/currency", hw.FaultChoice, strconv.Quote(next.Currency), "three capital letters such as EUR")
	}
	if next.LabourRate < 0 || next.LabourRate > 1_000_000 {
		faults.Add("/labour", hw.FaultRange, fmt.Sprint(next.LabourRate), "0 to 10 000 an hour")
	}
	if next.TaxPercent < 0 || next.TaxPercent > hw.DecOf(100) {
		faults.Add("/tax", hw.FaultRange, next.TaxPercent.String(), "0 to 100 per cent")
	}
	if next.Loosen != LoosenReversed && next.Loosen != LoosenPrinted {
		faults.Add("/loosen", hw.FaultChoice, strconv.Quote(next.Loosen), LoosenReversed+", "+LoosenPrinted)
	}
	for form, row := range next.Largest {
		for kind, gb := range row {
			if gb <= 0 || gb > hw.DecOf(4096) {
				faults.Add("/largest/"+string(form)+"/"+string(kind), hw.FaultRange, gb.String(), "1 to 4096 GB")
			}
		}
	}
	checkPractice(&faults, &next.Practice)
	checkGrade(&faults, next.Grade)
	s.checkBackups(&faults, next.Backups)
	if next.CopiesFor != "" {
		if _, err := store.Recipient(next.CopiesFor); err != nil {
			faults = append(faults, hw.Fault{Pointer: "/copies_for",
				Text: "an age recipient is expected: it begins with age1 and is printed when a key is made"})
		}
	}
	checkService(&faults, next.SupplierService)
	checkPublic(&faults, next.PublicAddress)
	next.checkHours(&faults)
	if err := s.checkServeAt(ctx, &faults, next.ServeAt); err != nil {
		return err
	}
	if next.PINMinutes < 0 || next.PINMinutes > 240 {
		faults.Add("/pin_minutes", hw.FaultRange, strconv.Itoa(next.PINMinutes), "1 to 240 minutes")
	}
	next.Floor.check(&faults)
	if next.WarrantyMonths < 0 || next.WarrantyMonths > 120 {
		faults.Add("/warranty", hw.FaultRange, strconv.Itoa(next.WarrantyMonths), "0 to 120 months")
	}
	if next.Trial != "" && card.TrialWhens.Index(next.Trial) < 0 {
		faults.Add("/trial", hw.FaultChoice, strconv.Quote(string(next.Trial)), strings.Join(card.TrialWhens.Words(), ", "))
	}
	if utf8.RuneCountInString(next.Workshop) > MaxName {
		faults.Add("/workshop", hw.FaultRange, "the name", fmt.Sprintf("at most %d characters", MaxName))
	}
	checkTechnicians(&faults, next.Technicians)
	next.Pricing.check(&faults, next.Currency)
	if utf8.RuneCountInString(next.Address) > maxAddress || strings.Count(next.Address, "\n") >= maxAddressLines {
		faults.Add(
			"/address",
			hw.FaultRange,
			"the address",
			fmt.Sprintf("at most %d lines, %d characters", maxAddressLines, maxAddress),
		)
	}
	if err := faults.Err(); err != nil {
		return err
	}
	return s.Store.Update(ctx, func(tx store.Tx) error {
		now, err := SettingsIn(tx)
		if err != nil {
			return err
		}
		before, errB := json.Marshal(now)
		looked, errL := json.Marshal(was)
		after, errA := json.Marshal(next)
		switch err := errors.Join(errB, errL, errA); {
		case err != nil:
			return err
		case !bytes.Equal(before, looked):
			return ErrChanged
		case bytes.Equal(before, after):
			return nil
		}
		if err := PutSettings(tx, next, s.Now()); err != nil {
			return err
		}
		return s.Note(tx, a, kindSetting, SettingsName, "settings changed", before)
	})
}

// SetUp keeps the settings of a new shop, also where nothing was told of it.
func (s *Base) SetUp(ctx context.Context, a Actor, was, next Settings) error {
	if err := s.SaveSettings(ctx, a, was, next); err != nil {
		return err
	}
	return s.Store.Update(ctx, func(tx store.Tx) error {
		now, err := SettingsIn(tx)
		if err != nil {
			return err
		}
		return PutSettings(tx, now, s.Now())
	})
}

// Untouched reports whether a shop is new: nothing was set, and nothing is on record.
func (s *Base) Untouched(ctx context.Context) (bool, error) {
	var untouched bool
	err := s.Store.View(ctx, func(tx store.Tx) error {
		raw, err := tx.Setting(SettingsName)
		if err != nil {
			return err
		}
		models, parts, machines, err := tx.Counts()
		untouched = raw == nil && models+parts+machines == 0
		return err
	})
	return untouched, err
}

// PutSettings stores the settings, and brings who works here in line with the names that they have.
func PutSettings(tx store.Tx, v Settings, now time.Time) error {
	if err := putNames(tx, v.Technicians, now); err != nil {
		return err
	}
	v.Technicians = nil
	raw, err := json.Marshal(v)
	if err != nil {
		return err
	}
	return tx.PutSetting(SettingsName, raw)
}
