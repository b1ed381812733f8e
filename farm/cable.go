package farm

import (
	"context"
	"io"
	"net"
	"sync"
	"sync/atomic"
)

// cable joins two ends of a network on this machine, and can be cut.
type cable struct {
	ln net.Listener
	to string

	dead  atomic.Bool
	mu    sync.Mutex
	conns map[net.Conn]bool
}

// lay starts a cable to an address. It ends with the context.
func lay(ctx context.Context, to string) (*cable, error) {
	ln, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, err
	}
	c := &cable{ln: ln, to: to, conns: map[net.Conn]bool{}}
	go func() {
		<-ctx.Done()
		ln.Close()
		c.cut()
	}()
	go c.serve()
	return c, nil
}

func (c *cable) serve() {
	for {
		near, err := c.ln.Accept()
		if err != nil {
			return
		}
		if c.dead.Load() {
			near.Close()
			continue
		}
		far, err := net.Dial("tcp", c.to)
		if err != nil {
			near.Close()
			continue
		}
		c.mu.Lock()
		c.conns[near], c.conns[far] = true, true
		c.mu.Unlock()
		through := func(to, from net.Conn) {
			_, _ = io.Copy(to, from) // its end is the connection's
			to.Close()
			from.Close()
			c.mu.Lock()
			delete(c.conns, from)
			c.mu.Unlock()
		}
		go through(near, far)
		go through(far, near)
	}
}

// cut ends all that goes through, and lets nothing new through until it is mended.
func (c *cable) cut() {
	c.dead.Store(true)
	c.mu.Lock()
	defer c.mu.Unlock()
	for conn := range c.conns {
		conn.Close()
	}
}

func (c *cable) mend() { c.dead.Store(false) }
