package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"time"
	"yembo/shop/base"
	"yembo/shop/stock"

	"yembo/core/hw"
	"yembo/exchange"
	"yembo/exchange/bundle"
	"yembo/shop"
	"yembo/store"
)

type exportCmd struct {
	Data   string   `default:"data" help:"Folder of the data file."`
	Zip    string   `help:"Write the records with their photos into this zip file, or - for standard output."`
	Parts  bool     `help:"Print the shelf as yembo.parts/1: what is free of each part."`
	Models []string `arg:"" optional:"" help:"Ids of model records. One is printed; with --zip any number, none for all."`
}

func (c *exportCmd) Run(ctx context.Context) (err error) {
	if !c.Parts && c.Zip == "" && len(c.Models) != 1 {
		return fault{"export", errors.New("one id is printed; for several, or for all, --zip names a file")}
	}
	s, err := store.Open(c.Data)
	if err != nil {
		return err
	}
	defer s.Close()
	sh := shop.New(s, time.Now)
	if c.Parts {
		parts, err := sh.Parts(ctx)
		if err != nil {
			return err
		}
		return print(parts)
	}
	if c.Zip == "" {
		doc, err := sh.Export(ctx, c.Models[0])
		if err != nil {
			return fault{c.Models[0], err}
		}
		_, err = os.Stdout.Write(doc)
		return err
	}
	out := os.Stdout
	if c.Zip != "-" {
		if out, err = os.OpenFile(c.Zip, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o600); err != nil {
			return err
		}
		defer func() {
			err = errors.Join(err, out.Close())
			if err != nil {
				os.Remove(c.Zip) // half a zip is worse than none
			}
		}()
	}
	if err := sh.ExportBundle(ctx, out, c.Models...); err != nil {
		return fault{"export", err}
	}
	return nil
}

type importCmd struct {
	Data  string   `default:"data" help:"Folder of the data file; made when missing."`
	Name  string   `default:"Technician" help:"Who takes it in, in the history of each record."`
	Look  bool     `help:"Say what would change, and store nothing."`
	Files []string `arg:"" help:"yembo.chassis/1 files or zips of many, yembo.parts/1 files, or - for standard input."`
}

// errNotAll ends an import of which something was not taken: the faults are named.
var errNotAll = errors.New("not every record was taken")

// Run takes in every record that can be taken and names the faults of the others; the
// status is 2 when there was one.
func (c *importCmd) Run(ctx context.Context) error {
	s, err := store.Open(c.Data)
	if err != nil {
		return err
	}
	defer s.Close()
	sh := shop.New(s, time.Now)
	var faulty error
	for _, file := range c.Files {
		doc, err := readUpTo(file, maxZip)
		if err != nil {
			return err
		}
		take := c.document
		if bundle.IsZip(doc) {
			take = c.zip
		}
		if err := take(ctx, sh, file, doc); err != nil {
			if !errors.Is(err, errNotAll) {
				printError(fault{file, err})
			}
			faulty = errNotAll
		}
	}
	return faulty
}

// maxZip is the largest zip that is read into memory.
const maxZip = 1 << 30

func (c *importCmd) document(ctx context.Context, sh *shop.Shop, file string, doc []byte) error {
	if exchange.FormatOf(doc) == hw.FormatParts {
		return c.parts(ctx, sh, file, doc)
	}
	look, err := sh.LookAtImport(ctx, doc)
	if err == nil && !c.Look {
		_, err = sh.TakeImport(ctx, base.Actor{Name: c.Name}, "", doc, look.Version)
	}
	if err == nil {
		c.say(file, look.Chassis.ID, look.New, len(look.Changes), 0)
	}
	return err
}

// parts takes in a parts document: each part that can be taken, and the faults of the others are named.
func (c *importCmd) parts(ctx context.Context, sh *shop.Shop, file string, doc []byte) error {
	upload, err := sh.KeepUpload(ctx, doc)
	if err != nil {
		return err
	}
	list, err := sh.LookAtPrices(ctx, upload, nil, 0)
	if err != nil {
		return err
	}
	faulty := false
	taken := stock.PricesTaken{}
	for _, l := range list.Rows {
		switch {
		case l.Fault != "":
			faulty = true
			printError(fault{fmt.Sprintf("%s: /parts/%d", file, l.Line-1), errors.New(l.Fault)})
		case l.Same:
			taken.Same++
		case l.Part == "":
			taken.New++
		default:
			taken.Changed++
		}
	}
	what := " (only looked at)"
	if !c.Look {
		what = ""
		if taken, err = sh.TakePrices(ctx, base.Actor{Name: c.Name}, upload, nil, 0, func(int, int) {}); err != nil {
			return err
		}
	}
	fmt.Printf("%s: %d new parts, %d changed, %d as they were%s\n", file, taken.New, taken.Changed, taken.Same, what)
	if faulty {
		return errNotAll
	}
	return nil
}

func (c *importCmd) zip(ctx context.Context, sh *shop.Shop, file string, doc []byte) error {
	looks, err := sh.LookAtBundle(ctx, doc)
	if err != nil {
		return err
	}
	versions := map[string]int{}
	failed := map[string]error{}
	for _, l := range looks {
		if l.Err != nil {
			failed[l.Name] = l.Err
			continue
		}
		versions[l.ID] = l.Version
	}
	if !c.Look {
		taken, err := sh.TakeBundle(ctx, base.Actor{Name: c.Name}, "", doc, versions, func(int, int) {})
		if err != nil {
			return err
		}
		for _, t := range taken {
			if t.Err != nil {
				failed[t.ID+".chassis.json"] = t.Err
			}
		}
	}
	for _, l := range looks {
		if err := failed[l.Name]; err != nil {
			printError(fault{file + ": " + l.Name, err})
			continue
		}
		c.say(file, l.ID, l.New, l.Facts, l.Photos)
	}
	if len(failed) > 0 {
		return errNotAll
	}
	return nil
}

// say prints one line about a record.
func (c *importCmd) say(file, id string, fresh bool, facts, photos int) {
	what := "facts changed"
	if fresh {
		what = "facts, a new record"
	}
	if photos > 0 {
		what += fmt.Sprintf(", %d photos", photos)
	}
	if c.Look {
		what += " (only looked at)"
	}
	fmt.Printf("%s: %s, %d %s\n", file, id, facts, what)
}

// readUpTo reads a file, "-" is standard input; one byte past the limit is read too,
// so that what is too large is noticed.
func readUpTo(file string, most int64) ([]byte, error) {
	in := os.Stdin
	if file != "-" {
		f, err := os.Open(file)
		if err != nil {
			return nil, err
		}
		defer f.Close()
		in = f
	}
	return io.ReadAll(io.LimitReader(in, most+1))
}
