package programtest

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"ulvant/core/access"
	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/internal/application"
	"ulvant/internal/decision"
	"ulvant/internal/intake"
	"ulvant/internal/platform/db"
	"ulvant/internal/reading"
	"ulvant/internal/round"
)

// MustAccount finds the number of an account by its address.
func MustAccount(t testing.TB, q db.Querier, email string) (id int64) {
	t.Helper()
	if err := q.GetContext(context.Background(), &id, `SELECT id FROM account WHERE email = $1`, email); err != nil {
		t.Fatal(err)
	}
	return id
}

// Opened is a house with a round that is open, and a draft in it.
func Opened(t *testing.T, change func(*form.Design)) (*House, int64, application.Case) {
	t.Helper()
	h := New(t)
	officer := h.Person("neda@ostrel-trust.example", "Neda Sparrow")
	h.Act(0, func(ctx context.Context, tx *db.Tx) error {
		return h.People.GiveRole(ctx, tx, officer.ID, access.Held{Role: access.RunsRounds})
	})
	h.OpenRound(officer.ID, change)
	lead := h.Person("imre@corvoe.example", "Imre Calloway")
	var c application.Case
	h.Act(lead.ID, func(ctx context.Context, tx *db.Tx) (err error) {
		c, err = h.Intake.Start(ctx, tx, "shore-2027", "Reed beds", nil)
		return err
	})
	return h, lead.ID, c
}

// Lettered asks for a letter too.
func Lettered(d *form.Design) {
	var letter form.Question
	for _, s := range d.Sections {
		for _, q := range s.Questions {
			if q.Kind == form.Referee {
				letter = q
			}
		}
	}
	Short(d)
	d.Sections[0].Questions = append(d.Sections[0].Questions, letter)
}

// Unread is the short round without readers, so that eligible cases are decided.
func Unread(d *form.Design) {
	Short(d)
	d.Stages = slices.DeleteFunc(d.Stages, func(s form.Stage) bool { return s.Does == form.Read })
}

// Choices for cases by name; a sum of -1 holds it in reserve, 0 refuses it.
func (p *Panel) Choices(sums map[string]int64) (out []decision.Choice) {
	p.T.Helper()
	for name, sum := range sums {
		p.StateOf(name)
		c := decision.Choice{EntryID: p.Of[name].EntryID, Version: p.Of[name].Version, Outcome: lifecycle.NotAwarded}
		switch {
		case sum > 0:
			c.Outcome, c.Amount = lifecycle.Awarded, sum
		case sum < 0:
			c.Outcome = lifecycle.Reserve
		}
		out = append(out, c)
	}
	return out
}

// Records an act of decisions.
func (p *Panel) Records(reason string, choices []decision.Choice) (act int64, err error) {
	err = p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
		act, err = p.Decisions.Record(ctx, tx, p.Round, p.Form,
			decision.Sitting{Stage: "writing", Choices: choices, Note: "Panel of 14 May", Reason: reason})
		return err
	})
	return act, err
}

// Told is what an applicant sees of their case, and the sum they were told.
func (p *Panel) Told(name string) string {
	p.T.Helper()
	p.StateOf(name)
	list, err := p.Desk.Mine(context.Background(), p.Of[name].LeadID)
	if err != nil || len(list) != 1 {
		p.T.Fatalf("%d in the list of %s, %v", len(list), name, err)
	}
	if list[0].State != p.Of[name].Told {
		p.T.Errorf("%s: the list says %s, the case %s", name, list[0].State, p.Of[name].Told)
	}
	if list[0].Given != nil {
		return fmt.Sprintf("%s %d", list[0].State, *list[0].Given)
	}
	return string(list[0].State)
}

// After lets time go by, and does what is due.
func (p *Panel) After(d time.Duration) {
	p.Clock.Set(p.Clock.Now().Add(d))
	p.Drain()
}

// InviteReaders readers, who are there at once.
func (p *Panel) InviteReaders(names ...string) (accounts []int64) {
	p.T.Helper()
	for _, name := range names {
		p.Act(p.Officer, func(ctx context.Context, tx *db.Tx) error {
			a, err := p.Reading.Invite(ctx, tx, p.Round, strings.ToLower(strings.Fields(name)[0])+"@readers.example", name)
			accounts = append(accounts, a.ID)
			return err
		})
	}
	return accounts
}

// HandsOut hands the round out.
func (p *Panel) HandsOut() (out reading.HandedOut, err error) {
	err = p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
		out, err = p.Reading.HandOut(ctx, tx, p.Round, p.Form, nil)
		return err
	})
	return out, err
}

// MarksWhole marks all that the round asks of a case for a reader, and sends it.
func (p *Panel) MarksWhole(name string, account int64) {
	p.T.Helper()
	p.StateOf(name)
	p.Act(account, func(ctx context.Context, tx *db.Tx) error {
		g, err := p.Reading.Find(ctx, tx, p.Of[name].EntryID, account)
		if err != nil {
			return err
		}
		m := reading.Marking{Marks: map[form.Key]int{}, Points: map[string]bool{}}
		for i, c := range p.Form.Design.Judged("") {
			m.Marks[c.Key] = (i + len(name) + int(account)) % len(c.Steps)
			for _, x := range c.PassPoints {
				m.Points[form.PointKey(c.Key, x.Key)] = true
			}
		}
		if len(p.Form.Design.Overall) > 0 {
			m.Overall = new(1)
		}
		if _, err := p.Reading.Keep(ctx, tx, p.Of[name], g.Version, m); err != nil {
			return err
		}
		return p.Reading.Send(ctx, tx, p.Of[name])
	})
}

