package award_test

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/wordlist"
	"ulvant/internal/award"
	"ulvant/internal/decision"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
)

func placed(t *testing.T) *programtest.Panel { t.Helper(); return placedIn(t, programtest.ManyAwards) }

func placedIn(t *testing.T, change func(*form.Design)) *programtest.Panel {
	t.Helper()
	p := programtest.SentToRound(t, change, programtest.ForAwards)
	p.Clock.Set(p.Form.At(form.Closes).Add(time.Hour))
	p.Drain()
	for name := range programtest.ForAwards {
		p.StateOf(name)
	}
	act(t, p, func(ctx context.Context, tx *db.Tx) error {
		n, err := p.Awards.WorkOut(ctx, tx, p.Round, p.Form, nil)
		if n != len(programtest.ForAwards) {
			t.Errorf("%d people", n)
		}
		return err
	})
	return p
}

func act(t *testing.T, p *programtest.Panel, do func(ctx context.Context, tx *db.Tx) error) {
	t.Helper()
	if err := p.Try(p.Officer, do); err != nil {
		t.Fatal(err)
	}
}

// by finds a placing by its name.
func by(t *testing.T, p *programtest.Panel, name string) award.Placing {
	t.Helper()
	list, err := p.Awards.Placings(t.Context(), p.DB, p.Round.ID)
	if err != nil {
		t.Fatal(err)
	}
	i := slices.IndexFunc(list, func(x award.Placing) bool { return x.Name == name })
	if i < 0 {
		t.Fatalf("no placing %q among %d", name, len(list))
	}
	return list[i]
}

// gives says who is given what: “Loft Bequest: Ann 2000; …”.
func gives(t *testing.T, p *programtest.Panel, name string) string {
	t.Helper()
	list, err := p.Awards.All(t.Context(), p.DB, by(t, p, name).ID)
	if err != nil {
		t.Fatal(err)
	}
	var out []string
	for _, x := range list {
		out = append(out, fmt.Sprintf("%s: %s %d", x.Award, strings.TrimSuffix(x.Lead, " Hart"), x.Amount/100))
	}
	slices.Sort(out)
	return strings.Join(out, "; ")
}

func TestWhoMeetsWhat(t *testing.T) {
	t.Parallel()
	p := placed(t)
	for _, c := range []struct{ award, want string }{
		{"loft", "Ann fits “I cut four [lugsails].”; Bo must say “Sewing sialing kit; [lugsials] mostly.”; Cy nearly"},
		{"hardship", "Ann fits; Bo fits; Dee fits"},
		{"bench", "Ann fits; Bo fits; Cy fits; Dee fits"},
		{"held", "Ann fits; Bo fits; Cy fits; Dee fits first"},
	} {
		t.Run(c.award, func(t *testing.T) {
			pairs, _, err := p.Awards.OfAward(t.Context(), p.DB, p.Round, p.Form, award.Placing{}, form.Key(c.award), 0, 10)
			if err != nil {
				t.Fatal(err)
			}
			var out []string
			for _, x := range pairs {
				s := strings.TrimSuffix(x.Lead, " Hart") + " " + string(x.Stand)
				if x.First {
					s += " first"
				}
				for _, said := range x.Said {
					text := ""
					for _, piece := range said.Pieces {
						if piece.Is {
							text += "[" + piece.Text + "]"
						} else {
							text += piece.Text
						}
					}
					if text != "" {
						s += " “" + text + "”"
					}
				}
				out = append(out, s)
			}
			slices.Sort(out)
			if got := strings.Join(out, "; "); got != c.want {
				t.Errorf("%s\nnot %s", got, c.want)
			}
		})
	}
	counts, err := p.Awards.Counts(t.Context(), p.DB, p.Round.ID)
	if err != nil {
		t.Fatal(err)
	}
	if c := counts["loft"]; c.Fits != 1 || c.MustSay != 1 || !slices.Equal(c.Nearly, []int{0, 0, 1}) {
		t.Errorf("%+v", c)
	}
}

