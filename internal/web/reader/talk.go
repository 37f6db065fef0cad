package reader

import (
	"context"
	"errors"
	"slices"
	"strconv"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/internal/platform/db"
	"ulvant/internal/reading"
	"ulvant/internal/web/kit/site"
)

// talked is a discussion as a reader of the case sees it: the others are letters,
// not names.
type talked struct {
	Why   string
	First []firstMarks
	Said  []heard
	Zone  *time.Location
}

// firstMarks are what one reader gave at first.
type firstMarks struct {
	Who   string
	Marks []string // in the order of the criteria; "–" where one does not apply
	Note  string
}

type heard struct {
	Who, Text string
	At        time.Time
}

func talkOf(r *site.Request, f *form.Form) (*talked, error) {
	t, err := r.Reading.TalkOf(r.Context, r.DB, r.Case.EntryID)
	if errors.Is(err, reading.ErrNoTalk) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	if !slices.ContainsFunc(t.First, func(x reading.First) bool { return x.Account == r.Account.ID }) {
		return nil, nil // who came later marks without having seen what others gave
	}
	out := &talked{Why: t.Why, Zone: f.Zone}
	names := map[int64]string{r.Account.ID: "you"}
	for i, x := range t.First {
		if x.Account != r.Account.ID {
			names[x.Account] = "reader " + string(rune('A'+i))
		}
		m := firstMarks{Who: names[x.Account], Note: x.Note}
		for _, c := range f.Design.Judged("") {
			if v, ok := x.Marks[c.Key]; ok {
				m.Marks = append(m.Marks, strconv.Itoa(v))
			} else {
				m.Marks = append(m.Marks, "–")
			}
		}
		out.First = append(out.First, m)
	}
	for _, s := range t.Said {
		out.Said = append(out.Said, heard{names[s.Account], s.Text, s.At})
	}
	return out, nil
}

// Say adds to the discussion of a case.
func Say(r *site.Request) error {
	err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.Reading.SayInTalk(ctx, tx, r.Case, r.FormValue("said"))
	})
	if no, ok := refusal.Of(err); ok {
		return draw(r, fiber.StatusUnprocessableEntity, no.Sentence(), nil)
	}
	if err != nil {
		return err
	}
	return r.See("/reading/" + r.Case.Ref + "?stage=" + string(r.Case.Stage) + "#talk")
}
