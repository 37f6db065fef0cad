package guidance_test

import (
	"bytes"
	"context"
	"fmt"
	"os"
	"strings"
	"testing"
	"time"

	"codeberg.org/go-pdf/fpdf"

	"ulvant/core/form"
	"ulvant/core/slot"
	"ulvant/internal/check"
	"ulvant/internal/guidance"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/round"
)

func TestMain(m *testing.M) { programtest.Main(m) }

// roundOf is a round with its published form.
func roundOf(t *testing.T, h *programtest.House, id int64) (round.Round, *form.Form) {
	t.Helper()
	r, err := h.Rounds.ByID(t.Context(), h.DB, id)
	if err != nil {
		t.Fatal(err)
	}
	f, err := h.Rounds.Published(t.Context(), h.DB, r)
	if err != nil {
		t.Fatal(err)
	}
	return r, f
}

// pdf is a file of one page that says something.
func pdf(t *testing.T, says string) []byte {
	t.Helper()
	doc := fpdf.New("P", "mm", "A4", "")
	doc.SetCreationDate(programtest.Noon) // the same words are the same bytes
	doc.SetModificationDate(programtest.Noon)
	doc.AddPage()
	doc.SetFont("Helvetica", "", 12)
	doc.Text(20, 20, says)
	var out bytes.Buffer
	if err := doc.Output(&out); err != nil {
		t.Fatal(err)
	}
	return out.Bytes()
}

// What the office puts up, what of it is refused, and what it becomes: versions that only
// grow, a template that is known again, mails to those with a draft, and a checker asked.
func TestPapersOfARound(t *testing.T) {
	h, _, draft := programtest.Opened(t, nil)
	neda := programtest.MustAccount(t, h.DB, "neda@ostrel-trust.example")
	r, f := roundOf(t, h, draft.RoundID)
	put := func(n guidance.New, body []byte) (guidance.Paper, error) {
		return h.Guidance.Put(t.Context(), db.Account(neda), h.Clock.Now(), r, f, n, bytes.NewReader(body))
	}
	notes, err := put(guidance.New{Title: " Notes ", Name: "notes.pdf", Changed: "nothing yet", Tell: true},
		pdf(t, "Notes"))
	if err != nil || notes.Title != "Notes" || notes.Last().Number != 1 || notes.Last().Changed != "" {
		t.Fatalf("%+v, %v", notes, err)
	}
	plan, err := put(guidance.New{Title: "The plan", Slot: "site-plan", Name: "plan.pdf"}, pdf(t, "Plan one"))
	if err != nil {
		t.Fatal(err)
	}
	old, err := h.Guidance.Bytes(plan.Last())
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		what string
		n    guidance.New
		body []byte
		want string
	}{
		{"no name", guidance.New{Title: " ", Name: "a.pdf"}, pdf(t, "x"), "what the file is called"},
		{"a name too long", guidance.New{Title: strings.Repeat("a", 121), Name: "a.pdf"}, pdf(t, "x"),
			"what the file is called"},
		{"nothing in it", guidance.New{Title: "A", Name: "a.pdf"}, nil, "empty"},
		{"too large", guidance.New{Title: "A", Name: "a.pdf"}, make([]byte, slot.MostPlain+1), "larger than 8 MB"},
		{"no file of any kind", guidance.New{Title: "A", Name: "a.exe"}, []byte("MZ\x90"), "could not be opened"},
		{"a template for a question without files", guidance.New{Title: "A", Slot: "describe", Name: "a.pdf"}, pdf(t, "x"),
			"takes files"},
		{"a template for no question", guidance.New{Title: "A", Slot: "none", Name: "a.pdf"}, pdf(t, "x"), "takes files"},
		{"a template that cannot be marked", guidance.New{Title: "A", Slot: "site-plan", Name: "a.csv"},
			[]byte("a,b\n1,2\n"), "known again"},
		{"a version that does not say what is different", guidance.New{Paper: plan.ID, Name: "b.pdf"}, pdf(t, "x"),
			"what is different"},
		{"the same file again", guidance.New{Paper: plan.ID, Changed: "all", Name: "b.pdf"}, pdf(t, "Plan one"),
			"there already"},
		{"a version of none", guidance.New{Paper: 9999, Changed: "all", Name: "b.pdf"}, pdf(t, "x"), "no such file"},
	} {
		if _, err := put(c.n, c.body); err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%s: %v, want %q", c.what, err, c.want)
		}
	}
	if plan, err = put(guidance.New{Paper: plan.ID, Title: "not taken", Changed: "a scale bar", Name: "plan2.pdf",
		Tell: true},
		pdf(t, "Plan two")); err != nil || plan.Title != "The plan" || plan.Last().Number != 2 {
		t.Fatalf("%+v, %v", plan, err)
	}
	h.Drain()
	told := func(in string) (n int) {
		t.Helper()
		if err := h.DB.GetContext(t.Context(), &n, `SELECT count(*) FROM post WHERE kind = 'guidance-changed' AND body LIKE '%' || $1 || '%'
			AND application_id = $2`, in, draft.ID); err != nil {
			t.Fatal(err)
		}
		return n
	}
	if told("a new file to read") != 1 || told("“The plan”") != 1 || told("What is different: a scale bar.") != 1 {
		t.Errorf("told: %d, %d, %d", told("a new file to read"), told("“The plan”"), told("a scale bar"))
	}
	// what comes back
	current, err := h.Guidance.Bytes(plan.Last())
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		what string
		body []byte
		came slot.Came
	}{{"the last", current, slot.Current}, {"the one before", old, slot.Older},
		{"another", pdf(t, "Mine"), slot.Unrecognised}} {
		path := t.TempDir() + "/back.pdf"
		if err := os.WriteFile(path, c.body, 0o600); err != nil {
			t.Fatal(err)
		}
		found, err := h.Materials.Bench.Look(t.Context(), path)
		if err != nil {
			t.Fatal(err)
		}
		if came, of, _ := slot.Recognise(found.Template, []slot.Template{plan.Template()}); came != c.came ||
			c.came != slot.Unrecognised && of.ID != plan.ID {
			t.Errorf("%s: %s (%q)", c.what, came, found.Template)
		}
	}
	c := sentWith(t, h, old)
	list, err := h.Checks.Of(t.Context(), h.DB, c)
	if err != nil {
		t.Fatal(err)
	}
	var said check.Finding
	for _, x := range list {
		if x.Rule == form.TemplateRule("site-plan") {
			said = x
		}
	}
	if said.Outcome != form.Person ||
		!strings.Contains(said.Reason, "filled in on version 1 of the template; version 2 is asked for") {
		t.Errorf("a checker is asked: %+v", said)
	}
	if err := h.Try(neda, func(ctx context.Context, tx *db.Tx) error {
		return h.Guidance.Remove(ctx, tx, r, plan.ID,
			" ")
	}); err == nil {
		t.Error("taken away without a reason")
	}
	h.Held(neda, func(ctx context.Context, tx *db.Tx) error {
		return h.Guidance.Remove(ctx, tx, r, plan.ID, "It asked too much.")
	})
	if left, err := h.Guidance.Of(t.Context(), h.DB, r.ID); err != nil || len(left) != 1 || left[0].ID != notes.ID {
		t.Errorf("%+v, %v", left, err)
	}
}

