package intake_test

import (
	"context"
	"errors"
	"testing"
	"time"

	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/internal/application"
	"ulvant/internal/intake"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
)

// An application begins while its round is open, with what was answered in the check.
func TestBeginning(t *testing.T) {
	h, lead, c := programtest.Opened(t, programtest.Short)
	f, err := h.Rounds.Form(t.Context(), h.DB, c.DesignID)
	if err != nil {
		t.Fatal(err)
	}
	w := f.Window()
	for _, x := range []struct {
		what, round string
		at          time.Time
		begun       bool
		want        error // nil: whatever may be said to a person
	}{
		{"a second before it opens", "shore-2027", w.Opens.Add(-time.Second), false, nil},
		{"as it opens", "shore-2027", w.Opens, true, nil},
		{"a second before it closes", "shore-2027", w.Closes.Add(-time.Second), true, nil},
		{"as it closes", "shore-2027", w.Closes, false, intake.ErrClosed},
		{"a round that is none", "shore-1927", w.Opens, false, nil},
	} {
		h.Clock.Set(x.at)
		var begun application.Case
		err := h.Try(lead, func(ctx context.Context, tx *db.Tx) (err error) {
			begun, err = h.Intake.Start(ctx, tx, x.round, "Reed beds again",
				map[form.Place]form.Answer{{Question: "land-leave"}: {Raw: "yes"}, {Question: "request"}: {Non: form.NotKnown}})
			return err
		})
		_, said := refusal.Of(err)
		if (err == nil) != x.begun || x.want != nil && !errors.Is(err, x.want) || err != nil && x.want == nil && !said {
			t.Errorf("%s: %v", x.what, err)
		}
		if !x.begun {
			continue
		}
		kept := map[form.Key]application.Answer{}
		rows, err := h.Cases.Answers(t.Context(), h.DB, begun.EntryID)
		for _, a := range rows {
			kept[a.Question] = a
		}
		if err != nil || kept["land-leave"].Value != "yes" || kept["land-leave"].Version != 1 || begun.Title != "Reed beds again" {
			t.Errorf("%s: “%s” with %+v, %v", x.what, begun.Title, kept, err)
		}
	}
}

// One begins from one's own earlier application alone: what fits comes along, what is
// answered now comes before it, and what is stated or signed is given anew.
func TestBeginningFromAnEarlierOne(t *testing.T) {
	h, lead, c := programtest.Opened(t, nil)
	own := h.Ready("ysolde@tarl.example")
	rows, err := h.Cases.Answers(t.Context(), h.DB, own.EntryID)
	if err != nil {
		t.Fatal(err)
	}
	was := map[form.Place]application.Answer{}
	for _, a := range rows {
		was[a.Place()] = a
	}
	from := func(by int64, earlier string, given map[form.Place]form.Answer) (out application.Case, err error) {
		err = h.Try(by, func(ctx context.Context, tx *db.Tx) (err error) {
			out, err = h.Intake.StartFrom(ctx, tx, "shore-2027", "Once more", earlier, given)
			return err
		})
		return out, err
	}
	for name, err := range map[string]error{
		"another’s":       second(from(lead, own.Ref, nil)),
		"one that is not": second(from(lead, "SPR-9999-X", nil)),
	} {
		if !errors.Is(err, application.ErrNotFound) {
			t.Errorf("from %s: %v", name, err)
		}
	}
	if mine, err := h.Desk.Mine(t.Context(), lead); err != nil || len(mine) != 1 {
		t.Errorf("nothing was to begin: %d applications, %v", len(mine), err)
	}
	afterwards := form.Place{Question: "afterwards"}
	next, err := from(own.LeadID, own.Ref, map[form.Place]form.Answer{afterwards: {Raw: "The common looks after it."}})
	if err != nil {
		t.Fatal(err)
	}
	f, err := h.Rounds.Form(t.Context(), h.DB, c.DesignID)
	if err != nil {
		t.Fatal(err)
	}
	if rows, err = h.Cases.Answers(t.Context(), h.DB, next.EntryID); err != nil {
		t.Fatal(err)
	}
	is := map[form.Place]application.Answer{}
	for _, a := range rows {
		is[a.Place()] = a
	}
	if is[afterwards].Value != "The common looks after it." {
		t.Errorf("what is answered now: %q", is[afterwards].Value)
	}
	carried := 0
	for place, a := range was {
		q := f.Question(place.Question)
		switch got, there := is[place]; {
		case place == afterwards:
		case f.CarriesOver(q) && got.Value != a.Value:
			t.Errorf("%s: %q, and was %q", place.Question, got.Value, a.Value)
		case !f.CarriesOver(q) && there:
			t.Errorf("%s is given anew, and came along as %q", place.Question, got.Value)
		case f.CarriesOver(q):
			carried++
		}
	}
	if carried < 5 || carried == len(was) {
		t.Errorf("%d of %d answers came along", carried, len(was))
	}
}

func second[T any](_ T, err error) error { return err }