// Each placing by its rules; who held an award last year comes first, and a range is
// poured to its most.
func TestPlacingsByTheirRules(t *testing.T) {
	t.Parallel()
	p := placed(t)
	for _, c := range []struct{ name, want string }{
		{"Best by award", "bench: Bo 0; hardship: Ann 800; hardship: Bo 800; held: Dee 600; loft: Ann 2000"},
		{"At most one each", "bench: Cy 0; hardship: Bo 800; held: Dee 600; loft: Ann 2000"},
	} {
		if got := gives(t, p, c.name); got != c.want {
			t.Errorf("%s: %s\nnot %s", c.name, got, c.want)
		}
		if x := by(t, p, c.name); !x.Proved() {
			t.Errorf("%s is not proved: %+v", c.name, x)
		}
	}
	var id int64
	act(t, p, func(ctx context.Context, tx *db.Tx) (err error) {
		id, err = p.Awards.Keep(ctx, tx, p.Round, p.Form, 0, "By merit", award.Rules{By: award.ByMerit})
		return err
	})
	act(t, p, func(ctx context.Context, tx *db.Tx) error { // pressed twice
		again, err := p.Awards.Keep(ctx, tx, p.Round, p.Form, 0, "By merit", award.Rules{By: award.ByMerit})
		if again != id {
			t.Errorf("kept twice: %d, %d", id, again)
		}
		return err
	})
	a, b := by(t, p, "At most one each"), by(t, p, "Best by award")
	differ, err := p.Awards.Differ(t.Context(), p.DB, p.Round, a.ID, b.ID)
	if err != nil || len(differ) != 3 || differ[0].Lead != "Ann Hart" || len(differ[0].A) != 1 || len(differ[0].B) != 2 {
		t.Errorf("%+v, %v", differ, err)
	}
	if err := p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
		_, err := p.Awards.Keep(ctx, tx, p.Round, p.Form, 0, "By merit", award.Rules{})
		return err
	}); err == nil {
		t.Error("two of one name")
	}
	act(t, p, func(ctx context.Context, tx *db.Tx) error { return p.Awards.Drop(ctx, tx, p.Round, id) })
	if err := p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
		return p.Awards.Drop(ctx, tx, p.Round,
			id)
	}); err == nil {
		t.Error("it is dropped twice")
	}
}

// A ruling settles what cannot be told by itself; a change of it needs a reason, and so
// does one against what was worked out.
func TestAPersonSays(t *testing.T) {
	t.Parallel()
	p := placed(t)
	rule := func(name string, key form.Key, fits bool, why string) error {
		return p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
			if err := p.Awards.Rule(ctx, tx, p.Round, p.Form, p.Of[name].EntryID, key, fits, why); err != nil {
				return err
			}
			return p.Awards.SolveAll(ctx, tx, p.Round, p.Form)
		})
	}
	bo := func() award.Pair {
		t.Helper()
		list, err := p.Awards.OfPerson(t.Context(), p.DB, p.Round, p.Form, award.Placing{}, p.Of["Bo"].Ref)
		if err != nil || len(list) == 0 || list[0].Award != "loft" {
			t.Fatalf("%+v, %v", list, err)
		}
		return list[0]
	}
	if x := bo(); !x.MustSay() || x.Meets() {
		t.Errorf("before somebody said: %+v", x)
	}
	if err := rule("Bo", "loft", true, ""); err != nil {
		t.Fatal(err)
	}
	if x := bo(); x.MustSay() || !x.Meets() {
		t.Errorf("after somebody said: %+v", x)
	}
	if err := rule("Bo", "loft", false, ""); err == nil {
		t.Error("a ruling is changed without a reason")
	}
	if err := rule("Ann", "loft", false, ""); err == nil {
		t.Error("what was worked out is changed without a reason")
	}
	if err := rule("Ann", "loft", false, "They were her brother’s."); err != nil {
		t.Fatal(err)
	}
	if got := gives(t, p, "Best by award"); !strings.Contains(got, "loft: Bo 2000") {
		t.Error(got)
	}
	if err := rule("Dee", "loft", true, "why"); err == nil {
		t.Error("somebody who does not stand to an award is ruled on")
	}
}

