// Package shop is the use cases of the workshop. Each is one transaction, takes
// the person who acts, and writes what it changes to the record's history.
package shop

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"strconv"
	"strings"
	"sync"
	"time"
	"unicode/utf8"

	"yembo/core/card"
	"yembo/core/hw"
	"yembo/core/memory"
	"yembo/core/plan"
	"yembo/store"
)

// Actor is the person who acts.
type Actor struct{ Name string }

// Shop is the workshop on a data folder.
type Shop struct {
	store *store.Store
	now   func() time.Time
	shelf *shelf
	care  *care
	work  *workbench
	uses  *uses
	ask   *asking
	runs  *runs
	noted *noted
	// Called is the name that the workshop was started with, where its settings tell none.
	Called string
}

// New returns the workshop on an open store. now is the clock.
func New(s *store.Store, now func() time.Time) *Shop {
	return &Shop{store: s, now: now, shelf: &shelf{parts: -1}, care: &care{}, work: &workbench{}, uses: &uses{},
		runs: newRuns(), noted: &noted{},
		ask:  &asking{offers: map[string]Offer{}, client: &http.Client{Timeout: askTimeout}}}
}

// noted is when something was noted last: a clock that jumped back stands before it.
type noted struct {
	mu   sync.Mutex
	last time.Time
}

// at keeps when something was noted.
func (n *noted) at(t time.Time) {
	n.mu.Lock()
	defer n.mu.Unlock()
	if t.After(n.last) {
		n.last = t
	}
}

// Noted tells that something was noted at a time.
func (s *Shop) Noted(at time.Time) { s.noted.at(at) }

// LastNoted is when something was noted last.
func (s *Shop) LastNoted() time.Time {
	s.noted.mu.Lock()
	defer s.noted.mu.Unlock()
	return s.noted.last
}

// Now is the shop's time.
func (s *Shop) Now() time.Time { return s.Now() }

// Errors that pages tell apart.
var (
	ErrNotFound = store.ErrNotFound
	ErrChanged  = store.ErrChanged
	ErrBusy     = store.ErrBusy
	ErrFull     = store.ErrFull
	ErrDamaged  = store.ErrDamaged
	ErrReadOnly = store.ErrReadOnly
	ErrMoved    = store.ErrMoved
	// ErrPlanChanged means that an option chosen is no longer among the plan's.
	ErrPlanChanged = errors.New("the plan is no longer the one that was shown")
	// ErrDanger means that the machine has to be made safe before anything else.
	ErrDanger = errors.New("the machine is to be made safe first")
	// ErrSentOther means that a form was sent again with other content than it was stored with.
	ErrSentOther = errors.New("this form was stored already, with other content")
)

// Kinds of records in the history.
const (
	kindModel   = "model"
	kindMachine = "machine"
	kindJob     = "job"
	kindSetting = "setting"
)

type contentKey struct{}

// WithContent tells what the form that is being stored holds, as a sum: sent again with the
// same, a form has its first result, with other content it is refused.
func WithContent(ctx context.Context, sum string) context.Context {
	return context.WithValue(ctx, contentKey{}, sum)
}

// once runs a use case for a form. A form that was taken before leads where it led
// the first time, and stores nothing.
func (s *Shop) once(ctx context.Context, token string, do func(tx store.Tx) (result string, err error)) (string,
	error) {
	var result string
	content, _ := ctx.Value(contentKey{}).(string)
	err := s.store.Update(ctx, func(tx store.Tx) error {
		if token != "" {
			before, err := tx.Submitted(token)
			if err != nil {
				return err
			}
			if before.Token != "" {
				if before.Content != "" && content != "" && before.Content != content {
					return ErrSentOther
				}
				result = before.Result
				return nil
			}
		}
		var err error
		if result, err = do(tx); err != nil {
			return err
		}
		if token == "" {
			return nil
		}
		return tx.Create(&store.Submission{Token: token, Content: content, Result: result, At: s.Now()})
	})
	return result, err
}

func (s *Shop) noteEvent(tx store.Tx, a Actor, kind, record string, e event, before []byte) error {
	row := store.History{At: s.Now(), By: a.Name, Kind: kind, Record: record, What: e.what, Event: e.kind, Data: e.data,
		Before: before}
	if e.job != 0 {
		row.JobID = &e.job
	}
	s.noted.at(row.At)
	return tx.Create(&row)
}

func (s *Shop) note(tx store.Tx, a Actor, kind, record, what string, before []byte) error {
	return s.noteEvent(tx, a, kind, record, event{what: what}, before)
}

