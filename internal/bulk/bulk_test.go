package bulk_test

import (
	"context"
	"slices"
	"strings"
	"testing"
	"time"

	"ulvant/core/access"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/internal/bulk"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/work"
	"ulvant/internal/programtest"
)

// many is a house with three cases, two of which a person must look at, and a draft.
type many struct {
	*programtest.Panel
	t  *testing.T
	by int64
}

func house(t *testing.T) *many {
	p := programtest.SentTo(t, map[string]string{"Ann": "9,000", "Bo": "?7,000", "Cy": "?5,000"})
	lead := p.Person("dee@corvoe.example", "Dee Hart")
	p.Act(lead.ID, func(ctx context.Context, tx *db.Tx) error {
		c, err := p.Intake.Start(ctx, tx, "shore-2027", "Dee’s work", nil)
		p.Of["Dee"] = c
		return err
	})
	return &many{p, t, p.Officer}
}

// begin chooses cases for an act.
func (m *many) begin(act bulk.Act, names ...string) bulk.Bulk {
	m.t.Helper()
	var entries []int64
	for _, n := range names {
		entries = append(entries, m.Of[n].EntryID)
	}
	var id int64
	m.Held(m.by, func(ctx context.Context, tx *db.Tx) (err error) {
		id, err = m.Bulk.Begin(ctx, tx, bulk.Bulk{Round: m.Round.ID, Act: act, Says: "some", Back: "/office"}, entries)
		return err
	})
	return m.find(id)
}

func (m *many) find(id int64) bulk.Bulk {
	m.t.Helper()
	b, err := m.Bulk.Find(context.Background(), m.DB, id, m.by)
	if err != nil {
		m.t.Fatal(err)
	}
	return b
}

// drawn tells an act what to do, and draws it.
func (m *many) drawn(b bulk.Bulk, a bulk.Args) bulk.Bulk {
	m.t.Helper()
	m.Held(m.by, func(ctx context.Context, tx *db.Tx) error { return m.Bulk.Tell(ctx, tx, b, a) })
	if err := m.Bulk.Run(context.Background(), m.Clock.Now(), b.ID, bulk.Drawing); err != nil {
		m.t.Fatal(err)
	}
	return m.find(b.ID)
}

// done puts it to work in ten minutes, and lets them pass.
func (m *many) done(b bulk.Bulk) bulk.Bulk {
	m.t.Helper()
	m.Held(m.by, func(ctx context.Context, tx *db.Tx) error {
		return m.Bulk.Do(ctx, tx, b, tx.At.Add(10*time.Minute))
	})
	m.Clock.Set(m.Clock.Now().Add(10 * time.Minute))
	m.Drain()
	return m.find(b.ID)
}

// says is what stands beside each case, by name.
func (m *many) says(b bulk.Bulk) map[string]string {
	m.t.Helper()
	out := map[string]string{}
	list, err := m.Bulk.Of(context.Background(), m.DB, b.ID, []bulk.Outcome{"", bulk.Would, bulk.WouldNot, bulk.StopOne,
		bulk.Did,
		bulk.Failed, bulk.TakenOff, bulk.Stands}, 0, 100)
	if err != nil {
		m.t.Fatal(err)
	}
	for _, x := range list {
		out[strings.TrimSuffix(x.Title, "’s work")] = string(x.Outcome) + ": " + x.Says
	}
	return out
}

func (m *many) want(b bulk.Bulk, want map[string]string) {
	m.t.Helper()
	got := m.says(b)
	for name, begins := range want {
		if !strings.HasPrefix(got[name], begins) {
			m.t.Errorf("%s: %q, want %q…", name, got[name], begins)
		}
	}
	if len(got) != len(want) {
		m.t.Errorf("%d cases: %v", len(got), got)
	}
}

