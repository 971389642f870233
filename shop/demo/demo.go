// Package demo is the invented workshop that the demo starts with: Harrow Fell
// Upgrades, its model records, its shelf and its customers' machines.
package demo

import (
	"embed"
	"encoding/json"
	"fmt"
	"regexp"
	"time"

	"yembo/core/hw"
	"yembo/exchange"
	"yembo/shop/base"
)

// Technician is who acts in the demo; Workshop is where.
const (
	Technician = "R. Okell"
	Workshop   = "Harrow Fell Upgrades"
	// LabourRate is what the workshop charges, in cents an hour.
	LabourRate = 4800
	// TaxPercent is what it adds to its prices; Law is what has to stand on its invoices.
	TaxPercent = 20
	Law        = "Tax number 00-555-0100. Payable within 14 days."
	// Address stands on prints.
	Address = "Slip Lane 3\nHarrow Fell\n015 550 100"
)

// Samples are the models that a new shop can take in to look around with: a notebook with soldered memory and one socket,
// one with a slot and a bay, and a mini PC.
var Samples = map[string]bool{"quillon-aster-14": true, "marrowby-osier-14": true, "quillon-block-2": true}

// Technicians are who works there.
var Technicians = []string{Technician, "T. Ansty", "C. Wray"}

//go:embed *.json photos
var files embed.FS

// Data is the demo workshop.
type Data struct {
	Models []*hw.Chassis
	Parts  *hw.Parts
	Jobs   []Job
	Photos []Photo
	Shelf  Shelf
}

// Shelf is whom the demo's workshop orders from, what is under way, and the reorder levels.
type Shelf struct {
	Suppliers []struct {
		Name, Contact, Closes string
		Days                  int
	}
	Low    map[string]int      // by part
	From   map[string][]string // parts by supplier, where that is not the usual one
	Usual  string
	Orders []Order
	Tested map[string]int
}

// Order is an order that is under way: to whom, when it is expected and was placed, how many of each part.
type Order struct {
	From      string
	Expected  base.Due
	Confirmed bool
	At        time.Time
	Lines     map[string]int
}

// Photo is a picture on a model record, drawn for the demo. Its files are kept as
// they are: they were written the way uploads are re-encoded.
type Photo struct {
	Model, File, On, By, Fact, Caption string

	Full, Thumb []byte `json:"-"`
}

// Day is the day that the demo's jobs are told for; a demo that starts on another day has
// them moved there.
var Day = time.Date(2026, 5, 14, 0, 0, 0, 0, time.UTC)

// Clock is what the clock says on that day while the demo's jobs stand as they do.
const Clock = 11*time.Hour + 20*time.Minute

// Opened is when the demo's workshop began to keep its books.
var Opened = time.Date(2026, 3, 2, 8, 0, 0, 0, time.UTC)

// Job is a machine with its customer and what is wanted, and what happened since.
type Job struct {
	Customer  string
	Contact   string
	Complaint string
	At        time.Time
	Machine   *hw.Machine
	Wish      *hw.Request
	Details   json.RawMessage // as the job keeps them, nil for none
	Promised  time.Time
	Choose    string // least_cost, "" for nothing chosen yet
	Moves     []Move
	Talks     []Talk
	Ticks     []Tick // of the run that goes on, the first at its beginning
}

// Tick is a step of a run that was done.
type Tick struct {
	Step string
	At   time.Time
}

// Move is a change of where a job stands.
type Move struct {
	To, For string
	Due     base.Due
	Bench   int
	At      time.Time
}

// Talk is a contact with the customer.
type Talk struct {
	How, Who, Said, Agreed string
	At                     time.Time
}

