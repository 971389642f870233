package main

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"yembo/shop"
	"yembo/shop/base"
	"yembo/shop/people"
	"yembo/store"
)

// peopleCmd is for the one who is locked out: whoever has the data folder may let people in.
type peopleCmd struct {
	List     peopleListCmd     `cmd:"" help:"List who works here."`
	Add      peopleAddCmd      `cmd:"" help:"Add a person."`
	Password peoplePasswordCmd `cmd:"" help:"Give a person a new password, which is read from the standard input."`
}

type peopleListCmd struct {
	Data string `default:"data" help:"Folder of the data file."`
}

type peopleAddCmd struct {
	Name string `arg:"" help:"As the history has it."`
	Role string `enum:"owner,technician,counter" default:"technician" help:"owner, technician or counter."`
	Data string `default:"data" help:"Folder of the data file."`
}

type peoplePasswordCmd struct {
	Name string `arg:"" help:"Whose."`
	Data string `default:"data" help:"Folder of the data file."`
}

// atTheMachine is who acts on the command line.
var atTheMachine = base.Actor{Name: "command line"}

// inShop does something with the shop of a data folder, also while it is served.
func inShop(dir string, do func(s *shop.Shop) error) error {
	s, err := store.Open(dir)
	if err != nil {
		return err
	}
	return errors.Join(do(shop.New(s, time.Now)), s.Close())
}

// Run prints a line a person.
func (c *peopleListCmd) Run(ctx context.Context) error {
	return inShop(c.Data, func(s *shop.Shop) error {
		all, err := s.People.People(ctx)
		if err != nil {
			return err
		}
		for _, m := range all {
			var has []string
			if m.HasPassword {
				has = append(has, "password")
			}
			if m.HasPIN {
				has = append(has, "PIN")
			}
			if m.Left != nil {
				has = append(has, "has left")
			}
			fmt.Printf("%s\t%s\t%s\n", m.Name, m.Role, strings.Join(has, ", "))
		}
		return nil
	})
}

// Run adds a person.
func (c *peopleAddCmd) Run(ctx context.Context) error {
	return inShop(c.Data, func(s *shop.Shop) error {
		return s.SavePerson(ctx, atTheMachine, "", people.Entry{Name: c.Name, Role: c.Role})
	})
}

// Run gives a person a password.
func (c *peoplePasswordCmd) Run(ctx context.Context) error {
	return inShop(c.Data, func(s *shop.Shop) error {
		all, err := s.People.People(ctx)
		if err != nil {
			return err
		}
		for _, m := range all {
			if !strings.EqualFold(m.Name, c.Name) {
				continue
			}
			line, err := asked(fmt.Sprintf("New password of %s: ", m.Name))
			if err != nil {
				return err
			}
			return s.SavePerson(ctx, atTheMachine, "", people.Entry{ID: m.ID, Version: m.Version, Name: m.Name, Initials: m.Initials,
				Role: m.Role, Password: line, Leaves: m.Left != nil})
		}
		return fmt.Errorf("no %s works here: see yembo people list --data %s", c.Name, c.Data)
	})
}

type journalCmd struct {
	Data string `default:"data" help:"Folder of the data file."`
	Find string `help:"Only lines in which this stands."`
}

// Run prints the journal, the newest line first.
func (c *journalCmd) Run(ctx context.Context) error {
	return inShop(c.Data, func(s *shop.Shop) error {
		lines, err := s.Journal(ctx, c.Find, 1_000_000)
		for _, l := range lines {
			fmt.Printf("%s\t%s\t%s\t%s\n", l.At.Format(time.RFC3339), l.By, l.Screen, l.What)
		}
		return err
	})
}