// Drawing shows what would happen and changes nothing; doing does it.
func TestWritingToMany(t *testing.T) {
	m := house(t)
	b := m.begin(bulk.Write, "Ann", "Dee")
	args := bulk.Args{Subject: "About “{{title}}”", Text: "Dear {{name}}, still missing:\n{{missing}}\n{{office}}"}
	b = m.drawn(b, args)
	m.want(b, map[string]string{"Ann": "would: a mail to Ann Hart", "Dee": "would: a mail to Dee Hart"})
	list, err := m.Bulk.Of(t.Context(), m.DB, b.ID, []bulk.Outcome{bulk.Would}, 0, 10)
	if err != nil || len(list) != 2 || len(list[0].Mails) != 1 {
		t.Fatalf("%+v %v", list, err)
	}
	mail := list[1].Mails[0]
	if mail.Subject != "About “Dee’s work”" || mail.To != "dee@corvoe.example" ||
		!strings.Contains(mail.Body, "Dear Dee Hart, still missing:\n– ") || !strings.HasSuffix(mail.Body,
		"The Ostrel Isles Trust") {
		t.Errorf("the mail as drawn: %+v", mail)
	}
	m.Drain()
	if n := m.Mails("About “"); n != 0 {
		t.Fatalf("drawing sent %d mails", n)
	}
	if b = m.done(b); b.Stage != bulk.Done {
		t.Fatalf("it is %s", b.Stage)
	}
	if n := m.Mails("About “"); n != 2 {
		t.Errorf("%d mails went out", n)
	}
	// written to again on the same day it is odd, and said first
	again := m.drawn(m.begin(bulk.Write, "Ann", "Dee", "Bo"), args)
	list, err = m.Bulk.Of(t.Context(), m.DB, again.ID, []bulk.Outcome{bulk.Would}, 0, 10)
	if err != nil || !list[0].Odd || !list[1].Odd || list[2].Odd || !strings.Contains(list[0].Says, "within a day") {
		t.Errorf("%+v %v", list, err)
	}
}

// What cannot be filled in is said before any case is looked at.
func TestWhatItIsTold(t *testing.T) {
	for _, c := range []struct {
		act   bulk.Act
		args  bulk.Args
		field string
	}{
		{bulk.Write, bulk.Args{Text: "a"}, "subject"}, {bulk.Write, bulk.Args{Subject: "a"}, "text"},
		{bulk.Write, bulk.Args{Subject: "a {{b}}", Text: "c"}, "subject"},
		{bulk.Write, bulk.Args{Subject: "a", Text: "{{amount}}"}, "text"},
		{bulk.Write, bulk.Args{Subject: "{{title}}",
			Text: "{{name}} {{ref}} {{round}} {{closes}} {{missing}} {{asked}} {{office}}"}, ""},
		{bulk.Write, bulk.Args{Subject: "a", Text: strings.Repeat("x", bulk.MostText+1)}, "text"},
		{bulk.Settle, bulk.Args{Note: "a"}, "rule"}, {bulk.Settle, bulk.Args{Rule: "land"}, "note"},
		{bulk.Settle, bulk.Args{Rule: "land", Note: "seen"}, ""},
		{bulk.HandBack, bulk.Args{}, "text"}, {bulk.HandBack, bulk.Args{Text: "a", Days: 5}, "questions"},
		{bulk.MoreTime, bulk.Args{Note: "a"}, "until"}, {bulk.MoreTime, bulk.Args{Until: time.Now()}, "note"},
		{bulk.PutLabel, bulk.Args{Label: " "}, "label"}, {bulk.PutLabel, bulk.Args{Label: strings.Repeat("x", 41)}, "label"},
		{bulk.HandTo, bulk.Args{}, ""}, {bulk.Nudge, bulk.Args{}, ""},
	} {
		err := c.act.Check(c.args)
		no, _ := refusal.Of(err)
		if no.Field != c.field || (err == nil) != (c.field == "") {
			t.Errorf("%s %+v: %v at %q, want %q", c.act, c.args, err, no.Field, c.field)
		}
	}
}

// Settling a rule for many: those it waits for, and nobody else; each says what it
// would come to.
func TestSettlingForMany(t *testing.T) {
	m := house(t)
	b := m.drawn(m.begin(bulk.Settle, "Ann", "Bo", "Cy", "Dee"), bulk.Args{Rule: "land", Yes: false,
		Note: "The lease has run out."})
	m.want(b, map[string]string{"Ann": "not: this rule waits for nobody here", "Bo": "would: it would be not eligible",
		"Cy": "would: it would be not eligible", "Dee": "not: it is draft, and this cannot be done then"})
	if m.StateOf("Bo") != lifecycle.Complete {
		t.Fatalf("drawing made Bo %s", m.StateOf("Bo"))
	}
	// one is left out, and stays as it is
	m.Held(m.by, func(ctx context.Context, tx *db.Tx) error {
		return m.Bulk.StopOne(ctx, tx, b, m.Of["Cy"].EntryID, false)
	})
	b = m.done(b)
	m.want(b, map[string]string{"Ann": "not", "Bo": "did", "Cy": "stopped", "Dee": "not"})
	if m.StateOf("Bo") != lifecycle.NotEligible || m.StateOf("Cy") != lifecycle.Complete {
		t.Errorf("Bo is %s, Cy is %s", m.StateOf("Bo"), m.StateOf("Cy"))
	}
	if err := m.Try(m.by, func(ctx context.Context, tx *db.Tx) error { return m.Bulk.Undo(ctx, tx, b) }); err == nil {
		t.Error("what was told to applicants is undone")
	}
}

