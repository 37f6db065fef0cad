package connection_test

import (
	"context"
	"errors"
	"slices"
	"strings"
	"testing"

	"ulvant/core/connected"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/internal/application"
	"ulvant/internal/connection"
	"ulvant/internal/intake"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
)

// asking is the short design with a telephone, a text and a table of suppliers.
func asking(d *form.Design) {
	programtest.Short(d)
	q := func(key form.Key, kind form.Kind) form.Question {
		return form.Question{Key: key, Kind: kind, Label: string(key), Nature: form.Fact, Blank: form.MeansNo,
			Seen: form.ToReaders}
	}
	paid := q("quotes", form.Rows)
	paid.Parties, paid.Columns = form.NamesPaid, []form.Question{q("firm", form.Short), q("rings", form.Phone)}
	d.Sections[0].Questions = append(d.Sections[0].Questions, q("phone", form.Phone), q("plan", form.Long), paid)
}

// sends an application in the round with some answers.
func sends(h *programtest.Panel, email, name string, edits ...intake.Edit) (c application.Case) {
	lead := h.Person(email, name)
	h.Held(lead.ID, func(ctx context.Context, tx *db.Tx) (err error) {
		if c, err = h.Intake.Start(ctx, tx, "shore-2027", name+"’s work", nil); err != nil {
			return err
		}
		whole := programtest.WholeShort("5,000")
		for _, e := range edits { // what is said differently
			whole = slices.DeleteFunc(whole, func(x intake.Edit) bool { return x.Place == e.Place })
		}
		if _, _, err = h.Intake.Save(ctx, tx, c, append(whole, edits...)); err != nil {
			return err
		}
		c, err = h.Intake.Send(ctx, tx, c)
		return err
	})
	h.Drain()
	return c
}

func finding(t *testing.T, h *programtest.Panel, c application.Case, rule form.Key) (form.Outcome, string) {
	t.Helper()
	list, err := h.Checks.Of(t.Context(), h.DB, c.EntryID)
	if err != nil {
		t.Fatal(err)
	}
	for _, f := range list {
		if f.Rule == rule {
			return f.Outcome, f.Reason
		}
	}
	return "", ""
}

// Two accounts, one person: the second application waits, and the first too while
// its checks are open; what is ruled holds for every place they meet in, and lets
// both go on.
func TestOneApplicantUnderTwoAccounts(t *testing.T) {
	p := programtest.SentToRound(t, asking, nil)
	unknown := programtest.Edit("land-leave", "")
	unknown.Non, unknown.EditID = form.NotKnown, "unknown" // it waits for a person
	one := sends(p, "donal@north.example", "Donal O’Daly", programtest.Edit("phone", "+353 87 123 4567"),
		unknown)
	two := sends(p, "dod@south.example", "D. Ó Dálaigh", programtest.Edit("phone", "087 123 4567"))
	other := sends(p, "moya@west.example", "Moya Reed", programtest.Edit("phone", "+353 87 999 0000"))
	if o, says := finding(t, p, two, form.ConnectedRule); o != form.Person || !strings.Contains(says,
		"“D. Ó Dálaigh” applies here and “Donal O’Daly” applies in "+one.Ref+". They may be the same person: the same telephone (+353871234567) and names that agree but for an initial.") {
		t.Errorf("%s: %s", o, says)
	}
	if o, says := finding(t, p, one, form.ConnectedRule); o != form.Person || !strings.Contains(says, two.Ref) {
		t.Errorf("the first: %s %s; it is %s", o, says, p.House.StateOf(one))
	}
	if o, _ := finding(t, p, other, form.ConnectedRule); o != "" {
		t.Errorf("somebody else: %s", o)
	}
	list, err := p.Connected.List(t.Context(), p.DB, connection.Which{Round: p.Round.ID, Most: 10})
	if err != nil || len(list) != 1 || !list[0].Same {
		t.Fatalf("%+v, %v", list, err)
	}
	rule := func(matters bool, note string) error {
		return p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
			return p.Checks.RuleConnection(ctx, tx, p.Round.ID, list[0].ID, matters, note)
		})
	}
	if err := p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
		return p.Checks.RuleConnection(ctx, tx, p.Round.ID+1, list[0].ID, false, "Of another round.")
	}); !errors.Is(err, connection.ErrNoConnection) {
		t.Errorf("ruled from another round: %v", err)
	}
	if err := rule(false, " "); err == nil {
		t.Error("ruled without a note")
	}
	if err := rule(true, "One man, two crofts."); err != nil {
		t.Fatal(err)
	}
	if o, says := finding(t, p, two, form.ConnectedRule); o != form.Person || !strings.Contains(says,
		"this matters: One man, two crofts.") {
		t.Errorf("it matters: %s %s", o, says)
	}
	if err := rule(false, "Father and son, one telephone."); err != nil {
		t.Fatal(err)
	}
	if o, _ := finding(t, p, two, form.ConnectedRule); o != form.Holds || p.House.StateOf(two) != lifecycle.Eligible {
		t.Errorf("of no matter: %s, %s", o, p.House.StateOf(two))
	}
	// remembered: the same two meet again in a later application
	three := sends(p, "dod@south.example", "D. Ó Dálaigh", programtest.Edit("phone", "087 123 4567"))
	if o, says := finding(t, p, three, form.ConnectedRule); o != form.Holds {
		t.Errorf("met again: %s %s", o, says)
	}
	if open, err := p.Connected.Open(t.Context(), p.DB, p.Round.ID); err != nil || open.Connections != 0 {
		t.Errorf("%+v open, %v", open, err)
	}
}

