package survey_test

import (
	"context"
	"errors"
	"testing"

	"ulvant/core/form"
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