// What changed between drawing and doing is looked at again, and said.
func TestLookedAtAgainWhenItIsDone(t *testing.T) {
	m := house(t)
	b := m.drawn(m.begin(bulk.Settle, "Bo", "Cy"), bulk.Args{Rule: "land", Yes: true, Note: "Seen."})
	m.Act(m.by, func(ctx context.Context, tx *db.Tx) error {
		return m.Checks.Settle(ctx, tx, m.Of["Bo"], "land", true, "By hand, meanwhile.")
	})
	b = m.done(b)
	m.want(b, map[string]string{"Bo": "failed: this rule waits for nobody here", "Cy": "did: it would be eligible"})
	w, err := m.Work.Any(t.Context(), b.WorkID)
	if err != nil || w.EndedAt == nil || w.Says != "Done to 1 application; 1 could not be and says why." {
		t.Errorf("what came of it: %+v %v", w, err)
	}
}

// A held act can be stopped until it begins, and not after.
func TestStopping(t *testing.T) {
	m := house(t)
	b := m.drawn(m.begin(bulk.Write, "Ann"), bulk.Args{Subject: "Stop me", Text: "Please."})
	do := func(b bulk.Bulk) error {
		return m.Try(m.by, func(ctx context.Context, tx *db.Tx) error { return m.Bulk.Do(ctx, tx, b, tx.At.Add(time.Hour)) })
	}
	if err := do(b); err != nil {
		t.Fatal(err)
	}
	if err := do(m.find(b.ID)); err == nil {
		t.Error("it is done twice")
	}
	m.Clock.Set(m.Clock.Now().Add(59 * time.Minute))
	m.Drain()
	if b = m.find(b.ID); b.Stage != bulk.Held || m.Mails("Stop me") != 0 {
		t.Fatalf("before its time it is %s", b.Stage)
	}
	m.Held(m.by, func(ctx context.Context, tx *db.Tx) error { return m.Bulk.Stop(ctx, tx, b) })
	m.Clock.Set(m.Clock.Now().Add(2 * time.Hour))
	m.Drain()
	if b = m.find(b.ID); b.Stage != bulk.Stopped || m.Mails("Stop me") != 0 {
		t.Errorf("stopped, it is %s, with %d mails", b.Stage, m.Mails("Stop me"))
	}
	done := m.done(m.drawn(m.begin(bulk.Write, "Ann"), bulk.Args{Subject: "Too late", Text: "Please."}))
	if err := m.Try(m.by, func(ctx context.Context, tx *db.Tx) error { return m.Bulk.Stop(ctx, tx, done) }); err == nil {
		t.Error("what was done is stopped")
	}
}

