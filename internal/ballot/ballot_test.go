package ballot_test

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"ulvant/core/design"
	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/core/vote"
	"ulvant/internal/ballot"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
)

var bg = context.Background()

func refused(t *testing.T, err error, says string) {
	t.Helper()
	no, ok := refusal.Of(err)
	if !ok || !strings.Contains(no.Error(), says) {
		t.Errorf("%v; not refused with %q", err, says)
	}
}

// The example of section 9 of the values from outside, from the mail to the published
// file: ten voters, A and D are bought, 40,000 stays.
func TestFromTheMailToTheResult(t *testing.T) {
	p := programtest.LaidOut(t, programtest.PublicVote)
	p.Box([]string{"AB", "AB", "AB", "ABC", "A", "AC", "CD", "DE", "DE"})
	last := p.Asks("Ten+second@place.example")
	if err := p.Casts(last, "B"); err != nil {
		t.Fatal(err)
	}
	p.Clock.Set(p.Form.VoteWindow().Closes.Add(-time.Second))
	if err := p.Casts(last, "E"); err != nil {
		t.Errorf("a second before it closes it cannot be changed: %v", err)
	}
	if err := p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
		_, err := p.Ballots.Count(ctx, tx, p.Round, p.Form)
		return err
	}); err == nil {
		t.Error("it is counted before it is closed")
	}
	p.Clock.Set(p.Form.VoteWindow().Closes)
	refused(t, p.Casts(last, "A"), "the vote is closed")
	p.Do(func(ctx context.Context, tx *db.Tx) error {
		n, err := p.Ballots.Count(ctx, tx, p.Round, p.Form)
		if n != 10 {
			t.Errorf("%d ballots", n)
		}
		return err
	})
	p.Do(func(ctx context.Context, tx *db.Tx) error { return p.Ballots.Publish(ctx, tx, p.Round, p.Form, "") })
	raw, err := p.Ballots.Document(bg, p.DB, p.Round.ID)
	if err != nil {
		t.Fatal(err)
	}
	doc, _, err := outcome(t, raw, p)
	if err != nil {
		t.Fatal(err)
	}
	var won []string
	for _, n := range doc.Result.Won {
		won = append(won, doc.Projects[n-1].Title[:1])
	}
	slices.Sort(won)
	if strings.Join(won, "") != "AD" || doc.Result.Spent != 60_000_00 || len(doc.Projects) != 5 {
		t.Errorf("%v for %d of %d projects", won, doc.Result.Spent, len(doc.Projects))
	}
	i := slices.IndexFunc(doc.Ballots, func(s vote.Slip) bool { return s.Receipt == last.Receipt() })
	if i < 0 || !slices.Equal(doc.Ballots[i].Choice, p.Names("E")) {
		t.Errorf("the tenth voter does not find their ballot by the receipt")
	}
	if strings.Contains(string(raw), "@") || strings.Contains(string(raw), string(last)) {
		t.Errorf("a name or a link stands in what is published")
	}
}

// outcome reads what is published, and what stands in its summary.
func outcome(t *testing.T, raw []byte, p programtest.Polls) (*vote.Published, vote.Outcome, error) {
	t.Helper()
	doc, err := vote.ReadPublished(raw)
	if err != nil {
		t.Fatal(err)
	}
	x, err := p.Ballots.Summary(bg, p.DB, p.Round.ID)
	if err != nil {
		t.Fatal(err)
	}
	if !slices.Equal(x.Result.Came, doc.Result.Came) || len(x.Ballots) != 0 || !slices.Equal(doc.Projects, x.Projects) {
		t.Errorf("the summary says otherwise: %+v", x)
	}
	return doc, x.All, nil
}

