package link_test

import (
	"context"
	"errors"
	"strings"
	"testing"
	"time"

	"ulvant/internal/platform/db"
	"ulvant/internal/platform/link"
	"ulvant/internal/programtest"
)

func TestMain(m *testing.M) { programtest.Main(m) }

// A link is found by its token until it ends; a new one, or taking it back, ends
// the one before.
func TestLifeOfALink(t *testing.T) {
	h := programtest.New(t)
	m := link.Maker{Key: []byte("a key of the test, long enough to be one")}
	issue := func(p link.Purpose, subject int64) (token string) {
		var id int64
		h.Act(0, func(ctx context.Context, tx *db.Tx) (err error) {
			id, err = m.IssueOn(ctx, tx, p, subject, time.Hour, "/next")
			return err
		})
		path, err := m.Path(t.Context(), h.DB, id)
		if err != nil || !strings.HasPrefix(path, "/"+string(p)+"/") {
			t.Fatal(path, err)
		}
		return path[len(p)+2:]
	}
	find := func(m link.Maker, p link.Purpose, token string, after time.Duration) error {
		l, err := m.Find(t.Context(), h.DB, p, token, h.Clock.Now().Add(after))
		if err == nil && (l.Subject == 0 || l.Next != "/next") {
			t.Errorf("%+v", l)
		}
		return err
	}
	first := issue(link.Reset, 7)
	second := issue(link.Reset, 7)
	other := issue(link.Reset, 8)
	for _, c := range []struct {
		name, token string
		purpose     link.Purpose
		after       time.Duration
		want        error
	}{
		{"the latest", second, link.Reset, 0, nil},
		{"a moment before it ends", second, link.Reset, time.Hour - time.Second, nil},
		{"when it ends", second, link.Reset, time.Hour, link.ErrExpired},
		{"the one before", first, link.Reset, 0, link.ErrUnknown},
		{"for another purpose", second, link.Confirm, 0, link.ErrUnknown},
		{"with a sign changed", second[1:] + "x", link.Reset, 0, link.ErrUnknown},
		{"none", "", link.Reset, 0, link.ErrUnknown},
		{"somebody else's", other, link.Reset, 0, nil},
	} {
		if err := find(m, c.purpose, c.token, c.after); !errors.Is(err, c.want) {
			t.Errorf("%s: %v, want %v", c.name, err, c.want)
		}
	}
	t.Run("another server's key makes other tokens", func(t *testing.T) {
		theirs := link.Maker{Key: []byte("another key")}
		id, err := theirs.Of(t.Context(), h.DB, link.Reset, 7)
		if err != nil {
			t.Fatal(err)
		}
		if path, err := theirs.Path(t.Context(), h.DB, id); err != nil || strings.HasSuffix(path, second) {
			t.Error(path, err)
		}
	})
	t.Run("it works once", func(t *testing.T) {
		id, err := m.Of(t.Context(), h.DB, link.Reset, 7)
		if err != nil {
			t.Fatal(err)
		}
		use := func(ctx context.Context, tx *db.Tx) error { return m.Use(ctx, tx, id) }
		h.Act(0, use)
		if err := h.Try(0, use); !errors.Is(err, link.ErrUsed) {
			t.Error(err)
		}
		h.Act(0, func(ctx context.Context, tx *db.Tx) error { return m.RevokeOpen(ctx, tx, 7, link.Reset) })
		if err := find(m, link.Reset, second, 0); err != nil {
			t.Errorf("a used one is forgotten with the open ones: %v", err)
		}
	})
	t.Run("taken back", func(t *testing.T) {
		h.Act(0, func(ctx context.Context, tx *db.Tx) error { return m.Revoke(ctx, tx, 7, link.Reset) })
		if err := find(m, link.Reset, second, 0); !errors.Is(err, link.ErrUnknown) {
			t.Error(err)
		}
		if id, err := m.Of(t.Context(), h.DB, link.Reset, 7); err != nil || id != 0 {
			t.Error(id, err)
		}
		if err := find(m, link.Reset, other, 0); err != nil {
			t.Errorf("somebody else's went too: %v", err)
		}
		h.Act(0, func(ctx context.Context, tx *db.Tx) error { return m.RevokeOpen(ctx, tx, 8, link.Reset) })
		if err := find(m, link.Reset, other, 0); !errors.Is(err, link.ErrUnknown) {
			t.Error(err)
		}
	})
}
