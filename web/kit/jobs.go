package kit

import (
	"fmt"
	"slices"
	"yembo/shop/base"
	"yembo/shop/billing"
	"yembo/shop/jobs"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/web/form"
)

// ConsentsOf are the consents ticked on a form.
func ConsentsOf(f *form.Form) []hw.Consent {
	var out []hw.Consent
	for _, row := range hw.Consents {
		if Ticked(f, "/consents", string(row.Consent)) {
			out = append(out, row.Consent)
		}
	}
	return out
}

type ConsentRow struct {
	Code, Words, Means string
	Given, Asked       bool // Asked by the chosen option
}

// Tabs are the pages of one machine.
type Tabs struct {
	Key       string // of the machine, for addresses
	MachineID string
	JobID     int64
	At        string // job, plan, readings, draw, history
}

// Label is the job's number as on its label, "" where the machine has no job.
func (t Tabs) JobLabel() string {
	if t.JobID == 0 {
		return ""
	}
	return base.Label(t.JobID)
}

func TabsOf(r *jobs.MachineRecord, at string) Tabs { return Tabs{r.Key, r.Machine.ID, r.JobID, at} }

// JobForm is the form that was sent about a job.
func JobForm(c *echo.Context) (int64, *form.Form, error) {
	id, err := Number(c, "job")
	if err != nil {
		return 0, nil, err
	}
	f, err := form.Sent(c)
	return id, f, err
}

type MoneyLine struct{ What, Amount string }

func ConsentRows(given []hw.Consent) []ConsentRow {
	var out []ConsentRow
	for _, x := range hw.Consents {
		out = append(out, ConsentRow{Code: string(x.Consent), Words: Sentence(x.Says), Means: x.Why,
			Given: slices.Contains(given, x.Consent)})
	}
	return out
}

type PartChoice struct{ ID, Name, Kind string }

func ProofAt(id int64) string { return fmt.Sprintf("/jobs/%d/proof", id) }

type VersionRow struct {
	ID                  int64
	Label, When, Became string
	This                bool
}

// QuoteAt is the address of a quote, with the form that takes its answer.
func QuoteAt(id int64) string { return fmt.Sprintf("/quotes/%d", id) }

// VersionRows are the versions of a job's quotes, with what became of each.
func VersionRows(list []jobs.QuoteRecord, this int64) []VersionRow {
	var out []VersionRow
	for i := range list {
		x := &list[i]
		row := VersionRow{ID: x.ID, Label: x.Label(), When: Stamp(x.At) + ", " + x.By, Became: "never shown", This: x.ID == this}
		switch {
		case x.Answer == billing.Thinking:
			row.Became = "thought over, asked again on " + hw.Day(x.AskOn)
		case x.Answer != "":
			row.Became = x.Answer + " " + Stamp(x.Answered)
		case !x.Shown.IsZero():
			row.Became = "shown " + Stamp(x.Shown)
		}
		out = append(out, row)
	}
	return out
}