// Nothing in the database leads from a voter to a ballot: not the link, which stands
// nowhere, not the text of its mail, not an order of rows, not a time.
func TestWhoVotedAndWhatTheyChoseAreApart(t *testing.T) {
	p := programtest.LaidOut(t, programtest.PublicVote)
	token := p.Asks("ann@corvoe.example")
	if err := p.Casts(token, "A"); err != nil {
		t.Fatal(err)
	}
	p.Box([]string{"B", "C", "D"})
	var bodies []string
	if err := p.DB.SelectContext(bg, &bodies, `SELECT body FROM post WHERE kind = 'ballot'`); err != nil {
		t.Fatal(err)
	}
	for _, b := range bodies {
		if b != "" {
			t.Errorf("the text of a ballot’s mail is kept: %q", b)
		}
	}
	p.Clock.Set(p.Form.VoteWindow().Closes)
	p.Do(func(ctx context.Context, tx *db.Tx) error {
		_, err := p.Ballots.Count(ctx, tx, p.Round, p.Form)
		return err
	})
	var x struct{ Same, Txs, Out int }
	if err := p.DB.GetContext(bg, &x, `
		SELECT (SELECT count(*) FROM voter v JOIN ballot b ON b.key IN (v.token, v.code, v.network)) AS same, count(DISTINCT xmin::text) AS txs,
		       (SELECT count(*) FROM (SELECT key < lag(key) OVER (ORDER BY ctid) AS out FROM ballot) o WHERE out) AS out
		FROM ballot`); err != nil {
		t.Fatal(err)
	}
	if x.Same != 0 || x.Txs != 1 || x.Out != 0 {
		t.Errorf(
			"%d ballots are found by what stands at a voter; they were written in %d transactions, %d out of the order of their keys",
			x.Same,
			x.Txs,
			x.Out,
		)
	}
	var everything string
	if err := p.DB.GetContext(bg, &everything, `
		SELECT concat((SELECT string_agg(v::text, ' ') FROM voter v), (SELECT string_agg(j.args::text, ' ') FROM river_job j),
		              (SELECT string_agg(r::text, ' ') FROM post r))`); err != nil {
		t.Fatal(err)
	}
	if strings.Contains(everything, string(token)) {
		t.Error("the link of a ballot is kept")
	}
	asked, voted, err := p.Ballots.Voted(bg, p.DB, p.Round.ID, "Ann@corvoe.example")
	if err != nil || !asked || !voted {
		t.Errorf("that she voted is not known: %v %v %v", asked, voted, err)
	}
	p.Do(func(ctx context.Context, tx *db.Tx) error { return p.Ballots.Publish(ctx, tx, p.Round, p.Form, "") })
	for _, c := range []struct {
		days int
		want bool
	}{{ballot.KeptDays - 1, true}, {ballot.KeptDays, false}} {
		p.Clock.Set(p.Form.VoteWindow().Closes.AddDate(0, 0, c.days).Add(time.Minute))
		if err := p.Jobs.Sweep(bg, p.Clock.Now()); err != nil {
			t.Fatal(err)
		}
		if asked, _, _ := p.Ballots.Voted(bg, p.DB, p.Round.ID, "ann@corvoe.example"); asked != c.want {
			t.Errorf("after %d days her address is kept: %v", c.days, asked)
		}
	}
	var left int
	if err := p.DB.GetContext(bg, &left, `
		SELECT (SELECT count(*) FROM post WHERE kind = 'ballot' AND to_address <> '') + (SELECT count(*) FROM vote_pace) + (SELECT count(*) FROM vote_tally)`); err != nil || left != 0 {
		t.Errorf("%d traces of who voted are left, %v", left, err)
	}
	out, err := p.Ballots.Turnout(bg, p.DB, p.Round, p.Form)
	if err != nil || out.Ballots != 4 || out.ByMail != 4 {
		t.Errorf("%+v %v", out, err)
	}
}

