package reference_test

import (
	"bytes"
	"context"
	"errors"
	"strings"
	"testing"
	"time"

	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/core/slot"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/reference"
)

// asked is a draft that asks for one letter, and a referee's way through it.
type asked struct {
	*programtest.House
	c application.Case
}

func ask(t *testing.T) asked {
	h, _, c := programtest.Opened(t, nil)
	return asked{h, c}
}

func (a asked) name(name, email, knows string) (id int64, err error) {
	err = a.Try(a.c.LeadID, func(ctx context.Context, tx *db.Tx) error {
		id, err = a.Referees.Name(
			ctx,
			tx,
			a.c,
			"site-referee",
			reference.Person{Name: name, Email: email, Knows: knows},
		)
		return err
	})
	return id, err
}

func (a asked) do(f func(context.Context, *db.Tx) error) error { return a.Try(0, f) }
func (a asked) answer(id int64, yes bool) error {
	return a.do(func(ctx context.Context, tx *db.Tx) error {
		if yes {
			return a.Referees.Accept(ctx, tx, id)
		}
		return a.Referees.Decline(ctx, tx, id, "", "")
	})
}
func (a asked) keep(id int64, version int, text string) error {
	return a.do(func(ctx context.Context, tx *db.Tx) error {
		return a.Referees.Keep(ctx, tx, id, reference.Draft{Version: version, Text: text})
	})
}
func (a asked) send(id int64) error {
	return a.do(func(ctx context.Context, tx *db.Tx) error { return a.Referees.Send(ctx, tx, id) })
}
func (a asked) now(id int64) reference.Referee {
	r, _, err := a.Referees.Load(context.Background(), a.DB, id)
	if err != nil {
		a.T.Fatal(err)
	}
	return r
}
func (a asked) mails(to, subject string) (n int) {
	a.Drain()
	list, _ := a.Tray.List(to, 0, 100)
	for _, m := range list {
		if strings.Contains(m.Subject, subject) {
			n++
		}
	}
	return n
}
func (a asked) trailed(verb string) (n int) {
	if err := a.DB.Get(&n, `SELECT count(*) FROM trail WHERE verb = $1`, verb); err != nil {
		a.T.Fatal(err)
	}
	return n
}

// Who can be named, and who not.
func TestWhoIsNamed(t *testing.T) {
	a := ask(t)
	for _, r := range []struct{ what, name, email, knows, in string }{
		{"no name", " ", "dacian@peat.example", "neighbour", "name"},
		{"no address", "Dacian Rowe", "dacian", "neighbour", "email"},
		{"no word of how they know", "Dacian Rowe", "dacian@peat.example", "  ", "knows"},
		{"too many words of it", "Dacian Rowe", "dacian@peat.example", strings.Repeat("x", 401), "knows"},
		{"oneself", "Imre Calloway", "IMRE@corvoe.example", "myself", "email"},
	} {
		_, err := a.name(r.name, r.email, r.knows)
		if no, ok := refusal.Of(err); !ok || no.Field != r.in {
			t.Errorf("%s: %v", r.what, err)
		}
	}
	id, err := a.name(" Dacian Rowe ", "Dacian@Peat.example", strings.Repeat("x", 400))
	if r := a.now(id); err != nil || r.Name != "Dacian Rowe" || r.Email != "dacian@peat.example" ||
		r.State != form.Asked ||
		r.EntryID != a.c.EntryID ||
		!r.StateAt.Equal(a.Clock.Now()) {
		t.Errorf("named: %+v %v", r, err)
	}
	if a.mails("dacian@peat.example", "Imre Calloway asks you for a letter") != 1 || a.trailed("asked-referee") != 1 {
		t.Error("they were not asked once")
	}
	if _, err := a.name("Dacian again", "dacian@peat.example", "neighbour"); err == nil ||
		!strings.Contains(err.Error(), "asked already") {
		t.Errorf("asked twice: %v", err)
	}
	if _, err := a.name("Teodora Brisk", "teodora@peat.example", "warden"); !errors.Is(err, reference.ErrFullUp) {
		t.Errorf("a second where one is asked: %v", err)
	}
	if err := a.answer(id, false); err != nil || a.now(id).State != form.Declined ||
		a.mails("imre@corvoe.example", "cannot do it") != 1 {
		t.Errorf("declining: %v", err)
	}
	if err := a.answer(id, false); err != nil || a.mails("imre@corvoe.example", "cannot do it") != 1 {
		t.Errorf("declining twice is told twice: %v", err)
	}
	other, err := a.name("Teodora Brisk", "teodora@peat.example", "warden")
	if err != nil || a.now(id).State != form.Replaced || a.now(other).State != form.Asked {
		t.Errorf("who declined is not replaced: %v", err)
	}
	if err := a.answer(id, true); !errors.Is(err, reference.ErrNotFound) {
		t.Errorf("who was replaced answers: %v", err)
	}
	replace := func(id int64) error {
		return a.Try(
			a.c.LeadID,
			func(ctx context.Context, tx *db.Tx) error { return a.Referees.Replace(ctx, tx, a.c, id) },
		)
	}
	if err := replace(other); err != nil || a.now(other).State != form.Replaced ||
		a.trailed("referee-replaced") != 1 {
		t.Errorf("withdrawing a request: %v", err)
	}
	if err := replace(other); !errors.Is(err, reference.ErrNotFound) {
		t.Errorf("withdrawing it twice: %v", err)
	}
	if err := replace(99); !errors.Is(err, reference.ErrNotFound) {
		t.Errorf("withdrawing nothing: %v", err)
	}
}

