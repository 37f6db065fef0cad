package round_test

import (
	"context"
	"encoding/json"
	"errors"
	"strings"
	"testing"
	"time"

	"ulvant/core/design"
	"ulvant/core/form"
	"ulvant/core/pattern"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/round"
)

func set(path, value string) []design.Op {
	raw, _ := json.Marshal(value)
	return []design.Op{{Do: design.Set, Path: path, Value: raw}}
}

// bench is a round being designed by two officers.
type bench struct {
	*programtest.House
	t          *testing.T
	neda, juna int64
	id         int64
}

func newBench(t *testing.T) *bench {
	t.Helper()
	h := programtest.New(t)
	b := &bench{House: h, t: t, neda: h.Person("neda@ostrel-trust.example", "Neda Sparrow").ID,
		juna: h.Person("juna@ostrel-trust.example", "Juna Holm").ID}
	h.Held(b.neda, func(ctx context.Context, tx *db.Tx) (err error) {
		b.id, err = h.Rounds.Create(ctx, tx, pattern.Grants(programtest.Settings()))
		return err
	})
	return b
}

func (b *bench) edit(by int64, ops []design.Op) error {
	return b.Try(by, func(ctx context.Context, tx *db.Tx) error {
		_,
			err := b.Rounds.Edit(ctx, tx, b.id, "", ops)
		return err
	})
}

func (b *bench) turn(by int64, f func(context.Context, *db.Tx, int64) (round.Change, error)) error {
	return b.Try(by, func(ctx context.Context, tx *db.Tx) error { _, err := f(ctx, tx, b.id); return err })
}

func (b *bench) working() *form.Design {
	b.t.Helper()
	r, err := b.Rounds.ByID(b.t.Context(), b.DB, b.id)
	if err != nil {
		b.t.Fatal(err)
	}
	f, _, err := b.Rounds.Working(r)
	if err != nil {
		b.t.Fatal(err)
	}
	return f.Design
}

// Each undoes and redoes what they changed themselves, in order; what somebody
// else has set since is not undone.
func TestUndoAndRedo(t *testing.T) {
	b := newBench(t)
	was := b.working().About
	about := func() string { return b.working().About }
	must := func(what string, err, want error) {
		t.Helper()
		if !errors.Is(err, want) {
			t.Errorf("%s: %v, want %v", what, err, want)
		}
	}
	says := func(what, want string) {
		t.Helper()
		if got := about(); got != want {
			t.Errorf("%s: %q, want %q", what, got, want)
		}
	}
	must("nothing to undo", b.turn(b.neda, b.Rounds.Undo), round.ErrNothingToUndo)
	must("nothing to redo", b.turn(b.neda, b.Rounds.Redo), round.ErrNothingToRedo)
	must("one", b.edit(b.neda, set("about", "One.")), nil)
	must("two", b.edit(b.neda, set("about", "Two.")), nil)
	must("nothing of Juna's", b.turn(b.juna, b.Rounds.Undo), round.ErrNothingToUndo)
	must("undo", b.turn(b.neda, b.Rounds.Undo), nil)
	says("undone once", "One.")
	must("undo again", b.turn(b.neda, b.Rounds.Undo), nil)
	says("undone twice", was)
	must("redo", b.turn(b.neda, b.Rounds.Redo), nil)
	says("redone in the order they were made", "One.")
	must("redo again", b.turn(b.neda, b.Rounds.Redo), nil)
	says("redone twice", "Two.")
	must("no more to redo", b.turn(b.neda, b.Rounds.Redo), round.ErrNothingToRedo)
	must("undo", b.turn(b.neda, b.Rounds.Undo), nil)
	must("another change", b.edit(b.neda, set("about", "Three.")), nil)
	must("redo after another change", b.turn(b.neda, b.Rounds.Redo), round.ErrNothingToRedo)
	must("Juna's", b.edit(b.juna, set("about", "Juna’s.")), nil)
	must("undo what Juna changed since", b.turn(b.neda, b.Rounds.Undo), round.ErrOverlaid)
	says("Juna's stands", "Juna’s.")
}

