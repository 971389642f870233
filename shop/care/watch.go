package care

import (
	"fmt"
	"os"
	"path/filepath"
	"time"

	"yembo/store"
)

// leastSpace is the room in bytes below which a disk is called full: photos of one machine take some megabytes, and the
// data file has to be written anew when somebody is forgotten.
const leastSpace = 300 << 20

// Leaps of the clock that are told. A machine that slept is no leap to tell of: its clock stands days ahead when it
// wakes on a Monday; one with an empty battery starts years behind.
const (
	leapBack    = 10 * time.Minute
	leapAhead   = 10 * 24 * time.Hour
	leapIsShown = 24 * time.Hour
)

// watchEvery is how often the machine itself is looked at.
const watchEvery = time.Minute

// watch is what is known of the machine that the data lies on.
type watch struct {
	looked time.Time // with the steady clock, which no setting moves
	leap   string
	leapt  time.Time
	full   string
}

// look looks at the room on the disk and at the clock.
func (w *watch) look(s *store.Store, now time.Time) {
	if !w.looked.IsZero() {
		if told := leapOf(now.Round(0).Sub(w.looked.Round(0)), now.Sub(w.looked)); told != "" {
			w.leap, w.leapt = told, now
		}
	}
	w.looked = now
	if now.Sub(w.leapt) > leapIsShown {
		w.leap = ""
	}
	free, known := s.Space()
	file, err := os.Stat(filepath.Join(s.Dir, store.File))
	w.full = ""
	if known && err == nil {
		w.full = fullOf(free, file.Size())
	}
}

// leapOf says that the clock was set between two looks; wall is the time that went by on it, steady the time that did.
func leapOf(wall, steady time.Duration) string {
	switch by := wall - steady; {
	case by < -leapBack:
		return fmt.Sprintf("This machine's clock was set back by %s while Yembo ran: what was noted before stands later "+
			"than what is noted now.", spanWords(-by))
	case by > leapAhead:
		return fmt.Sprintf("This machine's clock was put forward by %s while Yembo ran: what was noted before stands too "+
			"early, where the clock was wrong until then.", spanWords(by))
	}
	return ""
}

func spanWords(d time.Duration) string {
	if d >= 48*time.Hour {
		return fmt.Sprintf("%d days", int(d.Hours()/24))
	}
	return fmt.Sprintf("%d h %d min", int(d.Hours()), int(d.Minutes())%60)
}

// fullOf says that a disk is nearly full, both in bytes: writing the data file anew takes it a second time.
func fullOf(free, file int64) string {
	if need := max(leastSpace, file); free < need {
		return fmt.Sprintf("The disk with the data is nearly full: %s are free, and %s are wanted for photos and for a "+
			"second data file. Make room; what does not fit is refused, and nothing is lost.", megabytes(free), megabytes(need))
	}
	return ""
}

func megabytes(n int64) string { return fmt.Sprintf("%d MB", n>>20) }
