package care

import (
	"bufio"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"

	"yembo/shop/base"
	"yembo/store"
)

// forgottenFile lies beside the data file and outlives it: a copy that was made before somebody was forgotten still
// holds everything of them, and is forgotten again when it is restored.
const forgottenFile = "yembo-forgotten.txt"

// withSerials stands behind the sum of somebody whose machines' serials were forgotten too.
const withSerials = "serials"

// sumOfCustomer says which customer is meant without saying who they are: it is made of their number and of the moment
// that they were entered, which no form changes.
func sumOfCustomer(c *store.Customer) string {
	sum := sha256.Sum256(fmt.Appendf(nil, "%d %d", c.ID, c.CreatedAt.UnixNano()))
	return hex.EncodeToString(sum[:])
}

// keepForgotten writes down that a customer was forgotten, for copies that are restored later.
func (s *Care) keepForgotten(c *store.Customer, serials bool) error {
	line := sumOfCustomer(c)
	if serials {
		line += " " + withSerials
	}
	f, err := os.OpenFile(filepath.Join(s.Store.Dir, forgottenFile), os.O_WRONLY|os.O_CREATE|os.O_APPEND, 0o600)
	if err != nil {
		return err
	}
	_, err = fmt.Fprintln(f, line)
	return errors.Join(err, f.Sync(), f.Close())
}

// forgotten reads who was forgotten: the sum of each, and whether with the serials of their machines.
func (s *Care) forgotten() (map[string]bool, error) {
	f, err := os.Open(filepath.Join(s.Store.Dir, forgottenFile))
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	defer f.Close()
	out := map[string]bool{}
	lines := bufio.NewScanner(f)
	for lines.Scan() {
		if sum, rest, _ := strings.Cut(lines.Text(), " "); sum != "" {
			out[sum] = out[sum] || rest == withSerials
		}
	}
	return out, lines.Err()
}

// ForgetAgain forgets those whom a copy brought back that were forgotten since it was made, and returns how many.
func (s *Care) ForgetAgain(ctx context.Context, a base.Actor) (int, error) {
	gone, err := s.forgotten()
	if err != nil || len(gone) == 0 {
		return 0, err
	}
	var due []store.Customer
	err = s.Store.View(ctx, func(tx store.Tx) error {
		return store.Each(tx, func(c *store.Customer) error {
			if _, is := gone[sumOfCustomer(c)]; is && !strings.HasPrefix(c.Name, Nobody) {
				due = append(due, *c)
			}
			return nil
		})
	})
	if err != nil || len(due) == 0 {
		return 0, err
	}
	for i := range due {
		if err := s.ForgetRecords(ctx, a, due[i].ID, gone[sumOfCustomer(&due[i])]); err != nil {
			return i, err
		}
	}
	return len(due), s.Store.Scrub()
}