// Only what was agreed to and let through stands on the paper, and nothing that changed
// since somebody looked at it.
func TestModeratedFirst(t *testing.T) {
	p := programtest.Polls{Panel: programtest.SentToRound(t, programtest.PublicVote, programtest.ForVote)}
	p.Clock.Set(p.Form.At("vote-from").Add(-24 * time.Hour))
	p.Drain()
	gather := func(want int) {
		t.Helper()
		p.Do(func(ctx context.Context, tx *db.Tx) error {
			n, err := p.Ballots.Gather(ctx, tx, p.Round, p.Form, nil)
			if n != want {
				t.Errorf("%d projects, not %d", n, want)
			}
			return err
		})
	}
	layOut := func() error {
		return p.Try(p.Officer,
			func(ctx context.Context, tx *db.Tx) error { return p.Ballots.LayOut(ctx, tx, p.Round, p.Form) })
	}
	gather(5)
	refused(t, layOut(), "5 projects were looked at by nobody")
	list, err := p.Ballots.Projects(bg, p.DB, p.Round.ID, 0, ballot.PerList)
	if err != nil {
		t.Fatal(err)
	}
	for i, x := range list {
		if len(x.Shown) != 1 || x.Shown[0].Label != "What would you do?" || x.Cost == 0 {
			t.Errorf("%s shows %v and costs %d", x.Title, x.Shown, x.Cost)
		}
		ruling, why := "shown", ""
		if i == 2 {
			refused(t, p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
				return p.Ballots.Look(ctx, tx, p.Round, p.Form, x.ID, "held", " ")
			}), "Say why")
			ruling, why = "held", "It names a neighbour."
		}
		p.Do(func(ctx context.Context, tx *db.Tx) error {
			return p.Ballots.Look(ctx, tx, p.Round, p.Form, x.ID, ruling, why)
		})
	}
	gather(5) // nothing changed: what was ruled stays
	if err := layOut(); err != nil {
		t.Fatal(err)
	}
	paper, err := p.Ballots.OnPaper(bg, p.DB, p.Round.ID)
	if err != nil || len(paper) != 4 ||
		slices.ContainsFunc(paper, func(x ballot.Project) bool { return x.ID == list[2].ID }) {
		t.Errorf("%d stand on the paper: %v", len(paper), err)
	}
	refused(t, p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
		return p.Ballots.Look(ctx, tx, p.Round, p.Form, list[0].ID, "held", "late")
	}), "the ballot paper is laid out")
	refused(
		t,
		p.Try(p.Officer,
			func(ctx context.Context, tx *db.Tx) error { return p.Ballots.TakeBack(ctx, tx, p.Round, p.Form, "") }),
		"Say why",
	)
	if v := p.Vote(); v.Phase(p.Form, p.Clock.Now()) != ballot.Preparing {
		t.Errorf("before its time it is %s", v.Phase(p.Form, p.Clock.Now()))
	}
	refused(t, p.Try(0, func(ctx context.Context, tx *db.Tx) error {
		return p.Ballots.Ask(ctx, tx, p.Round, p.Form, p.Vote(), "a@b.example", "")
	}), "votes are not taken yet")
	p.Do(func(ctx context.Context, tx *db.Tx) error {
		return p.Ballots.TakeBack(ctx, tx, p.Round, p.Form, "One is missing.")
	})
	if p.Vote().Laid != nil {
		t.Error("the paper is not taken back")
	}
	if err := layOut(); err != nil {
		t.Fatal(err)
	}
	p.Clock.Set(p.Form.At("vote-from"))
	p.Box([]string{""})
	refused(t, p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
		return p.Ballots.TakeBack(ctx, tx, p.Round, p.Form, "late")
	}), "1 ballot is in the box")
}

