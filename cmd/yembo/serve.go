package main

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"os"
	"path/filepath"
	"time"
	"yembo/shop/base"
	"yembo/shop/past"

	"yembo/shop"
	"yembo/shop/demo"
	"yembo/store"
	"yembo/web"
)

type serveCmd struct {
	listenAs
	Data     string `default:"data" help:"Folder of the data file; made when missing."`
	Workshop string `default:"Workshop" help:"Name of the workshop, in the head of each page."`
	Name     string `default:"Technician" help:"Who works here, in the history of each record."`
	Backups  string `help:"Folder for daily copies of the data; the settings name it where this does not." type:"path"`
}

func (c *serveCmd) Run(ctx context.Context) error {
	s, err := store.Serve(c.Data)
	if err != nil {
		return err
	}
	defer s.Close()
	if err := s.UseTemp(); err != nil {
		return err
	}
	if s.Fresh {
		slog.Warn("a new, empty data folder", "folder", s.Dir)
	}
	if s.Complaint != "" {
		slog.Warn("rights of the data folder", "complaint", s.Complaint)
	}
	sh := shop.New(s, time.Now)
	go sh.Tend(ctx, c.Backups)
	return c.serve(ctx, s.Dir, web.Config{Shop: sh, Workshop: c.Workshop, Actor: base.Actor{Name: c.Name}})
}

type demoCmd struct {
	listenAs
	Now  string `help:"Fix the clock, for pictures and tests: 2026-05-14T11:20."`
	Data string `help:"Keep the demo's data in this folder (empty: a new one each time, removed at the end)."`
}

func (c *demoCmd) Run(ctx context.Context) error {
	now := time.Now
	if c.Now != "" {
		fixed, err := time.Parse("2006-01-02T15:04", c.Now)
		if err != nil {
			return fmt.Errorf("--now %s: a time such as 2026-05-14T11:20 is expected", c.Now)
		}
		now = func() time.Time { return fixed }
	}
	dir := c.Data
	if dir == "" {
		var err error
		if dir, err = os.MkdirTemp("", "yembo-demo-"); err != nil {
			return err
		}
		defer os.RemoveAll(dir)
	}
	_, err := os.Stat(filepath.Join(dir, store.File))
	fresh := errors.Is(err, fs.ErrNotExist)
	if fresh {
		if err := past.Unpack(dir); err != nil {
			return err
		}
	}
	s, err := store.Serve(dir)
	if err != nil {
		return err
	}
	defer s.Close()
	sh := shop.New(s, now)
	if fresh {
		if err := past.Move(ctx, s, now()); err != nil {
			return err
		}
		if err := errors.Join(sh.SeedToday(ctx), past.Today(ctx, sh)); err != nil {
			return err
		}
	}
	return c.serve(ctx, s.Dir, web.Config{Shop: sh, Workshop: demo.Workshop, Actor: base.Actor{Name: demo.Technician}})
}
