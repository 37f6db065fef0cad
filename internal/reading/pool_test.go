package reading_test

import (
	"context"
	"slices"
	"strings"
	"testing"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/reading"
)

// What readers declare beforehand, and which languages they read, keeps cases from
// them; both come along when they are invited to the programme's next round.
func TestWhatReadersDeclare(t *testing.T) {
	t.Parallel()
	p := programtest.SentToRound(t, func(d *form.Design) {
		programtest.Short(d)
		d.Sections[0].Questions = append(d.Sections[0].Questions, form.Question{Key: "tongue", Kind: form.Choice,
			Label: "Language", Nature: form.Chosen,
			Blank: form.MeansUnknown, Seen: form.ToReaders, Options: []form.Option{{Key: "en", Label: "English"},
				{Key: "ga", Label: "Irish"}}})
		d.Language = "tongue"
	}, map[string]string{"Ann": "9,000", "Bo": "8,000", "Cy": "7,000"})
	readers := p.InviteReaders("Oriel Vane", "Teodora Brisk", "Sami Holt", "Gwyn Arkwright")
	p.Clock.Set(p.Form.HandsOutFrom())
	p.Drain()
	describe := func(account int64, x reading.Reader) error {
		x.Account = account
		return p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
			return p.Reading.Describe(ctx, tx, p.Round,
				p.Form, x)
		})
	}
	if err := describe(readers[0], reading.Reader{Interests: "The Wardens\nhart, ann"}); err != nil {
		t.Fatal(err)
	}
	if err := describe(readers[1], reading.Reader{Languages: []string{"ga", "xx"}, Knows: "dunes"}); err != nil {
		t.Fatal(err)
	}
	if err := describe(readers[2], reading.Reader{Interests: strings.Repeat("x", 2001)}); err == nil {
		t.Error("2,001 characters of interests")
	}
	if _, err := p.DB.ExecContext(t.Context(),
		`UPDATE known SET facts = facts || '{"q.tongue": "en"}' WHERE entry_id = $1`, p.Of["Bo"].EntryID); err != nil {
		t.Fatal(err)
	}
	if _, err := p.HandsOut(); err != nil {
		t.Fatal(err)
	}
	reads := func(name string, account int64) bool {
		list, err := p.Reading.Of(t.Context(), p.DB, p.Of[name].EntryID)
		if err != nil {
			t.Fatal(err)
		}
		return slices.ContainsFunc(list, func(g reading.Given) bool { return g.AccountID == account })
	}
	if reads("Ann", readers[0]) || reads("Bo", readers[1]) {
		t.Error("a reader has a case they declared, or in a language they do not read")
	}
	// the next round of the programme finds them
	d := *p.Form.Design
	d.Key, d.Name, d.Prefix = "shore-2028", "Shore repair, spring 2028", "SPT"
	var next int64
	p.Act(p.Officer, func(ctx context.Context, tx *db.Tx) (err error) {
		next, err = p.Rounds.Create(ctx, tx, &d)
		return err
	})
	r, err := p.Rounds.ByID(t.Context(), p.DB, next)
	if err != nil {
		t.Fatal(err)
	}
	pool, err := p.Reading.Pool(t.Context(), p.DB, r)
	if err != nil || len(pool) != 4 || pool[0].Name != "Gwyn Arkwright" {
		t.Fatalf("%+v, %v", pool, err)
	}
	var invited int
	p.Held(p.Officer, func(ctx context.Context, tx *db.Tx) (err error) {
		invited, err = p.Reading.InvitePool(ctx, tx, r, p.Form, readers[:2])
		return err
	})
	if invited != 2 {
		t.Errorf("%d are invited", invited)
	}
	list, err := p.Reading.Readers(t.Context(), p.DB, next)
	if err != nil || len(list) != 2 || list[0].Interests != "The Wardens\nhart, ann" || list[1].Knows != "dunes" ||
		!slices.Equal(list[1].Languages, []string{"ga"}) {
		t.Errorf("%+v, %v", list, err)
	}
	if pool, err = p.Reading.Pool(t.Context(), p.DB, r); err != nil || len(pool) != 2 {
		t.Errorf("%d left in the pool, %v", len(pool), err)
	}
}

