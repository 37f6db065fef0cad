package material_test

import (
	"context"
	"testing"

	"ulvant/core/slot"
	"ulvant/internal/platform/scan"
	"ulvant/internal/programtest"
	"ulvant/internal/standin/scanner"
)

// What a scanner finds is refused; while it does not answer files wait, count, and
// are looked through when it is back.
func TestFilesAreLookedThrough(t *testing.T) {
	s := open(t)
	daemon, err := scanner.Start("127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(daemon.Stop)
	s.Materials.Scans = scan.Scanner{Addr: daemon.Addr}
	bad := append(append([]byte{}, programtest.Plan...), "\n%"+scanner.Test...)
	sweep := func() {
		t.Helper()
		if err := s.Materials.Sweep(context.Background(), s.Clock.Now()); err != nil {
			t.Fatal(err)
		}
	}
	now := func(id int64) (scanned slot.Scan, state slot.State, finding slot.Fault) {
		f, err := s.Materials.Find(context.Background(), s.DB, id, s.c.EntryID)
		if err != nil {
			t.Fatal(err)
		}
		return f.Scan, f.State, f.Finding
	}
	for _, c := range []struct {
		what         string
		body         []byte
		silent       bool
		scan, later  slot.Scan
		state, after slot.State
		finding      slot.Fault
	}{
		{"clean", programtest.Plan, false, slot.Scanned, slot.Scanned, slot.Ready, slot.Ready, ""},
		{"with a virus", bad, false, slot.Infected, slot.Infected, slot.Refused, slot.Refused, slot.Virus},
		{"clean, nobody answers", programtest.Plan, true, slot.ToScan, slot.Scanned, slot.Ready, slot.Ready, ""},
		{"with a virus, nobody answers", bad, true, slot.ToScan, slot.Infected, slot.Ready, slot.Refused, slot.Virus},
		{"no PDF at all", []byte("words"), false, slot.NotScanned, slot.NotScanned, slot.Refused, slot.Refused,
			slot.WrongKind},
	} {
		daemon.Silent.Store(c.silent)
		f, err := s.put("photos", "a.pdf", c.body)
		if err != nil || f.Scan != c.scan || f.State != c.state {
			t.Errorf("%s: %s, %s, %v", c.what, f.Scan, f.State, err)
		}
		sweep()
		if scanned, state, _ := now(f.ID); scanned != c.scan || state != c.state {
			t.Errorf("%s, and nothing has changed: %s, %s", c.what, scanned, state)
		}
		daemon.Silent.Store(false)
		sweep()
		if scanned, state, finding := now(f.ID); scanned != c.later || state != c.after || finding != c.finding {
			t.Errorf("%s, the scanner is back: %s, %s, %s", c.what, scanned, state, finding)
		}
	}
	s.Materials.Scans = scan.Scanner{}
	if f, err := s.put("photos", "a.pdf", programtest.Plan); err != nil || f.Scan != slot.NotScanned ||
		f.State != slot.Ready {
		t.Errorf("nobody looks for viruses here: %s %v", f.Scan, err)
	}
}
