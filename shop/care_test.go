package shop

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"yembo/store"
)

// TestOutdated: seven days are kept, and of each of the last four weeks the newest copy.
func TestOutdated(t *testing.T) {
	now := time.Date(2026, 5, 14, 9, 0, 0, 0, time.UTC) // a Thursday
	var days []time.Time
	for age := -1; age < 60; age++ {
		days = append(days, time.Date(2026, 5, 14-age, 0, 0, 0, 0, time.UTC))
	}
	gone := map[time.Time]bool{}
	for _, day := range outdated(days, now) {
		gone[day] = true
	}
	var kept []string
	for _, day := range days {
		if !gone[day] {
			kept = append(kept, day.Format("2 Jan"))
		}
	}
	// The week of 4 to 10 May has its newest among the seven days.
	want := "15 May 14 May 13 May 12 May 11 May 10 May 9 May 8 May 3 May 26 Apr 19 Apr"
	if got := strings.Join(kept, " "); got != want {
		t.Errorf("kept are %s, not %s", got, want)
	}
}

// TestDailyCopy: one copy a day goes into the folder of the settings; where it cannot, or the
// newest is old, everybody is told.
func TestDailyCopy(t *testing.T) {
	dir, folder := filepath.Join(t.TempDir(), "data"), filepath.Join(t.TempDir(), "copies")
	st, err := store.Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { st.Close() })
	at := time.Now()
	s := New(st, func() time.Time { return at })
	s.care.tended = true
	ctx := t.Context()
	if n := s.Notices(); len(n) != 1 || !strings.Contains(n[0], "new, empty data folder: "+dir) {
		t.Errorf("a new folder is not announced: %q", n)
	}
	st.Fresh = false
	keep := func(folder string) error {
		was, err := s.Settings(ctx)
		if err != nil {
			t.Fatal(err)
		}
		next := was
		next.Backups = folder
		return s.SaveSettings(ctx, okell, was, next)
	}
	file := filepath.Join(t.TempDir(), "file")
	if err := os.WriteFile(file, nil, 0o600); err != nil {
		t.Fatal(err)
	}
	for _, wrong := range []string{"copies", dir, file} {
		if err := keep(wrong); err == nil {
			t.Errorf("%s is taken as a folder for copies", wrong)
		}
	}
	if err := keep(folder); err != nil {
		t.Fatal(err)
	}
	for range 3 {
		s.CopyDaily(ctx)
		at = at.Add(24 * time.Hour)
	}
	copies, err := filepath.Glob(filepath.Join(folder, "yembo-*.db"))
	if err != nil || len(copies) != 3 || s.Copies().Failed != "" || len(s.Notices()) != 1 {
		t.Fatalf("%v %v %+v %q", copies, err, s.Copies(), s.Notices())
	}
	if err := store.CheckFile(ctx, copies[0]); err != nil {
		t.Error(err)
	}
	at = at.Add(time.Hour) // the newest was made just now, by the clock of the disk: three days back
	if n := s.Notices(); !strings.Contains(strings.Join(n, " "), "newest copy of the data is 3 days old") {
		t.Errorf("an old copy is not told: %q", n)
	}
	if err := os.RemoveAll(folder); err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(folder, nil, 0o600); err != nil {
		t.Fatal(err)
	}
	s.CopyDaily(ctx)
	if n := s.Notices(); len(n) != 1 || !strings.Contains(n[0], "was not made") {
		t.Errorf("a copy that fails is not told: %q", n)
	}
}
