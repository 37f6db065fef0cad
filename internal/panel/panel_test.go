package panel_test

import (
	"context"
	"errors"
	"slices"
	"strings"
	"testing"
	"time"

	"ulvant/core/access"
	"ulvant/core/agenda"
	"ulvant/core/refusal"
	"ulvant/internal/panel"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
)

// met is a read round, a chair and two who sit, one of whom stepped aside from Ann as
// her reader, and a meeting over its three cases.
type met struct {
	*programtest.Panel
	chair, sits, aside, other int64
	id                        int64
}

func called(t *testing.T) *met {
	m := &met{Panel: programtest.ReadRound(t, map[string]string{"Ann": "60,000", "Bo": "50,000", "Cy": "40,000"})}
	hold := func(name, email string, role access.Role) int64 {
		a := m.Person(email, name)
		m.Act(0, func(ctx context.Context, tx *db.Tx) error {
			return m.People.GiveRole(ctx, tx, a.ID, access.Held{Role: role, Scope: access.Scope{Round: m.Round.ID}})
		})
		return a.ID
	}
	m.chair, m.sits = hold("Lucian Abernathy", "lucian@panel.example", access.Chairs), hold("Wenna Astley",
		"wenna@panel.example", access.Sits)
	m.aside, m.other = hold("Hew Cask", "hew@panel.example", access.Sits), hold("Isa Drum", "isa@panel.example",
		access.Checks)
	for i, name := range []string{"Ann", "Bo", "Cy"} {
		if _, err := m.DB.ExecContext(t.Context(), `UPDATE mark SET value = $2 WHERE entry_id = $1`, m.Of[name].EntryID,
			5-i); err != nil {
			t.Fatal(err)
		}
	}
	if _, err := m.DB.ExecContext(t.Context(),
		`INSERT INTO recusal (application_id, account_id, reason, at) VALUES ($1, $2, 'my cousin', now())`, m.Of["Ann"].ID,
		m.aside); err != nil {
		t.Fatal(err)
	}
	var err error
	if m.id, err = m.calls(panel.Called{Name: "May", At: m.Clock.Now().Add(48 * time.Hour), Minutes: 60, Votes: true,
		Members: []int64{m.chair, m.sits, m.aside}}); err != nil {
		t.Fatal(err)
	}
	return m
}

func (m *met) calls(c panel.Called) (id int64, err error) {
	entries := []int64{m.Of["Ann"].EntryID, m.Of["Bo"].EntryID, m.Of["Cy"].EntryID}
	items := agenda.Of([]agenda.Case{{Known: true, Chance: 0.99, Near: 5}, {Known: true, Chance: 0.5}, {Known: true,
		Chance: 0.01, Near: 5}}, 60)
	err = m.Try(m.Officer, func(ctx context.Context, tx *db.Tx) (err error) {
		id, err = m.House.Panel.Call(ctx, tx, m.Round, "writing", c, entries, items)
		return err
	})
	return id, err
}

func (m *met) find() panel.Sitting {
	m.T.Helper()
	x, err := m.House.Panel.Find(m.T.Context(), m.DB, m.Round.ID, m.id)
	if err != nil {
		m.T.Fatal(err)
	}
	return x
}

func (m *met) by(account int64, do func(ctx context.Context, tx *db.Tx) error) error {
	return m.Try(account, do)
}

