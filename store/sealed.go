package store

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"

	"filippo.io/age"
)

// copyDir begins the name of the folder in a data folder that a copy passes through in plain.
const copyDir = ".yembo-copy-"

// ageBegins is how an encrypted copy begins.
const ageBegins = "age-encryption.org/v1"

// Recipient reads whom copies are encrypted for: an age recipient, such as age-keygen prints.
func Recipient(text string) (age.Recipient, error) {
	to, err := age.ParseX25519Recipient(strings.TrimSpace(text))
	if err != nil {
		return nil, fmt.Errorf("an age recipient is expected, such as age-keygen prints: %w", err)
	}
	return to, nil
}

// BackupFor is Backup, encrypted: only who has the key that it is made for reads it. The plain copy stands in the
// data folder meanwhile, so that no other disk ever has it.
func BackupFor(ctx context.Context, dir, file string, to age.Recipient) error {
	if _, err := os.Stat(file); err == nil {
		return fmt.Errorf("%s is there already", file)
	}
	passes, err := os.MkdirTemp(dir, copyDir)
	if err != nil {
		return err
	}
	defer os.RemoveAll(passes)
	plain := filepath.Join(passes, File)
	if err := Backup(ctx, dir, plain); err != nil {
		return err
	}
	in, err := os.Open(plain)
	if err != nil {
		return err
	}
	defer in.Close()
	part := file + ".part"
	out, err := os.OpenFile(part, os.O_WRONLY|os.O_CREATE|os.O_TRUNC, 0o600)
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
	if err = errors.Join(err, out.Sync(), out.Close()); err == nil {
		err = os.Rename(part, file)
	}
	if err != nil {
		return errors.Join(err, ignoreMissing(os.Remove(part)))
	}
	return nil
}

// Sealed says whether a file is an encrypted copy, and whether a passphrase opens it, not a key.
func Sealed(file string) (sealed, phrase bool, err error) {
	in, err := os.Open(file)
	if err != nil {
		return false, false, err
	}
	defer in.Close()
	head := make([]byte, 200)
	n, err := io.ReadFull(in, head)
	if err != nil && !errors.Is(err, io.ErrUnexpectedEOF) && !errors.Is(err, io.EOF) {
		return false, false, err
	}
	text := string(head[:n])
	return strings.HasPrefix(text, ageBegins), strings.Contains(text, "\n-> scrypt "), nil
}

// Unseal decrypts a copy into the data folder that it is to be restored to. done removes it again.
func Unseal(file, dir string, keys ...age.Identity) (plain string, done func(), err error) {
	in, err := os.Open(file)
	if err != nil {
		return "", nil, err
	}
	defer in.Close()
	from, err := age.Decrypt(in, keys...)
	if err != nil {
		return "", nil, err
	}
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return "", nil, err
	}
	passes, err := os.MkdirTemp(dir, copyDir)
	if err != nil {
		return "", nil, err
	}
	done = func() { os.RemoveAll(passes) }
	plain = filepath.Join(passes, File)
	out, err := os.OpenFile(plain, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o600)
	if err == nil {
		_, err = io.Copy(out, from)
		err = errors.Join(err, out.Close())
	}
	if err != nil {
		done()
		return "", nil, fmt.Errorf("it cannot be decrypted whole: %w", err)
	}
	return plain, done, nil
}
