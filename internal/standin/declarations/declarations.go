// Package declarations is the stand-in for the service at which households
// declare what they have: a small HTTP server on loopback that knows a few
// made-up ones. It can be told not to answer.
package declarations

import (
	"encoding/json"
	"fmt"
	"net"
	"net/http"
	"strings"
	"sync"
	"sync/atomic"
)

// Declaration under a reference; sums by year, as text.
type Declaration struct {
	Reference string            `json:"-"`
	State     string            `json:"state"` // settled | pending
	Sums      map[string]string `json:"sums,omitempty"`
}

// Service is the stand-in.
type Service struct {
	Addr   string
	Silent atomic.Bool // answers nothing but 503
	mu     sync.Mutex
	by     map[string]Declaration
	srv    *http.Server
}

// Start listens on addr ("127.0.0.1:0" for any port) with some declarations.
func Start(addr string, list []Declaration) (*Service, error) {
	host, _, err := net.SplitHostPort(addr)
	if ip := net.ParseIP(host); err != nil || ip == nil || !ip.IsLoopback() {
		return nil, fmt.Errorf("the stand-in for declarations listens on loopback only, not on %q", addr)
	}
	l, err := net.Listen("tcp", addr)
	if err != nil {
		return nil, err
	}
	s := &Service{Addr: l.Addr().String(), by: map[string]Declaration{}}
	for _, d := range list {
		s.Put(d)
	}
	s.srv = &http.Server{Handler: http.HandlerFunc(s.answer)}
	go s.srv.Serve(l)
	return s, nil
}

// Put a declaration, in place of an earlier one of its reference.
func (s *Service) Put(d Declaration) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.by[d.Reference] = d
}

func (s *Service) answer(w http.ResponseWriter, r *http.Request) {
	s.mu.Lock()
	d, ok := s.by[strings.Trim(r.URL.Path, "/")]
	s.mu.Unlock()
	switch {
	case s.Silent.Load():
		http.Error(w, "not now", http.StatusServiceUnavailable)
	case !ok:
		http.NotFound(w, r)
	default:
		w.Header().Set("Content-Type", "application/json")
		json.NewEncoder(w).Encode(d)
	}
}

// Stop it.
func (s *Service) Stop() { s.srv.Close() }