// A meeting from its agenda to the minutes: who is out says nothing and votes nothing,
// a vote is on what is talked about, and what is over is over.
func TestAMeeting(t *testing.T) {
	t.Parallel()
	m := called(t)
	p := m.House.Panel
	ann, bo := m.Of["Ann"].EntryID, m.Of["Bo"].EntryID
	x := m.find()
	if len(x.Items) != 3 || x.Items[0].EntryID != bo || x.Items[0].Why != agenda.Close || len(x.Members) != 3 {
		t.Fatalf("the agenda is %+v", x.Items)
	}
	annItem := x.Items[slices.IndexFunc(x.Items, func(i panel.Item) bool { return i.EntryID == ann })]
	if !annItem.OutOf(m.aside) || annItem.OutOf(m.sits) {
		t.Errorf("out of the room for Ann: %+v", annItem.Out)
	}
	vote := func(account, entry int64, v string) error {
		return m.by(account, func(ctx context.Context, tx *db.Tx) error {
			return p.CastVote(ctx, tx, m.Round, m.id, entry,
				v)
		})
	}
	if vote(m.sits, ann, panel.For) == nil {
		t.Error("a vote before it is talked about")
	}
	take := func(entry int64) error {
		return m.by(m.chair,
			func(ctx context.Context, tx *db.Tx) error { return p.Take(ctx, tx, m.Round, m.id, entry) })
	}
	if err := take(ann); err != nil || m.find().BegunAt == nil {
		t.Fatal(err)
	}
	if !errors.Is(take(999_999), panel.ErrNotOn) {
		t.Error("a case that is not on the agenda is taken up")
	}
	for _, c := range []struct {
		account int64
		vote    string
		ok      bool
	}{{m.sits, panel.For, true}, {m.sits, panel.Against, true}, {m.chair, panel.For, true}, {m.chair, "maybe", false},
		{m.aside, panel.For, false},
		{m.other, panel.For, false}, {m.Officer, panel.For, false}} {
		if err := vote(c.account, ann, c.vote); (err == nil) != c.ok {
			t.Errorf("%d votes %s: %v", c.account, c.vote, err)
		}
	}
	out := func(account, entry int64, why string) error {
		return m.by(m.chair, func(ctx context.Context, tx *db.Tx) error {
			return p.StepOut(ctx, tx, m.Round, m.id, entry, account, why)
		})
	}
	if out(m.sits, ann, " ") == nil || out(m.other, ann, "x") == nil {
		t.Error("out without a reason, or somebody who does not sit")
	}
	if err := out(m.sits, ann, "she rents from me"); err != nil {
		t.Fatal(err)
	}
	x = m.find()
	annItem = *itemOf(x, ann)
	if yes, no, neither := annItem.Tally(); yes != 1 || no != 0 || neither != 0 {
		t.Errorf("%d for, %d against, %d neither after one went out", yes, no, neither)
	}
	if err := m.by(m.chair, func(ctx context.Context, tx *db.Tx) error {
		return p.ComeBack(ctx, tx, m.Round, m.id, ann,
			m.sits)
	}); err != nil || len(itemOf(m.find(), ann).Out) != 1 {
		t.Errorf("back in the room: %v", err)
	}
	if err := m.by(m.chair, func(ctx context.Context, tx *db.Tx) error {
		return p.Note(ctx, tx, m.Round, m.id, ann,
			" Agreed. ")
	}); err != nil {
		t.Fatal(err)
	}
	if err := take(bo); err != nil || itemOf(m.find(), ann).TalkedAt == nil ||
		itemOf(m.find(), ann).Notes != "Agreed." {
		t.Errorf("going on: %v, %+v", err, itemOf(m.find(), ann))
	}
	if vote(m.chair, ann, panel.Against) == nil {
		t.Error("a vote on what is done with")
	}
	answer := func(account int64, yes bool, why string) error {
		return m.by(account,
			func(ctx context.Context, tx *db.Tx) error { return p.Answer(ctx, tx, m.Round, m.id, yes, why) })
	}
	if answer(m.Officer, true, "") == nil {
		t.Error("confirmed before it is over")
	}
	if err := m.by(m.chair, func(ctx context.Context, tx *db.Tx) error {
		return p.End(ctx, tx, m.Round,
			m.id)
	}); err != nil {
		t.Fatal(err)
	}
	if !errors.Is(take(ann), panel.ErrEnded) || m.find().EntryID != nil {
		t.Error("it goes on after its end")
	}
	if answer(m.sits, true, "") == nil || answer(m.Officer, false, " ") == nil {
		t.Error("confirmed by who sat, or sent back without a reason")
	}
	if err := answer(m.Officer, false, "Bo was not talked about"); err != nil || m.find().Said != "sent back" {
		t.Errorf("%v, %q", err, m.find().Said)
	}
	back := func() map[int64]string {
		t.Helper()
		out, err := p.SentBack(t.Context(), m.DB, m.Round.ID, m.find().Stage)
		if err != nil {
			t.Fatal(err)
		}
		return out
	}
	if b := back(); b[ann] != "Bo was not talked about" {
		t.Errorf("a meeting that is sent back: %v", b)
	}
	if err := answer(m.Officer, true, ""); err != nil || answer(m.Officer, false, "after all") == nil ||
		len(back()) != 0 {
		t.Errorf("confirmed twice: %v, %v", err, back())
	}
	one := func(account, entry int64, why string) error {
		return m.by(account,
			func(ctx context.Context, tx *db.Tx) error { return p.AnswerCase(ctx, tx, m.Round, m.id, entry, why) })
	}
	if one(m.sits, ann, "No.") == nil || one(m.Officer, ann, " ") == nil || one(m.Officer, -1, "No.") == nil {
		t.Error("one case is sent back by who sat, without a reason, or that was not there")
	}
	if err := one(m.Officer, ann, "Her neighbour sat."); err != nil || back()[ann] != "Her neighbour sat." ||
		len(back()) != 1 {
		t.Errorf("%v %v", err, back())
	}
	_, err := m.Records("", m.Choices(map[string]int64{"Ann": 1_000_00}))
	if no, ok := refusal.Of(err); !ok ||
		!strings.Contains(no.Says, "sent back by the second body: “Her neighbour sat.”") {
		t.Errorf("what is sent back is recorded: %v", err)
	}
	if err := one(m.Officer, ann, ""); err != nil || len(back()) != 0 {
		t.Errorf("%v %v", err, back())
	}
}