// sentWith sends an application whose plan is some file.
func sentWith(t *testing.T, h *programtest.House, body []byte) int64 {
	t.Helper()
	h.Person("ann@corvoe.example", "Ann Hart")
	c := h.Ready("ann@corvoe.example")
	f, err := h.Rounds.Form(t.Context(), h.DB, c.DesignID)
	if err != nil {
		t.Fatal(err)
	}
	lead := programtest.MustAccount(t, h.DB, "ann@corvoe.example")
	if _, err := h.Materials.PutInSlot(t.Context(), db.Account(lead), h.Clock.Now(), c, f.Question("site-plan"),
		"filled.pdf",
		int64(len(body)), bytes.NewReader(body)); err != nil {
		t.Fatal(err)
	}
	h.Act(lead, func(ctx context.Context, tx *db.Tx) (err error) {
		c, err = h.Intake.Send(ctx, tx, c)
		return err
	})
	h.Drain()
	return c.EntryID
}

// A mail is not sent for a version that another has followed before the job ran.
func TestToldOnceForTwoVersions(t *testing.T) {
	h, _, draft := programtest.Opened(t, nil)
	neda := programtest.MustAccount(t, h.DB, "neda@ostrel-trust.example")
	r, f := roundOf(t, h, draft.RoundID)
	var p guidance.Paper
	var err error
	for i := range 3 {
		n := guidance.New{Paper: p.ID, Title: "Notes", Changed: fmt.Sprintf("change %d", i), Name: "n.pdf", Tell: true}
		if p, err = h.Guidance.Put(t.Context(), db.Account(neda), h.Clock.Now().Add(time.Duration(i)*time.Minute), r, f, n,
			bytes.NewReader(pdf(t, fmt.Sprint("Notes ", i)))); err != nil {
			t.Fatal(err)
		}
	}
	h.Clock.Set(h.Clock.Now().Add(time.Hour))
	h.Drain()
	var bodies []string
	if err := h.DB.SelectContext(t.Context(), &bodies,
		`SELECT body FROM post WHERE kind = 'guidance-changed'`); err != nil {
		t.Fatal(err)
	}
	if len(bodies) != 1 || !strings.Contains(bodies[0], "change 2") {
		t.Errorf("%d mails: %q", len(bodies), bodies)
	}
}