// Whoever is to be paid is held against those who ask; somebody with nothing in
// common is not claimed.
func TestASupplierWhoIsTheApplicant(t *testing.T) {
	p := programtest.SentToRound(t, asking, nil)
	row := func(row string, col form.Key, v string) intake.Edit {
		return intake.Edit{Place: form.Place{Question: "quotes", Row: row, Column: col}, EditID: row + string(col), Value: v}
	}
	c := sends(p, "ada@north.example", "Ada Stone", programtest.Edit("phone", "+353 87 555 1212"),
		row("r0001", "firm", "Quay Plant"), row("r0001", "rings", "087 555 1212"), row("r0002", "firm", "Kirk Sawmill"),
		row("r0002", "rings", "087 777 0000"))
	if o, says := finding(t, p, c, form.ConnectedRule); o != form.Person ||
		says != "“Quay Plant” is to be paid here and “Ada Stone” applies here. They have the same telephone (+353875551212)." &&
			says != "“Ada Stone” applies here and “Quay Plant” is to be paid here. They have the same telephone (+353875551212)." {
		t.Errorf("%s: %s", o, says)
	}
}

const plan = `We will lay two hundred metres of brushwood against the foot of the north bank and peg it down before the
	spring tides, then plant marram in three rows behind it, so that the sand which the wind brings is held and the
	bank grows again as it did before the road was built. The work takes nine weeks and needs no machine on the shore.`