// Labels and who looks after a case are undone; what changed meanwhile stands.
func TestUndoing(t *testing.T) {
	m := house(t)
	jonas := m.Person("jonas@ostrel-trust.example", "Jonas Tarn").ID
	m.Act(0, func(ctx context.Context, tx *db.Tx) error {
		return m.People.GiveRole(ctx, tx, jonas, access.Held{Role: access.LooksAfter})
	})
	undo := func(b bulk.Bulk) bulk.Bulk {
		t.Helper()
		m.Held(m.by, func(ctx context.Context, tx *db.Tx) error { return m.Bulk.Undo(ctx, tx, b) })
		m.Drain()
		return m.find(b.ID)
	}
	labels := func(name string) string {
		list, err := m.Colleagues.Labels(t.Context(), m.DB, m.Of[name])
		if err != nil {
			t.Fatal(err)
		}
		return strings.Join(list, ",")
	}
	m.Act(m.by, func(ctx context.Context, tx *db.Tx) error {
		_, err := m.Colleagues.Label(ctx, tx, m.Of["Bo"], "visit", true)
		return err
	})
	b := m.done(m.drawn(m.begin(bulk.PutLabel, "Ann", "Bo"), bulk.Args{Label: "visit"}))
	m.want(b, map[string]string{"Ann": "did: labelled visit then", "Bo": "not: it has this label already"})
	if labels("Ann") != "visit" {
		t.Fatalf("Ann is labelled %q", labels("Ann"))
	}
	b = undo(b)
	m.want(b, map[string]string{"Ann": "undone", "Bo": "not"})
	if labels("Ann") != "" || labels("Bo") != "visit" {
		t.Errorf("undone, Ann has %q and Bo %q", labels("Ann"), labels("Bo"))
	}

	b = m.done(m.drawn(m.begin(bulk.HandTo, "Ann", "Cy"), bulk.Args{Account: jonas}))
	m.want(b, map[string]string{"Ann": "did: looked after by Jonas Tarn", "Cy": "did: looked after by Jonas Tarn"})
	m.Act(m.by, func(ctx context.Context, tx *db.Tx) error {
		_, err := m.Colleagues.Hand(ctx, tx, m.Of["Cy"], m.Officer)
		return err
	})
	b = undo(b)
	m.want(b, map[string]string{"Ann": "undone", "Cy": "stands: it was handed to somebody else meanwhile"})
	if now, err := m.Colleagues.InHand(t.Context(), m.DB, m.Of["Cy"]); err != nil || now != m.Officer {
		t.Errorf("Cy is with %d: %v", now, err)
	}
	if stranger := m.drawn(m.begin(bulk.HandTo, "Ann"), bulk.Args{Account: m.Of["Bo"].LeadID}); true {
		m.want(stranger, map[string]string{"Ann": "not: they do not work at the office"})
	}
}

// More time is given to drafts, and a query to what was sent.
func TestMoreTimeAndHandingBack(t *testing.T) {
	m := house(t)
	until := m.Form.Window().Closes.AddDate(0, 0, 3)
	b := m.done(m.drawn(m.begin(bulk.MoreTime, "Ann", "Dee"), bulk.Args{Until: until, Note: "The ferry was cancelled."}))
	m.want(b, map[string]string{"Ann": "not: it is eligible, and this cannot be done then", "Dee": "did: until "})
	b = m.done(m.drawn(m.begin(bulk.HandBack, "Ann", "Dee"), bulk.Args{Text: "How much?", Days: 5,
		Questions: []form.Key{"request"}}))
	m.want(b, map[string]string{"Ann": "did: handed back to Ann Hart, to be answered by ",
		"Dee": "not: it is draft, and this cannot be done then"})
	if m.StateOf("Ann") != lifecycle.HandedBack {
		t.Errorf("Ann is %s", m.StateOf("Ann"))
	}
	b = m.done(m.drawn(m.begin(bulk.Nudge, "Ann", "Dee"), bulk.Args{}))
	if got := m.says(b); !strings.HasPrefix(got["Dee"], "did: a mail to Dee Hart") ||
		!strings.HasPrefix(got["Ann"], "not") {
		t.Errorf("nudged: %v", got)
	}
}

// Each case is asked about with the roles of whoever acts, as they are when it is
// done: a colleague of one area acts on that area alone, and a role that was taken
// away meanwhile acts on nothing.
func TestOnlyWhatOnesRolesAllow(t *testing.T) {
	m := house(t)
	piran := m.Person("piran@ostrel-trust.example", "Piran Lode").ID
	give := func(do func(context.Context, *db.Tx) error) { m.Act(0, do) }
	give(func(ctx context.Context, tx *db.Tx) error {
		return m.People.GiveRole(ctx, tx, piran, access.Held{Role: access.Checks})
	})
	m.by = piran
	m.want(m.drawn(m.begin(bulk.Write, "Ann"), bulk.Args{Subject: "a", Text: "b"}),
		map[string]string{"Ann": "not: this is a colleague’s to do"})
	b := m.drawn(m.begin(bulk.Settle, "Bo"), bulk.Args{Rule: "land", Yes: true, Note: "Seen."})
	m.want(b, map[string]string{"Bo": "would"})
	give(func(ctx context.Context, tx *db.Tx) error {
		return m.People.TakeRole(ctx, tx, piran, access.Checks, access.Scope{})
	})
	m.want(m.done(b), map[string]string{"Bo": "failed: this is a colleague’s to do"})
	if m.StateOf("Bo") != lifecycle.Complete {
		t.Errorf("Bo is %s", m.StateOf("Bo"))
	}
	// and nobody sees another's act
	if _, err := m.Bulk.Find(t.Context(), m.DB, b.ID, m.Officer); err == nil {
		t.Error("it is another's to see")
	}
}

