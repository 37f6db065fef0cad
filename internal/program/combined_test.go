package program_test

import (
	"context"
	"encoding/json"
	"errors"
	"slices"
	"strings"
	"testing"

	"ulvant/core/access"
	"ulvant/core/condition"
	"ulvant/core/design"
	"ulvant/core/form"
	"ulvant/core/pattern"
	"ulvant/core/refusal"
	"ulvant/internal/application"
	"ulvant/internal/intake"
	"ulvant/internal/platform/db"
	"ulvant/internal/program"
	"ulvant/internal/programtest"
)

// combined is what an officer does on the design page to make, from the
// pattern for grants, one form of nine sections in which the kind of request
// decides four; nobody may send two.
func combined(d *form.Design) (ops []design.Op) {
	say := func(v any) json.RawMessage {
		raw, err := json.Marshal(v)
		if err != nil {
			panic(err)
		}
		return raw
	}
	drop := func(list string, keys ...form.Key) {
		for _, k := range keys {
			ops = append(ops, design.Op{Do: design.Remove, Path: list + "/" + string(k)})
		}
	}
	add := func(list string, v any, before string) {
		ops = append(ops, design.Op{Do: design.Add, Path: list, Value: say(v), Before: before})
	}
	ask := func(section, key string, kind form.Kind, label string, options ...string) {
		q := design.NewQuestion(kind, label)
		q.Key = form.Key(key)
		for _, o := range options {
			q.Options = append(q.Options, form.Option{Key: form.Key(o), Label: strings.ToUpper(o[:1]) + o[1:]})
		}
		add("sections/"+section+"/questions", q, "")
	}
	for _, r := range d.Rules {
		drop("rules", r.Key)
	}
	for _, f := range d.Figures {
		drop("figures", f.Key)
	}
	drop("sections", "work", "boats", "budget-section", "materials", "references")
	ops = append(ops, design.Op{Do: design.Set, Path: "request", Value: say("")})
	section := func(key, label string, kind string) {
		s := form.Section{Key: form.Key(key), Label: label, Questions: []form.Question{}}
		if kind != "" {
			s.Asked = condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: "request-kind"}, Rel: condition.Is,
				Value: &condition.Value{Text: kind}}}
		}
		add("sections", s, "declarations")
	}
	section("what", "What you ask for", "")
	ask("what", "request-kind", form.Choice, "What do you ask for?", "repair", "loan", "visit", "study")
	section("repair", "The repair", "repair")
	ask("repair", "repair-sum", form.Money, "What does it cost?")
	section("loan", "The loan of kit", "loan")
	ask("loan", "loan-kit", form.Several, "Which kit?", "barrow", "theodolite", "punt")
	ask("loan", "loan-back", form.Date, "When does it come back?")
	section("visit", "The visit", "visit")
	ask("visit", "visit-day", form.Date, "Which day?")
	section("study", "The study", "study")
	ask("study", "study-plan", form.Long, "What will you find out?")
	section("why", "Why", "")
	ask("why", "why-now", form.Long, "Why now?")
	add("rules", form.Rule{Key: "one-each", Label: "One application each", Yes: "It is the only one.",
		No: "You have sent another.", Look: "Somebody will look.",
		Holds: condition.Cond{Test: &condition.Test{Of: condition.Ref{Fixed: condition.OthersInRound}, Rel: condition.AtMost,
			Value: &condition.Value{Number: &condition.Number{Num: 0, Den: 1}}}}}, "")
	return ops
}

