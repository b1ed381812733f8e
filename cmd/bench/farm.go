package main

import (
	"context"
	"fmt"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"time"

	"perigyre/core/render"
	"perigyre/demo"
	"perigyre/farm"
	"perigyre/library"
	"perigyre/runs"
	"perigyre/store"
)

// asWorker makes this program a worker: farms are measured with processes of their own.
func asWorker(address, threads, cache string) {
	w := &farm.Worker{Address: address, Name: "worker " + filepath.Base(cache), Cache: cache}
	_, err := fmt.Sscan(threads, &w.Threads)
	check(err)
	check(w.Work(context.Background()))
}

// farms measures what it costs to spread frames over workers, and says what many would bring.
func farms() {
	d, assets := staged(demo.Lantern)
	folder, err := os.MkdirTemp("", "perigyre-bench-")
	check(err)
	defer os.RemoveAll(folder)
	const n = 24
	plan := func(name string) *runs.Plan {
		o := runs.Defaults(d)
		o.Width, o.Height, o.Quality, o.Name, o.To = 256*d.Format.Width/max(d.Format.Width, d.Format.Height), 256*d.Format.Height/max(d.Format.Width, d.Format.Height), render.Proof, "{frame}", n-1
		out := filepath.Join(folder, name)
		check(os.MkdirAll(out, 0o755))
		p, err := runs.NewPlan(d, runs.Names{}, o, out, runs.Stock{Props: render.NewProps(assets), Surfaces: assets})
		check(err)
		return p
	}
	draw := func(p *runs.Plan, h runs.Hands) (seconds float64, frames []store.Frame) {
		list := p.List()
		start := time.Now()
		d := runs.Drawing{Plan: p, Hands: h, Done: func(i int, f store.Frame, _ *runs.Drawn) error {
			list[i] = f
			return nil
		}}
		check(d.Run(context.Background(), list))
		return time.Since(start).Seconds(), list
	}
	alone := plan("alone")
	seconds, frames := draw(alone, alone.Here())

	boss, err := farm.Open(context.Background(), farm.Config{Place: farm.Place{Folder: filepath.Join(folder, "queue"), Listen: "127.0.0.1:0"}, Open: assets.Open, Props: render.NewProps(assets), Alone: true})
	check(err)
	program, err := os.Executable()
	check(err)
	for k := range 4 {
		c := exec.Command(program, "worker", boss.Address(), "1", filepath.Join(folder, fmt.Sprint(k)))
		check(c.Start())
		defer func() {
			_ = c.Process.Kill()
			_ = c.Wait()
		}()
	}
	for ready := 0; ready < 4; time.Sleep(50 * time.Millisecond) {
		ready = 0
		for _, m := range boss.Members() {
			if m.State == farm.Waiting {
				ready++
			}
		}
	}
	spread, _ := draw(plan("spread"), boss)
	row(fmt.Sprintf("%d frames of it, 256 pixels, proof, by one program", n), seconds, "s")
	row("  by 4 workers on the same processors", spread/seconds, "of that")
	boss.Close()

	// What the first program does for a frame, measured on these.
	s := farm.Simulation{Frames: 500, Machines: 1, Latency: 0.002, Network: 110e6, Tests: farm.Extra, Seed: 1}
	s.Order = fastest(3, func() {
		o, err := alone.Order(3)
		check(err)
		o.Fingerprint()
	}) + 0.002 // to pack and publish it
	for _, f := range frames {
		if f.Millis > 0 {
			s.Times = append(s.Times, float64(f.Millis)/1000)
			s.Result = math.Max(s.Result, float64(f.Bytes))
		}
	}
	again := plan("written")
	one, err := again.Order(3)
	check(err)
	files, err := os.ReadFile(filepath.Join(alone.Folder, frames[3].File))
	check(err)
	s.Write = fastest(3, func() {
		check(one.Sound([][]byte{files}, nil))
		_, err := again.Put(again.List()[3], one, &runs.Drawn{Files: [][]byte{files}})
		check(err)
	})
	s.Assets = bytesOf(one, assets)
	row("  to resolve one and give it out", s.Order*1000, "ms")
	row("  to check and write one", s.Write*1000, "ms")
	for _, long := range []float64{1, 20} { // times as long as these: a proof, and a final frame of a film's size
		for _, machines := range []int{1, 4, 16, 64, 256, 1000} {
			m := s
			m.Machines = machines
			m.Times = nil
			for _, t := range s.Times {
				m.Times = append(m.Times, t*long)
			}
			m.Result *= long
			got := m.Run()
			row(fmt.Sprintf("simulated: 500 frames of %.1f s on %d machines", mean(m.Times), machines), got.Efficiency, fmt.Sprintf("efficiency; %.0f s, first program busy %.2f, network %.2f", got.Seconds, got.Busy, got.Network))
		}
	}
}

func mean(list []float64) float64 {
	sum := 0.0
	for _, v := range list {
		sum += v
	}
	return sum / float64(len(list))
}

func bytesOf(o *runs.Order, a *library.Assets) (sum float64) {
	for _, hash := range o.Scene.Assets() {
		data, err := a.Open(hash)
		check(err)
		sum += float64(len(data))
	}
	return sum
}
