package farm

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"github.com/klauspost/compress/zstd"
	"github.com/nats-io/nats.go"
	"github.com/nats-io/nats.go/jetstream"

	"perigyre/runs"
)

// Rest implements runs.Hands: orders of this program that are left in the queue are taken out.
func (b *Boss) Rest() {
	b.props.Rest()
	ctx, cancel := context.WithTimeout(b.ctx, 5*time.Second)
	defer cancel()
	if s, err := b.js.Stream(ctx, workStream); err == nil {
		_ = s.Purge(ctx, jetstream.WithPurgeSubject(workSubjects+b.id+".>")) // what stays is drawn for nothing
	}
	b.mu.Lock()
	strays := b.strays
	b.strays = map[string][]string{}
	b.mu.Unlock()
	for _, list := range strays {
		for _, name := range list {
			_ = b.done.Delete(ctx, name)
		}
	}
}

// withdraw takes an order out of the queue, and tells who draws it that nobody waits for it. Who does not hear it draws for nothing.
func (b *Boss) withdraw(key string) {
	if b.ctx.Err() != nil || b.nc.Status() != nats.CONNECTED {
		return
	}
	ctx, cancel := context.WithTimeout(b.ctx, 5*time.Second)
	defer cancel()
	if s, err := b.js.Stream(ctx, workStream); err == nil {
		_ = s.Purge(ctx, jetstream.WithPurgeSubject(workSubjects+b.id+"."+key))
	}
	_ = b.nc.Publish(dropSubject, []byte(b.id+"."+key))
}

// ask puts an order into the queue, unless what came of it is there already or it is in the queue from before.
func (b *Boss) ask(ctx context.Context, w *wait) error {
	b.mu.Lock()
	b.waits[w.key] = w
	w.asked = time.Now()
	strays := b.strays[w.key]
	delete(b.strays, w.key)
	b.mu.Unlock()
	for _, name := range strays {
		b.fetch(name)
	}
	if len(strays) > 0 || b.queued(ctx)[w.key] {
		return nil
	}
	return b.publish(ctx, w, "")
}

// queued are the keys of the orders that lie in the queue, drawn or not.
func (b *Boss) queued(ctx context.Context) map[string]bool {
	ctx, cancel := context.WithTimeout(ctx, 5*time.Second)
	defer cancel()
	s, err := b.js.Stream(ctx, workStream)
	if err != nil {
		return nil
	}
	subject := workSubjects + b.id + "."
	info, err := s.Info(ctx, jetstream.WithSubjectFilter(subject+">"))
	if err != nil {
		return nil
	}
	out := map[string]bool{}
	for s := range info.State.Subjects {
		out[strings.TrimPrefix(s, subject)] = true
	}
	return out
}

var packer, _ = zstd.NewWriter(nil) // EncodeAll may be used by several at a time

// publish puts an order into the queue. Not names a worker that is not to take it.
func (b *Boss) publish(ctx context.Context, w *wait, not string) error {
	data, err := json.Marshal(w.order)
	if err != nil {
		return fmt.Errorf("the frame cannot be described: %w", err)
	}
	data = packer.EncodeAll(data, nil)
	b.mu.Lock()
	w.asks++
	b.mu.Unlock()
	msg := &nats.Msg{Subject: workSubjects + b.id + "." + w.key, Header: nats.Header{"Strip": {fmt.Sprint(w.strip)}, "Not": {not}}, Data: data}
	if len(data) > maxInline {
		hash := hashOf(data)
		if err := b.keep(ctx, hash, func() ([]byte, error) { return data, nil }); err != nil {
			return err
		}
		msg.Header.Set("Order", hash)
		msg.Data = nil
	}
	for {
		_, err := b.js.PublishMsg(ctx, msg)
		if err == nil {
			return nil
		}
		if ctx.Err() != nil {
			return ctx.Err()
		}
		select { // the server of the queue may be on its way back
		case <-ctx.Done():
			return ctx.Err()
		case <-b.ctx.Done():
			return b.ctx.Err()
		case <-time.After(time.Second):
		}
	}
}

// supply sees to it that workers find an order, and what it needs.
func (b *Boss) supply(ctx context.Context, o *runs.Order) error {
	b.mu.Lock()
	offered := time.Since(b.offered) < time.Hour
	b.mu.Unlock()
	if !offered {
		if err := b.offer(ctx, b.id); err != nil && ctx.Err() != nil {
			return ctx.Err()
		} else if err == nil { // else the server of the queue may be on its way back, with what it had
			b.mu.Lock()
			b.offered = time.Now()
			b.mu.Unlock()
		}
	}
	for _, hash := range o.Assets() {
		if err := b.keep(ctx, hash, func() ([]byte, error) { return b.open(hash) }); err != nil {
			return err
		}
	}
	return nil
}

// keep puts something into the object store, unless it is there.
func (b *Boss) keep(ctx context.Context, hash string, open func() ([]byte, error)) error {
	b.mu.Lock()
	known := time.Since(b.kept[hash]) < time.Hour
	b.mu.Unlock()
	if known {
		return nil
	}
	if info, err := b.assets.GetInfo(ctx, hash); err != nil || time.Since(info.ModTime) > keptAsset/2 { // none goes while it is needed
		data, err := open()
		if err != nil {
			return err
		}
		if _, err := b.assets.PutBytes(ctx, hash, data); err != nil {
			if ctx.Err() != nil {
				return ctx.Err()
			}
			return fmt.Errorf("what the frame needs cannot be handed to the workers: %w", err)
		}
	}
	b.mu.Lock()
	b.kept[hash] = time.Now()
	b.mu.Unlock()
	return nil
}

// again gives an order out once more. The caller holds the lock.
func (b *Boss) again(w *wait, not string) {
	if w.parcel != nil || w.err != nil || b.ctx.Err() != nil {
		return
	}
	w.asked = time.Now()
	b.all.Go(func() { _ = b.give(b.ctx, w, not) }) // it ends with the program alone
}