// One form for four kinds of request: everybody meets the five sections that
// all are asked and the one that is theirs, and sends them; the second that
// one person sends is refused.
func TestACombinedForm(t *testing.T) {
	h := programtest.New(t)
	ctx := context.Background()
	officer := h.Person("neda@ostrel-trust.example", "Neda Sparrow")
	h.Act(0, func(ctx context.Context, tx *db.Tx) error {
		return h.People.GiveRole(ctx, tx, officer.ID, access.Held{Role: access.RunsRounds})
	})
	d := pattern.Grants(programtest.Settings())
	d.Field = "" // its question goes
	var id int64
	h.Act(officer.ID, func(ctx context.Context, tx *db.Tx) (err error) {
		if id, err = h.Rounds.Create(ctx, tx, d); err != nil {
			return err
		}
		for _, op := range combined(d) { // one press each
			if _, err := h.Rounds.Edit(ctx, tx, id, op.Path, []design.Op{op}); err != nil {
				return err
			}
		}
		return nil
	})
	if err := program.Open(ctx, h.Program, db.Account(officer.ID), h.Clock.Now(), id, "", true); err != nil {
		t.Fatal(err)
	}
	begin := func(email, kind string) (lead int64, c application.Case) {
		p := h.Person(email, "Imre Calloway")
		h.Act(p.ID, func(ctx context.Context, tx *db.Tx) (err error) {
			if c, err = h.Intake.Start(ctx, tx, "shore-2027", kind, nil); err != nil {
				return err
			}
			all := []intake.Edit{programtest.Edit("applicant-kind", "common"), programtest.Edit("body-name", "The Common"),
				programtest.Edit("district", "corvoe"),
				programtest.Edit("site", "The strand"), programtest.Edit("land-leave", "yes"),
				programtest.Edit("site-access", "road"),
				programtest.Edit("true", "yes"), programtest.Edit("may-visit", "yes"), programtest.Edit("signed", "Imre Calloway"),
				programtest.Edit("why-now",
					"It is time."), programtest.Edit("request-kind", kind)}
			for col, v := range map[form.Key]string{"street": "4 Quay Row", "town": "Corvoe", "postcode": "OI4 2RT"} {
				all = append(all, intake.Edit{Place: form.Place{Question: "post-address", Column: col}, EditID: "e-address",
					Value: v})
			}
			results, _, err := h.Intake.Save(ctx, tx, c, all)
			for _, r := range results {
				if r.Fault != "" || r.Conflict {
					t.Fatalf("%+v", r)
				}
			}
			return err
		})
		return p.ID, c
	}
	send := func(lead int64, c application.Case) error {
		return h.Try(lead, func(ctx context.Context, tx *db.Tx) error { _, err := h.Intake.Send(ctx, tx, c); return err })
	}
	second, c2 := begin("visit@corvoe.example", "repair") // before that person has sent anything
	for _, r := range []struct {
		kind   string
		theirs []intake.Edit
	}{
		{"repair", []intake.Edit{programtest.Edit("repair-sum", "1,200")}},
		{"loan", []intake.Edit{programtest.Edit("loan-kit", "barrow\npunt"), programtest.Edit("loan-back", "1 June 2027")}},
		{"visit", []intake.Edit{programtest.Edit("visit-day", "2 June 2027")}},
		{"study", []intake.Edit{programtest.Edit("study-plan", "Who eats the marram.")}},
	} {
		lead, c := begin(r.kind+"@corvoe.example", r.kind)
		_, _, path, err := h.Cases.Walk(ctx, h.DB, c, h.Clock.Now())
		if err != nil {
			t.Fatal(err)
		}
		var met []string
		for _, s := range path.Sections {
			if s.Asked == condition.Yes {
				met = append(met, string(s.Key))
			}
		}
		if want := []string{"who", "place", "what", r.kind, "why", "declarations"}; len(path.Sections) != 9 ||
			!slices.Equal(met, want) {
			t.Errorf("a %s meets %v of %d", r.kind, met, len(path.Sections))
		}
		stopped := intake.Stopped{}
		if err := send(lead, c); !errors.As(err, &stopped) || len(stopped.Obstacles) != len(r.theirs) {
			t.Errorf("a %s with its own section blank: %v", r.kind, err)
		}
		h.Act(lead, func(ctx context.Context, tx *db.Tx) error {
			_, _, err := h.Intake.Save(ctx, tx, c, r.theirs)
			return err
		})
		if err := send(lead, c); err != nil {
			t.Errorf("a whole %s: %v", r.kind, err)
		}
	}

	// a third by the same person is not begun, and the second not sent
	var full refusal.Refusal
	if err := h.Try(second, func(ctx context.Context, tx *db.Tx) error {
		_, err := h.Intake.Start(ctx, tx, "shore-2027", "A third", nil)
		return err
	}); !refusal.AsUnfit(err, &full) || full.Error() != "You have sent another." {
		t.Errorf("a third is begun: %v", err)
	}
	h.Act(second, func(ctx context.Context, tx *db.Tx) error {
		_, _, err := h.Intake.Save(ctx, tx, c2, []intake.Edit{programtest.Edit("repair-sum", "900")})
		return err
	})
	stopped := intake.Stopped{}
	if err := send(second, c2); !errors.As(err, &stopped) || len(stopped.Obstacles) != 1 ||
		stopped.Obstacles[0].Code != form.CodeNotEligible {
		t.Errorf("the second of one person: %v", err)
	}
}