// A text that somebody else sent is found, shown side by side, and ruled on once.
func TestACopiedText(t *testing.T) {
	p := programtest.SentToRound(t, asking, nil)
	text := strings.Join(strings.Fields(plan), " ")
	first := sends(p, "ada@north.example", "Ada Stone", programtest.Edit("plan", text))
	own := sends(p, "ivar@west.example", "Ivar Moss",
		programtest.Edit("plan", strings.Repeat("Our kelp is cut by hand and dried on walls. ", 9)))
	copied := sends(p, "moya@south.example", "Moya Reed", programtest.Edit("plan",
		"Our island needs it badly. "+strings.Replace(text, "nine weeks", "nine weeks or ten", 1)))
	if o, _ := finding(t, p, own, form.AlikeRule); o != "" {
		t.Errorf("a text of one’s own: %s", o)
	}
	o, says := finding(t, p, copied, form.AlikeRule)
	if o != form.Person || !strings.Contains(says, "“plan” is like what "+first.Ref+" says in ") {
		t.Fatalf("%s: %s", o, says)
	}
	list, err := p.Connected.AlikeIn(t.Context(), p.DB, p.Round.ID, 0, 10)
	if err != nil || len(list) != 1 {
		t.Fatalf("%+v, %v", list, err)
	}
	x, err := p.Connected.Alike(t.Context(), p.DB, list[0].ID)
	if err != nil || x.A.Text != text || !strings.HasPrefix(x.B.Text, "Our island needs") || x.Contained < .8 ||
		x.Shared < 50 {
		t.Errorf("%+v, %v", x, err)
	}
	p.Act(p.Officer, func(ctx context.Context, tx *db.Tx) error {
		return p.Checks.RuleAlike(ctx, tx, p.Round.ID, x.ID, false, "One consultant wrote both, and says so.")
	})
	if o, _ := finding(t, p, copied, form.AlikeRule); o != form.Holds || p.House.StateOf(copied) != lifecycle.Eligible {
		t.Errorf("ruled: %s, %s", o, p.House.StateOf(copied))
	}
}

// A referee’s colleague reads: barred from that case, and from no other, until it is
// ruled of no matter; a reader who vouches is never handed it before.
func TestReadersWhoBelongToACase(t *testing.T) {
	p := programtest.ReadRound(t, map[string]string{"Ann": "20,000", "Bo": "30,000"})
	readers := p.InviteReaders("Cass", "Dov")
	p.Crowd(`UPDATE account SET email = 'cass@corvoe.example' WHERE id = $1`, readers[0]) // where all leads of the test are
	p.Act(0, p.Connected.Sync)
	bars, err := p.Connected.Bars(t.Context(), p.DB, []int64{p.Of["Ann"].ID, p.Of["Bo"].ID}, readers)
	if err != nil || len(bars) != 2 || bars[0].Account != readers[0] || bars[1].Account != readers[0] {
		t.Fatalf("%+v, %v", bars, err)
	}
	list, err := p.Connected.List(t.Context(), p.DB, connection.Which{Case: p.Of["Ann"].ID, Most: 10})
	i := slices.IndexFunc(list, func(f connection.Found) bool { return f.B.Account == readers[0] })
	if err != nil || i < 0 || list[i].B.Part != connected.Reader || list[i].A.Ref != p.Of["Ann"].Ref || list[i].Same {
		t.Fatalf("%+v, %v", list, err)
	}
	p.Act(p.Officer, func(ctx context.Context, tx *db.Tx) error {
		return p.Checks.RuleConnection(ctx, tx, p.Round.ID, list[i].ID, false, "Corvoe has one mail server for all.")
	})
	bars, err = p.Connected.Bars(t.Context(), p.DB, []int64{p.Of["Ann"].ID, p.Of["Bo"].ID}, readers)
	if err != nil || len(bars) != 1 || bars[0].Application != p.Of["Bo"].ID {
		t.Errorf("%+v, %v", bars, err)
	}
	// who reads no more is no party any more
	p.Crowd(`DELETE FROM reader WHERE account_id = $1`, readers[0])
	p.Act(0, p.Connected.Sync)
	if bars, _ = p.Connected.Bars(t.Context(), p.DB, []int64{p.Of["Bo"].ID}, readers); len(bars) != 0 {
		t.Errorf("%+v", bars)
	}
}

// What was sent before anybody looked beyond it is taken up by the sweep, once.
func TestTheSweepTakesUpWhatIsThere(t *testing.T) {
	p := programtest.SentToRound(t, asking, nil)
	c := sends(p, "ada@north.example", "Ada Stone")
	p.Crowd(`DELETE FROM gathered; DELETE FROM party`)
	if err := p.Connected.Sweep(t.Context(), p.Clock.Now()); err != nil {
		t.Fatal(err)
	}
	var n int
	if err := p.DB.GetContext(t.Context(), &n, `SELECT count(*) FROM party WHERE application_id = $1`,
		c.ID); err != nil || n == 0 {
		t.Errorf("%d parties, %v", n, err)
	}
}
