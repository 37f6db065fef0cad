package web_test

import (
	"bytes"
	"encoding/base64"
	"fmt"
	"io"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"regexp"
	"strconv"
	"sync"
	"testing"
	"time"

	"ulvant/core/form"
	"ulvant/core/slot"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// anySlot lets the plan be of any size.
func anySlot(d *form.Design) {
	for i := range d.Sections {
		for j := range d.Sections[i].Questions {
			if q := &d.Sections[i].Questions[j]; q.Key == "site-plan" {
				q.Limits.Else.Slot = &slot.Limits{SizeMost: slot.MostSize}
			}
		}
	}
}

// sent is what all senders share, the largest piece.
var sent = bytes.Repeat([]byte("0123456789abcdef"), 4<<20/16)

// sends puts size bytes up in pieces, as the page does, and gives how long it took.
func sends(b testing.TB, v *webtest.Visitor, ref string, size, piece int) time.Duration {
	b64 := func(s string) string { return base64.StdEncoding.EncodeToString([]byte(s)) }
	token, body := v.Token(), sent
	do := func(method, path string, header map[string]string, body []byte) *http.Response {
		req, err := http.NewRequest(method, v.Base+path, bytes.NewReader(body))
		if err != nil {
			b.Fatal(err)
		}
		req.Header.Set("Tus-Resumable", "1.0.0")
		req.Header.Set("X-Form-Token", token)
		for k, s := range header {
			req.Header.Set(k, s)
		}
		res, err := v.Do(req)
		if err != nil {
			b.Fatal(err)
		}
		io.Copy(io.Discard, res.Body)
		res.Body.Close()
		if res.StatusCode >= 300 {
			b.Fatal(method, path, res.StatusCode)
		}
		return res
	}
	start := time.Now()
	at := do("POST", "/applications/"+ref+"/arriving", map[string]string{"Upload-Length": strconv.Itoa(size),
		"Upload-Metadata": "slot " + b64("site-plan") + ",filename " + b64("film.mp4") + ",head " + b64("x")}, nil).
		Header.Get("Location")
	for off := 0; off < size; {
		n := min(piece, size-off)
		do("PATCH", at, map[string]string{"Upload-Offset": strconv.Itoa(off),
			"Content-Type": "application/offset+octet-stream"}, body[:n])
		off += n
	}
	return time.Since(start)
}

// bare is the same through a loopback socket into a file that is flushed at the end.
func bare(b testing.TB, size int) time.Duration {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		b.Fatal(err)
	}
	defer l.Close()
	start := time.Now()
	go func() {
		c, err := net.Dial("tcp", l.Addr().String())
		if err != nil {
			return
		}
		defer c.Close()
		piece := bytes.Repeat([]byte("0123456789abcdef"), 1<<18)
		for left := size; left > 0; left -= len(piece) {
			c.Write(piece[:min(left, len(piece))])
		}
	}()
	c, err := l.Accept()
	if err != nil {
		b.Fatal(err)
	}
	f, err := os.Create(filepath.Join(b.TempDir(), "bare"))
	if err != nil {
		b.Fatal(err)
	}
	defer f.Close()
	if _, err := io.Copy(f, c); err != nil {
		b.Fatal(err)
	}
	if err := f.Sync(); err != nil {
		b.Fatal(err)
	}
	return time.Since(start)
}

// resident is the process's memory now and at its most since the last call, in MB
// (proc(5), VmRSS and VmHWM).
func resident(b testing.TB) (now, most float64) {
	raw, err := os.ReadFile("/proc/self/status")
	if err != nil {
		b.Skip(err)
	}
	read := func(name string) float64 {
		m := regexp.MustCompile(name + `:\s+(\d+) kB`).FindSubmatch(raw)
		n, _ := strconv.ParseFloat(string(m[1]), 64)
		return n / 1024
	}
	now, most = read("VmRSS"), read("VmHWM")
	os.WriteFile("/proc/self/clear_refs", []byte("5"), 0)
	return now, most
}

// One film of 2 GB, and fifty of 24 MB at once; sender and server share the process.
func BenchmarkArriving(b *testing.B) {
	for _, c := range []struct {
		name     string
		at, size int
	}{{"one of 2 GB", 1, 2<<30 - 1<<20}, {"fifty at once", 50, 24 << 20}} {
		b.Run(c.name, func(b *testing.B) {
			h := programtest.New(b)
			_, base := webtest.Serve(b, h)
			h.OpenRound(webtest.Officer(h), anySlot)
			var visitors []*webtest.Visitor
			var refs []string
			for i := range c.at {
				email := fmt.Sprintf("a%d@corvoe.example", i)
				refs = append(refs, h.Draft(email).Ref)
				visitors = append(visitors, webtest.Visit(b, base).As(email))
			}
			for b.Loop() {
				idle, _ := resident(b)
				var wait sync.WaitGroup
				start := time.Now()
				for i, v := range visitors {
					wait.Go(func() { sends(b, v, refs[i], c.size, 4<<20) })
				}
				wait.Wait()
				took := time.Since(start)
				_, most := resident(b)
				least := bare(b, c.size*c.at)
				b.ReportMetric(most-idle, "MB-above-idle")
				b.ReportMetric(float64(c.size*c.at)/took.Seconds()/(1<<20), "MB/s")
				b.ReportMetric(took.Seconds()/least.Seconds(), "times-bare")
			}
		})
	}
}

// What a save takes while fifty people send 24 MB each, beside what it takes alone.
func BenchmarkSaveBesideArriving(b *testing.B) {
	h := programtest.New(b)
	_, base := webtest.Serve(b, h)
	h.OpenRound(webtest.Officer(h), anySlot)
	var visitors []*webtest.Visitor
	var refs []string
	for i := range 50 {
		email := fmt.Sprintf("a%d@corvoe.example", i)
		refs = append(refs, h.Draft(email).Ref)
		visitors = append(visitors, webtest.Visit(b, base).As(email))
	}
	save := saver(b, h, base, "shore-2027", "budget-section")
	var alone, beside []time.Duration
	for range 200 {
		alone = append(alone, save())
	}
	for b.Loop() {
		done := make(chan struct{})
		go func() {
			defer close(done)
			var wait sync.WaitGroup
			for i, v := range visitors {
				wait.Go(func() { sends(b, v, refs[i], 24<<20, 4<<20) })
			}
			wait.Wait()
		}()
		for arriving := true; arriving; {
			select {
			case <-done:
				arriving = false
			default:
				beside = append(beside, save())
			}
		}
	}
	b.ReportMetric(float64(median(beside))/float64(median(alone)), "save-ratio")
	b.ReportMetric(float64(beside[len(beside)*95/100].Milliseconds()), "p95-ms") // median has put them in order
	b.ReportMetric(float64(median(alone).Microseconds())/1000, "alone-ms")
}