func itemOf(x panel.Sitting, entry int64) *panel.Item {
	return &x.Items[slices.IndexFunc(x.Items, func(i panel.Item) bool { return i.EntryID == entry })]
}

// Whom and what a meeting needs.
func TestCalling(t *testing.T) {
	t.Parallel()
	m := called(t)
	good := panel.Called{Name: "June", At: m.Clock.Now(), Minutes: 30, Members: []int64{m.chair}}
	for field, change := range map[string]func(*panel.Called){
		"name": func(c *panel.Called) { c.Name = " " }, "at": func(c *panel.Called) { c.At = time.Time{} },
		"minutes": func(c *panel.Called) { c.Minutes = 4 },
		"members": func(c *panel.Called) { c.Members = []int64{m.other} },
		"place":   func(c *panel.Called) { c.Place = strings.Repeat("x", 301) },
	} {
		c := good
		change(&c)
		_, err := m.calls(c)
		if no, ok := refusal.Of(err); !ok || no.Field != field {
			t.Errorf("%s: %v", field, err)
		}
	}
	can, err := m.House.Panel.Can(t.Context(), m.DB, m.Round, m.Clock.Now())
	if err != nil || len(can) != 4 ||
		slices.ContainsFunc(can, func(x panel.Member) bool { return x.Account == m.other }) {
		t.Errorf("who can sit: %+v, %v", can, err)
	}
	list, err := m.House.Panel.Of(t.Context(), m.DB, m.Round.ID, "writing")
	if err != nil || len(list) != 1 {
		t.Errorf("%d meetings, %v", len(list), err)
	}
}

// The panel moves a case with a reason; the line follows, what-ifs too, and it can be
// taken back.
func TestMovesOfTheOrder(t *testing.T) {
	t.Parallel()
	m := called(t)
	p := m.House.Panel
	move := func(name string, places int, why string) error {
		return m.by(m.chair, func(ctx context.Context, tx *db.Tx) error {
			return p.MoveCase(ctx, tx, m.Round, "writing", m.id, m.Of[name].EntryID, places, why)
		})
	}
	order := func() (out string) {
		table, err := m.Decisions.Order(t.Context(), m.DB, m.Round, m.Form, "writing")
		if err != nil {
			t.Fatal(err)
		}
		for _, row := range table.Rows {
			out += row.Title[:1]
			if row.Within {
				out += "+"
			}
		}
		return out
	}
	if got := order(); got != "A+BC" { // 60,000 of 100,000; 50,000 do not fit
		t.Errorf("before: %s", got)
	}
	for _, c := range []struct {
		places int
		why    string
	}{{0, "x"}, {1, " "}, {501, "x"}} {
		if move("Cy", c.places, c.why) == nil {
			t.Errorf("%+v is kept", c)
		}
	}
	if err := move("Cy", 2, "the site closes in June"); err != nil {
		t.Fatal(err)
	}
	if got := order(); got != "C+A+B" {
		t.Errorf("Cy two up: %s", got)
	}
	if err := move("Ann", -1, "she can wait"); err != nil {
		t.Fatal(err)
	}
	if got := order(); got != "C+B+A" {
		t.Errorf("Ann one down: %s", got)
	}
	moves, err := p.Moves(t.Context(), m.DB, m.Round.ID, "writing")
	if err != nil || len(moves) != 2 || moves[0].Why != "the site closes in June" || moves[0].By != "Lucian Abernathy" {
		t.Fatalf("%+v, %v", moves, err)
	}
	undo := func() error {
		return m.by(m.chair,
			func(ctx context.Context, tx *db.Tx) error { return p.UndoMove(ctx, tx, m.Round, moves[0].ID) })
	}
	if err := undo(); err != nil || undo() == nil {
		t.Errorf("undone twice: %v", err)
	}
	if got := order(); got != "B+A" && got != "B+AC" {
		t.Errorf("with Ann’s move alone: %s", got)
	}
	if err := m.by(m.chair, func(ctx context.Context, tx *db.Tx) error {
		return p.MoveCase(ctx, tx, m.Round, "elsewhere", 0, m.Of["Ann"].EntryID, 1, "x")
	}); !errors.Is(err, panel.ErrNotOn) {
		t.Errorf("in another stage: %v", err)
	}
}
