// Package scanner is the stand-in for a virus scanner: it speaks clamd's INSTREAM and
// PING on loopback and finds the EICAR test file, which is no virus and which every
// scanner knows (eicar.org, “Anti-Malware Testfile”), and nothing else.
package scanner

import (
	"bufio"
	"bytes"
	"encoding/binary"
	"fmt"
	"io"
	"net"
	"strings"
	"sync/atomic"
)

// Test is the EICAR test file, in two parts so that no scanner finds it here.
var Test = `X5O!P%@AP[4\PZX54(P^)7CC)7}$EICAR` + `-STANDARD-ANTIVIRUS-TEST-FILE!$H+H*`

// Scanner is the stand-in.
type Scanner struct {
	Addr   string
	Silent atomic.Bool  // takes no connection to its end
	Most   atomic.Int64 // bytes it takes; 0 for any
	l      net.Listener
}

// Start listens on addr, on loopback only.
func Start(addr string) (*Scanner, error) {
	host, _, err := net.SplitHostPort(addr)
	if ip := net.ParseIP(host); err != nil || ip == nil || !ip.IsLoopback() {
		return nil, fmt.Errorf("the scanner stand-in listens on loopback only, not on %q", addr)
	}
	l, err := net.Listen("tcp", addr)
	if err != nil {
		return nil, err
	}
	s := &Scanner{Addr: l.Addr().String(), l: l}
	go func() {
		for {
			c, err := l.Accept()
			if err != nil {
				return
			}
			go s.serve(c)
		}
	}()
	return s, nil
}

// Stop it.
func (s *Scanner) Stop() { s.l.Close() }

func (s *Scanner) serve(c net.Conn) {
	defer c.Close()
	if s.Silent.Load() {
		return
	}
	r := bufio.NewReader(c)
	command, err := r.ReadString(0)
	if err != nil {
		return
	}
	switch strings.TrimRight(command, "\x00") {
	case "zPING":
		io.WriteString(c, "PONG\x00")
	case "zINSTREAM":
		io.WriteString(c, s.look(r)+"\x00")
	default:
		io.WriteString(c, "UNKNOWN COMMAND\x00")
	}
}

// look goes through a stream of pieces.
func (s *Scanner) look(r io.Reader) string {
	var before []byte // what the pattern may have begun in
	found, all := false, int64(0)
	for {
		var n uint32
		if binary.Read(r, binary.BigEndian, &n) != nil || n > 64<<20 {
			return "INSTREAM: broken off. ERROR"
		}
		if n == 0 {
			break
		}
		if all += int64(n); s.Most.Load() > 0 && all > s.Most.Load() {
			return "INSTREAM size limit exceeded. ERROR"
		}
		b := make([]byte, n)
		if _, err := io.ReadFull(r, b); err != nil {
			return "INSTREAM: broken off. ERROR"
		}
		both := append(before, b...)
		found = found || bytes.Contains(both, []byte(Test))
		before = bytes.Clone(both[max(0, len(both)-len(Test)):])
	}
	if found {
		return "stream: Eicar-Test-Signature FOUND"
	}
	return "stream: OK"
}
