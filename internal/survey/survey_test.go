package survey_test

import (
	"context"
	"errors"
	"fmt"
	"testing"

	"ulvant/core/form"
	"ulvant/core/profile"
	"ulvant/internal/application"
	"ulvant/internal/intake"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/survey"
)

// shortWithSurvey asks three questions after sending.
func shortWithSurvey(d *form.Design) {
	programtest.Short(d)
	q := func(key form.Key, kind form.Kind) form.Question {
		return form.Question{Key: key, Kind: kind, Label: string(key), Nature: form.Fact, Blank: form.MeansNo,
			Seen: form.ToOffice}
	}
	d.Sections = append(d.Sections, form.Section{Key: "after", Label: "After", Stage: form.AfterSending,
		Questions: []form.Question{q("hours", form.Number), q("again", form.YesNo), q("words", form.Long)}})
}

// A survey is answered once for each case, by hand-made requests too, and
// nothing leads from what is kept back to the case.
func TestSurveyIsKeptApart(t *testing.T) {
	ctx := context.Background()
	p := programtest.SentToRound(t, shortWithSurvey, map[string]string{"Ann": "9000", "Bo": "8000"})
	answer := func(name string, typed map[form.Key]string) error {
		c := p.Of[name]
		answers := map[form.Place]form.Answer{}
		for k, v := range typed {
			answers[form.Place{Question: k}] = form.Answer{Raw: v}
		}
		return p.Try(c.LeadID, func(ctx context.Context, tx *db.Tx) error {
			return p.Surveys.Keep(ctx, tx, c, p.Form, answers, &form.Filled{})
		})
	}
	var stopped survey.Stopped
	if err := answer("Ann", map[form.Key]string{"hours": "many"}); !errors.As(err, &stopped) {
		t.Errorf("what cannot be read: %v", err)
	}
	if err := answer("Ann", map[form.Key]string{"request": "1"}); !errors.Is(err, survey.ErrNothing) {
		t.Errorf("a question of the application: %v", err)
	}
	if done, err := p.Surveys.Done(ctx, p.DB, p.Of["Ann"].ID); done || err != nil {
		t.Errorf("in before anything was kept: %v %v", done, err)
	}
	if err := answer("Ann", map[form.Key]string{"hours": "12", "words": "As it was.", "request": "1"}); err != nil {
		t.Fatal(err)
	}
	if err := answer("Ann", map[form.Key]string{"hours": "13"}); !errors.Is(err, survey.ErrDone) {
		t.Errorf("twice: %v", err)
	}
	if err := answer("Bo", map[form.Key]string{"again": "no"}); err != nil {
		t.Fatal(err)
	}
	list, err := p.Surveys.Of(ctx, p.DB, p.Round.ID)
	if err != nil || len(list) != 2 {
		t.Fatalf("%v %v", list, err)
	}
	for _, a := range list {
		if _, ok := a[form.Place{Question: "request"}]; ok {
			t.Error("an answer of the application is in it")
		}
	}
	var columns []string
	if err := p.DB.Select(&columns,
		`SELECT column_name FROM information_schema.columns WHERE table_name = 'survey' AND column_name ~ 'application|entry|account|by|seal' OR table_name = 'survey' AND data_type LIKE 'timestamp%'`); err != nil || len(columns) != 0 {
		t.Errorf("what leads back to the case: %v %v", columns, err)
	}
	var trailed int
	if err := p.DB.Get(&trailed, `SELECT count(*) FROM trail WHERE verb ~ 'survey'`); err != nil || trailed != 0 {
		t.Errorf("%d rows of the trail, %v", trailed, err)
	}
}

// The signer of a later agreement is one of the officers who confirmed it for
// the organisation; when one is revoked, the draft says so before sending, and
// what is sealed holds who might have signed.
func TestSignerOfTheAgreement(t *testing.T) {
	ctx := context.Background()
	h, lead, c := programtest.Opened(t, func(d *form.Design) {
		programtest.Short(d)
		d.Sections[0].Questions = append(d.Sections[0].Questions,
			form.Question{Key: "signs", Kind: form.Signer, Label: "Who signs?", Nature: form.Chosen, Blank: form.Required,
				Seen: form.ToOffice})
	})
	act := func(f func(context.Context, *db.Tx) error) { t.Helper(); h.Act(lead, f) }
	version := 0
	save := func(k form.Key, v string) {
		t.Helper()
		act(func(ctx context.Context, tx *db.Tx) error {
			e := programtest.Edit(k, v)
			e.EditID = fmt.Sprint("e-", k, version)
			if k == "signs" {
				e.Version = version
				version++
			}
			_, _, err := h.Intake.Save(ctx, tx, c, []intake.Edit{e})
			return err
		})
	}
	obstacles := func() (out []form.Code) {
		t.Helper()
		_, _, p, err := h.Cases.Walk(ctx, h.DB, c, h.Clock.Now())
		if err != nil {
			t.Fatal(err)
		}
		for _, o := range p.Obstacles {
			out = append(out, o.Code)
		}
		return out
	}
	stops := func(what string, want ...form.Code) {
		t.Helper()
		got := obstacles()
		if len(got) != len(want) || len(got) > 0 && got[0] != want[0] {
			t.Errorf("%s: %v, want %v", what, got, want)
		}
	}
	save("request", "9000")
	save("land-leave", "yes")
	stops("nobody chosen", form.CodeBlank)
	save("signs", "Imre Calloway")
	stops("a person signs for themselves")

	var body int64
	var officers = map[string]int64{}
	act(func(ctx context.Context, tx *db.Tx) (err error) {
		if body, err = h.Profiles.Make(ctx, tx, profile.Body, "Corvoe Common"); err != nil {
			return err
		}
		for _, n := range []string{"Ann Rae", "Bo Lind"} {
			if err := h.Profiles.AskOfficer(ctx, tx, body, n, n[:2]+"@corvoe.example", "chair"); err != nil {
				return err
			}
		}
		return h.Cases.For(ctx, tx, c.ID, body)
	})
	stops("nobody is confirmed yet", form.CodeNotAuthorised)
	list, err := h.Profiles.Officers(ctx, h.DB, body)
	if err != nil {
		t.Fatal(err)
	}
	for _, o := range list {
		officers[o.Name] = o.ID
		act(func(ctx context.Context, tx *db.Tx) error { return h.Profiles.Confirm(ctx, tx, o.ID, true) })
	}
	save("signs", "Bo Lind")
	stops("an officer who confirmed")
	act(func(ctx context.Context, tx *db.Tx) error {
		return h.Profiles.RevokeOfficer(ctx, tx, body, officers["Bo Lind"])
	})
	stops("an officer who was revoked", form.CodeNotAuthorised)
	save("signs", "Ann Rae")
	var sent application.Case
	act(func(ctx context.Context, tx *db.Tx) (err error) { sent, err = h.Intake.Send(ctx, tx, c); return err })
	s, err := h.Cases.Sealed(ctx, h.DB, *sent.SealID)
	if err != nil || len(s.Decoded.Signers) != 1 || s.Decoded.Signers[0] != "Ann Rae" {
		t.Errorf("sealed: %+v %v", s.Decoded.Signers, err)
	}
	f, err := h.Rounds.Form(ctx, h.DB, sent.DesignID)
	if err != nil {
		t.Fatal(err)
	}
	if p := f.Walk(s.Decoded.Filled(sent.LeadName)); len(p.Obstacles) != 0 {
		t.Errorf("the seal, walked: %v", p.Obstacles)
	}
}