// Many are drawn and done by a job, which goes on where another was cut off.
func TestAJobGoesOn(t *testing.T) {
	m := house(t)
	b := m.begin(bulk.PutLabel, "Ann", "Bo", "Cy", "Dee")
	m.Act(m.by, func(ctx context.Context, tx *db.Tx) error { return m.Bulk.Tell(ctx, tx, b, bulk.Args{Label: "large"}) })
	m.Drain()
	if b = m.find(b.ID); b.Stage != bulk.Drawn {
		t.Fatalf("the job left it %s", b.Stage)
	}
	m.Act(m.by, func(ctx context.Context, tx *db.Tx) error { return m.Bulk.Do(ctx, tx, b, tx.At) })
	// as if the server had been killed after two
	if _, err := m.DB.Exec(`UPDATE bulk SET stage = 'doing' WHERE id = $1`, b.ID); err != nil {
		t.Fatal(err)
	}
	if _, err := m.DB.Exec(`UPDATE bulked SET outcome = 'did' WHERE bulk_id = $1 AND number <= 2`, b.ID); err != nil {
		t.Fatal(err)
	}
	if err := m.Bulk.Run(t.Context(), m.Clock.Now(), b.ID, bulk.Held); err != nil {
		t.Fatal(err)
	}
	b = m.find(b.ID)
	if got := m.says(b); b.Stage != bulk.Done || !slices.Equal([]string{got["Cy"], got["Dee"]},
		[]string{"did: labelled large then", "did: labelled large then"}) {
		t.Errorf("%s: %v", b.Stage, got)
	}
	w, err := m.Work.Any(t.Context(), b.WorkID)
	if err != nil || w.Done != 4 || w.Kind != work.Bulk {
		t.Errorf("%+v %v", w, err)
	}
	if err := m.Bulk.Run(t.Context(), m.Clock.Now(), b.ID, bulk.Held); err != nil {
		t.Errorf("once more: %v", err)
	}
}

// A request and a job that run beside each other do each case once.
func TestEachCaseOnce(t *testing.T) {
	m := house(t)
	b := m.drawn(m.begin(bulk.Write, "Ann", "Bo", "Cy", "Dee"), bulk.Args{Subject: "Only once", Text: "Dear {{name}}"})
	m.Act(m.by, func(ctx context.Context, tx *db.Tx) error { return m.Bulk.Do(ctx, tx, b, tx.At) })
	if _, err := m.DB.Exec(`UPDATE bulk SET stage = 'doing' WHERE id = $1`, b.ID); err != nil {
		t.Fatal(err)
	}
	ended := make(chan error)
	for range 4 {
		go func() { ended <- m.Bulk.Run(t.Context(), m.Clock.Now(), b.ID, bulk.Held) }()
	}
	for range 4 {
		if err := <-ended; err != nil {
			t.Error(err)
		}
	}
	m.Drain()
	if n := m.Mails("Only once"); n != 4 || m.find(b.ID).Stage != bulk.Done {
		t.Errorf("%d mails, and it is %s", n, m.find(b.ID).Stage)
	}
}

// What cannot be begun.
func TestBegin(t *testing.T) {
	m := house(t)
	for what, c := range map[string]struct {
		act     bulk.Act
		entries []int64
	}{"nothing chosen": {bulk.Write, nil}, "no such act": {"burn", []int64{1}},
		"too many": {bulk.Write, make([]int64, bulk.MostCases+1)}} {
		err := m.Try(m.by, func(ctx context.Context, tx *db.Tx) error {
			_, err := m.Bulk.Begin(ctx, tx, bulk.Bulk{Act: c.act}, c.entries)
			return err
		})
		if _, said := refusal.Of(err); !said {
			t.Errorf("%s: %v", what, err)
		}
	}
	for _, a := range bulk.Acts {
		if a.Label() == "" || a.Needs() == "" || a.Leaves() == a.Undoes() {
			t.Errorf("%s: %q needs %q, leaves %v, undoes %v", a, a.Label(), a.Needs(), a.Leaves(), a.Undoes())
		}
	}
}