// Load reads the demo's documents through the same checks as any other document. ahead is how far the
// day of its shop lies after Day: every date in them moves along.
func Load(ahead time.Duration) (*Data, error) {
	var d Data
	byID := map[string]*hw.Chassis{}
	for _, name := range []string{"aster", "drover", "block", "osier", "fennel", "reedmace", "hurdle", "aster16",
		"carter"} {
		raw, err := files.ReadFile(name + ".json")
		if err != nil {
			return nil, err
		}
		raw = moved(raw, isoDate, time.DateOnly, ahead)
		ch, err := exchange.ReadChassis(raw)
		if err != nil {
			return nil, fmt.Errorf("demo %s: %w", name, err)
		}
		d.Models = append(d.Models, ch)
		byID[ch.ID] = ch
	}
	var err error
	if d.Photos, err = loadPhotos(); err != nil {
		return nil, err
	}
	raw, err := files.ReadFile("parts.json")
	if err != nil {
		return nil, err
	}
	if d.Parts, err = exchange.ReadParts(raw); err != nil {
		return nil, fmt.Errorf("demo parts: %w", err)
	}
	if raw, err = files.ReadFile("shelf.json"); err != nil {
		return nil, err
	}
	if err := json.Unmarshal(raw, &d.Shelf); err != nil {
		return nil, fmt.Errorf("demo shelf: %w", err)
	}
	if raw, err = files.ReadFile("jobs.json"); err != nil {
		return nil, err
	}
	raw = moved(raw, saidDate, "2 Jan", ahead)
	var list struct {
		Jobs []struct {
			Customer, Contact, Complaint, Choose string
			At, Promised                         time.Time
			Machine, Wish, Details               json.RawMessage
			Moves                                []Move
			Contacts                             []Talk
			Ticks                                []Tick
		}
	}
	if err := json.Unmarshal(raw, &list); err != nil {
		return nil, fmt.Errorf("demo jobs: %w", err)
	}
	for _, j := range list.Jobs {
		m, err := exchange.ReadMachine(j.Machine, nil)
		if err != nil {
			return nil, fmt.Errorf("demo machine: %w", err)
		}
		if err := hw.ValidateMachine(m, byID[m.Chassis]).Err(); err != nil {
			return nil, fmt.Errorf("demo machine %s: %w", m.ID, err)
		}
		wish, err := exchange.ReadRequest(j.Wish, nil)
		if err != nil {
			return nil, fmt.Errorf("demo wish of %s: %w", m.ID, err)
		}
		d.Jobs = append(d.Jobs, Job{j.Customer, j.Contact, j.Complaint, j.At, m, wish, j.Details, j.Promised, j.Choose,
			j.Moves, j.Contacts, j.Ticks})
	}
	return &d, nil
}

// The dates of the demo's documents, and those that people say in them.
var (
	isoDate  = regexp.MustCompile(`\b20[0-9]{2}-[0-9]{2}-[0-9]{2}\b`)
	saidDate = regexp.MustCompile(`\b[0-9]{1,2} (?:Jan|Feb|Mar|Apr|May|Jun|Jul|Aug|Sep|Oct|Nov|Dec)\b`)
)

// moved is a text with its dates as long after Day's own as another day lies after Day.
func moved(raw []byte, like *regexp.Regexp, layout string, ahead time.Duration) []byte {
	return like.ReplaceAllFunc(raw, func(word []byte) []byte {
		at, err := time.Parse(layout, string(word))
		if err != nil {
			return word
		}
		if at.Year() == 0 {
			at = at.AddDate(Day.Year(), 0, 0)
		}
		return []byte(at.Add(ahead).Format(layout))
	})
}

func loadPhotos() ([]Photo, error) {
	raw, err := files.ReadFile("photos/photos.json")
	if err != nil {
		return nil, err
	}
	var list []Photo
	if err := json.Unmarshal(raw, &list); err != nil {
		return nil, fmt.Errorf("demo photos: %w", err)
	}
	for i := range list {
		for suffix, into := range map[string]*[]byte{".jpg": &list[i].Full, ".thumb.jpg": &list[i].Thumb} {
			if *into, err = files.ReadFile("photos/" + list[i].File + suffix); err != nil {
				return nil, err
			}
		}
	}
	return list, nil
}