// Lists show what is published; the working design shows there only until then.
func TestWhatListsShow(t *testing.T) {
	b := newBench(t)
	name := func() string {
		r, err := b.Rounds.ByID(t.Context(), b.DB, b.id)
		if err != nil {
			t.Fatal(err)
		}
		return r.Name
	}
	publish := func() (number int, err error) {
		err = b.Try(b.neda, func(ctx context.Context, tx *db.Tx) (err error) {
			_, number, err = b.Rounds.Publish(ctx, tx, b.id)
			return err
		})
		return number, err
	}
	if err := b.edit(b.neda, set("name", "Before")); err != nil || name() != "Before" {
		t.Errorf("%q, %v", name(), err)
	}
	if n, err := publish(); n != 1 || err != nil {
		t.Fatalf("design %d, %v", n, err)
	}
	if err := b.edit(b.neda, set("name", "After")); err != nil || name() != "Before" {
		t.Errorf("%q, %v", name(), err)
	}
	list, err := b.Rounds.Unpublished(t.Context(), b.DB, b.id)
	if err != nil || len(list) != 1 {
		t.Errorf("%d unpublished, %v", len(list), err)
	}
	if n, err := publish(); n != 2 || err != nil || name() != "After" {
		t.Errorf("design %d, %q, %v", n, name(), err)
	}
	if list, err := b.Rounds.Unpublished(t.Context(), b.DB, b.id); err != nil || len(list) != 0 {
		t.Errorf("%d unpublished, %v", len(list), err)
	}
	closes := time.Date(2027, 4, 9, 15, 0, 0, 0, time.UTC) // 16:00 in Dublin
	var late int64
	b.Held(b.neda, func(ctx context.Context, tx *db.Tx) (err error) {
		d := pattern.Grants(programtest.Settings())
		d.Key, d.Prefix = "late-2027", "LTE"
		late, err = b.Rounds.Create(ctx, tx, d)
		return err
	})
	for _, c := range []struct {
		name string
		at   time.Time
		ok   bool // that one which is not open yet may open
	}{{"at the closing", closes, false}, {"a moment before the closing", closes.Add(-time.Second), true}} {
		b.Clock.Set(c.at)
		err := b.Try(b.neda, func(ctx context.Context, tx *db.Tx) error {
			_, _, err := b.Rounds.Publish(ctx, tx, late)
			return err
		})
		if (err == nil) != c.ok {
			t.Errorf("%s: %v", c.name, err)
		}
		if _, err := publish(); err != nil { // one that was open is set right: letters, dates to come
			t.Errorf("%s, of one that was open: %v", c.name, err)
		}
	}
}

// A key stands for one round; a change that leaves no design is not kept.
func TestWhatIsNotKept(t *testing.T) {
	b := newBench(t)
	err := b.Try(b.neda, func(ctx context.Context, tx *db.Tx) error {
		_, err := b.Rounds.Create(ctx, tx, pattern.Grants(programtest.Settings()))
		return err
	})
	if err == nil {
		t.Error("two rounds have one key")
	}
	for name, ops := range map[string][]design.Op{
		"a member there is none of": set("nonsense", "x"), "a place there is none of": set("sections/nowhere/label", "x"),
		"nothing": nil} {
		if err := b.edit(b.neda, ops); err == nil && name != "nothing" {
			t.Errorf("%s is kept", name)
		}
	}
	if got := b.working().Name; !strings.HasPrefix(got, "Shore & Peat") {
		t.Errorf("%q", got)
	}
}

// Pages of rounds, and those under way, show each once and say how many more.
func TestListsOfRounds(t *testing.T) {
	b := newBench(t)
	for _, key := range []string{"two", "three", "four"} {
		b.Act(b.neda, func(ctx context.Context, tx *db.Tx) error {
			s := programtest.Settings()
			s.Key, s.Name = form.Key(key), key
			_, err := b.Rounds.Create(ctx, tx, pattern.Grants(s))
			return err
		})
	}
	seen := map[int64]bool{}
	for from := 0; from < 4; from += 2 {
		page, err := b.Rounds.Page(t.Context(), nil, from, 2)
		if err != nil || len(page) != 2 {
			t.Fatalf("%d from %d, %v", len(page), from, err)
		}
		for _, r := range page {
			seen[r.ID] = true
		}
	}
	if len(seen) != 4 {
		t.Errorf("%d of 4 are shown", len(seen))
	}
	some, err := b.Rounds.Some(t.Context(), []int64{b.id, 0})
	if err != nil || len(some) != 1 || some[0].ID != b.id {
		t.Errorf("%+v, %v", some, err)
	}
	under, more, err := b.Rounds.UnderWay(t.Context(), nil, b.Clock.Now(), 3)
	if err != nil || len(under) != 3 || more != 1 {
		t.Errorf("%d under way and %d more, %v", len(under), more, err)
	}
}

// A kept section is replaced by one of its name.
func TestKeptSections(t *testing.T) {
	b := newBench(t)
	for _, body := range []string{`{"key":"a"}`, `{"key":"b"}`} {
		b.Held(b.neda, func(ctx context.Context, tx *db.Tx) error {
			return b.Rounds.Keep(ctx, tx, "Who is applying",
				[]byte(body))
		})
	}
	list, err := b.Rounds.AllKept(t.Context(), b.DB)
	if err != nil || len(list) != 1 || !strings.Contains(string(list[0].Section), `"b"`) {
		t.Errorf("%+v, %v", list, err)
	}
}
