package people_test

import (
	"context"
	"strings"
	"testing"
	"time"

	"ulvant/internal/platform/db"
	"ulvant/internal/platform/link"
	"ulvant/internal/post"
	"ulvant/internal/programtest"
)

// Text messages come to a number once the link that went there was pressed; they
// tell by day of a letter about a case that left, and of no other.
func TestTextMessages(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	h.Post.TextDomain = "texts.example"
	h.OpenRound(h.Person("neda@ostrel.example", "Neda Oake").ID, nil)
	c := h.Draft("ann@school.example")
	ann := h.Person("ann@school.example", "Ann Hart")
	ask := func(number string) error {
		return h.Try(ann.ID, func(ctx context.Context, tx *db.Tx) error { return h.People.AskTexts(ctx, tx, ann, number) })
	}
	const to = "+35315550142@texts.example"
	texts := func() (bodies []string) {
		h.Drain()
		list, _ := h.Tray.List(to, 0, 20)
		for _, m := range list {
			bodies = append(bodies, strings.TrimSpace(m.Body))
		}
		return bodies
	}
	if ask("01 555 0142") == nil || ask("no number") == nil {
		t.Error("a number without its country, or none at all")
	}
	if err := ask("+353 1 555 0142"); err != nil {
		t.Fatal(err)
	}
	if got := texts(); len(got) != 1 || !strings.Contains(got[0], "/texts/") || strings.Contains(got[0], "{{") {
		t.Fatalf("the number is confirmed by %q", got)
	}
	letter := func(kind string, application int64) {
		h.Held(0, func(ctx context.Context, tx *db.Tx) error {
			_, err := h.Post.Queue(ctx, tx, post.Letter{Kind: kind, Account: ann.ID, Application: application, To: ann.Email,
				ToName: ann.Name, Subject: "A question for you", Body: "Dear Ann, …"})
			return err
		})
	}
	letter("query", c.ID)
	if got := texts(); len(got) != 1 {
		t.Errorf("before the number is confirmed: %q", got)
	}
	press := func() error {
		return h.Try(0, func(ctx context.Context, tx *db.Tx) error {
			id, err := h.Links.Of(ctx, tx, link.Texts, ann.ID)
			if err != nil {
				return err
			}
			return h.People.ConfirmTexts(ctx, tx, link.Link{ID: id, Subject: ann.ID})
		})
	}
	if err := press(); err != nil {
		t.Fatal(err)
	}
	night := time.Date(2027, 3, 3, 23, 30, 0, 0, h.Funder.Zone())
	h.Clock.Set(night)
	letter("query", c.ID)
	letter("fee-receipt", c.ID)
	letter("reset", 0)
	if got := texts(); len(got) != 1 {
		t.Errorf("at night: %q", got)
	}
	h.Clock.Set(night.Add(9 * time.Hour))
	got := texts()
	if len(got) != 2 || !strings.Contains(strings.Join(got, "\n"), "A question for you ("+c.Ref+")") {
		t.Errorf("in the morning: %q", got)
	}
	if err := ask(""); err != nil {
		t.Fatal(err)
	}
	letter("query", c.ID)
	if got := texts(); len(got) != 2 {
		t.Errorf("after they were given up: %q", got)
	}
	if press() == nil {
		t.Error("a link to a number that was taken back is pressed")
	}
}