// What is held by hand is kept by every placing, with a reason, and can be let go.
func TestByHand(t *testing.T) {
	t.Parallel()
	p := placed(t)
	lay := func(name string, key form.Key, hand award.Hand, why string) error {
		return p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
			if err := p.Awards.Lay(ctx, tx, p.Round, p.Form, p.Of[name].EntryID, key, hand, why); err != nil {
				return err
			}
			return p.Awards.SolveAll(ctx, tx, p.Round, p.Form)
		})
	}
	if lay("Ann", "held", award.Give, "") == nil {
		t.Error("without a reason")
	}
	if lay("Cy", "loft", award.Give, "kind") == nil {
		t.Error("an award is held for somebody who does not meet it")
	}
	if err := lay("Ann", "held", award.Give, "Promised."); err != nil {
		t.Fatal(err)
	}
	for _, name := range []string{"Best by award", "Need first", "At most one each"} {
		if got := gives(t, p, name); !strings.Contains(got, "held: Ann 600") {
			t.Errorf("%s: %s", name, got)
		}
	}
	if err := lay("Ann", "held", award.Free, "Not promised."); err != nil {
		t.Fatal(err)
	}
	if err := lay("Ann", "loft", award.Bar, "Her aunt’s bequest."); err != nil {
		t.Fatal(err)
	}
	if got := gives(t, p, "Best by award"); strings.Contains(got, "loft") || !strings.Contains(got, "held: Dee") {
		t.Error(got)
	}
	var verbs []string
	if err := p.DB.SelectContext(t.Context(), &verbs,
		`SELECT verb FROM trail WHERE application_id = $1 AND verb LIKE 'award-%' ORDER BY id`, p.Of["Ann"].ID); err != nil {
		t.Fatal(err)
	}
	if !slices.Equal(verbs, []string{"award-held", "award-freed", "award-barred"}) {
		t.Errorf("%v", verbs)
	}
	// more than an award has places
	if err := lay("Bo", "held", award.Give, "Promised too."); err != nil {
		t.Fatal(err)
	}
	if err := lay("Cy", "held", award.Give, "And to him."); err != nil {
		t.Fatal(err) // the placings stay as they were …
	}
	err := p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
		return p.Awards.Solve(ctx, tx, p.Round, p.Form, by(t, p, "Best by award").ID)
	})
	if err == nil || !strings.Contains(err.Error(), "The holder’s") {
		t.Errorf("%v", err) // … and say why
	}
}

// Why not, and what a change would cost, by name.
func TestWhyNot(t *testing.T) {
	t.Parallel()
	p := placed(t)
	x := by(t, p, "Best by award")
	looks := func(name string) award.Looked {
		t.Helper()
		out, err := p.Awards.Look(t.Context(), p.DB, p.Round, p.Form, x, p.Of[name].EntryID, "bench")
		if err != nil {
			t.Fatal(err)
		}
		return out
	}
	whys := looks("Ann").Whys
	if w := whys["bench"]; w.Reason != "enough" || !slices.Equal(w.Has, []form.Key{"loft", "hardship"}) &&
		!slices.Equal(w.Has, []form.Key{"hardship", "loft"}) || !w.Can || !w.Exact {
		t.Errorf("%+v", w)
	}
	whys = looks("Bo").Whys
	if w := whys["held"]; w.Reason != "enough" || !w.Can || w.Costs <= 0 {
		t.Errorf("%+v", w)
	}
	whys = looks("Cy").Whys
	if w := whys["held"]; w.Reason != "others" || len(w.Others) != 1 || w.Others[0].Lead != "Dee Hart" || w.Costs <= 0 {
		t.Errorf("%+v", w)
	}
	if l := looks("Bo"); !l.Empty.Can || l.Empty.Costs <= 0 || l.Next == nil || l.Next.Lead == "" || !l.ToNext.Can {
		t.Errorf("%+v", l)
	}
	// nobody meets the first award but who has it; taking it from her moves it nowhere
	out, err := p.Awards.Look(t.Context(), p.DB, p.Round, p.Form, x, p.Of["Ann"].EntryID, "loft")
	if err != nil || out.Next != nil {
		t.Errorf("%+v, %v", out.Next, err)
	}
	if m := out.Whys["loft"].Moves; !slices.ContainsFunc(m, func(m award.Move) bool {
		return m.Award == "loft" &&
			m.Lead == "Ann Hart" && !m.Given
	}) ||
		slices.ContainsFunc(m, func(m award.Move) bool { return m.Award == "loft" && m.Given }) {
		t.Errorf("%+v", m)
	}
}

