package browser

import (
	"io"
	"net"
	"sync"
	"time"
)

// Line is a slow line between a browser and a site: so many bytes a second,
// so long on the way, and it can be cut. While it is cut nothing gets through
// and nothing says so, as on a train; what was on the way goes on afterwards.
type Line struct {
	Addr  string // host and port to use instead of the site's
	rate  int    // bytes a second in each direction, of each connection
	delay time.Duration
	l     net.Listener

	mu   sync.Mutex
	open chan struct{} // closed while the line holds
	all  []net.Conn
}

// NewLine starts one to a site's host and port.
func NewLine(site string, rate int, delay time.Duration) (*Line, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, err
	}
	x := &Line{Addr: l.Addr().String(), rate: rate, delay: delay, l: l, open: make(chan struct{})}
	close(x.open)
	go func() {
		for {
			near, err := l.Accept()
			if err != nil {
				return
			}
			far, err := net.Dial("tcp", site)
			if err != nil {
				near.Close()
				continue
			}
			x.mu.Lock()
			x.all = append(x.all, near, far)
			x.mu.Unlock()
			go x.carry(near, far)
			go x.carry(far, near)
		}
	}()
	return x, nil
}

// Cut it.
func (x *Line) Cut() {
	x.mu.Lock()
	defer x.mu.Unlock()
	x.open = make(chan struct{})
}

// Mend it.
func (x *Line) Mend() {
	x.mu.Lock()
	defer x.mu.Unlock()
	close(x.open)
}

// Close ends the line and all that goes over it.
func (x *Line) Close() {
	x.l.Close()
	x.mu.Lock()
	defer x.mu.Unlock()
	for _, c := range x.all {
		c.Close()
	}
}

type parcel struct {
	bytes []byte
	due   time.Time
}

// carry brings bytes from one end to the other: each parcel is due one delay
// after it was read, and the next is read when the line has taken it in.
func (x *Line) carry(from, to net.Conn) {
	way := make(chan parcel, 256)
	go func() {
		defer to.Close()
		for p := range way {
			time.Sleep(time.Until(p.due))
			x.mu.Lock()
			open := x.open
			x.mu.Unlock()
			<-open
			if _, err := to.Write(p.bytes); err != nil {
				return
			}
		}
	}()
	defer close(way)
	buf := make([]byte, 1400)
	for {
		n, err := from.Read(buf)
		if n > 0 {
			way <- parcel{append([]byte(nil), buf[:n]...), time.Now().Add(x.delay)}
			time.Sleep(time.Duration(n) * time.Second / time.Duration(x.rate))
		}
		if err != nil {
			if err != io.EOF {
				from.Close()
			}
			return
		}
	}
}
