package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"strings"

	"yembo/core/hw"
	"yembo/core/label"
	"yembo/core/plan"
	"yembo/core/proof"
	"yembo/core/reading"
	"yembo/core/teardown"
	"yembo/exchange"
)

// failed is an answer that is a failure although the input was understood: exit 1.
type failed struct{ err error }

func (f failed) Error() string { return f.err.Error() }

type runsheetCmd struct {
	Chassis string `required:"" help:"yembo.chassis/1 file, or - for standard input."`
	Targets string `help:"Places, battery or services, with commas: dimm1,m2a."`
	Machine string `help:"yembo.machine/1 file: what is fitted decides which steps are done."`
	Plan    string `help:"yembo.plan/1 file of that machine."`
	Option  string `help:"Option of the plan, such as o1; its places and services are the targets where none are named."`
}

func (c *runsheetCmd) Run(ctx context.Context) error {
	ch, err := load(c.Chassis, exchange.ReadChassis)
	if err != nil {
		return err
	}
	var targets []string
	for _, t := range strings.Split(c.Targets, ",") {
		if t = strings.TrimSpace(t); t != "" {
			targets = append(targets, t)
		}
	}
	job, own, err := c.job(ch, targets)
	if err != nil {
		return err
	}
	if len(targets) == 0 {
		targets = own
	}
	sheet, err := teardown.RunSheet(ctx, ch, targets, job)
	var unknown teardown.ReachUnknown
	switch {
	case errors.As(err, &unknown), errors.Is(err, teardown.ErrTooHard):
		return failed{fault{c.Chassis, err}}
	case err != nil:
		return fault{"--targets", err}
	}
	return print(sheet)
}

// job is the machine that the sheet is for, and the targets of an option.
func (c *runsheetCmd) job(ch *hw.Chassis, targets []string) (teardown.Job, []string, error) {
	switch {
	case (c.Plan == "") != (c.Option == ""):
		return teardown.Job{}, nil, fault{"--plan", errors.New("a plan and one of its options are named together")}
	case c.Plan != "" && c.Machine == "":
		return teardown.Job{}, nil, fault{"--machine", errors.New("a plan goes with its machine")}
	case c.Plan == "" && len(targets) == 0:
		return teardown.Job{}, nil, fault{"--targets", errors.New("no target is named, and no option")}
	case c.Machine == "":
		return teardown.Job{}, nil, nil
	}
	m, err := loadMachine(c.Machine, ch)
	if err != nil {
		return teardown.Job{}, nil, err
	}
	if c.Plan == "" {
		return teardown.JobAsIs(ch, m, targets), nil, nil
	}
	p, err := load(c.Plan, exchange.ReadPlan)
	if err != nil {
		return teardown.Job{}, nil, err
	}
	if p.Chassis != ch.ID || p.Machine != m.ID {
		return teardown.Job{}, nil, fault{c.Plan, fmt.Errorf("this is a plan for machine %q of chassis %q", p.Machine,
			p.Chassis)}
	}
	for i := range p.Options {
		if p.Options[i].ID == c.Option {
			job, own := plan.JobOf(ch, m, &p.Options[i])
			return job, own, nil
		}
	}
	return teardown.Job{}, nil, fault{c.Plan, fmt.Errorf("there is no option %q", c.Option)}
}

type verifyCmd struct {
	Chassis  string `required:"" help:"yembo.chassis/1 file, or - for standard input."`
	Machine  string `required:"" help:"yembo.machine/1 file: what should be fitted."`
	Observed string `required:"" help:"yembo.observed/1 file, as read prints it."`
}

func (c *verifyCmd) Run() error {
	ch, err := load(c.Chassis, exchange.ReadChassis)
	if err != nil {
		return err
	}
	m, err := loadMachine(c.Machine, ch)
	if err != nil {
		return err
	}
	o, err := load(c.Observed, exchange.ReadObserved)
	if err != nil {
		return err
	}
	d := proof.DifferencesOf(ch, m, proof.Compare(ch, m, o))
	if err := print(d); err != nil {
		return err
	}
	if d.Compared == 0 {
		return failed{errors.New("nothing that the machine's document tells is in the report: nothing was compared")}
	}
	if n := len(d.Differences); n > 0 {
		return failed{fmt.Errorf("differences: %d", n)}
	}
	return nil
}

type decodeCmd struct {
	Text []string `arg:"" help:"Memory labels or M.2 size codes, each in quotes."`
}

func (c *decodeCmd) Run() error {
	for _, text := range c.Text {
		decoded, err := label.Decode(text)
		if err != nil {
			return fault{fmt.Sprintf("%q", text), err}
		}
		if m, ok := decoded.(*label.Memory); ok {
			for _, note := range m.Notes {
				fmt.Fprintf(os.Stderr, "%q: %s\n", text, note)
			}
		}
		line, err := json.Marshal(decoded)
		if err != nil {
			return err
		}
		fmt.Println(string(line))
	}
	return nil
}

type readCmd struct {
	Files []string `arg:"" help:"Reports of one machine, or - for standard input."`
}

// Run reads every report or none: one that cannot be taken is named, and no document is
// printed.
func (c *readCmd) Run() error {
	var reports []*reading.Observed
	for _, file := range c.Files {
		data, err := readUpTo(file, reading.MaxReport)
		if err != nil {
			return err
		}
		o, err := reading.Read(data)
		if err != nil {
			return fault{file, err}
		}
		for _, note := range o.Notes {
			fmt.Fprintf(os.Stderr, "%s: %s\n", file, note)
		}
		reports = append(reports, o)
	}
	return print(reading.Merge(reports))
}