// Awards with one word are not given to one person both.
func TestAwardsApart(t *testing.T) {
	t.Parallel()
	p := placedIn(t, func(d *form.Design) {
		programtest.ManyAwards(d)
		d.Awards[0].Apart, d.Awards[1].Apart = "first", "first"
	})
	if got := gives(t, p, "Best by award"); strings.Contains(got, "hardship: Ann") || !strings.Contains(got, "loft: Ann") {
		t.Error(got)
	}
}

func TestRulesThatCannotBe(t *testing.T) {
	for _, c := range []struct {
		says  string
		rules award.Rules
		ok    bool
	}{
		{"as the design says", award.Rules{}, true}, {"no award at all is any number", award.Rules{Most: new(0)}, true},
		{"a hundred", award.Rules{Most: new(100)}, true}, {"a hundred and one", award.Rules{Most: new(101)}, false},
		{"below none", award.Rules{Most: new(-1)}, false}, {"by luck", award.Rules{By: "luck"}, false},
		{"no cap", award.Rules{Cap: award.NoCap}, true}, {"another cap", award.Rules{Cap: "some"}, false},
		{"most people, one each", award.Rules{Most: new(1), Reach: true}, true}, {"most people, two each",
			award.Rules{Most: new(2), Reach: true}, false},
		{"most people, any number", award.Rules{Reach: true}, false},
	} {
		if err := c.rules.Fault(); (err == nil) != c.ok {
			t.Errorf("%s: %v", c.says, err)
		}
	}
}

