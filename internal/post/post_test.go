package post_test

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"ulvant/internal/platform/db"
	"ulvant/internal/post"
	"ulvant/internal/programtest"
)

func TestMain(m *testing.M) { programtest.Main(m) }

// A letter waits until it is due, can be stopped until then and let go after
// all; what no longer holds never goes.
func TestAHeldLetter(t *testing.T) {
	h := programtest.New(t)
	h.OpenRound(h.Person("neda@ostrel-trust.example", "Neda Sparrow").ID, nil)
	c := h.Draft("imre@corvoe.example")
	holds := true
	h.Post.Holds = func(context.Context, db.Querier, post.About) (bool, error) { return holds, nil }
	noon := h.Clock.Now()
	queue := func(l post.Letter) (id int64) {
		l.To, l.ToName, l.Subject, l.Body, l.Kind = "ann@corvoe.example", "Ann Hart", "Word", "Dear Ann,", "test"
		h.Held(0, func(ctx context.Context, tx *db.Tx) (err error) {
			id, err = h.Post.Queue(ctx, tx, l)
			return err
		})
		return id
	}
	sent := func() int {
		h.Drain()
		list, _ := h.Tray.List("ann@corvoe.example", 0, 100)
		return len(list)
	}
	act := func(f func(ctx context.Context, tx *db.Tx) error) { t.Helper(); h.Held(0, f) }
	tells := post.Letter{Application: c.ID, Entry: c.EntryID, Holds: "draft", Due: noon.Add(time.Hour)}
	before := 0
	for _, x := range []struct {
		name   string
		letter post.Letter
		does   func(id int64)
		goes   bool
	}{
		{"due at once", post.Letter{}, func(int64) {}, true},
		{"before it is due", post.Letter{Due: noon.Add(time.Hour)},
			func(int64) { h.Clock.Set(noon.Add(time.Hour - time.Second)) }, false},
		{"when it is due", post.Letter{Due: noon.Add(time.Hour)}, func(int64) { h.Clock.Set(noon.Add(time.Hour)) }, true},
		{"stopped", post.Letter{Due: noon.Add(time.Hour)}, func(id int64) {
			act(func(ctx context.Context, tx *db.Tx) error {
				n, err := h.Post.Cancel(ctx, tx, []int64{id})
				return errors.Join(err, mustBe(n, 1))
			})
			h.Clock.Set(noon.Add(2 * time.Hour))
		}, false},
		{"stopped and let go after all", post.Letter{Due: noon.Add(time.Hour)}, func(id int64) {
			act(func(ctx context.Context, tx *db.Tx) error { _, err := h.Post.Cancel(ctx, tx, []int64{id}); return err })
			act(func(ctx context.Context, tx *db.Tx) error {
				return h.Post.Release(ctx, tx, []int64{id},
					noon.Add(3*time.Hour))
			})
			h.Clock.Set(noon.Add(3 * time.Hour))
		}, true},
		{"it tells of what holds", tells, func(int64) { h.Clock.Set(noon.Add(time.Hour)) }, true},
		{"it tells of what holds no longer", tells, func(int64) { holds = false; h.Clock.Set(noon.Add(time.Hour)) }, false},
		{"superseded, and not to be let go", tells, func(id int64) {
			act(func(ctx context.Context, tx *db.Tx) error { return h.Post.Supersede(ctx, tx, []int64{c.EntryID}) })
			act(func(ctx context.Context, tx *db.Tx) error { return h.Post.Release(ctx, tx, []int64{id}, noon) })
			h.Clock.Set(noon.Add(2 * time.Hour))
		}, false},
		{"stopped by its kind", post.Letter{Application: c.ID, Due: noon.Add(time.Hour)}, func(int64) {
			act(func(ctx context.Context, tx *db.Tx) error {
				n, err := h.Post.CancelOf(ctx, tx, c.ID, "test")
				return errors.Join(err, mustBe(n, 1))
			})
			h.Clock.Set(noon.Add(2 * time.Hour))
		}, false},
	} {
		h.Clock.Set(noon)
		holds = true
		x.does(queue(x.letter))
		got := sent() - before
		if before += got; (got == 1) != x.goes || got > 1 {
			t.Errorf("%s: %d went out", x.name, got)
		}
		act(func(ctx context.Context, tx *db.Tx) error { // nothing is left over for the next
			_, err := tx.Exec(`UPDATE post SET state = 'superseded' WHERE state <> 'sent'`)
			return err
		})
	}
}

// A letter about an application goes to those besides who are to have it; one
// with a personal link goes to nobody else.
func TestCopies(t *testing.T) {
	h := programtest.New(t)
	h.OpenRound(h.Person("neda@ostrel-trust.example", "Neda Sparrow").ID, nil)
	c := h.Draft("imre@corvoe.example")
	h.Post.Copies = func(context.Context, string, int64) ([]string, error) { return []string{"ysolde@tarl.example"}, nil }
	var link int64
	h.Held(0, func(ctx context.Context, tx *db.Tx) (err error) {
		link, err = h.Links.Issue(ctx, tx, "reset", c.LeadID, time.Hour)
		return err
	})
	h.Held(0, func(ctx context.Context, tx *db.Tx) error {
		ids, err := h.Post.QueueAll(ctx, tx, []post.Letter{
			{Kind: "test", Application: c.ID, To: "a@x.example", Subject: "plain", Body: "b"},
			{Kind: "test", Application: c.ID, To: "a@x.example", Subject: "linked", Body: "Go to {{link}}", Link: link},
			{Kind: "test", To: "a@x.example", Subject: "of nothing", Body: "b"}})
		if err == nil && !slices.IsSorted(ids) {
			t.Errorf("numbers %v are not in order", ids)
		}
		return err
	})
	h.Drain()
	list, _ := h.Tray.List("a@x.example", 0, 10)
	copies := map[string]int{}
	for _, m := range list {
		copies[m.Subject] = len(m.Copies)
		if m.Subject == "linked" && (!strings.Contains(m.Body, "/reset/") || strings.Contains(m.Body, "{{")) {
			t.Errorf("%q", m.Body)
		}
	}
	if len(list) != 3 || copies["plain"] != 1 || copies["linked"] != 0 || copies["of nothing"] != 0 {
		t.Errorf("%v", copies)
	}
}

func mustBe(got, want int64) error {
	if got != want {
		return fmt.Errorf("%d, want %d", got, want)
	}
	return nil
}