// A letter on its way: put up is not sent, an older page does not win, sent is final.
func TestALetterOnItsWay(t *testing.T) {
	a := ask(t)
	id, err := a.name("Dacian Rowe", "dacian@peat.example", "neighbour")
	if err != nil {
		t.Fatal(err)
	}
	if err := a.answer(id, true); err != nil || a.now(id).State != form.Accepted {
		t.Fatal(err)
	}
	if err := a.answer(id, true); err != nil || a.trailed("referee-accepted") != 1 {
		t.Errorf("accepting twice: %v", err)
	}
	if err := a.send(id); !errors.Is(err, reference.ErrEmpty) {
		t.Errorf("nothing is sent: %v", err)
	}
	v := a.now(id).Version
	for _, s := range []struct {
		what    string
		version int
		text    string
		err     error
		state   form.LetterState
		after   int
	}{
		{"spaces are no letter", v, "  ", nil, form.Accepted, v + 1},
		{"the first words", v + 1, "They know", nil, form.Uploaded, v + 2},
		{"the same from an old page", v, "They know", nil, form.Uploaded, v + 2},
		{"others from an old page", v + 1, "They do not", reference.ErrStale, form.Uploaded, v + 2},
		{"more", v + 2, "They know the shore.", nil, form.Uploaded, v + 3},
		{"as long as may be", v + 3, strings.Repeat("word ", reference.MostWords), nil, form.Uploaded, v + 4},
		{"a word more", v + 4, strings.Repeat("word ", reference.MostWords+1), reference.ErrTooLong, form.Uploaded, v + 4},
		{"as it was", v + 4, "They know the shore.", nil, form.Uploaded, v + 5},
	} {
		err := a.keep(id, s.version, s.text)
		if r := a.now(id); !errors.Is(err, s.err) || r.State != s.state || r.Version != s.after {
			t.Errorf("%s: %v, %s, version %d", s.what, err, r.State, r.Version)
		}
	}
	if a.trailed("referee-uploaded") != 1 {
		t.Error("putting up is kept more than once")
	}
	if err := a.send(id); err != nil || a.now(id).State != form.SentIn {
		t.Fatal(err)
	}
	if err := a.send(id); err != nil || a.trailed("referee-sent") != 1 {
		t.Errorf("sent twice: %v", err)
	}
	if a.mails("dacian@peat.example", "is in") != 1 || a.mails("imre@corvoe.example", "has sent the letter") != 1 {
		t.Error("thanks and word of it did not go once each")
	}
	if err := a.keep(id, a.now(id).Version, "More"); err == nil || !strings.Contains(err.Error(), "sent already") {
		t.Errorf("written on after sending: %v", err)
	}
	if err := a.answer(id, false); err != nil || a.now(id).State != form.SentIn {
		t.Errorf("declined after sending: %v", err)
	}
	if _, err := a.Referees.PutPage(context.Background(), db.Account(0), a.Clock.Now(), id, "x.pdf",
		int64(len(programtest.Plan)), bytes.NewReader(programtest.Plan)); err == nil {
		t.Error("a file after sending")
	}
}

// A letter may be a file; one that cannot be opened is none.
func TestALetterAsAFile(t *testing.T) {
	a := ask(t)
	id, err := a.name("Dacian Rowe", "dacian@peat.example", "neighbour")
	if err != nil {
		t.Fatal(err)
	}
	put := func(body []byte) slot.State {
		f, err := a.Referees.PutPage(context.Background(), db.Account(0), a.Clock.Now(), id, "letter.pdf",
			int64(len(body)), bytes.NewReader(body))
		if err != nil {
			t.Fatal(err)
		}
		return f.State
	}
	if s := put([]byte("%PDF-1.4 broken")); s != slot.Refused || a.now(id).LetterFile != nil {
		t.Errorf("a broken one: %s", s)
	}
	if s := put(programtest.Plan); s == slot.Refused || a.now(id).LetterFile == nil ||
		a.now(id).State != form.Uploaded {
		t.Errorf("a whole one: %s", s)
	}
	if err := a.send(id); err != nil || a.now(id).State != form.SentIn {
		t.Errorf("sent: %v", err)
	}
}

// Too late: nothing is taken at the closing, how late it was is kept, once a minute.
func TestALetterTooLate(t *testing.T) {
	a := ask(t)
	id, err := a.name("Dacian Rowe", "dacian@peat.example", "neighbour")
	if err != nil {
		t.Fatal(err)
	}
	if err := a.keep(id, a.now(id).Version, "Good people."); err != nil {
		t.Fatal(err)
	}
	late := func() error {
		return a.do(func(ctx context.Context, tx *db.Tx) error { return a.Referees.Late(ctx, tx, id) })
	}
	closes := time.Date(2027, 4, 9, 15, 0, 0, 0, time.UTC)
	for _, s := range []struct {
		at   time.Duration
		sent error
		kept int
	}{{0, reference.ErrClosed, 0}, {time.Second, reference.ErrClosed, 1}, {59 * time.Second, reference.ErrClosed, 1},
		{2 * time.Minute, reference.ErrClosed, 2}} {
		a.Clock.Set(closes.Add(s.at))
		if err := a.send(id); !errors.Is(err, s.sent) {
			t.Errorf("%s after: %v", s.at, err)
		}
		if err := late(); err != nil || a.trailed("late-letter") != s.kept {
			t.Errorf("%s after, %d are kept, %v", s.at, a.trailed("late-letter"), err)
		}
	}
	var first string
	if err := a.DB.Get(&first, `SELECT figures->>'late' FROM trail WHERE verb = 'late-letter' ORDER BY id`); err != nil ||
		first != "1000" {
		t.Errorf("late by %q: %v", first, err)
	}
	if _, err := a.name("Teodora Brisk", "teodora@peat.example", "warden"); !errors.Is(err, reference.ErrClosed) {
		t.Errorf("named after the closing: %v", err)
	}
}
