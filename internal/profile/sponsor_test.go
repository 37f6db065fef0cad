package profile_test

import (
	"context"
	"errors"
	"regexp"
	"strings"
	"testing"

	"ulvant/core/form"
	"ulvant/core/profile"
	"ulvant/core/refusal"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/link"
	profiles "ulvant/internal/profile"
	"ulvant/internal/programtest"
)

// knownBody is an organisation that the office knows, with Ann as its
// authorised person and first contact.
func knownBody(t *testing.T, h *programtest.House, ann int64) (id int64) {
	t.Helper()
	withRegister(t, h)
	h.Held(ann, func(ctx context.Context, tx *db.Tx) (err error) {
		if id, err = h.Profiles.Make(ctx, tx, profile.Body, "Tarl Moor Society"); err != nil {
			return err
		}
		return h.Profiles.Change(ctx, tx, id, "Tarl Moor Society", moor(known))
	})
	h.Drain()
	for _, n := range []string{"Ronan Teague", "Bo Lind"} {
		h.Held(ann, func(ctx context.Context, tx *db.Tx) error {
			return h.Profiles.AskOfficer(ctx, tx, id, n, strings.ToLower(n[:2])+"@tarl.example", "chair")
		})
	}
	list, err := h.Profiles.Officers(context.Background(), h.DB, id)
	if err != nil {
		t.Fatal(err)
	}
	for _, o := range list {
		h.Held(ann, func(ctx context.Context, tx *db.Tx) error { return h.Profiles.Confirm(ctx, tx, o.ID, true) })
	}
	h.Held(ann, func(ctx context.Context, tx *db.Tx) error { return h.Profiles.SendIn(ctx, tx, id) })
	h.Held(ann, func(ctx context.Context, tx *db.Tx) error { return h.Profiles.Decide(ctx, tx, id, true, "") })
	h.Drain()
	return id
}

