package health_test

import (
	"testing"
	"time"

	"ulvant/internal/platform/health"
	"ulvant/internal/programtest"
)

func TestMain(m *testing.M) { programtest.Main(m) }

// Minutes are added up over processes, and kept for two years.
func TestMinutesAreAddedUp(t *testing.T) {
	h := programtest.New(t)
	noon := h.Clock.Now()
	one, two := &health.Meter{DB: h.DB}, &health.Meter{DB: h.DB}
	saw := func(m *health.Meter, after time.Duration, status int, took time.Duration) {
		m.Saw(noon.Add(after), status, took)
	}
	saw(one, 0, 200, 5*time.Millisecond)
	saw(one, 59*time.Second, 500, 7*time.Millisecond)
	saw(one, 60*time.Second, 499, time.Millisecond)
	saw(two, 30*time.Second, 503, 40*time.Millisecond)
	for _, m := range []*health.Meter{one, two, one} { // a second time there is nothing more
		if err := m.Keep(t.Context(), noon); err != nil {
			t.Fatal(err)
		}
	}
	read := func() (out []health.Minute) {
		if err := h.DB.Select(&out, `SELECT at, requests, faults, slowest_ms FROM health ORDER BY at`); err != nil {
			t.Fatal(err)
		}
		return out
	}
	got := read()
	if len(got) != 2 || got[0].Requests != 3 || got[0].Faults != 2 || got[0].Slowest != 40 ||
		got[1].Requests != 1 || got[1].Faults != 0 || !got[1].At.Equal(noon.Add(time.Minute)) {
		t.Errorf("%+v", got)
	}
	if err := one.Keep(t.Context(), noon.AddDate(2, 0, 0).Add(time.Second)); err != nil {
		t.Fatal(err)
	}
	if got = read(); len(got) != 1 {
		t.Errorf("after two years: %+v", got)
	}
}