// Recorded: one decision each, a line for each award; the letter names them, and what
// is told changes when it leaves. What is changed later is revised alone, with a reason.
func TestRecordingAPlacing(t *testing.T) {
	t.Parallel()
	p := placed(t)
	record := func(reason string, others lifecycle.State) (n int, err error) {
		err = p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
			n, _, err = p.Awards.Record(ctx, tx, p.Round, p.Form, award.Recording{Placing: by(t, p, "Best by award").ID,
				Others: others,
				Note:   "Committee of 14 May", Reason: reason})
			return err
		})
		return n, err
	}
	if n, err := record("", lifecycle.NotAwarded); err != nil || n != 4 {
		t.Fatalf("%d, %v", n, err)
	}
	holders := func() (out []string) {
		t.Helper()
		list, err := p.Decisions.HoldersOf(t.Context(), p.DB, p.Round.ID, "loft")
		if err != nil {
			t.Fatal(err)
		}
		for _, h := range list {
			out = append(out, h.Lead)
		}
		return out
	}
	if got := p.Told("Ann"); got != string(lifecycle.Eligible) && !strings.HasPrefix(got, "eligible") {
		t.Errorf("before the letter left: %s", got)
	}
	if h := holders(); h != nil {
		t.Errorf("the donor is told before the applicant: %v", h)
	}
	p.After(2 * time.Hour)
	if got := p.Told("Ann"); got != "awarded 280000" {
		t.Error(got)
	}
	if h := holders(); !slices.Equal(h, []string{"Ann Hart"}) {
		t.Errorf("%v", h)
	}
	mails, _ := p.Tray.List("ann@corvoe.example", 0, 1)
	if len(mails) == 0 || !strings.Contains(mails[0].Body, "Loft Bequest, €2,000, given by Ada Quill") ||
		!strings.Contains(mails[0].Body, "Hardship Fund, €800") {
		t.Errorf("%+v", mails)
	}
	var last int64
	if err := p.DB.GetContext(t.Context(), &last, `SELECT max(id) FROM act`); err != nil {
		t.Fatal(err)
	}
	letters, err := p.Decisions.LettersOf(t.Context(), p.DB, p.Form, p.Round.ID, last)
	if err != nil || len(letters) != 4 {
		t.Fatalf("%d letters, %v", len(letters), err)
	}
	for _, l := range letters { // each gives other awards, and none is odd for it
		for _, odd := range l.Odd {
			if odd == "its text differs from the others" {
				t.Errorf("the letter to %s: %s", l.Name, odd)
			}
		}
	}
	if _, err := record("", lifecycle.NotAwarded); err == nil {
		t.Error("what stands is recorded again")
	}
	if err := p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
		_, err := p.Decisions.Record(ctx, tx, p.Round, p.Form, decision.Sitting{Stage: "writing",
			Choices: p.Choices(map[string]int64{"Ann": 100_00}),
			Note:    "Panel", Reason: "less"})
		return err
	}); err == nil || !strings.Contains(err.Error(), "where awards are placed") {
		t.Errorf("one sum takes the place of awards: %v", err)
	}
	lay := func(name string, key form.Key, hand award.Hand) {
		t.Helper()
		act(t, p, func(ctx context.Context, tx *db.Tx) error {
			if err := p.Awards.Lay(ctx, tx, p.Round, p.Form, p.Of[name].EntryID, key, hand, "She gave it back."); err != nil {
				return err
			}
			return p.Awards.SolveAll(ctx, tx, p.Round, p.Form)
		})
	}
	act(t, p, func(ctx context.Context, tx *db.Tx) error {
		return p.Awards.Rule(ctx, tx, p.Round, p.Form, p.Of["Bo"].EntryID, "loft", true, "It is sails.")
	})
	lay("Ann", "loft", award.Bar)
	lay("Bo", "loft", award.Give)
	if err := p.Awards.Fault(t.Context(), p.DB, p.Round, p.Form, by(t, p, "Best by award")); err == nil {
		t.Error("three awards are held for one who may have two")
	}
	lay("Bo", "bench", award.Bar)
	if err := p.Awards.Fault(t.Context(), p.DB, p.Round, p.Form, by(t, p, "Best by award")); err != nil {
		t.Error(err)
	}
	if _, err := record("", lifecycle.NotAwarded); err == nil {
		t.Error("it is revised without a reason")
	}
	if n, err := record("Ann gave the Loft Bequest back.", lifecycle.NotAwarded); err != nil || n != 2 {
		t.Fatalf("%d, %v", n, err)
	}
	if h := holders(); !slices.Equal(h, []string{"Ann Hart"}) {
		t.Errorf("before the new letters: %v", h)
	}
	p.After(2 * time.Hour)
	if h := holders(); !slices.Equal(h, []string{"Bo Hart"}) {
		t.Errorf("%v", h)
	}
	if got := p.Told("Ann") + ", " + p.Told("Bo"); got != "awarded 80000, awarded 280000" {
		t.Error(got)
	}
}

