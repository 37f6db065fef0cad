package together_test

import (
	"context"
	"errors"
	"strings"
	"testing"
	"time"

	"ulvant/core/form"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/together"
)

func TestMain(m *testing.M) { programtest.Main(m) }

// Who is here is whoever was heard of in the last seconds, each once.
func TestWhoIsHere(t *testing.T) {
	h := programtest.New(t)
	h.OpenRound(h.Person("neda@ostrel-trust.example", "Neda Sparrow").ID, nil)
	c := h.Ready("imre@corvoe.example")
	ann := h.Person("ann@corvoe.example", "Ann Hart").ID
	at := h.Clock.Now()
	come := func(tab string, account int64, section form.Key, after time.Duration) (alone bool) {
		t.Helper()
		alone, err := h.Together.Come(t.Context(), at.Add(after), tab, c.ID, account, section)
		if err != nil {
			t.Fatal(err)
		}
		return alone
	}
	who := func(after time.Duration, but int64) string {
		t.Helper()
		list, err := h.Together.Who(t.Context(), at.Add(after), c.ID, but)
		if err != nil {
			t.Fatal(err)
		}
		var out []string
		for _, p := range list {
			out = append(out, p.Name+" in "+string(p.Section))
		}
		return strings.Join(out, ", ")
	}
	if !come("1", c.LeadID, "work", 0) {
		t.Error("the first is not alone")
	}
	if come("2", ann, "place", time.Second) {
		t.Error("the second is alone")
	}
	come("3", ann, "work", 2*time.Second)
	for _, x := range []struct {
		name  string
		after time.Duration
		but   int64
		want  string
	}{
		{"others than Imre, where they were last", 2 * time.Second, c.LeadID, "Ann Hart in work"},
		{"others than Ann", 2 * time.Second, ann, "Imre Calloway in work"},
		{"a moment before Imre counts as gone", 25*time.Second - time.Millisecond, ann, "Imre Calloway in work"},
		{"then", 25 * time.Second, ann, ""},
	} {
		if got := who(x.after, x.but); got != x.want {
			t.Errorf("%s: %q", x.name, got)
		}
	}
	if err := h.Together.Go(t.Context(), "3", c.ID); err != nil {
		t.Fatal(err)
	}
	if got := who(2*time.Second, c.LeadID); got != "Ann Hart in place" {
		t.Errorf("with one page closed: %q", got)
	}
	if err := h.Together.Sweep(t.Context(), at.Add(time.Minute)); err != nil {
		t.Fatal(err)
	}
	if got := who(2*time.Second, c.LeadID); got != "" {
		t.Errorf("swept: %q", got)
	}
	h.Held(c.LeadID, func(ctx context.Context, tx *db.Tx) (err error) { _, err = h.Intake.Send(ctx, tx, c); return err })
	if _, err := h.Together.Come(t.Context(), at, "4", c.ID, ann, "work"); !errors.Is(err, together.ErrOver) {
		t.Errorf("once it is sent: %v", err)
	}
}

func TestComments(t *testing.T) {
	h := programtest.New(t)
	h.OpenRound(h.Person("neda@ostrel-trust.example", "Neda Sparrow").ID, nil)
	c := h.Ready("imre@corvoe.example")
	say := func(question form.Key, text string) error {
		return h.Try(c.LeadID, func(ctx context.Context, tx *db.Tx) error {
			return h.Together.Say(ctx, tx, c, question, text)
		})
	}
	for _, x := range []struct {
		name, text string
		question   form.Key
		ok         bool
	}{
		{"nothing", "  ", "describe", false}, {"too long", strings.Repeat("a", 2001), "describe", false},
		{"as long as may be", strings.Repeat("a", 2000), "describe", true}, {"a second", "And why?", "describe", true},
		{"beside no question", "Hm.", "nowhere", false},
	} {
		if err := say(x.question, x.text); (err == nil) != x.ok {
			t.Errorf("%s: %v", x.name, err)
		}
	}
	if err := say("nowhere", "Hm."); !errors.Is(err, application.ErrNotFound) {
		t.Error(err)
	}
	of := func() []together.Comment {
		t.Helper()
		all, err := h.Together.Comments(t.Context(), h.DB, c.EntryID)
		if err != nil {
			t.Fatal(err)
		}
		return all["describe"]
	}
	list := of()
	if len(list) != 2 || list[1].Text != "And why?" || list[1].Name != "Imre Calloway" {
		t.Fatalf("%+v", list)
	}
	h.Held(c.LeadID, func(ctx context.Context, tx *db.Tx) error { return h.Together.TickOff(ctx, tx, c, list[0].ID) })
	if list = of(); len(list) != 1 || list[0].Text != "And why?" {
		t.Errorf("%+v", list)
	}
	other := c
	other.EntryID++
	h.Held(c.LeadID, func(ctx context.Context, tx *db.Tx) error { return h.Together.TickOff(ctx, tx, other, list[0].ID) })
	if len(of()) != 1 {
		t.Error("it is ticked off through another application")
	}
}
