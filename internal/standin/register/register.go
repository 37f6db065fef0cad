// Package register is the stand-in for the registers of bodies: a small HTTP
// server on loopback that knows a few made-up ones. It can be told not to
// answer, so that what follows can be tried.
package register

import (
	"encoding/json"
	"fmt"
	"net"
	"net/http"
	"strings"
	"sync/atomic"
)

// Entry is one body as the register has it.
type Entry struct {
	Scheme string `json:"-"`
	Number string `json:"-"`
	Name   string `json:"name"`
	Struck bool   `json:"struckOff"`
}

// Register is the stand-in.
type Register struct {
	Addr   string
	Silent atomic.Bool // answers nothing but 503
	srv    *http.Server
}

// Start listens on addr ("127.0.0.1:0" for any port) with some entries.
func Start(addr string, entries []Entry) (*Register, error) {
	host, _, err := net.SplitHostPort(addr)
	if ip := net.ParseIP(host); err != nil || ip == nil || !ip.IsLoopback() {
		return nil, fmt.Errorf("the register stand-in listens on loopback only, not on %q", addr)
	}
	l, err := net.Listen("tcp", addr)
	if err != nil {
		return nil, err
	}
	by := map[string]Entry{}
	for _, e := range entries {
		by[e.Scheme+"/"+e.Number] = e
	}
	r := &Register{Addr: l.Addr().String()}
	r.srv = &http.Server{Handler: http.HandlerFunc(func(w http.ResponseWriter, req *http.Request) {
		e, ok := by[strings.Trim(req.URL.Path, "/")]
		switch {
		case r.Silent.Load():
			http.Error(w, "not now", http.StatusServiceUnavailable)
		case !ok:
			http.NotFound(w, req)
		default:
			w.Header().Set("Content-Type", "application/json")
			json.NewEncoder(w).Encode(e)
		}
	})}
	go r.srv.Serve(l)
	return r, nil
}

// Stop it.
func (r *Register) Stop() { r.srv.Close() }
