package runs

import (
	"context"
	"errors"
	"slices"
	"sync"
	"time"

	"perigyre/core/render"
	"perigyre/store"
)

// Hands draw orders: this process alone, or machines that have joined it.
type Hands interface {
	// Places returns how many orders are taken at a time at present, at least one.
	Places() int
	// Speed returns how fast all places are together, as a multiple of this machine alone.
	Speed() float64
	// Draw carries an order out. Progress is told the share that is done, 0 as soon as the order has its place among the others;
	// it may be nil.
	Draw(ctx context.Context, o *Order, progress func(share float64)) (*Drawn, error)
	// Rest is told that there is nothing to draw: what is left of what was asked for can be forgotten.
	Rest()
}

// Here draws in this process, on all its processors, one order at a time.
type Here struct{ Props *render.Props }

// Here returns what draws the plan in this process.
func (p *Plan) Here() Here { return Here{p.stock.Props} }

// Places implements Hands.
func (Here) Places() int { return 1 }

// Speed implements Hands.
func (Here) Speed() float64 { return 1 }

// Rest implements Hands.
func (h Here) Rest() { h.Props.Rest() }

// Draw implements Hands.
func (h Here) Draw(ctx context.Context, o *Order, progress func(float64)) (*Drawn, error) {
	start := time.Now()
	if progress != nil {
		progress(0)
	}
	files, preview, err := o.Draw(ctx, h.Props, 0, progress)
	took := time.Since(start).Milliseconds()
	return &Drawn{files, preview, took, took}, err
}

// Drawing carries out orders of a plan by hands, several at a time, and puts each in place as it comes. Orders that are alike
// are drawn once.
type Drawing struct {
	Plan  *Plan
	Hands Hands
	Begun func(f store.Frame)                        // told before a frame is drawn; may be nil
	Share func(f store.Frame, share float64)         // told what is drawn of it, from any goroutine; may be nil
	Done  func(i int, f store.Frame, d *Drawn) error // told when a frame is in place
	Stop  func() error                               // asked between frames: an error ends the work after those that are being drawn; may be nil
}

// Run draws the frames of a list that are not done. It ends at the first error, with none of its work going on.
func (d *Drawing) Run(ctx context.Context, list []store.Frame) error {
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	type end struct {
		i     int
		order *Order
		drawn *Drawn
		err   error
	}
	ends := make(chan end)
	var all sync.WaitGroup
	defer all.Wait()
	defer cancel()
	under := map[string][]int{} // frames that wait for an order that is being drawn, by its fingerprint
	flying, next := 0, 0
	var stopped error
	stop := func() {
		if stopped == nil && d.Stop != nil {
			stopped = d.Stop()
		}
	}
	place := func(i int, o *Order, drawn *Drawn) error {
		f, err := d.Plan.Put(list[i], o, drawn)
		if err == nil {
			err = d.Done(i, f, drawn)
		}
		return err
	}
	launch := func(i int) error {
		start := time.Now()
		if d.Begun != nil {
			d.Begun(list[i])
		}
		o, err := d.Plan.Order(list[i].Number)
		if err != nil {
			return err
		}
		if had := d.Plan.Again(o); had != nil {
			had.Millis = time.Since(start).Milliseconds()
			return place(i, o, had)
		}
		if waiting, ok := under[o.Fingerprint()]; ok {
			under[o.Fingerprint()] = append(waiting, i)
			return nil
		}
		under[o.Fingerprint()] = nil
		flying++
		placed := make(chan struct{})
		once := sync.OnceFunc(func() { close(placed) })
		all.Go(func() {
			drawn, err := d.Hands.Draw(ctx, o, func(share float64) {
				once()
				if d.Share != nil {
					d.Share(list[i], share)
				}
			})
			once()
			select {
			case ends <- end{i, o, drawn, err}:
			case <-ctx.Done():
			}
		})
		<-placed // neighbours lie beside each other: whoever draws one does best to draw the next
		return nil
	}
	for {
		for ; stopped == nil && next < len(list) && flying < max(1, d.Hands.Places()); next++ {
			if err := ctx.Err(); err != nil {
				return err
			}
			if list[next].State == store.FrameDone {
				continue
			}
			was := flying
			if err := launch(next); err != nil {
				return err
			}
			if flying == was { // it was drawn before
				stop()
			}
		}
		if flying == 0 {
			return errors.Join(stopped, ctx.Err())
		}
		again := time.NewTimer(100 * time.Millisecond) // there may be more places
		select {
		case <-ctx.Done():
			again.Stop()
			return ctx.Err()
		case <-again.C:
		case e := <-ends:
			again.Stop()
			flying--
			if e.err != nil {
				return e.err
			}
			if err := place(e.i, e.order, e.drawn); err != nil {
				return err
			}
			for _, i := range under[e.order.Fingerprint()] {
				if err := place(i, e.order, &Drawn{Files: e.drawn.Files, Preview: e.drawn.Preview}); err != nil {
					return err
				}
			}
			delete(under, e.order.Fingerprint())
			stop()
		}
	}
}

