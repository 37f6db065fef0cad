package check_test

import (
	"net/http"
	"strings"
	"testing"
	"time"

	"ulvant/core/declared"
	"ulvant/core/form"
	"ulvant/internal/check"
	"ulvant/internal/intake"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/standin/declarations"

	"context"
)

// What the service answers, as it is understood; whatever is no answer is silence.
func TestAskingForADeclaration(t *testing.T) {
	s, err := declarations.Start("127.0.0.1:0", []declarations.Declaration{
		{
			Reference: "A",
			State:     "settled",
			Sums:      map[string]string{"2025": "1,200.50"},
		}, {Reference: "B", State: "pending"},
		{Reference: "C", State: "settled", Sums: map[string]string{"2025": "much"}}})
	if err != nil {
		t.Fatal(err)
	}
	defer s.Stop()
	d := check.Declarations{Base: "http://" + s.Addr, Client: &http.Client{}}
	for ref, want := range map[string]declared.State{"A": "", "B": declared.Pending, "C": declared.Silent,
		"D": declared.Missing} {
		if got := d.Of(t.Context(), ref, "EUR"); got.State != want || ref == "A" && got.Sums["2025"] != 1_200_50 {
			t.Errorf("%s: %+v, want %q", ref, got, want)
		}
	}
	if got := (check.Declarations{Client: &http.Client{}}).Of(t.Context(), "A", "EUR"); got.State != declared.Silent {
		t.Errorf("no service: %+v", got)
	}
	s.Silent.Store(true)
	if got := d.Of(t.Context(), "A", "EUR"); got.State != declared.Silent {
		t.Errorf("it does not answer: %+v", got)
	}
}

// A case waits while its declaration is pending, is asked for again the next
// day, and is eligible without anybody's act once it agrees.
func TestADeclarationIsAskedForAgain(t *testing.T) {
	h := programtest.New(t)
	s, err := declarations.Start("127.0.0.1:0", []declarations.Declaration{{Reference: "HD-1000", State: "pending"}})
	if err != nil {
		t.Fatal(err)
	}
	defer s.Stop()
	h.Checks.Declared = check.Declarations{Base: "http://" + s.Addr, Client: &http.Client{}}
	officer := h.Person("officer@office.example", "Neda Sparrow")
	h.OpenRound(officer.ID, func(d *form.Design) {
		q := func(key form.Key, kind form.Kind) form.Question {
			return form.Question{
				Key:    key,
				Kind:   kind,
				Label:  string(key),
				Nature: form.Fact,
				Blank:  form.Required,
				Seen:   form.ToOffice,
			}
		}
		table, told := q("household", form.Years), q("told", form.Declared)
		table.Options = []form.Option{{Key: "y", Label: "2025"}}
		told.Declared = &form.DeclaredRule{Of: "household"}
		d.Sections[0].Questions = append(d.Sections[0].Questions, table, told)
	})
	c := h.Ready("imre@corvoe.example")
	h.Held(c.LeadID, func(ctx context.Context, tx *db.Tx) error {
		at := func(row string, col form.Key) form.Place {
			return form.Place{Question: "household", Row: row, Column: col}
		}
		_, _, err := h.Intake.Save(
			ctx,
			tx,
			c,
			[]intake.Edit{{Place: at("r0001", "person"), EditID: "household", Value: "Ada"},
				{Place: at("r0001", "y"), EditID: "household", Value: "900"},
				{Place: form.Place{Question: "told"}, EditID: "household", Value: "hd-1000"}},
		)
		if err != nil {
			return err
		}
		_, err = h.Intake.Send(ctx, tx, c)
		return err
	})
	h.Drain()
	found := func() (form.Outcome, string) {
		list, err := h.Checks.Of(t.Context(), h.DB, c.EntryID)
		if err != nil {
			t.Fatal(err)
		}
		for _, f := range list {
			if f.Rule == form.DeclaredRuleKey("told") {
				return f.Outcome, f.Reason
			}
		}
		return "", ""
	}
	if o, says := found(); o != form.Person || !strings.Contains(says, "not settled yet") {
		t.Errorf("%s %s", o, says)
	}
	s.Put(declarations.Declaration{Reference: "HD-1000", State: "settled", Sums: map[string]string{"2025": "950"}})
	again := func() {
		h.Clock.Set(h.Clock.Now().Add(24 * time.Hour))
		if err := h.Jobs.Sweep(t.Context(), h.Clock.Now()); err != nil {
			t.Fatal(err)
		}
		h.Drain()
	}
	again()
	if o, says := found(); o != form.Person ||
		!strings.Contains(says, "2025 differs: here €900, declared €950, €50 less here") {
		t.Errorf("%s %s", o, says)
	}
	// what a machine finds against somebody waits for a person, whatever the declaration says
	h.Crowd(`UPDATE finding SET outcome = 'no' WHERE rule = 'land'`)
	s.Put(declarations.Declaration{Reference: "HD-1000", State: "settled", Sums: map[string]string{"2025": "940"}})
	again()
	if o, _ := found(); o != form.Person || h.StateOf(c) != "complete" {
		t.Errorf("%s, %s", o, h.StateOf(c))
	}
	h.Crowd(`UPDATE finding SET outcome = 'yes' WHERE rule = 'land'`)
	s.Put(declarations.Declaration{Reference: "HD-1000", State: "settled", Sums: map[string]string{"2025": "900"}})
	again()
	if o, says := found(); o != form.Holds || !strings.Contains(says, "2025 agrees: €900") ||
		h.StateOf(c) != "eligible" {
		t.Errorf("%s %s, %s", o, says, h.StateOf(c))
	}
}