// Floor is where and when the shop works: its benches, and the hours in which it is open.
type Floor struct {
	Benches       int  `json:"benches,omitempty"`
	Opens, Closes int  `json:",omitempty"` // in whole hours
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
	allDays      = Days(0b1111111)
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

// Doubt says why a promise for a time cannot be meant, "" where it can: it is past, or the shop is not
// open then.
func (f Floor) Doubt(at, now time.Time) string {
	f = f.orUsual()
	switch {
	case at.IsZero():
		return ""
	case at.Before(now):
		return timeWords(at) + " is past"
	case !f.Days.Has(at.Weekday()):
		return timeWords(at) + ": the shop is not open on " + at.Weekday().String() + "s"
	case at.Before(atHour(at, f.Opens)) || at.After(atHour(at, f.Closes)):
		return fmt.Sprintf("%s: the shop is open from %d to %d", timeWords(at), f.Opens, f.Closes)
	}
	return ""
}

// check adds what cannot be.
func (f Floor) check(faults *hw.Faults) {
	if f.Benches < 0 || f.Benches > mostBenches {
		faults.Add("/benches", hw.FaultRange, strconv.Itoa(f.Benches), fmt.Sprintf("1 to %d", mostBenches))
	}
	if f.Opens < 0 || f.Closes > 24 || f.Closes != 0 && f.Opens >= f.Closes || f.Closes == 0 && f.Opens != 0 {
		faults.Add("/closes", hw.FaultRange, fmt.Sprintf("from %d to %d", f.Opens, f.Closes), "it closes later than it opens, by 24")
	}
	if f.Days > allDays {
		faults.Add("/days", hw.FaultChoice, strconv.Itoa(int(f.Days)), "days of the week")
	}
}

// Settings is how the shop works.
type Settings struct {
	// Workshop is its name in the head of each page and on prints; "" leaves that to how it was started.
	Workshop string `json:"workshop,omitempty"`
	// Technicians are who works here, as the history names them.
	Technicians []string `json:"technicians,omitempty"`
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
	// Pricing is how quotes and invoices are made.
	Pricing Pricing `json:"pricing,omitzero"`
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

// FloorOf is where and when the shop works.
func (v *Settings) FloorOf() Floor { return v.Floor.orUsual() }

// TrialOf is when a machine is started before its cover goes on.
func (v *Settings) TrialOf() card.TrialWhen {
	if v.Trial == "" {
		return card.TrialMore
	}
	return v.Trial
}

// PaperOf is the paper that sheets print on.
func (v *Settings) PaperOf() string {
	if v.Paper == "letter" {
		return v.Paper
	}
	return "a4"
}

// The two ways to loosen a heat sink.
const (
	LoosenReversed = "reversed"
	LoosenPrinted  = "printed"
)

const settingsName = "shop"

// defaultSettings hold until the shop sets its own.
func defaultSettings() Settings {
	return Settings{Currency: "EUR", Loosen: LoosenReversed,
		Practice: hw.Practice{MemoryLimit: hw.Known[hw.LimitPractice]("maker"), Pairing: hw.Known[hw.Pairing]("any")}}
}

func settings(tx store.Tx) (Settings, error) {
	out := defaultSettings()
	raw, err := tx.Setting(settingsName)
	if err != nil || raw == nil {
		return out, err
	}
	if err := json.Unmarshal(raw, &out); err != nil {
		return out, fmt.Errorf("the shop's settings: %w", err)
	}
	return out, nil
}

// Settings returns the shop's settings.
func (s *Shop) Settings(ctx context.Context) (Settings, error) {
	var out Settings
	err := s.store.View(ctx, func(tx store.Tx) (err error) {
		out, err = settings(tx)
		return err
	})
	return out, err
}

// checkPractice adds a fault for each word that a practice does not know.
func checkPractice(faults *hw.Faults, p *hw.Practice) {
	checkWord(faults, "/practice/memory_limit", p.MemoryLimit, hw.LimitPractices)
	checkWord(faults, "/practice/pairing", p.Pairing, hw.Pairings)
	checkWord(faults, "/practice/migration", p.Migration, hw.Migrations)
	checkWord(faults, "/practice/access_point", p.AccessPoint, hw.Standards)
}

func checkWord[W ~string](faults *hw.Faults, pointer string, value hw.Maybe[W], table hw.Vocabulary[W]) {
	if got, ok := value.Get(); ok && table.Index(got) < 0 {
		faults.Add(pointer, hw.FaultChoice, strconv.Quote(string(got)), strings.Join(table.Words(), ", "))
	}
}

// SetLoosen changes how the screws of a heat sink are loosened.
func (s *Shop) SetLoosen(ctx context.Context, a Actor, way string) error {
	if way != LoosenReversed && way != LoosenPrinted {
		return hw.Faults{{Pointer: "/loosen",
			Text: hw.Word(hw.FaultChoice, fmt.Sprintf("%q", way), LoosenReversed+", "+LoosenPrinted)}}
	}
	return s.store.Update(ctx, func(tx store.Tx) error {
		now, err := settings(tx)
		if err != nil || now.Loosen == way {
			return err
		}
		before, err := json.Marshal(now)
		if err != nil {
			return err
		}
		now.Loosen = way
		if err := putSettings(tx, now); err != nil {
			return err
		}
		return s.note(tx, a, kindSetting, settingsName, "practice: heat sinks are loosened "+way, before)
	})
}

// SaveSettings changes all settings at once; was is what they were when they were looked
// at. The error is hw.Faults for one that cannot be, ErrChanged where somebody changed them
// since; nothing is changed then.
func (s *Shop) SaveSettings(ctx context.Context, a Actor, was, next Settings) error {
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
	s.checkBackups(&faults, next.Backups)
	checkService(&faults, next.SupplierService)
	next.Floor.check(&faults)
	if next.WarrantyMonths < 0 || next.WarrantyMonths > 120 {
		faults.Add("/warranty", hw.FaultRange, strconv.Itoa(next.WarrantyMonths), "0 to 120 months")
	}
	if next.Trial != "" && card.TrialWhens.Index(next.Trial) < 0 {
		faults.Add("/trial", hw.FaultChoice, strconv.Quote(string(next.Trial)), strings.Join(card.TrialWhens.Words(), ", "))
	}
	if utf8.RuneCountInString(next.Workshop) > maxName {
		faults.Add("/workshop", hw.FaultRange, "the name", fmt.Sprintf("at most %d characters", maxName))
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
	return s.store.Update(ctx, func(tx store.Tx) error {
		now, err := settings(tx)
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
		if err := putSettings(tx, next); err != nil {
			return err
		}
		return s.note(tx, a, kindSetting, settingsName, "settings changed", before)
	})
}

// SetUp keeps the settings of a new shop, also where nothing was told of it.
func (s *Shop) SetUp(ctx context.Context, a Actor, was, next Settings) error {
	if err := s.SaveSettings(ctx, a, was, next); err != nil {
		return err
	}
	return s.store.Update(ctx, func(tx store.Tx) error {
		now, err := settings(tx)
		if err != nil {
			return err
		}
		return putSettings(tx, now)
	})
}

// Untouched reports whether a shop is new: nothing was set, and nothing is on record.
func (s *Shop) Untouched(ctx context.Context) (bool, error) {
	var untouched bool
	err := s.store.View(ctx, func(tx store.Tx) error {
		raw, err := tx.Setting(settingsName)
		if err != nil {
			return err
		}
		models, parts, machines, err := tx.Counts()
		untouched = raw == nil && models+parts+machines == 0
		return err
	})
	return untouched, err
}

func putSettings(tx store.Tx, v Settings) error {
	raw, err := json.Marshal(v)
	if err != nil {
		return err
	}
	return tx.PutSetting(settingsName, raw)
}

// Change is one line of a record's history.
type Change struct {
	ID   int64
	At   time.Time
	By   string
	What string
	// Event is the kind of it where it is looked for again, with its data.
	Event, Data string
	JobID       int64 // that it belongs to, 0 for none
	// Restorable says that there was an earlier state, which can be brought back.
	Restorable bool
}

func history(tx store.Tx, kind, record string) ([]Change, error) {
	rows, err := tx.HistoryOf(kind, record)
	if err != nil {
		return nil, err
	}
	out := make([]Change, len(rows))
	for i := range rows {
		out[i] = changeOf(&rows[i])
	}
	return out, nil
}

func changeOf(r *store.History) Change {
	c := Change{ID: r.ID, At: r.At, By: r.By, What: r.What, Event: r.Event, Data: r.Data,
		Restorable: r.Kind == kindModel && r.Before != nil || r.Event == eventCorrected && r.Before != nil}
	if r.JobID != nil {
		c.JobID = *r.JobID
	}
	return c
}

// Choice is an option that was chosen, with what it rests on.
type Choice struct {
	Option   plan.Option `json:"option"`
	Practice hw.Practice `json:"practice"`
	Currency string      `json:"currency"`
	// Words say what the option does, as the parts were called then.
	Words string `json:"words,omitempty"`
}
