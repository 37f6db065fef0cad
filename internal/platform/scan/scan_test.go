package scan_test

import (
	"bytes"
	"context"
	"errors"
	"net"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"ulvant/internal/platform/scan"
	"ulvant/internal/standin/scanner"
)

// The EICAR test file wherever it lies in a file, what has none, and a scanner that
// does not answer or takes no more.
func TestWhatIsFound(t *testing.T) {
	s, err := scanner.Start("127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	defer s.Stop()
	padded := func(before, after int) string {
		return strings.Repeat("a", before) + scanner.Test + strings.Repeat("b", after)
	}
	for _, c := range []struct {
		what, body, found string
		silent, wrong     bool
		most              int64
	}{
		{what: "nothing in it"},
		{what: "clean", body: strings.Repeat("clean", 50_000)},
		{what: "the test file", body: scanner.Test, found: "Eicar-Test-Signature"},
		{what: "across two pieces", body: padded(65_500, 10), found: "Eicar-Test-Signature"},
		{what: "far behind", body: padded(300_000, 90_000), found: "Eicar-Test-Signature"},
		{what: "nearly the test file", body: scanner.Test[:60]},
		{what: "a silent scanner", body: "x", silent: true, wrong: true},
		{what: "more than it takes", body: strings.Repeat("x", 200_000), most: 100_000, wrong: true},
	} {
		s.Silent.Store(c.silent)
		s.Most.Store(c.most)
		found, err := scan.Scanner{Addr: s.Addr}.Read(context.Background(), strings.NewReader(c.body))
		if found != c.found || (err != nil) != c.wrong || c.most > 0 && !errors.Is(err, scan.ErrTooLarge) {
			t.Errorf("%s: %q %v", c.what, found, err)
		}
	}
	if _, err := (scan.Scanner{Addr: "127.0.0.1:1"}).Read(context.Background(), bytes.NewReader(nil)); err == nil {
		t.Error("nobody is there, and nothing is found")
	}
	path := filepath.Join(t.TempDir(), "x")
	if err := os.WriteFile(path, []byte(scanner.Test), 0o600); err != nil {
		t.Fatal(err)
	}
	s.Silent.Store(false)
	s.Most.Store(0)
	if found, err := (scan.Scanner{Addr: s.Addr}).File(context.Background(), path); found == "" || err != nil {
		t.Errorf("a file: %q %v", found, err)
	}
	if (scan.Scanner{}).On() || !(scan.Scanner{Addr: "x"}).On() {
		t.Error("none is one, or one is none")
	}
}

// Debian's clamd says the same, where it is installed and running.
func TestAgainstClamd(t *testing.T) {
	const socket = "/run/clamav/clamd.ctl"
	if _, err := exec.LookPath("clamd"); err != nil {
		t.Skip("clamd is not installed")
	}
	if c, err := net.Dial("unix", socket); err != nil {
		t.Skip("clamd is not running")
	} else {
		c.Close()
	}
	for body, want := range map[string]bool{scanner.Test: true, "nothing": false} {
		found, err := scan.Scanner{Addr: socket}.Read(context.Background(), strings.NewReader(body))
		if err != nil || (found != "") != want {
			t.Errorf("%.10q: %q %v", body, found, err)
		}
	}
}