// One ballot each: asking again before voting sends another link, after it none; a code
// on paper works once; both are counted.
func TestOneBallotEach(t *testing.T) {
	p := programtest.LaidOut(t, programtest.PublicVote)
	first := p.Asks("ann@corvoe.example")
	p.Clock.Set(p.Clock.Now().Add(2*time.Minute - time.Second))
	if p.Asks("ann@corvoe.example") != first { // somebody else who types it floods nobody, and takes no link away
		t.Error("another mail goes out at once")
	}
	p.Clock.Set(p.Clock.Now().Add(time.Second))
	second := p.Asks(" Ann+again@CORVOE.example ")
	refused(t, p.Casts(first, "A"), "a newer one has taken its place")
	if err := p.Casts(second, "A"); err != nil {
		t.Fatal(err)
	}
	p.Clock.Set(p.Clock.Now().Add(2 * time.Minute))
	if third := p.Asks("ann@corvoe.example"); third != "" {
		t.Error("another ballot goes out to an address whose ballot is in the box")
	}
	if n := p.Mails("Your ballot is in the box already"); n != 1 {
		t.Errorf("%d mails say so", n)
	}
	if err := p.Casts(second, "BC"); err != nil {
		t.Errorf("the ballot cannot be changed any more: %v", err)
	}
	refused(t, p.Try(0, func(ctx context.Context, tx *db.Tx) error {
		return p.Ballots.Ask(ctx, tx, p.Round, p.Form, p.Vote(), "no address", "")
	}), "not a mail address")

	for range 9 {
		p.Clock.Set(p.Clock.Now().Add(2 * time.Minute))
		p.Asks("eve@corvoe.example")
	}
	p.Clock.Set(p.Clock.Now().Add(2 * time.Minute))
	eve := p.Asks("eve@corvoe.example") // the tenth
	p.Clock.Set(p.Clock.Now().Add(2 * time.Minute))
	refused(t, p.Try(0, func(ctx context.Context, tx *db.Tx) error {
		return p.Ballots.Ask(ctx, tx, p.Round, p.Form, p.Vote(), "eve@corvoe.example", "")
	}), "sent its ballot many times")
	if err := p.Casts(eve, ""); err != nil {
		t.Errorf("the last link sent opens nothing: %v", err)
	}

	var codes []string
	var sheet int64
	p.Do(func(ctx context.Context, tx *db.Tx) (err error) {
		sheet, codes, err = p.Ballots.Print(ctx, tx, p.Round, p.Form, "Library at Skerra", 3)
		return err
	})
	enter := func(code string) (token ballot.Token, err error) {
		err = p.Try(0, func(ctx context.Context, tx *db.Tx) error {
			token, err = p.Ballots.Enter(ctx, tx, p.Form, p.Vote(), code, "198.51.100.7")
			return err
		})
		if err != nil {
			no := err
			p.Do(func(ctx context.Context, tx *db.Tx) error { return p.Ballots.NoteTry(ctx, tx, p.Form, p.Vote(), no) })
		}
		return token, err
	}
	a, err := enter(strings.ToLower(strings.ReplaceAll(codes[0], "-", " ")))
	if err != nil {
		t.Fatal(err)
	}
	b, err := enter(codes[0]) // typed again, as nothing was voted
	if err != nil {
		t.Fatal(err)
	}
	refused(t, p.Casts(a, "A"), "a newer one")
	if err := p.Casts(b, "D"); err != nil {
		t.Fatal(err)
	}
	if _, err = enter(codes[0]); !errors.Is(err, ballot.ErrCodeUsed) {
		t.Errorf("a used code: %v", err)
	}
	if err := p.Casts(b, "E"); err != nil {
		t.Errorf("a ballot by code cannot be changed: %v", err)
	}
	_, err = enter("2222-2222-2222")
	refused(t, err, "No ballot has this code")
	p.Do(func(ctx context.Context, tx *db.Tx) error {
		return p.Ballots.Void(ctx, tx, p.Round, sheet, "It was left on a bus.")
	})
	_, err = enter(codes[1])
	refused(t, err, "taken back the sheet")
	if err := p.Casts(b, "D"); err != nil {
		t.Errorf("who had voted before the sheet was taken back: %v", err)
	}
	out, err := p.Ballots.Turnout(bg, p.DB, p.Round, p.Form)
	if err != nil || out.Ballots != 3 || out.ByMail != 2 || out.Asked != 2 || out.Opened != 1 ||
		out.Tries[ballot.AgainByMail] != 1 ||
		out.Tries[ballot.AgainByCode] != 1 ||
		out.Tries[ballot.NoSuchCode] != 2 {
		t.Errorf("%+v %v", out, err)
	}
	sheets, err := p.Ballots.Sheets(bg, p.DB, p.Round.ID)
	if err != nil || len(sheets) != 1 || sheets[0].Used != 1 || sheets[0].Void == nil {
		t.Errorf("%+v %v", sheets, err)
	}
}

