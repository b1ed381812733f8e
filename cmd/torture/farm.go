package main

import (
	"bytes"
	"fmt"
	"io"
	"math/rand/v2"
	"net"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"time"
)

// frames of the shot that is spread over workers, as it is asked for.
const frames = 16

// faultsInFarms renders a shot with workers that are killed, stall, draw wrong pictures, lose their network and have clocks an hour
// off, and kills the first program and the queue, where that is a process of its own: the files are to be those of a run that was
// left alone.
func faultsInFarms(dir string) error {
	data := filepath.Join(dir, "farm")
	if err := prepareDemo(data); err != nil {
		return err
	}
	render := func(out string, more ...string) *exec.Cmd {
		c := exec.Command(*program, append([]string{"render", data, "--shot", "Turntable", "--size", "96x96", "--quality", "final", "--noise", "0.2", "--frames", fmt.Sprintf("0-%d", frames-1), "--out", out}, more...)...)
		c.Stderr = new(tail)
		return c
	}
	alone := filepath.Join(dir, "alone")
	if err := render(alone).Run(); err != nil {
		return fmt.Errorf("the run that is left alone: %w", err)
	}
	kills, queues := 0, 0
	begun := time.Now()
	for round := *round; round < *farms; round++ {
		rng := rand.New(rand.NewPCG(*seed, uint64(round)))
		at, err := freeAddress()
		if err != nil {
			return err
		}
		out := filepath.Join(dir, fmt.Sprint("farm-", round))
		apart := round%3 == 2 // the queue is a process of its own
		var queue *exec.Cmd
		startQueue := func() error {
			queue = exec.Command(*program, "queue", "--listen", at, "--secret", "s", "--token", "t", "--data", filepath.Join(dir, fmt.Sprint("queue-", round)))
			return queue.Start()
		}
		workers := []string{"--workers", at, "--workers-token", "t", "--workers-alone"}
		if apart {
			workers = []string{"--workers", "nats://first:s@" + at, "--workers-alone"}
			if err := startQueue(); err != nil {
				return err
			}
		}
		farm := exec.Command(*program, "farm", "--workers", "6", "--join", at, "--token", "t", "--speeds", "1,1,0.5,0.7", "--faults", "kill,stall,wrong,cut,clock", "--every", "6s", "--seed", fmt.Sprint(*seed*1000+uint64(round)))
		farm.Stderr = io.Discard
		if err := farm.Start(); err != nil {
			return err
		}
		first := render(out, workers...)
		err = first.Start()
		ended := make(chan error, 1)
		go func() { ended <- first.Wait() }()
		deadline := time.After(5 * time.Minute)
		left := 1 + rng.IntN(2) // kills of the first program
		next := time.After(time.Duration(1+rng.IntN(6)) * time.Second)
		for done := false; !done && err == nil; {
			select {
			case <-deadline:
				err = fmt.Errorf("it did not end in five minutes: %s; the first program says %s", progressOf(out), first.Stderr)
			case e := <-ended:
				if done, err = true, e; e != nil {
					err = fmt.Errorf("%w: %s", e, first.Stderr)
				}
			case <-next:
				next = nil
				if apart && rng.IntN(2) == 0 {
					queues++
					_ = queue.Process.Kill()
					_ = queue.Wait()
					time.Sleep(time.Duration(rng.IntN(2000)) * time.Millisecond)
					err = startQueue()
				} else if left > 0 {
					left--
					kills++
					_ = first.Process.Kill()
					if e := <-ended; e == nil { // it was done
						done = true
						break
					}
					first = render(out, workers...)
					err = first.Start()
					go func() { ended <- first.Wait() }()
				}
				if left > 0 {
					next = time.After(time.Duration(2+rng.IntN(6)) * time.Second)
				}
			}
		}
		for _, c := range []*exec.Cmd{farm, first, queue} {
			if c != nil && c.Process != nil {
				_ = c.Process.Signal(syscall.SIGTERM)
			}
		}
		_ = farm.Wait()
		if queue != nil {
			_ = queue.Wait()
		}
		if err == nil {
			err = sameFrames(alone, out)
		}
		if err != nil {
			return fmt.Errorf("round %d, seed %d: %w", round, *seed, err)
		}
		os.RemoveAll(out)
		fmt.Fprintf(os.Stderr, "farm round %d of %d held, %.0f s so far\n", round+1, *farms, time.Since(begun).Seconds())
	}
	tell("faults in farms", fmt.Sprintf("%d rounds, seed %d", *farms, *seed), nil, fmt.Sprintf("every frame once and equal to the run left alone; first program killed %d times, queue %d times", kills, queues))
	return nil
}

// progressOf says how many frames lie in a folder, and since when nothing has been added.
func progressOf(out string) string {
	files, _ := filepath.Glob(filepath.Join(out, "*.png"))
	last := time.Time{}
	for _, f := range files {
		if info, err := os.Stat(f); err == nil && info.ModTime().After(last) {
			last = info.ModTime()
		}
	}
	return fmt.Sprintf("%d of %d frames are there, the last for %.0f s", len(files), frames, time.Since(last).Seconds())
}

// tail keeps the end of what a program says.
type tail struct{ text []byte }

func (t *tail) Write(b []byte) (int, error) {
	t.text = append(t.text, b...)
	t.text = t.text[max(0, len(t.text)-600):]
	return len(b), nil
}

func (t *tail) String() string { return string(t.text) }

// prepareDemo makes a data folder with the demonstration.
func prepareDemo(data string) error {
	c := exec.Command(*program, "demo", "--data", data, "--listen", "127.0.0.1:0")
	out, err := c.StdoutPipe()
	if err != nil {
		return err
	}
	if err := c.Start(); err != nil {
		return err
	}
	if _, err := out.Read(make([]byte, 200)); err != nil { // its address, once the demonstration is there
		return err
	}
	_ = c.Process.Signal(syscall.SIGTERM)
	return c.Wait()
}

func freeAddress() (string, error) {
	ln, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return "", err
	}
	defer ln.Close()
	return ln.Addr().String(), nil
}

// sameFrames compares the frames of two folders: the same names, the same bytes, and nothing half written.
func sameFrames(want, got string) error {
	list, err := os.ReadDir(want)
	if err != nil {
		return err
	}
	n := 0
	for _, e := range list {
		if !strings.HasSuffix(e.Name(), ".png") {
			continue
		}
		n++
		a, err := os.ReadFile(filepath.Join(want, e.Name()))
		if err != nil {
			return err
		}
		b, err := os.ReadFile(filepath.Join(got, e.Name()))
		if err != nil {
			return err
		}
		if !bytes.Equal(a, b) {
			return fmt.Errorf("%s differs from the run that was left alone", e.Name())
		}
	}
	list, err = os.ReadDir(got)
	if err != nil {
		return err
	}
	have := 0
	for _, e := range list {
		switch {
		case strings.HasSuffix(e.Name(), ".png"):
			have++
		case e.Name() != "run.json":
			return fmt.Errorf("%s was left behind", e.Name())
		}
	}
	if have != n || n != frames {
		return fmt.Errorf("there are %d frames, and %d in the run that was left alone", have, n)
	}
	return nil
}