// MarksAs a case for a reader, and send the marks.
func (p *Panel) MarksAs(name string, account int64) {
	p.T.Helper()
	p.StateOf(name)
	p.Act(account, func(ctx context.Context, tx *db.Tx) error {
		g, err := p.Reading.Find(ctx, tx, p.Of[name].EntryID, account)
		if err != nil {
			return err
		}
		if _, err := p.Reading.Keep(ctx, tx, p.Of[name], g.Version, reading.Marking{Marks: map[form.Key]int{"gain": 3,
			"lasting": 3, "value": 3}}); err != nil {
			return err
		}
		return p.Reading.Send(ctx, tx, p.Of[name])
	})
}

// Short is a round in which a request and one honest question are all.
func Short(d *form.Design) {
	var request form.Question
	for _, s := range d.Sections {
		for _, q := range s.Questions {
			if q.Key == "request" {
				request = q
			}
		}
	}
	land := d.Rules[2]
	d.Rules, d.Figures, d.Listed, d.Field, d.Fund = []form.Rule{land}, nil, form.Listing{}, "", 10_000_000
	d.Sections = []form.Section{{Key: "all", Label: "All", Questions: []form.Question{request,
		{Key: "land-leave", Kind: form.YesNo, Label: "Have you leave?", Nature: form.Fact, Blank: form.Required,
			NonAnswers: []form.NonAnswer{form.NotKnown}, Seen: form.ToReaders}}}}
}

// Panel is a house with a short round, and applications that were sent.
type Panel struct {
	*House
	Officer int64
	Round   round.Round
	Form    *form.Form
	Of      map[string]application.Case
}

// SentTo is a short round to which some have applied: by name, the sum they
// ask; with a question mark before it, what a person must look at. After it, each
// behind a |, other answers may stand: 12,000|why = sails.
func SentTo(t testing.TB, asks map[string]string) *Panel {
	t.Helper()
	return SentToRound(t, Short, asks)
}

// SentToRound sends them to a round that is changed by change.
func SentToRound(t testing.TB, change func(*form.Design), asks map[string]string) *Panel {
	t.Helper()
	p := &Panel{House: New(t), Of: map[string]application.Case{}}
	p.Officer = p.Person("neda@ostrel-trust.example", "Neda Sparrow").ID
	p.Act(0, func(ctx context.Context, tx *db.Tx) error {
		return p.People.GiveRole(ctx, tx, p.Officer, access.Held{Role: access.RunsRounds})
	})
	id := p.OpenRound(p.Officer, change)
	for name, ask := range asks {
		ask, more, _ := strings.Cut(ask, "|")
		lead := p.Person(strings.ToLower(name)+"@corvoe.example", name+" Hart")
		leave := Edit("land-leave", "yes")
		if strings.HasPrefix(ask, "?") {
			leave.Value, leave.Non = "", form.NotKnown
		}
		p.Act(lead.ID, func(ctx context.Context, tx *db.Tx) error {
			c, err := p.Intake.Start(ctx, tx, "shore-2027", name+"’s work", nil)
			if err != nil {
				return err
			}
			edits := []intake.Edit{Edit("request", strings.TrimPrefix(ask, "?")), leave}
			for line := range strings.SplitSeq(more, "|") {
				if key, value, ok := strings.Cut(line, " = "); ok {
					edits = append(edits, Edit(form.Key(key), value))
				}
			}
			results, _, err := p.Intake.Save(ctx, tx, c, edits)
			for _, r := range results {
				if r.Fault != "" {
					t.Errorf("%s of %s: %s", r.Question, name, r.Fault)
				}
			}
			if err != nil {
				return err
			}
			c, err = p.Intake.Send(ctx, tx, c)
			p.Of[name] = c
			return err
		})
	}
	p.Drain()
	var err error
	if p.Round, err = p.Rounds.ByID(context.Background(), p.DB, id); err != nil {
		t.Fatal(err)
	}
	if p.Form, err = p.Rounds.Published(context.Background(), p.DB, p.Round); err != nil {
		t.Fatal(err)
	}
	return p
}

// StateOf is the state of a case, read anew.
func (p *Panel) StateOf(name string) lifecycle.State {
	p.T.Helper()
	c, err := p.Cases.Find(context.Background(), p.DB, p.Of[name].Ref)
	if err != nil {
		p.T.Fatal(err)
	}
	p.Of[name] = c
	return c.State
}

// Mails of a subject that ends so, to everybody.
func (p *Panel) Mails(in string) (n int) {
	p.T.Helper()
	list, _ := p.Tray.List("", 0, 1000)
	for _, m := range list {
		if strings.Contains(m.Subject, in) {
			n++
		}
	}
	return n
}