// Who comes from one house too often waits for a turn, which nobody else can use, and
// then goes through.
func TestWaiting(t *testing.T) {
	p := programtest.LaidOut(t, programtest.PublicVote)
	wait := func(from, what, waited string) (turn ballot.Turn) {
		t.Helper()
		if err := p.Try(0, func(ctx context.Context, tx *db.Tx) (err error) {
			turn, err = p.Ballots.Wait(ctx, tx, p.Vote(), p.Form, from, what, waited)
			return err
		}); err != nil {
			t.Fatal(err)
		}
		return turn
	}
	for i := range 12 {
		if turn := wait(fmt.Sprintf("198.51.100.%d", i), "a", ""); !turn.At.IsZero() {
			t.Fatalf("number %d waits", i+1)
		}
	}
	turn := wait("198.51.100.77", "me@x.example", "")
	if turn.At.IsZero() || turn.At.Sub(p.Clock.Now()) > 4*time.Second {
		t.Fatalf("the thirteenth waits until %s", turn.At)
	}
	if !wait("203.0.113.1", "me@x.example", "").At.IsZero() || !wait("2001:db8::1", "a", "").At.IsZero() {
		t.Error("another house waits")
	}
	if again := wait("198.51.100.77", "me@x.example", turn.Sign); !again.At.Equal(turn.At) {
		t.Error("asking early moves the turn")
	}
	p.Clock.Set(turn.At)
	if later := wait("198.51.100.77", "me@x.example", turn.Sign); !later.At.IsZero() {
		t.Error("whoever waited waits again")
	}
	for range 12 {
		wait("198.51.100.1", "a", "")
	}
	if !wait("198.51.100.77", "other@x.example", turn.Sign).At.After(p.Clock.Now()) ||
		!wait("198.51.100.77", "me@x.example", "9999999999.forged").At.After(p.Clock.Now()) {
		t.Error("a turn is used by another, or a forged one")
	}
	out, err := p.Ballots.Turnout(bg, p.DB, p.Round, p.Form)
	if err != nil || out.Tries[ballot.Waited] < 3 {
		t.Errorf("%+v %v", out, err)
	}
}