// A case that was read is given to one more: somebody who has not read it and may;
// the marks it has stay, and it is read again when theirs are in.
// What is declared after cases were given takes those away that name it and are not sent,
// and no others; what was sent stands.
func TestWhatIsDeclaredAfterwards(t *testing.T) {
	t.Parallel()
	p := programtest.SentTo(t, map[string]string{"Ann": "9,000", "Bo": "8,000", "Cy": "7,000"})
	readers := p.InviteReaders("Oriel Vane", "Teodora Brisk")
	p.Clock.Set(p.Form.HandsOutFrom())
	p.Drain()
	if _, err := p.HandsOut(); err != nil {
		t.Fatal(err)
	}
	p.MarksAs("Bo", readers[0])
	if err := p.Try(readers[0], func(ctx context.Context, tx *db.Tx) error {
		return p.Reading.Describe(ctx, tx, p.Round, p.Form, reading.Reader{Account: readers[0],
			Interests: "Ann Hart\nBo Hart"})
	}); err != nil {
		t.Fatal(err)
	}
	for name, want := range map[string]bool{"Ann": false, "Bo": true, "Cy": true} {
		_, err := p.Reading.Find(t.Context(), p.DB, p.Of[name].EntryID, readers[0])
		if (err == nil) != want {
			t.Errorf("%s: %v", name, err)
		}
	}
	out, err := p.HandsOut()
	if err != nil || !slices.Contains(out.Short, p.Of["Ann"].Ref) {
		t.Errorf("it is given to them again: %+v, %v", out, err)
	}
}

func TestOneMoreReading(t *testing.T) {
	t.Parallel()
	p := programtest.ReadRound(t, map[string]string{"Ann": "9,000", "Bo": "8,000"})
	more := func(why string) (to reading.Reader, err error) {
		p.StateOf("Ann")
		err = p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
			to, err = p.Reading.OneMore(ctx, tx, p.Round, p.Form, p.Of["Ann"], why)
			return err
		})
		return to, err
	}
	if _, err := more("too close to call"); err == nil || p.StateOf("Ann") != lifecycle.Read {
		t.Errorf("nobody else can read it: %v, it is %s", err, p.StateOf("Ann"))
	}
	sami := p.InviteReaders("Sami Holt")[0]
	if _, err := more(" "); err == nil {
		t.Error("without a reason")
	}
	to, err := more("too close to call")
	if err != nil || to.Account != sami || p.StateOf("Ann") != lifecycle.Reading {
		t.Fatalf("%+v, %v, it is %s", to, err, p.StateOf("Ann"))
	}
	p.Drain()
	if p.Mails("1 case waits for you to read") != 1 {
		t.Error("Sami is not told")
	}
	if list, _ := p.Reading.Of(t.Context(), p.DB, p.Of["Ann"].EntryID); len(list) != 3 {
		t.Errorf("%d read it", len(list))
	}
	p.MarksAs("Ann", sami)
	if s := p.StateOf("Ann"); s != lifecycle.Read {
		t.Errorf("it is %s", s)
	}
}

// Notes on the text are their maker's own.
func TestMargins(t *testing.T) {
	t.Parallel()
	p := programtest.ReadRound(t, map[string]string{"Ann": "9,000"})
	list, err := p.Reading.Of(t.Context(), p.DB, p.Of["Ann"].EntryID)
	if err != nil {
		t.Fatal(err)
	}
	one, other := list[0].AccountID, list[1].AccountID
	note := func(account int64, m reading.Margin) error {
		return p.Try(account, func(ctx context.Context, tx *db.Tx) error {
			return p.Reading.NoteMargin(ctx, tx, p.Of["Ann"],
				m)
		})
	}
	for _, c := range []struct {
		account int64
		m       reading.Margin
		ok      bool
	}{
		{one, reading.Margin{Question: "land-leave", Quote: "yes", Note: "since when?"}, true},
		{one, reading.Margin{Question: "land-leave", Quote: " yes ", Nth: 1}, true},
		{one, reading.Margin{Question: "land-leave"}, false},
		{one, reading.Margin{Question: "no-such", Quote: "x"}, false},
		{one, reading.Margin{Question: "land-leave", Note: strings.Repeat("x", 2001)}, false},
		{p.Officer, reading.Margin{Question: "land-leave", Quote: "yes"}, false},
	} {
		if err := note(c.account, c.m); (err == nil) != c.ok {
			t.Errorf("%+v: %v", c.m, err)
		}
	}
	mine, err := p.Reading.Margins(t.Context(), p.DB, p.Of["Ann"].EntryID, one)
	if err != nil || len(mine) != 2 || mine[1].Quote != "yes" || mine[1].Nth != 1 {
		t.Fatalf("%+v, %v", mine, err)
	}
	drop := func(account int64) (left int) {
		p.Held(account, func(ctx context.Context, tx *db.Tx) error {
			return p.Reading.DropMargin(ctx, tx, p.Of["Ann"], mine[0].ID)
		})
		now, _ := p.Reading.Margins(t.Context(), p.DB, p.Of["Ann"].EntryID, one)
		return len(now)
	}
	if drop(other) != 2 || drop(one) != 1 {
		t.Error("somebody else takes it away, or its maker cannot")
	}
}
