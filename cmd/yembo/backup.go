package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"time"

	"yembo/shop"
	"yembo/store"
)

type backupCmd struct {
	File string `arg:"" help:"The file to write; one that is there is not written over."`
	Data string `default:"data" help:"Folder of the data file."`
}

func (c *backupCmd) Run(ctx context.Context) error {
	if err := store.Backup(ctx, c.Data, c.File); err != nil {
		return fault{c.File, err}
	}
	fmt.Printf("%s is a valid copy of %s\n", c.File, c.Data)
	return nil
}

type restoreCmd struct {
	File string `arg:"" type:"existingfile" help:"A copy that backup made."`
	Data string `default:"data" help:"Folder of the data file; made when missing."`
}

func (c *restoreCmd) Run(ctx context.Context) error {
	kept, err := store.Restore(ctx, c.File, c.Data, time.Now())
	if err != nil {
		return fault{c.File, err}
	}
	fmt.Printf("%s is back in %s\n", c.File, c.Data)
	if kept != "" {
		fmt.Printf("what was there is kept as %s\n", kept)
	}
	return nil
}

type checkCmd struct {
	Data string `default:"data" help:"Folder of the data file."`
}

func (c *checkCmd) Run(ctx context.Context) error {
	file := filepath.Join(c.Data, store.File)
	if err := store.CheckFile(ctx, file); err != nil {
		return failed{fault{file, err}}
	}
	s, err := store.Look(c.Data)
	if err != nil {
		return failed{fault{file, err}}
	}
	defer s.Close()
	found, err := shop.New(s, time.Now).Check(ctx)
	if err != nil {
		return fault{file, err}
	}
	for _, line := range found {
		fmt.Fprintln(os.Stderr, line)
	}
	if len(found) > 0 {
		return failed{fault{file, errors.New("it can be read, and something in it is wrong")}}
	}
	fmt.Printf("%s is undamaged: pages, documents, pictures and stock checked\n", file)
	return nil
}
