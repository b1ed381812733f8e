package farm

import (
	"context"
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"
)

// Faults that stand-ins have.
const (
	Kill  = "kill"  // it is ended without a word, and started again after a while
	Stall = "stall" // it stops answering for a while
	Wrong = "wrong" // from some order on its pictures are wrong
	Cut   = "cut"   // its network is cut for a while
	Clock = "clock" // its clock is an hour off
)

// Faults are all there are.
var Faults = []string{Kill, Stall, Wrong, Cut, Clock}

// StandIns are workers on this machine that stand in for machines elsewhere: separate processes of chosen speed, with faults.
type StandIns struct {
	Program string // of perigyre
	Join    string // HOST:PORT
	Token   string
	Folder  string // for their caches
	Number  int
	Threads int       // of each; 0 for all
	Speeds  []float64 // of the first ones, and so on again; 1 for none
	Faults  []string  // of the first ones, one each
	Seed    uint64    // that decides when
	Every   time.Duration
	Say     func(format string, args ...any)
}

// how long faults last.
const (
	deadFor  = 3 * time.Second
	stillFor = 12 * time.Second
	cutFor   = 10 * time.Second
)

// Run starts them and keeps them going until the context ends.
func (s *StandIns) Run(ctx context.Context) error {
	for _, f := range s.Faults {
		if !slices.Contains(Faults, f) {
			return fmt.Errorf("there is no fault %q; there are %s", f, strings.Join(Faults, ", "))
		}
	}
	if len(s.Faults) > s.Number {
		return fmt.Errorf("%d faults are more than the %d workers that can have one each", len(s.Faults), s.Number)
	}
	var all sync.WaitGroup
	defer all.Wait()
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	ended := make(chan error, s.Number)
	for i := range s.Number {
		one := &standIn{of: s, i: i, rng: rand.New(rand.NewPCG(s.Seed, uint64(i)))}
		if i < len(s.Faults) {
			one.fault = s.Faults[i]
		}
		all.Go(func() { ended <- one.run(ctx) })
	}
	for range s.Number {
		if err := <-ended; err != nil && ctx.Err() == nil {
			return err
		}
	}
	return ctx.Err()
}

type standIn struct {
	of    *StandIns
	i     int
	fault string
	rng   *rand.Rand
}

func (o *standIn) name() string { return fmt.Sprintf("stand-in %d", o.i+1) }

// after is when a fault comes next.
func (o *standIn) after() time.Duration {
	return time.Duration((0.3 + 0.7*o.rng.Float64()) * float64(o.of.Every))
}

func (o *standIn) run(ctx context.Context) error {
	s := o.of
	cable, err := lay(ctx, s.Join)
	if err != nil {
		return err
	}
	args := []string{"worker", "--join", cable.ln.Addr().String(), "--token", s.Token, "--name", o.name(), "--threads", fmt.Sprint(s.Threads),
		"--cache", filepath.Join(s.Folder, fmt.Sprint(o.i+1))}
	if len(s.Speeds) > 0 {
		args = append(args, "--stand-in-speed", fmt.Sprint(s.Speeds[o.i%len(s.Speeds)]))
	}
	switch o.fault {
	case Wrong:
		args = append(args, "--stand-in-wrong", fmt.Sprint(2+o.rng.IntN(4)))
	case Clock:
		args = append(args, "--stand-in-clock", []string{"1h", "-1h"}[o.rng.IntN(2)])
	}
	for ctx.Err() == nil {
		life, end := context.WithCancel(ctx)
		c := exec.CommandContext(life, s.Program, args...)
		c.Stderr = os.Stderr
		if err := c.Start(); err != nil {
			end()
			return err
		}
		done := make(chan struct{})
		go func() {
			_ = c.Wait() // it is ended by a signal
			close(done)
		}()
		o.live(life, c, cable, done)
		end()
		<-done
		select {
		case <-ctx.Done():
		case <-time.After(deadFor):
		}
	}
	return nil
}

// live lets a process run, with its fault, until it ends.
func (o *standIn) live(ctx context.Context, c *exec.Cmd, cable *cable, done chan struct{}) {
	pause := func(d time.Duration) bool {
		select {
		case <-ctx.Done():
		case <-done:
		case <-time.After(d):
			return true
		}
		return false
	}
	for pause(o.after()) {
		switch o.fault {
		case Kill:
			o.of.Say("%s is killed", o.name())
			_ = c.Process.Kill()
		case Stall:
			o.of.Say("%s does not answer for %s", o.name(), stillFor)
			still(c.Process, true)
			pause(stillFor)
			still(c.Process, false)
		case Cut:
			o.of.Say("the network of %s is cut for %s", o.name(), cutFor)
			cable.cut()
			pause(cutFor)
			cable.mend()
		}
	}
}
