package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"strings"

	"yembo/core/label"
	"yembo/core/reading"
	"yembo/core/teardown"
	"yembo/exchange"
)

// failed is an answer that is a failure although the input was understood: exit 1.
type failed struct{ err error }

func (f failed) Error() string { return f.err.Error() }

type runsheetCmd struct {
	Chassis string `required:"" help:"yembo.chassis/1 file, or - for standard input."`
	Targets string `required:"" help:"Places, battery or services, with commas: dimm1,m2a."`
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
	if len(targets) == 0 {
		return fault{"--targets", errors.New("no target is named")}
	}
	sheet, err := teardown.RunSheet(ctx, ch, targets)
	var unknown teardown.ReachUnknown
	switch {
	case errors.As(err, &unknown), errors.Is(err, teardown.ErrTooHard):
		return failed{fault{c.Chassis, err}}
	case err != nil:
		return fault{"--targets", err}
	}
	return print(sheet)
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
