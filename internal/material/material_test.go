package material_test

import (
	"bytes"
	"context"
	"errors"
	"strings"
	"testing"
	"time"

	"ulvant/core/form"
	"ulvant/core/slot"
	"ulvant/internal/application"
	"ulvant/internal/material"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
)

func TestMain(m *testing.M) { programtest.Main(m) }

// shelf is a draft with a slot for one plan and one for three.
type shelf struct {
	*programtest.House
	c application.Case
	f *form.Form
}

func open(t *testing.T) *shelf {
	t.Helper()
	h := programtest.New(t)
	h.OpenRound(h.Person("neda@ostrel-trust.example", "Neda Sparrow").ID, func(d *form.Design) {
		q := form.Question{Key: "photos", Kind: form.File, Label: "Photos", Nature: form.Chosen, Blank: form.MeansNo,
			Seen: form.ToReaders}
		q.Limits.Else.Slot = &slot.Limits{Kinds: []slot.Kind{slot.PDF}, FilesMost: 3, SizeMost: 1 << 20}
		d.Sections[0].Questions = append(d.Sections[0].Questions, q)
	})
	s := &shelf{House: h, c: h.Draft("imre@corvoe.example")}
	var err error
	if s.f, err = h.Rounds.Form(t.Context(), h.DB, s.c.DesignID); err != nil {
		t.Fatal(err)
	}
	return s
}

func (s *shelf) put(slot form.Key, name string, body []byte) (material.File, error) {
	return s.Materials.PutInSlot(context.Background(), db.Account(s.c.LeadID), s.Clock.Now(), s.c, s.f.Question(slot),
		name,
		int64(len(body)), bytes.NewReader(body))
}

func (s *shelf) names(t *testing.T) string {
	t.Helper()
	list, err := s.Materials.Of(t.Context(), s.DB, s.c.EntryID)
	if err != nil {
		t.Fatal(err)
	}
	var out []string
	for _, f := range list {
		out = append(out, f.Name)
	}
	return strings.Join(out, " ")
}

// In a slot for one the next takes the place of the one before; in others the
// order is kept, and can be changed.
func TestPuttingAndOrder(t *testing.T) {
	s := open(t)
	for _, name := range []string{"old.pdf", "plan.pdf"} {
		f, err := s.put("site-plan", name, programtest.Plan)
		if err != nil || f.State != slot.Ready || f.Facts.Pages != 2 || f.MIME != "application/pdf" {
			t.Fatalf("%+v, %v", f, err)
		}
	}
	ids := map[string]int64{}
	for _, name := range []string{"a.pdf", "b.pdf", "c.pdf"} {
		f, err := s.put("photos", name, programtest.Plan)
		if err != nil {
			t.Fatal(err)
		}
		ids[name] = f.ID
	}
	move := func(name string, forward bool) error {
		return s.Try(s.c.LeadID, func(ctx context.Context, tx *db.Tx) error {
			return s.Materials.Move(ctx, tx, s.c, ids[name], forward)
		})
	}
	for _, x := range []struct {
		name    string
		forward bool
		want    string
	}{
		{"a.pdf", true, "a.pdf b.pdf c.pdf"}, {"c.pdf", true, "a.pdf c.pdf b.pdf"}, {"a.pdf", false, "c.pdf a.pdf b.pdf"},
		{"b.pdf", false, "c.pdf a.pdf b.pdf"},
	} {
		if err := move(x.name, x.forward); err != nil {
			t.Fatal(err)
		}
		if got := strings.TrimSpace(strings.ReplaceAll(s.names(t), "plan.pdf", "")); strings.Join(strings.Fields(got),
			" ") != x.want {
			t.Errorf("after moving %s: %s, want %s", x.name, got, x.want)
		}
	}
	s.Act(s.c.LeadID, func(ctx context.Context, tx *db.Tx) error { return s.Materials.Remove(ctx, tx, s.c, ids["a.pdf"]) })
	if got := s.names(t); strings.Contains(got, "a.pdf") || strings.Contains(got, "old.pdf") ||
		!strings.Contains(got, "plan.pdf") {
		t.Errorf("%s", got)
	}
	if err := move("a.pdf", true); !errors.Is(err, material.ErrNotFound) {
		t.Errorf("moving what was taken out: %v", err)
	}
	if _, err := s.Materials.Find(t.Context(), s.DB, ids["b.pdf"], s.c.EntryID+1); !errors.Is(err, material.ErrNotFound) {
		t.Errorf("found through another entry: %v", err)
	}
}

// What is no file of a kind that is known stands there refused, with its fault.
func TestWhatIsNoPDF(t *testing.T) {
	s := open(t)
	f, err := s.put("photos", "photo.pdf", []byte("this is a letter, not a PDF"))
	if err != nil || f.State != slot.Refused || f.Finding == "" {
		t.Errorf("%+v, %v", f, err)
	}
}

// After the closing nothing is put in; what came too late does not stand there.
func TestTooLate(t *testing.T) {
	s := open(t)
	s.Clock.Set(s.c.Window(s.f).Closes)
	if _, err := s.put("photos", "late.pdf", programtest.Plan); !errors.Is(err, material.ErrClosed) {
		t.Errorf("%v", err)
	}
	if got := s.names(t); got != "" {
		t.Errorf("%q stands there", got)
	}
}

// What was replaced in a draft can be brought back for a day, then it is erased.
func TestReplacedIsSwept(t *testing.T) {
	s := open(t)
	old, err := s.put("site-plan", "old.pdf", programtest.Plan)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := s.put("site-plan", "new.pdf", append([]byte{}, append(programtest.Plan, '\n')...)); err != nil {
		t.Fatal(err)
	}
	name := func() (n string) {
		if err := s.DB.Get(&n, `SELECT name FROM material WHERE id = $1`, old.ID); err != nil {
			t.Fatal(err)
		}
		return n
	}
	for _, x := range []struct {
		after time.Duration
		want  string
	}{{24 * time.Hour, "old.pdf"}, {24*time.Hour + time.Second, ""}} {
		if err := s.Materials.Sweep(t.Context(), s.Clock.Now().Add(x.after)); err != nil {
			t.Fatal(err)
		}
		if got := name(); got != x.want {
			t.Errorf("%s later: %q", x.after, got)
		}
	}
	if got := s.names(t); got != "new.pdf" {
		t.Errorf("what stands there: %q", got)
	}
}

// Names of files as they come, and as they are kept.
func TestFileNames(t *testing.T) {
	for typed, want := range map[string]string{
		"plan.pdf": "plan.pdf", `C:\Users\imre\plan.pdf`: "plan.pdf", "../../etc/passwd": "passwd", "": "file", "/": "file",
		"..": "..", "a\x00b\r\n.pdf": "ab.pdf",
		"gnp.\u202efdp": "gnp.fdp", "план.pdf": "план.pdf", strings.Repeat("x", 200) + ".pdf": strings.Repeat("x", 116) +
			".pdf",
	} {
		if got := material.CleanName(typed); got != want {
			t.Errorf("%.30q is kept as %q, want %q", typed, got, want)
		}
	}
}
