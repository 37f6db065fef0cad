package profile_test

import (
	"context"
	"errors"
	"regexp"
	"strings"
	"testing"
	"time"

	"ulvant/core/profile"
	"ulvant/core/refusal"
	"ulvant/internal/intake"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/link"
	profiles "ulvant/internal/profile"
	"ulvant/internal/programtest"
	"ulvant/internal/standin/register"
)

// The numbers of the demo: their check digits fit by ISO 17442.
const (
	known   = "0000OSTRELISLES00149"
	renamed = "0000OSTRELISLES00246"
	struck  = "0000OSTRELISLES00343"
	nowhere = "0000OSTRELISLES00440"
)

func withRegister(t *testing.T, h *programtest.House) *register.Register {
	t.Helper()
	r, err := register.Start("127.0.0.1:0", []register.Entry{
		{Scheme: "lei", Number: known, Name: "TARL MOOR SOCIETY"}, {Scheme: "lei", Number: renamed,
			Name: "Tarl Moor Trust"}, {Scheme: "lei", Number: struck, Name: "Tarl Moor Society", Struck: true}})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(r.Stop)
	reg := h.Profiles.Asks.(profiles.HTTPRegister)
	reg.Base = "http://" + r.Addr
	h.Profiles.Asks = reg
	return r
}

func moor(numbers ...string) profile.Facts {
	f := profile.Facts{Form: profile.Public, Seat: profile.Address{Street: "3 Peat Lane", Town: "Tarl",
		Postcode: "OI9 1RT"},
		Contacts: []profile.Contact{{Name: "Ann Hart", Email: "ann@tarl.example"},
			{Name: "Bo Hart", Email: "bo@tarl.example"}}}
	for _, n := range numbers {
		f.Numbers = append(f.Numbers, profile.Number{Scheme: "lei", Value: n})
	}
	return f
}