// Forty of one domain in a minute are a pattern; somebody rules with a reason, and the
// result says both counts. A mark that fewer than five ballots share is taken away.
func TestPatterns(t *testing.T) {
	p := programtest.LaidOut(t, programtest.PublicVote)
	// a quiet day before: others of many places
	p.Box(slices.Repeat([]string{"D"}, 30))
	p.Clock.Set(p.Clock.Now().Add(24 * time.Hour).Truncate(time.Minute))
	ask := func(address, from string) {
		t.Helper()
		if err := p.Try(0, func(ctx context.Context, tx *db.Tx) error {
			return p.Ballots.Ask(ctx, tx, p.Round, p.Form, p.Vote(), address, from)
		}); err != nil {
			t.Fatal(err)
		}
	}
	for i := range 40 {
		ask(fmt.Sprintf("bot%d@burst.example", i), fmt.Sprintf("203.%d.113.1", i))
	}
	for i := range 7 {
		ask(fmt.Sprintf("few%d@small.example", i), fmt.Sprintf("204.%d.113.1", i))
	}
	p.Drain()
	for i := range 20 {
		if err := p.Casts(p.Mailed(fmt.Sprintf("bot%d@burst.example", i)), "B"); err != nil {
			t.Fatal(err)
		}
	}
	for i := range 4 {
		if err := p.Casts(p.Mailed(fmt.Sprintf("few%d@small.example", i)), "C"); err != nil {
			t.Fatal(err)
		}
	}
	if _, err := p.DB.ExecContext(bg, `
		WITH x AS (INSERT INTO vote_pattern (round_id, kind, what, minute, came) VALUES ($1, 'domain', 'small.example', now(), 7) RETURNING id)
		UPDATE ballot SET pattern_id = (SELECT id FROM x) WHERE round_id = $1 AND choice = $2`, p.Round.ID, []int(p.Names("C"))); err != nil {
		t.Fatal(err)
	}
	list, err := p.Ballots.Patterns(bg, p.DB, p.Round.ID, 0)
	if err != nil {
		t.Fatal(err)
	}
	i := slices.IndexFunc(list, func(x ballot.Pattern) bool { return x.What == "burst.example" })
	if i < 0 || list[i].Came != 40 || list[i].Ballots != 20 {
		t.Fatalf("%+v", list)
	}
	p.Clock.Set(p.Form.VoteWindow().Closes)
	count := func() {
		t.Helper()
		p.Do(func(ctx context.Context, tx *db.Tx) error {
			_, err := p.Ballots.Count(ctx, tx, p.Round, p.Form)
			return err
		})
	}
	publish := func() error {
		return p.Try(p.Officer,
			func(ctx context.Context, tx *db.Tx) error { return p.Ballots.Publish(ctx, tx, p.Round, p.Form, "") })
	}
	refused(t, publish(), "not counted")
	count()
	refused(t, publish(), "1 pattern waits")
	var marked int
	if err := p.DB.GetContext(bg, &marked, `SELECT count(*) FROM ballot WHERE pattern_id IS NOT NULL AND choice = $1`,
		[]int(p.Names("C"))); err != nil ||
		marked != 0 {
		t.Errorf("%d ballots keep a mark that four share: %v", marked, err)
	}
	refused(t, p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
		return p.Ballots.Rule(ctx, tx, p.Round, list[i].ID, "left out", "")
	}), "Say why")
	p.Do(func(ctx context.Context, tx *db.Tx) error {
		return p.Ballots.Rule(ctx, tx, p.Round, list[i].ID, "left out", "Forty addresses made in one minute.")
	})
	refused(t, publish(), "not counted")
	count()
	if err := publish(); err != nil {
		t.Fatal(err)
	}
	raw, err := p.Ballots.Document(bg, p.DB, p.Round.ID)
	if err != nil {
		t.Fatal(err)
	}
	doc, all, err := outcome(t, raw, p)
	if err != nil || doc.Result.Ballots != 34 || all.Ballots != 54 || len(doc.LeftOut) != 1 ||
		doc.LeftOut[0].Ballots != 20 ||
		doc.Result.Came[p.Place('B')] != 0 ||
		all.Came[p.Place('B')] != 20 {
		t.Errorf("%d without and %d with, %+v: %v", doc.Result.Ballots, all.Ballots, doc.LeftOut, err)
	}
	refused(t, p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
		return p.Ballots.Rule(ctx, tx, p.Round, list[i].ID, "counts", "They are a school.")
	}), "take it back first")
	p.Do(func(ctx context.Context, tx *db.Tx) error {
		return p.Ballots.Unpublish(ctx, tx, p.Round, p.Form, "They are a school.")
	})
	p.Do(func(ctx context.Context, tx *db.Tx) error {
		return p.Ballots.Rule(ctx, tx, p.Round, list[i].ID, "counts", "They are a school.")
	})
	count()
	if err := publish(); err != nil {
		t.Fatal(err)
	}
}

// A project that is taken off stays on the paper with its reason; nobody can choose it
// anew, and votes for it do not count.
func TestTakenOff(t *testing.T) {
	p := programtest.LaidOut(t, programtest.PublicVote)
	token := p.Asks("ann@corvoe.example")
	if err := p.Casts(token, "AB"); err != nil {
		t.Fatal(err)
	}
	list, err := p.Ballots.OnPaper(bg, p.DB, p.Round.ID)
	if err != nil {
		t.Fatal(err)
	}
	off := func(project int64, off bool, why string) error {
		return p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
			return p.Ballots.TakeOff(ctx, tx, p.Round, p.Form, project, off, why)
		})
	}
	refused(t, off(list[p.Place('B')].ID, true, ""), "Say why")
	for _, letter := range "AB" {
		if err := off(list[p.Place(letter)].ID, true, "It is built already."); err != nil {
			t.Fatal(err)
		}
	}
	if err := off(list[p.Place('A')].ID, false, "It is not."); err != nil {
		t.Fatal(err)
	}
	if err := p.Casts(token, "BC"); err != nil { // it stood there before
		t.Error(err)
	}
	refused(t, p.Casts(p.Asks("bo@corvoe.example"), "B"), "was taken off the ballot paper")
	p.Do(func(ctx context.Context, tx *db.Tx) error { return p.Intake.Withdraw(ctx, tx, p.Of["C"]) })
	p.Clock.Set(p.Form.VoteWindow().Closes)
	p.Do(func(ctx context.Context, tx *db.Tx) error {
		_, err := p.Ballots.Count(ctx, tx, p.Round, p.Form)
		return err
	})
	raw, err := p.Ballots.Document(bg, p.DB, p.Round.ID)
	if err != nil {
		t.Fatal(err)
	}
	doc, _, err := outcome(t, raw, p)
	if err != nil || doc.Result.Came[p.Place('B')] != 0 || doc.Result.Came[p.Place('C')] != 0 ||
		doc.Projects[p.Place('C')].Off == "" ||
		len(doc.Result.Won) != 0 {
		t.Errorf("%+v %+v %v", doc.Result, doc.Projects, err)
	}
}