// WholeShort is all that the short round asks.
func WholeShort(request string) []intake.Edit {
	return []intake.Edit{Edit("request", request), Edit("land-leave", "yes")}
}

// Edit is one plain answer, as a browser sends it.
func Edit(q form.Key, value string) intake.Edit {
	return intake.Edit{Place: form.Place{Question: q}, EditID: "e-" + string(q), Value: value}
}

// Whole is an application that lacks nothing but its file and its letter.
func Whole(lead string) []intake.Edit {
	edits := []intake.Edit{
		Edit("applicant-kind", "common"), Edit("body-name", "Corvoe Crofters’ Common 🌾"), Edit("district",
			"corvoe"), Edit("site", "Corvoe strand"),
		Edit("land-leave", "yes"), Edit("site-access", "road"), Edit("repair-kind", "shore"), Edit("area", "3.2"),
		Edit("describe", "We will replant reed. نزرع القصب 我们种芦苇"), Edit("afterwards", "The wardens."), Edit("start",
			"1 July 2027"),
		Edit("request", "64,000"), Edit("paid-elsewhere", "no"), Edit("true", "yes"), Edit("may-visit",
			"yes"), Edit("signed", lead),
	}
	for col, v := range map[form.Key]string{"street": "4 Quay Row, at " + lead + "’s", "town": "Corvoe",
		"postcode": "OI4 2RT"} {
		edits = append(edits, intake.Edit{Place: form.Place{Question: "post-address", Column: col}, EditID: "e-address",
			Value: v})
	}
	for row, line := range map[string][4]string{"r0001": {"Reed stock", "50000", "40000", "own money"},
		"r0002": {"Groynes", "30,000.00", "24000", "in kind"}} {
		for i, col := range []form.Key{form.ColItem, form.ColCost, form.ColUs, form.ColPayer} {
			edits = append(edits, intake.Edit{Place: form.Place{Question: "budget", Row: row, Column: col}, EditID: "e-budget",
				Value: line[i]})
		}
	}
	return edits
}

// InTwoStages adds to the short round a second stage by invitation: the
// request is asked again there, and whoever asks much says how it is spent.
func InTwoStages(d *form.Design) {
	Short(d)
	wall := func(k form.Key) calendar.Wall { m, _ := d.Moment(k); return m.At }
	d.Calendar = append(d.Calendar, form.Moment{Key: "plans-in", Label: "the closing of plans",
		At: calendar.Wall{Date: wall(form.ChecksBy).Date.AddDays(3), Second: 16 * 3600}})
	second := form.Stage{Key: "plan", Label: "Full plan", Does: form.Apply, From: form.ChecksBy, To: "plans-in",
		Invited: true}
	d.Stages = slices.Insert(d.Stages, 2, second)
	d.Stages[3].From = "plans-in"
	ask := form.Question{Key: "spent", Kind: form.Long, Label: "How is it spent?", Nature: form.Chosen,
		Blank: form.Required, Seen: form.ToReaders,
		Asked: condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: "land-leave"}, Rel: condition.Is,
			Value: &condition.Value{Yes: new(true)}}}}
	told := form.Question{Key: "told", Kind: form.Short, Label: "What did we ask you to change?", Nature: form.Chosen,
		Blank: form.Required, Seen: form.ToReaders,
		Asked: condition.Cond{Test: &condition.Test{Of: condition.Ref{Stage: "writing"}, Rel: condition.Is,
			Value: &condition.Value{Text: string(lifecycle.InvitedOn)}}}}
	request := d.Sections[0].Questions[0]
	d.Sections = []form.Section{
		{Key: "money", Label: "Money", Again: []form.Key{"plan"}, Questions: []form.Question{request}},
		{Key: "all", Label: "All", Questions: d.Sections[0].Questions[1:]},
		{Key: "plan-section", Label: "The plan", Stage: "plan", Questions: []form.Question{ask, told}},
	}
}

// ReadRound is a short round that closed and was read by two readers of each case.
func ReadRound(t testing.TB, asks map[string]string) *Panel {
	t.Helper()
	return ReadRoundIn(t, Short, asks)
}

// ReadRoundIn is such a round, changed by change.
func ReadRoundIn(t testing.TB, change func(*form.Design), asks map[string]string) *Panel {
	t.Helper()
	p := SentToRound(t, change, asks)
	readers := p.InviteReaders("Oriel Vane", "Teodora Brisk")
	p.Clock.Set(p.Form.HandsOutFrom())
	p.Drain()
	if _, err := p.HandsOut(); err != nil {
		t.Fatal(err)
	}
	for name := range asks {
		for _, account := range readers {
			p.MarksAs(name, account)
		}
	}
	return p
}

// DecidedRound is a round that was read and decided: by name, the sum awarded;
// 0 refuses a case and -1 holds it in reserve. The letters are still held.
func DecidedRound(t testing.TB, asks map[string]string, sums map[string]int64) *Panel {
	t.Helper()
	p := ReadRound(t, asks)
	if _, err := p.Records("", p.Choices(sums)); err != nil {
		t.Fatal(err)
	}
	return p
}
