package runs

import (
	"errors"
	"fmt"
	"io/fs"
	"math/rand/v2"
	"slices"
	"strings"
	"sync"
	"syscall"
	"time"
)

// Troubles that a drive which stands in for a real one has.
const (
	Late = "late" // what was written is read back a while later
	Fill = "full" // it is full for a while
	Gone = "gone" // it does not answer for a while, and breaks off what is being written
)

// DriveTroubles are all there are.
var DriveTroubles = []string{Late, Fill, Gone}

// StandIn is a drive that stands in for one with troubles, over one that has none.
type StandIn struct {
	Over     Drive
	Troubles []string
	Every    time.Duration // longest time between two troubles, and that one lasts
	Seed     uint64

	mu    sync.Mutex
	rng   *rand.Rand
	until time.Time // the trouble lasts, or there is none
	now   string
	late  map[string]time.Time // when files can be read
}

// CheckTroubles returns an error for troubles that there are not.
func CheckTroubles(list []string) error {
	for _, t := range list {
		if !slices.Contains(DriveTroubles, t) {
			return fmt.Errorf("a drive has no trouble %q; there are %s", t, strings.Join(DriveTroubles, ", "))
		}
	}
	return nil
}

// trouble returns the trouble of the moment. The caller holds the lock.
func (s *StandIn) trouble() string {
	if s.rng == nil {
		s.rng, s.late = rand.New(rand.NewPCG(s.Seed, 3)), map[string]time.Time{}
	}
	if now := time.Now(); now.After(s.until) {
		s.until = now.Add(time.Duration(s.rng.Float64() * float64(s.Every)))
		if s.now == "" && len(s.Troubles) > 0 {
			s.now = s.Troubles[s.rng.IntN(len(s.Troubles))]
		} else {
			s.now = ""
		}
	}
	return s.now
}

// Write implements Drive.
func (s *StandIn) Write(name string, data []byte) error {
	s.mu.Lock()
	t := s.trouble()
	if t == Late {
		s.late[name] = s.until
	}
	part := s.rng.IntN(len(data) + 1)
	s.mu.Unlock()
	switch t {
	case Fill:
		return errors.Join(s.Over.Write(name, data[:part]), syscall.ENOSPC)
	case Gone:
		return errors.Join(s.Over.Write(name, data[:part]), syscall.EIO)
	}
	return s.Over.Write(name, data)
}

// Read implements Drive.
func (s *StandIn) Read(name string) ([]byte, error) {
	s.mu.Lock()
	t, late := s.trouble(), s.late[name]
	s.mu.Unlock()
	switch {
	case t == Gone:
		return nil, syscall.EIO
	case time.Now().Before(late):
		return nil, fs.ErrNotExist
	}
	return s.Over.Read(name)
}

// Rename implements Drive.
func (s *StandIn) Rename(from, to string) error {
	s.mu.Lock()
	t := s.trouble()
	if t == Late {
		s.late[to] = s.until
	}
	s.mu.Unlock()
	if t == Gone {
		return syscall.EIO
	}
	return s.Over.Rename(from, to)
}

// Remove implements Drive.
func (s *StandIn) Remove(name string) error {
	s.mu.Lock()
	t := s.trouble()
	s.mu.Unlock()
	if t == Gone {
		return syscall.EIO
	}
	return s.Over.Remove(name)
}
