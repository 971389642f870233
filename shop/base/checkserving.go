package base

import (
	"context"
	"errors"
	"net"
	"net/url"
	"os"
	"path/filepath"
	"strconv"
	"yembo/core/hw"
	"yembo/store"
)

// checkPublic refuses an address for customers that leads nowhere.
func checkPublic(faults *hw.Faults, address string) {
	if address == "" {
		return
	}
	u, err := url.Parse(address)
	if err != nil || u.Scheme != "https" && u.Scheme != "http" || u.Host == "" || u.Path != "" || u.RawQuery != "" || u.User != nil {
		faults.Add("/public_address", hw.FaultChoice, strconv.Quote(address), "an address such as https://quotes.example")
	}
}

// checkServeAt says what stands against an address that other machines are answered at.
func (s *Base) checkServeAt(ctx context.Context, faults *hw.Faults, address string) error {
	if address == "" {
		return nil
	}
	_, port, err := net.SplitHostPort(address)
	n, errPort := strconv.Atoi(port)
	if err != nil || errPort != nil || n < 1 || n > 65535 {
		faults.Add("/serve_at", hw.FaultChoice, strconv.Quote(address), "an address with a port, such as 0.0.0.0:8423")
		return nil
	}
	secured := false
	err = s.Store.View(ctx, func(tx store.Tx) error {
		all, err := tx.People()
		for i := range all {
			secured = secured || all[i].LeftAt == nil && all[i].Password != ""
		}
		return err
	})
	if !secured {
		*faults = append(*faults, hw.Fault{Pointer: "/serve_at", Text: "other machines are answered once the owner has a password: " +
			"give one first, under People and screens"})
	}
	return err
}

// checkBackups says what stands against a folder for the daily copies.
func (s *Base) checkBackups(faults *hw.Faults, folder string) {
	fault := func(text string) { *faults = append(*faults, hw.Fault{Pointer: "/backups", Text: text}) }
	switch {
	case folder == "":
	case !filepath.IsAbs(folder):
		fault("a whole path, from the root of the disk: " + filepath.Join(string(filepath.Separator), "mnt", "copies"))
	case filepath.Clean(folder) == s.Store.Dir:
		fault("that is the data folder itself: choose another, best on another disk")
	default:
		if err := os.MkdirAll(folder, 0o700); err != nil {
			fault("it cannot be made: " + cause(err))
			return
		}
		try, err := os.CreateTemp(folder, ".yembo-try-")
		if err != nil {
			fault("nothing can be written there: " + cause(err))
			return
		}
		if err := errors.Join(try.Close(), os.Remove(try.Name())); err != nil {
			fault("nothing can be written there: " + cause(err))
		}
	}
}

// cause is what the system says of a path, without the path.
func cause(err error) string {
	var at *os.PathError
	if errors.As(err, &at) {
		return at.Err.Error()
	}
	return err.Error()
}
