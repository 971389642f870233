package main

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"time"

	"filippo.io/age"

	"yembo/shop"
	"yembo/store"
)

type backupCmd struct {
	File       string `arg:"" help:"The file to write; one that is there is not written over."`
	Data       string `default:"data" help:"Folder of the data file."`
	For        string `help:"Encrypt it for an age recipient (age1…), so that only who has the key can read it." xor:"for"`
	Passphrase bool   `help:"Encrypt it with a passphrase, which is read from the standard input." xor:"for"`
}

func (c *backupCmd) Run(ctx context.Context) error {
	var to age.Recipient
	var err error
	how := "with a passphrase"
	switch {
	case c.For != "":
		how = "for " + c.For
		if to, err = store.Recipient(c.For); err != nil {
			return fault{"--for", err}
		}
	case c.Passphrase:
		phrase, err := asked("Passphrase of the copy: ")
		if err == nil && len(phrase) < leastPhrase {
			err = fmt.Errorf("a passphrase of %d characters or more is expected: whoever finds the copy can try for years", leastPhrase)
		}
		if err != nil {
			return fault{c.File, err}
		}
		if to, err = age.NewScryptRecipient(phrase); err != nil {
			return fault{c.File, err}
		}
	default:
		if err := store.Backup(ctx, c.Data, c.File); err != nil {
			return fault{c.File, err}
		}
		fmt.Printf("%s is a valid copy of %s\n", c.File, c.Data)
		return nil
	}
	if err := store.BackupFor(ctx, c.Data, c.File, to); err != nil {
		return fault{c.File, err}
	}
	fmt.Printf("%s is a valid copy of %s, encrypted %s\n", c.File, c.Data, how)
	return nil
}

// leastPhrase is how many characters a passphrase of a copy has at least.
const leastPhrase = 12

// asked reads a line that is asked for.
func asked(prompt string) (string, error) {
	fmt.Fprint(os.Stderr, prompt)
	line, err := bufio.NewReader(os.Stdin).ReadString('\n')
	if line = strings.TrimRight(line, "\r\n"); line == "" {
		return "", errors.Join(errors.New("nothing was typed"), err)
	}
	return line, nil
}

type restoreCmd struct {
	File string `arg:"" type:"existingfile" help:"A copy that backup made."`
	Data string `default:"data" help:"Folder of the data file; made when missing."`
	Key  string `type:"existingfile" help:"The file with the age key that an encrypted copy was made for."`
}

// readable is a copy as it can be read: itself, or what is in it in a folder of its own, which done removes.
func (c *restoreCmd) readable() (file string, done func(), err error) {
	sealed, phrase, err := store.Sealed(c.File)
	if err != nil || !sealed {
		return c.File, func() {}, err
	}
	var keys []age.Identity
	switch {
	case phrase:
		text, err := asked("Passphrase of the copy: ")
		if err != nil {
			return "", nil, err
		}
		key, err := age.NewScryptIdentity(text)
		if err != nil {
			return "", nil, err
		}
		keys = append(keys, key)
	case c.Key == "":
		return "", nil, errors.New("it is encrypted: --key names the file with the key that it was made for")
	default:
		raw, err := os.Open(c.Key)
		if err != nil {
			return "", nil, err
		}
		defer raw.Close()
		if keys, err = age.ParseIdentities(raw); err != nil {
			return "", nil, fmt.Errorf("--key %s: %w", c.Key, err)
		}
	}
	return store.Unseal(c.File, c.Data, keys...)
}

func (c *restoreCmd) Run(ctx context.Context) error {
	file, done, err := c.readable()
	if err != nil {
		return fault{c.File, err}
	}
	defer done()
	kept, err := store.Restore(ctx, file, c.Data, time.Now())
	if err != nil {
		return fault{c.File, err}
	}
	fmt.Printf("%s is back in %s\n", c.File, c.Data)
	if kept != "" {
		fmt.Printf("what was there is kept as %s\n", kept)
	}
	return inShop(c.Data, func(s *shop.Shop) error {
		n, err := s.ForgetAgain(ctx, atTheMachine)
		if n > 0 {
			fmt.Printf("%d of those who asked to be forgotten since the copy was made were in it, and are forgotten again\n", n)
		}
		return err
	})
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
