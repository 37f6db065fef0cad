package limit_test

import (
	"sync/atomic"
	"testing"
	"time"

	"ulvant/internal/platform/limit"
	"ulvant/internal/programtest"
)

func TestMain(m *testing.M) { programtest.Main(m) }

// So many tries pass within so long; one that does not leaves no mark, so that
// waiting is not prolonged by trying.
func TestTry(t *testing.T) {
	h := programtest.New(t)
	rule := limit.Rule{Name: "test", Most: 2, Per: time.Minute}
	at := h.Clock.Now()
	for _, c := range []struct {
		name, who string
		after     time.Duration
		want      bool
	}{
		{"the first", "a", 0, true},
		{"the second", "a", time.Second, true},
		{"the third is one too many", "a", 2 * time.Second, false},
		{"somebody else may", "b", 2 * time.Second, true},
		{"still too many a moment before the first is a minute old", "a", time.Minute - time.Nanosecond, false},
		{"when the first is a minute old there is room for one", "a", time.Minute, true},
		{"and for one only", "a", time.Minute, false},
	} {
		if got, err := rule.Try(t.Context(), h.DB, c.who, at.Add(c.after)); err != nil || got != c.want {
			t.Errorf("%s: %v, %v", c.name, got, err)
		}
	}
}

// What went well is taken back and counts no more.
func TestReturn(t *testing.T) {
	h := programtest.New(t)
	rule := limit.Rule{Name: "test", Most: 1, Per: time.Minute}
	for range 3 {
		mark, ok, err := rule.Take(t.Context(), h.DB, "a", h.Clock.Now())
		if err != nil || !ok {
			t.Fatal(ok, err)
		}
		if err := limit.Return(t.Context(), h.DB, mark); err != nil {
			t.Fatal(err)
		}
	}
}

func TestSweep(t *testing.T) {
	h := programtest.New(t)
	rule := limit.Rule{Name: "test", Most: 1, Per: 48 * time.Hour}
	at := h.Clock.Now()
	for _, c := range []struct {
		name  string
		after time.Duration
		want  bool
	}{
		{"tries of the last day are kept", 24 * time.Hour, false},
		{"older ones are forgotten", 24*time.Hour + time.Second, true},
	} {
		rule.Name = c.name
		if ok, err := rule.Try(t.Context(), h.DB, "a", at); err != nil || !ok {
			t.Fatal(ok, err)
		}
		if err := limit.Sweep(t.Context(), h.DB, at.Add(c.after)); err != nil {
			t.Fatal(err)
		}
		if ok, err := rule.Try(t.Context(), h.DB, "a", at.Add(time.Second)); err != nil || ok != c.want {
			t.Errorf("%s: %v, %v", c.name, ok, err)
		}
	}
}

// A gate lets as many through as it is wide, and all the others in turn.
func TestGate(t *testing.T) {
	gate := make(limit.Gate, 2)
	var inside, most, done atomic.Int32
	begin, end := make(chan bool), make(chan bool)
	for range 6 {
		go gate.Do(func() {
			n := inside.Add(1)
			for m := most.Load(); n > m && !most.CompareAndSwap(m, n); m = most.Load() {
			}
			begin <- true
			<-end
			inside.Add(-1)
			done.Add(1)
		})
	}
	for range 6 {
		<-begin
		end <- true
	}
	if most.Load() > 2 {
		t.Errorf("%d at once", most.Load())
	}
	limit.Gate(nil).Do(func() { done.Add(1) })
	if cap(limit.NewGate()) < 1 {
		t.Error("a new gate lets nobody through")
	}
}
