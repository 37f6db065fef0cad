package together_test

import (
	"testing"
	"time"

	"ulvant/internal/programtest"
	"ulvant/internal/together"
)

// An account may have twelve streams open at once, and one more for each that
// it closes; another account is not in its way.
func TestStreamsOfOneAccount(t *testing.T) {
	h := programtest.New(t)
	l := &together.Listener{Pool: h.DB.Pool}
	defer l.Stop()
	var ends []func()
	open := func(account int64) bool {
		_, end, ok := l.Listen(7, account)
		if ok {
			ends = append(ends, end)
		}
		return ok
	}
	for i := range 12 {
		if !open(1) {
			t.Fatalf("stream %d is refused", i+1)
		}
	}
	if open(1) {
		t.Error("a thirteenth is open")
	}
	if !open(2) {
		t.Error("another account is refused")
	}
	ends[0]()
	if !open(1) || open(1) {
		t.Error("closing one makes room for one")
	}
	for _, end := range ends[1:] {
		end()
	}
}

// Those who have a case open are told when somebody else keeps something in it,
// comes, or goes; others are not.
func TestWhoIsTold(t *testing.T) {
	h := programtest.New(t)
	h.OpenRound(h.Person("neda@ostrel-trust.example", "Neda Sparrow").ID, nil)
	c, other := h.Ready("imre@corvoe.example"), h.Draft("bo@corvoe.example")
	ann := h.Person("ann@corvoe.example", "Ann Hart").ID
	l := &together.Listener{Pool: h.DB.Pool}
	defer l.Stop()
	mine, end, _ := l.Listen(c.ID, c.LeadID)
	defer end()
	theirs, endTheirs, _ := l.Listen(other.ID, other.LeadID)
	defer endTheirs()
	if _, err := h.Together.Come(t.Context(), h.Clock.Now(), "1", c.ID, c.LeadID, "work"); err != nil {
		t.Fatal(err)
	}
	// until it is heard: the first may be said before anybody listens
	heard := func(say func() error) bool {
		deadline := time.After(10 * time.Second)
		for {
			if err := say(); err != nil {
				t.Fatal(err)
			}
			select {
			case <-mine:
				return true
			case <-deadline:
				return false
			case <-time.After(50 * time.Millisecond):
			}
		}
	}
	if !heard(func() error { return h.Together.Tell(t.Context(), h.Clock.Now(), c.ID, ann) }) {
		t.Fatal("what Ann kept is not told to Imre")
	}
	drain := func() {
		select {
		case <-mine:
		case <-time.After(200 * time.Millisecond):
		}
	}
	drain()
	quiet := func(what string, say func() error) {
		t.Helper()
		if err := say(); err != nil {
			t.Fatal(err)
		}
		select {
		case <-mine:
			t.Errorf("%s is told", what)
		case <-time.After(200 * time.Millisecond):
		}
	}
	quiet("what Imre keeps, who is alone,", func() error {
		return h.Together.Tell(t.Context(), h.Clock.Now(), c.ID,
			c.LeadID)
	})
	quiet("that Imre is still where he was", func() error {
		_, err := h.Together.Come(t.Context(), h.Clock.Now(), "1", c.ID, c.LeadID, "work")
		return err
	})
	if !heard(func() error {
		_, err := h.Together.Come(t.Context(), h.Clock.Now(), "2", c.ID, ann, "place")
		return err
	}) {
		t.Error("that Ann came is not told")
	}
	drain()
	if !heard(func() error { return h.Together.Go(t.Context(), "2", c.ID) }) {
		t.Error("that Ann went is not told")
	}
	select {
	case <-theirs:
		t.Error("another case's page is told")
	default:
	}
}
