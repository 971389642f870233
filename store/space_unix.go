//go:build linux || darwin

package store

import "golang.org/x/sys/unix"

// Space is how many bytes can still be written to the disk that the data folder is on; ok is false where the system
// does not say.
func (s *Store) Space() (free int64, ok bool) {
	var st unix.Statfs_t
	if unix.Statfs(s.Dir, &st) != nil {
		return 0, false
	}
	return int64(st.Bavail) * int64(st.Bsize), true
}