// Taking an organisation on, from its name to being known: each number as the
// register has it, a wrong address put right by revoking and asking anew, and
// the office's promise in working days.
func TestTakingAnOrganisationOn(t *testing.T) {
	ctx := context.Background()
	h := programtest.New(t)
	reg := withRegister(t, h)
	officer := h.Person("neda@ostrel-trust.example", "Neda Sparrow")
	ann := h.Person("ann@tarl.example", "Ann Hart")
	var id int64
	act := func(f func(ctx context.Context, tx *db.Tx) error) error { return h.Try(ann.ID, f) }
	if err := act(func(ctx context.Context, tx *db.Tx) (err error) {
		id, err = h.Profiles.Make(ctx, tx, profile.Body, "Tarl Moor Society")
		return err
	}); err != nil {
		t.Fatal(err)
	}
	change := func(numbers ...string) error {
		err := act(func(ctx context.Context, tx *db.Tx) error {
			return h.Profiles.Change(ctx, tx, id, "Tarl Moor Society", moor(numbers...))
		})
		h.Drain()
		return err
	}
	findings := func() map[string]profile.Finding {
		list, err := h.Profiles.Numbers(ctx, h.DB, id)
		if err != nil {
			t.Fatal(err)
		}
		out := map[string]profile.Finding{}
		for _, n := range list {
			out[n.Value] = n.Finding
		}
		return out
	}
	var unfit refusal.Refusal
	if err := change("0000OSTRELISLES00148"); !refusal.AsUnfit(err, &unfit) {
		t.Errorf("check digits that do not fit: %v", err)
	}
	if err := change(known, renamed, struck, nowhere); err != nil {
		t.Fatal(err)
	}
	want := map[string]profile.Finding{known: profile.Found, renamed: profile.OtherName, struck: profile.StruckOff,
		nowhere: profile.NotThere}
	for n, f := range findings() {
		if f != want[n] {
			t.Errorf("%s: %q, want %q", n, f, want[n])
		}
	}

	// a register that does not answer is asked again by itself
	if err := change(); err != nil {
		t.Fatal(err)
	}
	reg.Silent.Store(true)
	if err := change(known); err != nil || findings()[known] != profile.NoAnswer {
		t.Errorf("the register is silent: %v %q", err, findings()[known])
	}
	reg.Silent.Store(false)
	h.Clock.Set(h.Clock.Now().Add(time.Hour))
	if err := h.Profiles.Sweep(ctx, h.Clock.Now()); err != nil {
		t.Fatal(err)
	}
	h.Drain()
	if findings()[known] != profile.Found {
		t.Errorf("asked again: %q", findings()[known])
	}

	handIn := func() error {
		return act(func(ctx context.Context, tx *db.Tx) error { return h.Profiles.SendIn(ctx, tx, id) })
	}
	if err := handIn(); !refusal.AsUnfit(err, &unfit) {
		t.Errorf("handed in before any officer confirmed: %v", err)
	}
	ask := func(email string) error {
		err := act(func(ctx context.Context, tx *db.Tx) error {
			return h.Profiles.AskOfficer(ctx, tx, id, "Ronan Teague", email, "chair")
		})
		h.Drain()
		return err
	}
	token := func(email string) string {
		mails, _ := h.Tray.List(email, 0, 10)
		m := regexp.MustCompile(`/officer/([\w-]+)`).FindStringSubmatch(mails[0].Body)
		if m == nil {
			t.Fatalf("the mail to %s has no link: %s", email, mails[0].Body)
		}
		return m[1]
	}
	for _, e := range []string{"wrong@tarl.example", "treasurer@tarl.example"} {
		if err := ask(e); err != nil {
			t.Fatal(err)
		}
	}
	if err := ask("wrong@tarl.example"); !refusal.AsUnfit(err, &unfit) {
		t.Errorf("the same address twice: %v", err)
	}
	list, _ := h.Profiles.Officers(ctx, h.DB, id)
	wrong := token("wrong@tarl.example")
	if err := act(func(ctx context.Context, tx *db.Tx) error {
		return h.Profiles.RevokeOfficer(ctx, tx, id,
			list[0].ID)
	}); err != nil {
		t.Fatal(err)
	}
	if _, err := h.Program.Links.Find(ctx, h.DB, link.Officer, wrong, h.Clock.Now()); !errors.Is(err, link.ErrUnknown) {
		t.Errorf("a revoked link: %v", err)
	}
	if err := ask("chair@tarl.example"); err != nil {
		t.Fatal(err)
	}
	for _, e := range []string{"chair@tarl.example", "treasurer@tarl.example"} {
		l, err := h.Program.Links.Find(ctx, h.DB, link.Officer, token(e), h.Clock.Now())
		if err != nil {
			t.Fatal(err)
		}
		if err := h.DB.Do(ctx, db.Actor{Kind: "link", ID: l.ID}, h.Clock.Now(),
			func(ctx context.Context, tx *db.Tx) error { return h.Profiles.Confirm(ctx, tx, l.Subject, true) }); err != nil {
			t.Fatal(err)
		}
	}
	if err := handIn(); err != nil {
		t.Fatal(err)
	}
	// Tuesday 2 March and five working days: Tuesday 9 March, 17:00 in Dublin
	waiting, err := h.Profiles.Waiting(ctx, h.DB)
	if err != nil || len(waiting) != 1 || !waiting[0].Promised.Equal(time.Date(2027, 3, 9, 17, 0, 0, 0, time.UTC)) {
		t.Fatalf("waiting: %+v %v", waiting, err)
	}
	// the office is told once, on the working day before
	told := func() (n int) {
		if err := h.Profiles.Sweep(ctx, h.Clock.Now()); err != nil {
			t.Fatal(err)
		}
		h.Drain()
		list, _ := h.Tray.List(h.Profiles.Contact(), 0, 100)
		for _, m := range list {
			if m.Subject == "1 organisation waits to be looked over" &&
				strings.Contains(m.Body, "“Tarl Moor Society”, by 9 March 2027, 17:00") {
				n++
			}
		}
		return n
	}
	now := h.Clock.Now()
	for _, c := range []struct {
		day, want int
	}{{5, 0}, {8, 1}, {9, 1}} {
		h.Clock.Set(time.Date(2027, 3, c.day, 9, 0, 0, 0, time.UTC))
		if n := told(); n != c.want {
			t.Errorf("on %d March the office was told %d times, want %d", c.day, n, c.want)
		}
	}
	h.Clock.Set(now)
	if err := change(known); !refusal.AsUnfit(err, &unfit) {
		t.Errorf("changed while it is looked over: %v", err)
	}
	decide := func(known bool, note string) error {
		return h.Try(officer.ID, func(ctx context.Context, tx *db.Tx) error {
			return h.Profiles.Decide(ctx, tx, id, known,
				note)
		})
	}
	if err := decide(false, " "); !refusal.AsUnfit(err, &unfit) {
		t.Errorf("sent back without a word: %v", err)
	}
	if err := decide(true, ""); err != nil {
		t.Fatal(err)
	}
	if p, err := h.Profiles.Find(ctx, h.DB, id, ann.ID); err != nil || p.State != profile.Known {
		t.Errorf("it is %s, %v", p.State, err)
	}

	// somebody else joins: the code goes to the address on file, not to theirs
	cy := h.Person("cy@tarl.example", "Cy Hart")
	claim := func(number string) error {
		return h.Try(cy.ID, func(ctx context.Context, tx *db.Tx) error {
			return h.Profiles.ClaimByNumber(ctx, tx, "lei",
				number)
		})
	}
	for _, n := range []string{known, nowhere} { // the answer is the same
		if err := claim(n); err != nil {
			t.Errorf("claiming %s: %v", n, err)
		}
	}
	h.Drain()
	if mails, _ := h.Tray.List("cy@tarl.example", 0, 10); len(mails) != 0 {
		t.Errorf("%d mails to whoever asked", len(mails))
	}
	mails, _ := h.Tray.List("ann@tarl.example", 0, 10)
	code := regexp.MustCompile(`(?m)^[a-z0-9]{10}$`).FindString(mails[0].Body)
	join := func(code string) error {
		return h.Try(cy.ID, func(ctx context.Context, tx *db.Tx) error {
			_,
				err := h.Profiles.Join(ctx, tx, code)
			return err
		})
	}
	if err := join("0123456789"); !refusal.AsUnfit(err, &unfit) {
		t.Errorf("an invented code: %v", err)
	}
	if err := join(code); err != nil {
		t.Fatal(err)
	}
	if err := join(code); !refusal.AsUnfit(err, &unfit) {
		t.Errorf("the code twice: %v", err)
	}
	// a contact who wants to hear of decisions gets a copy, and of nothing else
	h.OpenRound(officer.ID, programtest.Short)
	facts := moor(known)
	facts.Contacts[1].Gets = []profile.Notice{profile.Decisions}
	h.Held(cy.ID, func(ctx context.Context, tx *db.Tx) error {
		return h.Profiles.Change(ctx, tx, id, "Tarl Moor Society", facts)
	})
	h.Held(cy.ID, func(ctx context.Context, tx *db.Tx) error {
		c, err := h.Intake.Start(ctx, tx, "shore-2027", "Peat dams", nil)
		if err != nil {
			return err
		}
		if err := h.Cases.For(ctx, tx, c.ID, id); err != nil {
			return err
		}
		if _, err := h.Intake.Nudge(ctx, tx, c); err != nil { // a reminder
			return err
		}
		if _, _, err := h.Intake.Save(ctx, tx, c, []intake.Edit{programtest.Edit("request", "9000"),
			programtest.Edit("land-leave", "yes")}); err != nil {
			return err
		}
		_, err = h.Intake.Send(ctx, tx, c)
		return err
	})
	h.Drain()
	if mails, _ := h.Tray.List("bo@tarl.example", 0, 10); len(mails) != 1 ||
		!strings.Contains(mails[0].Subject, "your application is in") || mails[0].To != "cy@tarl.example" {
		t.Errorf("Bo has %d copies", len(mails))
	}
	// the authorised person hands over, and can then leave
	if err := act(func(ctx context.Context, tx *db.Tx) error {
		return h.Profiles.Drop(ctx, tx, id,
			ann.ID)
	}); !refusal.AsUnfit(err, &unfit) {
		t.Errorf("the authorised person leaves before anybody else is: %v", err)
	}
	if err := act(func(ctx context.Context, tx *db.Tx) error {
		return h.Profiles.Propose(ctx, tx, id, cy.ID, " ", false)
	}); !refusal.AsUnfit(err, &unfit) {
		t.Errorf("handed over without a reason: %v", err)
	}
	if err := act(func(ctx context.Context, tx *db.Tx) error {
		return h.Profiles.Propose(ctx, tx, id, cy.ID, "I move to the mainland.", false)
	}); err != nil {
		t.Fatal(err)
	}
	if err := act(func(ctx context.Context, tx *db.Tx) error { return h.Profiles.Drop(ctx, tx, id, ann.ID) }); err == nil {
		t.Error("leaves before the other has agreed")
	}
	if err := act(func(ctx context.Context, tx *db.Tx) error {
		return h.Profiles.AnswerHandover(ctx, tx, id, true)
	}); !refusal.AsUnfit(err, &unfit) {
		t.Errorf("agreed to by another: %v", err)
	}
	if err := h.Try(cy.ID, func(ctx context.Context, tx *db.Tx) error {
		return h.Profiles.AnswerHandover(ctx, tx, id, true)
	}); err != nil {
		t.Fatal(err)
	}
	h.Drain()
	hears, _ := h.Tray.List(ann.Email, 0, 2)
	if len(hears) < 2 || !strings.Contains(hears[0].Subject, "no longer the authorised person") ||
		!strings.Contains(hears[0].Body, "I move to the mainland.") {
		t.Errorf("whoever was is told: %+v", hears)
	}
	if list, err := h.Profiles.Handovers(ctx, h.DB, id); err != nil || len(list) != 1 || list[0].State != "agreed" ||
		list[0].Reason != "I move to the mainland." {
		t.Errorf("%+v %v", list, err)
	}
	if err := act(func(ctx context.Context, tx *db.Tx) error { return h.Profiles.Drop(ctx, tx, id, ann.ID) }); err != nil {
		t.Errorf("then leaves: %v", err)
	}
	if _, err := h.Profiles.Find(ctx, h.DB, id, ann.ID); !errors.Is(err, profiles.ErrNotFound) {
		t.Errorf("and still sees it: %v", err)
	}
}