// The ballot paper tells nobody of a decision before its letter does: who is turned down
// stands among the projects until then, and who is chosen does not.
func TestThePaperTellsNothingBeforeTheLetter(t *testing.T) {
	for _, c := range []struct {
		among       form.Among
		sum         int64 // what is recorded of A: 0 turns it down
		before, now int   // cases that may stand on the paper before the letter leaves, and then
	}{
		{form.AmongEligible, 0, 6, 5}, {form.AmongEligible, 40_000_00, 6, 6},
		{form.AmongChosen, 40_000_00, 0, 1}, {form.AmongChosen, 0, 0, 0},
	} {
		p := programtest.SentToRound(t, func(d *form.Design) { programtest.PublicVote(d); d.Vote.Among = c.among },
			programtest.ForVote)
		p.Clock.Set(p.Form.At(form.Closes).Add(time.Hour))
		p.Drain()
		candidates := func() int {
			t.Helper()
			n, _, err := p.Ballots.Candidates(bg, p.DB, p.Round, p.Form)
			if err != nil {
				t.Fatal(err)
			}
			return n
		}
		if _, err := p.Records("", p.Choices(map[string]int64{"A": c.sum})); err != nil {
			t.Fatal(err)
		}
		if n := candidates(); n != c.before {
			t.Errorf("%s, %d: %d before the letter, not %d", c.among, c.sum, n, c.before)
		}
		p.After(time.Hour)
		if n := candidates(); n != c.now {
			t.Errorf("%s, %d: %d when it has left, not %d", c.among, c.sum, n, c.now)
		}
	}
}

// Once the paper is laid out the vote keeps its rules, whatever design is published later.
func TestTheRulesAreFixedWithThePaper(t *testing.T) {
	p := programtest.LaidOut(t, programtest.PublicVote)
	raw, err := json.Marshal("most votes")
	if err != nil {
		t.Fatal(err)
	}
	p.Do(func(ctx context.Context, tx *db.Tx) error {
		if _, err := p.Rounds.Edit(ctx, tx, p.Round.ID, "", []design.Op{{Do: design.Set, Path: "vote/asks", Value: raw},
			{Do: design.Set, Path: "vote/most",
				Value: json.RawMessage("1")}}); err != nil {
			return err
		}
		_, _, err := p.Rounds.Publish(ctx, tx, p.Round.ID)
		return err
	})
	r, err := p.Rounds.ByID(bg, p.DB, p.Round.ID)
	if err != nil {
		t.Fatal(err)
	}
	now, err := p.Rounds.Published(bg, p.DB, r)
	if err != nil || now.Design.Vote.Most != 1 {
		t.Fatalf("%+v %v", now.Design.Vote, err)
	}
	rules, err := p.Ballots.Rules(bg, p.DB, p.Vote(), now)
	if err != nil || rules.Design.Vote.Most != 0 || rules.Design.Vote.Asks != p.Form.Design.Vote.Asks ||
		now.Design.Vote.Most != 1 {
		t.Errorf("%+v %v", rules.Design.Vote, err)
	}
}