// produce draws what a run lacks, and keeps and tells how it goes.
func (q *Queue) produce(ctx context.Context, r *store.Run, plan *Plan, list []store.Frame) error {
	var told sync.Mutex
	at := progressOf(r.ID, list) // what was told last
	at.State = Running
	last := time.Now()
	shares := map[int]float64{} // of frames that are being drawn
	var here, measured int64    // milliseconds that frames would have taken here, of so many
	left := func(p *Progress) {
		each := p.PerOne
		if measured > 0 {
			each = float64(here) / 1000 / float64(measured)
		}
		p.Left = each * (float64(p.Of-p.Done) - p.Share) / max(0.01, q.hands.Speed())
	}
	tell := func(change func(p *Progress), always bool) {
		told.Lock()
		defer told.Unlock()
		change(&at)
		left(&at)
		at.Delivered, at.Trouble = q.deliveries.status(r.ID)
		q.mu.Lock()
		q.at = at
		q.mu.Unlock()
		if always || time.Since(last) > 200*time.Millisecond {
			last = time.Now()
			q.tell(at)
		}
	}
	d := Drawing{Plan: plan, Hands: q.hands, Stop: func() error { return q.outranked(r) },
		Begun: func(f store.Frame) {
			tell(func(p *Progress) {
				p.Frame, p.Drawing = f.Number, append(p.Drawing, f.Number)
				if len(p.Drawing) == 1 {
					p.Share = 0
				}
			}, true)
		},
		Share: func(f store.Frame, share float64) {
			tell(func(p *Progress) {
				shares[f.Number], p.Share = share, 0
				for _, s := range shares {
					p.Share += s
				}
				if len(p.Drawing) < 2 {
					p.Frame = f.Number
				}
			}, false)
		},
		Done: func(i int, f store.Frame, drawn *Drawn) error {
			if r.Attempts > 0 { // before the frame is recorded: the process may end between the two
				r.Attempts = 0
				if err := q.store.SetAttempts(r.ID, 0); err != nil {
					return err
				}
			}
			if err := q.store.SetFrame(r.ID, f); err != nil {
				return err
			}
			list[i] = f
			q.deliveries.poke()
			tell(func(p *Progress) {
				drawing := slices.DeleteFunc(slices.Clone(p.Drawing), func(n int) bool { return n == f.Number })
				if drawn.Here > 0 {
					here, measured = here+drawn.Here, measured+1
				}
				share := p.Share - shares[f.Number]
				delete(shares, f.Number)
				*p = progressOf(r.ID, list)
				p.Share = max(0, share)
				p.State, p.Drawing = Running, drawing
				if len(drawing) > 0 {
					p.Frame = drawing[0]
				}
			}, true)
			return nil
		}}
	tell(func(*Progress) {}, true)
	err := plan.Compare(ctx, func(share float64) { tell(func(p *Progress) { p.Compared = share }, false) })
	if err == nil {
		tell(func(p *Progress) { p.Compared = 0 }, true)
		err = d.Run(ctx, list)
	}
	return Full(err, list)
}
