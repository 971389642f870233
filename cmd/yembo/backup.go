package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"time"

	"filippo.io/age"

	"yembo/shop"
	"yembo/store"
)

type backupCmd struct {
	File string `arg:"" help:"The file to write; one that is there is not written over."`
	Data string `default:"data" help:"Folder of the data file."`
	For  string `help:"Encrypt it for an age recipient (age1…), so that only who has the key can read it."`
}

func (c *backupCmd) Run(ctx context.Context) error {
	if c.For != "" {
		if err := c.encrypted(ctx); err != nil {
			return fault{c.File, err}
		}
		fmt.Printf("%s is a valid copy of %s, encrypted for %s\n", c.File, c.Data, c.For)
		return nil
	}
	if err := store.Backup(ctx, c.Data, c.File); err != nil {
		return fault{c.File, err}
	}
	fmt.Printf("%s is a valid copy of %s\n", c.File, c.Data)
	return nil
}

// encrypted makes a copy in a folder of its own, which goes when the encrypted one is whole.
func (c *backupCmd) encrypted(ctx context.Context) error {
	to, err := age.ParseX25519Recipient(c.For)
	if err != nil {
		return fmt.Errorf("--for: an age recipient is expected, such as age-keygen prints: %w", err)
	}
	dir, err := os.MkdirTemp(c.Data, ".yembo-copy-") // the other disk never has it in plain
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	plain := filepath.Join(dir, store.File)
	if err := store.Backup(ctx, c.Data, plain); err != nil {
		return err
	}
	in, err := os.Open(plain)
	if err != nil {
		return err
	}
	defer in.Close()
	out, err := os.OpenFile(c.File, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o600)
	if err != nil {
		return err
	}
	w, err := age.Encrypt(out, to)
	if err == nil {
		_, err = io.Copy(w, in)
	}
	if err == nil {
		err = w.Close()
	}
	if err = errors.Join(err, out.Sync(), out.Close()); err != nil {
		return errors.Join(err, os.Remove(c.File))
	}
	return nil
}

type restoreCmd struct {
	File string `arg:"" type:"existingfile" help:"A copy that backup made."`
	Data string `default:"data" help:"Folder of the data file; made when missing."`
	Key  string `type:"existingfile" help:"The file with the age key that an encrypted copy was made for."`
}

// ageBegins is how an encrypted copy begins.
const ageBegins = "age-encryption.org/v1"

// readable is a copy as it can be read: itself, or what is in it in a folder of its own, which done removes.
func (c *restoreCmd) readable() (file string, done func(), err error) {
	in, err := os.Open(c.File)
	if err != nil {
		return "", nil, err
	}
	defer in.Close()
	head := make([]byte, len(ageBegins))
	if _, err := io.ReadFull(in, head); err != nil || string(head) != ageBegins {
		return c.File, func() {}, nil // store.Restore says what is wrong with it
	}
	if c.Key == "" {
		return "", nil, errors.New("it is encrypted: --key names the file with the key that it was made for")
	}
	raw, err := os.Open(c.Key)
	if err != nil {
		return "", nil, err
	}
	defer raw.Close()
	keys, err := age.ParseIdentities(raw)
	if err != nil {
		return "", nil, fmt.Errorf("--key %s: %w", c.Key, err)
	}
	if _, err := in.Seek(0, io.SeekStart); err != nil {
		return "", nil, err
	}
	plain, err := age.Decrypt(in, keys...)
	if err != nil {
		return "", nil, err
	}
	if err := os.MkdirAll(c.Data, 0o700); err != nil {
		return "", nil, err
	}
	dir, err := os.MkdirTemp(c.Data, ".yembo-copy-")
	if err != nil {
		return "", nil, err
	}
	done = func() { os.RemoveAll(dir) }
	file = filepath.Join(dir, store.File)
	out, err := os.OpenFile(file, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o600)
	if err == nil {
		_, err = io.Copy(out, plain)
		err = errors.Join(err, out.Close())
	}
	if err != nil {
		done()
		return "", nil, fmt.Errorf("it cannot be decrypted whole: %w", err)
	}
	return file, done, nil
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