// One award is decided and told for itself: whoever is given it keeps what was recorded
// before, and nobody else is told anything.
func TestRecordingOneAwardAlone(t *testing.T) {
	t.Parallel()
	p := placed(t)
	record := func(key form.Key, reason string) (n int, err error) {
		err = p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
			n, _, err = p.Awards.Record(ctx, tx, p.Round, p.Form, award.Recording{Placing: by(t, p, "Best by award").ID,
				Award:  key,
				Others: lifecycle.NotAwarded, Note: "Committee of 14 May", Reason: reason})
			return err
		})
		return n, err
	}
	if n, err := record("loft", ""); err != nil || n != 1 {
		t.Fatalf("%d, %v", n, err)
	}
	p.After(2 * time.Hour)
	if got := p.Told("Ann"); got != "awarded 200000" {
		t.Error(got)
	}
	if s := p.StateOf("Cy"); s.Decided() {
		t.Errorf("somebody else is %s", s)
	}
	act(t, p, func(ctx context.Context, tx *db.Tx) error { // worked out anew, with what is recorded
		if err := p.Awards.Lay(ctx, tx, p.Round, p.Form, p.Of["Cy"].EntryID, "held", award.Bar,
			"He has enough."); err != nil {
			return err
		}
		return p.Awards.SolveAll(ctx, tx, p.Round, p.Form)
	})
	if n, err := record("hardship", ""); err != nil || n != 2 { // Ann, beside the first, and Bo
		t.Fatalf("%d, %v", n, err)
	}
	p.After(2 * time.Hour)
	if got := p.Told("Ann") + ", " + p.Told("Bo"); got != "awarded 280000, awarded 80000" {
		t.Error(got)
	}
	if _, err := record("loft", ""); err == nil {
		t.Error("it is recorded again")
	}
	act(t, p, func(ctx context.Context, tx *db.Tx) error {
		if err := p.Awards.Lay(ctx, tx, p.Round, p.Form, p.Of["Ann"].EntryID, "loft", award.Bar,
			"She gave it back."); err != nil {
			return err
		}
		return p.Awards.SolveAll(ctx, tx, p.Round, p.Form)
	})
	if n, err := record("loft", "She gave it back."); err != nil || n != 1 {
		t.Fatalf("%d, %v", n, err)
	}
	p.After(2 * time.Hour)
	if got := p.Told("Ann"); got != "awarded 80000" {
		t.Error(got)
	}
}

// A placing that does not rest on what is known now is not recorded.
func TestStalePlacings(t *testing.T) {
	t.Parallel()
	p := placed(t)
	x := by(t, p, "Best by award")
	try := func() error {
		return p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
			_, _, err := p.Awards.Record(ctx, tx, p.Round, p.Form, award.Recording{Placing: x.ID, Note: "Committee"})
			return err
		})
	}
	act(t, p, func(ctx context.Context, tx *db.Tx) error { // a hand, and not worked out again
		return p.Awards.Lay(ctx, tx, p.Round, p.Form, p.Of["Cy"].EntryID, "bench", award.Bar, "He has one.")
	})
	if try() == nil {
		t.Error("recorded though a hand came between")
	}
	act(t, p, func(ctx context.Context, tx *db.Tx) error { return p.Awards.SolveAll(ctx, tx, p.Round, p.Form) })
	if err := p.Try(p.Of["Dee"].LeadID, func(ctx context.Context, tx *db.Tx) error {
		return p.Intake.Withdraw(ctx, tx, p.Of["Dee"])
	}); err != nil {
		t.Fatal(err)
	}
	if try() == nil {
		t.Error("recorded though somebody withdrew")
	}
}

// The stems of words are those of PostgreSQL’s dictionary, which is made of the same
// algorithm by the Snowball project.
func TestStemsAreThoseOfPostgreSQL(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	words := strings.Fields(`sail sails sailing sailed sailmaker sailmakers sailmaking caulk caulked caulking caulkers oar oars spar spars
		ledger ledgers bookkeeping accounts accounted tarpaulin tarpaulins needle needles stitched stitching ropes roped generous generously national
		nationally relational conditional rationally vietnamization predication operator feudalism decisiveness hopefulness callousness formality
		sensitivity sensibility triplicate formative formalize electricity electrical goodness revival allowance inference airliner adjustable
		defensible irritant replacement adjustment dependent adoption communism activate angularity homologous effective bowdlerize probate rate
		cease controlling rolling skies dying lying early only proceed exceed succeed innings outings herrings canning`)
	for _, w := range words {
		var want []string
		if err := h.DB.SelectContext(t.Context(), &want, `SELECT unnest(ts_lexize('english_stem', $1))`, w); err != nil {
			t.Fatal(err)
		}
		if len(want) == 1 && wordlist.Stem(w) != want[0] {
			t.Errorf("%s: %s, PostgreSQL: %s", w, wordlist.Stem(w), want[0])
		}
	}
}
