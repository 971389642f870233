package main

import (
	"context"
	"errors"
	"fmt"
	"os"

	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/core/week"
	"yembo/exchange"
)

type planCmd struct {
	Chassis string `required:"" help:"yembo.chassis/1 file, or - for standard input."`
	Machine string `required:"" help:"yembo.machine/1 file."`
	Parts   string `required:"" help:"yembo.parts/1 file."`
	Request string `required:"" help:"yembo.request/1 file."`
}

func (c *planCmd) Run(ctx context.Context) error {
	ch, err := load(c.Chassis, exchange.ReadChassis)
	if err != nil {
		return err
	}
	m, err := loadMachine(c.Machine, ch)
	if err != nil {
		return err
	}
	parts, err := load(c.Parts, exchange.ReadParts)
	if err != nil {
		return err
	}
	req, err := load(c.Request, func(data []byte) (*hw.Request, error) { return exchange.ReadRequest(data, ch) })
	if err != nil {
		return err
	}
	p, err := plan.Make(ctx, plan.Input{Chassis: ch, Machine: m, Parts: parts, Request: req})
	if err != nil {
		return err
	}
	return print(p)
}

type weekCmd struct {
	Request string `required:"" help:"yembo.week/1 file, or - for standard input."`
}

// Run prints a schedule, also one that breaks promises.
func (c *weekCmd) Run(ctx context.Context) error {
	r, err := load(c.Request, exchange.ReadWeek)
	if err != nil {
		return err
	}
	s, err := week.Make(ctx, r)
	if err != nil {
		return fault{c.Request, err}
	}
	return print(s)
}

// loadMachine reads a machine of a chassis.
func loadMachine(file string, ch *hw.Chassis) (*hw.Machine, error) {
	return load(file, func(data []byte) (*hw.Machine, error) { return exchange.ReadMachine(data, ch) })
}

// load reads one document; "-" is standard input. More than the largest document
// is not read into memory.
func load[T any](file string, read func([]byte) (*T, error)) (*T, error) {
	data, err := readUpTo(file, exchange.MaxDocument)
	if err != nil {
		return nil, err
	}
	doc, err := read(data)
	if err != nil {
		return nil, fault{file, err}
	}
	return doc, nil
}

func print(doc any) error {
	out, err := exchange.Write(doc)
	if err != nil {
		return err
	}
	_, err = os.Stdout.Write(out)
	return err
}

// faultLines splits an error into one line a fault.
func faultLines(err error) []string {
	var faults hw.Faults
	if !errors.As(err, &faults) {
		return []string{err.Error()}
	}
	lines := make([]string, len(faults))
	for i, f := range faults {
		lines[i] = fmt.Sprint(f)
	}
	return lines
}
