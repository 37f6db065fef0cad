// Package clock hands the time in, so that the demo can build a year in
// seconds and tests can stand at the instant of closing.
package clock

import (
	"sync/atomic"
	"time"
)

// Clock tells the time.
type Clock interface{ Now() time.Time }

// System is the machine's clock.
type System struct{}

// Now is time.Now.
func (System) Now() time.Time { return time.Now() }

// Settable stands still until it is set.
type Settable struct{ at atomic.Int64 }

// NewSettable stands at t.
func NewSettable(t time.Time) *Settable {
	s := &Settable{}
	s.Set(t)
	return s
}

// Set moves the clock.
func (s *Settable) Set(t time.Time) { s.at.Store(t.UnixNano()) }

// Now is where it was set.
func (s *Settable) Now() time.Time { return time.Unix(0, s.at.Load()).UTC() }