// A body that holds the money for somebody: asked by its number, answered by a
// link that goes to its address on file alone; whoever asks learns nothing of
// it before; it fills applications, and ends from either side.
func TestASponsoringBody(t *testing.T) {
	ctx := context.Background()
	h := programtest.New(t)
	ann, cy := h.Person("ann@tarl.example", "Ann Hart"), h.Person("cy@mew.example", "Cy Blount")
	body := knownBody(t, h, ann.ID)
	var own int64
	h.Held(cy.ID, func(ctx context.Context, tx *db.Tx) (err error) {
		own, err = h.Profiles.Make(ctx, tx, profile.Person, "Cy Blount")
		return err
	})
	ask := func(number string) error {
		err := h.Try(cy.ID, func(ctx context.Context, tx *db.Tx) error {
			return h.Profiles.AskSponsor(ctx, tx, own, "lei",
				number)
		})
		h.Drain()
		return err
	}
	latest := func() profiles.Sponsor {
		t.Helper()
		list, err := h.Profiles.Sponsors(ctx, h.DB, own)
		if err != nil || len(list) == 0 {
			t.Fatalf("%v %v", list, err)
		}
		return list[0]
	}
	end := func(by, of int64) error {
		return h.Try(by, func(ctx context.Context, tx *db.Tx) error {
			return h.Profiles.EndSponsor(ctx, tx, of,
				latest().ID)
		})
	}
	mails := func(to, about string) (n int, text string) {
		list, _ := h.Tray.List(to, 0, 100)
		for _, m := range list {
			if strings.Contains(m.Subject, about) {
				if n++; n == 1 { // the latest stands first
					text = m.Body
				}
			}
		}
		return n, text
	}
	var unfit refusal.Refusal
	if err := ask("0000OSTRELISLES00148"); !refusal.AsUnfit(err, &unfit) {
		t.Errorf("check digits that do not fit: %v", err)
	}
	for i, number := range []string{nowhere, known} { // to whoever asks, both look the same
		if err := ask(number); err != nil {
			t.Fatal(err)
		}
		if x := latest(); x.State != "asked" || x.Name != "" || x.Value != number {
			t.Errorf("asked for %s: %+v", number, x)
		}
		if n, _ := mails("cy@mew.example", "hold money"); n != 0 {
			t.Error("whoever asks has the mail")
		}
		if n, _ := mails("ann@tarl.example", "hold money for Cy Blount"); n != i {
			t.Errorf("after asking for %s the body has %d mails", number, n)
		}
		if err := ask(known); !refusal.AsUnfit(err, &unfit) {
			t.Errorf("a second one while one is asked: %v", err)
		}
		if i == 0 {
			if err := end(cy.ID, own); err != nil {
				t.Fatal(err)
			}
		}
	}
	if err := end(cy.ID, own); err != nil { // taking it back tells nothing either
		t.Fatal(err)
	}
	if x := latest(); x.State != "taken back" || x.Name != "" {
		t.Errorf("taken back: %+v", x)
	}
	if err := ask(known); err != nil {
		t.Fatal(err)
	}
	_, text := mails("ann@tarl.example", "hold money for Cy Blount")
	token := regexp.MustCompile(`/sponsor/([\w-]+)`).FindStringSubmatch(text)
	if token == nil {
		t.Fatalf("no link in %q", text)
	}
	l, err := h.Program.Links.Find(ctx, h.DB, link.Sponsor, token[1], h.Clock.Now())
	if err != nil || l.Subject != latest().ID {
		t.Fatalf("the link: %+v %v", l, err)
	}
	answer := func(yes bool) {
		t.Helper()
		if err := h.DB.Do(ctx, db.Actor{Kind: "link", ID: l.ID}, h.Clock.Now(),
			func(ctx context.Context, tx *db.Tx) error {
				return h.Profiles.AnswerSponsor(ctx, tx, l.Subject,
					yes)
			}); err != nil {
			t.Fatal(err)
		}
		h.Drain()
	}
	says := func() string {
		t.Helper()
		p, err := h.Profiles.Find(ctx, h.DB, own, cy.ID)
		if err != nil {
			t.Fatal(err)
		}
		f := &form.Form{Design: &form.Design{Sections: []form.Section{{Questions: []form.Question{{Key: "held",
			Kind: form.YesNo, Profile: form.ProfileHolder}, {Key: "by", Kind: form.Short, Profile: form.ProfileHolder}}}}}}
		got := profile.Filled(f, p.Name, p.Facts)
		return got[form.Place{Question: "held"}].Raw + " " + got[form.Place{Question: "by"}].Raw
	}
	for _, c := range []struct {
		yes  bool
		want string
	}{{false, " "}, {true, "yes Tarl Moor Society"}, {true, "yes Tarl Moor Society"}} {
		answer(c.yes)
		agreed := latest().Confirmed
		if c.yes != strings.Contains(agreed, "it is paid to “Tarl Moor Society”") || !c.yes && agreed != "" {
			t.Errorf("after %v it has agreed to %q", c.yes, agreed)
		}
		if got := says(); got != c.want {
			t.Errorf("after %v a new application says %q, want %q", c.yes, got, c.want)
		}
	}
	if n, _ := mails("cy@mew.example", "has answered"); n != 2 { // the same answer again says nothing new
		t.Errorf("whoever asked was told %d times", n)
	}
	holds, err := h.Profiles.Holds(ctx, h.DB, body)
	if err != nil || len(holds) != 1 || holds[0].For != "Cy Blount" {
		t.Errorf("the body holds for %+v %v", holds, err)
	}
	other := h.Person("di@else.example", "Di Else")
	if err := end(other.ID, body); !errors.Is(err, profiles.ErrNotFound) {
		t.Errorf("a stranger ends it: %v", err)
	}
	if err := end(ann.ID, body); err != nil { // the body's own side
		t.Fatal(err)
	}
	if got := says(); got != " " {
		t.Errorf("after it ended a new application says %q", got)
	}
	if _, err := h.Program.Links.Find(ctx, h.DB, link.Sponsor, token[1], h.Clock.Now()); !errors.Is(err, link.ErrUnknown) {
		t.Errorf("the link still works: %v", err)
	}
	answer(true) // a page that was open all the while
	if got := says(); got != " " {
		t.Error("what was ended is agreed to again")
	}
	if err := ask(known); err != nil {
		t.Errorf("asked anew: %v", err)
	}
}
