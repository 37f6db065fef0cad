package interview_test

import (
	"context"
	"errors"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/emersion/go-ical"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/internal/interview"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
)

// met is a round that was read, and a day of interviews with some times.
type met struct {
	*programtest.Panel
	readers []int64
	day     int64
	first   time.Time
}

func readRound(t *testing.T, names ...string) *met {
	asks := map[string]string{}
	for _, n := range names {
		asks[n] = "5,000"
	}
	p := programtest.SentToRound(t, programtest.WithInterviews, asks)
	m := &met{Panel: p, readers: p.InviteReaders("Oriel Vane", "Teodora Brisk", "Sami Holt")}
	p.Clock.Set(p.Form.HandsOutFrom())
	p.Drain()
	if _, err := p.HandsOut(); err != nil {
		t.Fatal(err)
	}
	for _, n := range names {
		given, err := p.Reading.Of(t.Context(), p.DB, p.Of[n].EntryID)
		if err != nil {
			t.Fatal(err)
		}
		for _, g := range given {
			p.MarksWhole(n, g.AccountID)
		}
		if s := p.StateOf(n); s != lifecycle.Read {
			t.Fatalf("%s is %s", n, s)
		}
	}
	return m
}

// lays a day out three days from now, from nine, half an hour each.
func (m *met) lays(members []int64, times int) int64 {
	m.T.Helper()
	zone := m.Form.Zone
	at := m.Clock.Now().In(zone).AddDate(0, 0, 3)
	m.first = time.Date(at.Year(), at.Month(), at.Day(), 9, 0, 0, 0, zone)
	l := interview.Laid{Panel: "Panel", Place: "The Customs House; room 2", Members: members, Minutes: 30}
	for i := range times {
		l.Times = append(l.Times, m.first.Add(time.Duration(i)*30*time.Minute))
	}
	var id int64
	m.Held(m.Officer, func(ctx context.Context, tx *db.Tx) (err error) {
		id, err = m.Interviews.AddDay(ctx, tx, m.Round, "talk", l)
		return err
	})
	m.day = id
	return id
}

func (m *met) invites(by *time.Time, names ...string) error {
	var entries []int64
	for _, n := range names {
		entries = append(entries, m.Of[n].EntryID)
	}
	return m.Try(m.Officer, func(ctx context.Context, tx *db.Tx) error {
		return m.Interviews.Invite(ctx, tx, m.Round, m.Form, entries, by)
	})
}

func (m *met) gives() (g interview.Given) {
	m.T.Helper()
	m.Held(m.Officer, func(ctx context.Context, tx *db.Tx) (err error) {
		g, err = m.Interviews.Give(ctx, tx, m.Round, m.Form, "writing")
		return err
	})
	return g
}

func (m *met) of(name string) interview.Meeting {
	m.T.Helper()
	x, err := m.Interviews.Of(m.T.Context(), m.DB, m.Of[name].EntryID)
	if err != nil {
		m.T.Fatal(err)
	}
	return x
}

func (m *met) slot(i int) interview.Slot {
	m.T.Helper()
	d, err := m.Interviews.Day(m.T.Context(), m.DB, m.Round.ID, m.day)
	if err != nil {
		m.T.Fatal(err)
	}
	return d.Slots[i]
}

// by does something to a case for an account.
func (m *met) by(account int64, name string, do func(ctx context.Context, tx *db.Tx) error) error {
	m.T.Helper()
	m.StateOf(name)
	return m.Try(account, do)
}

// marks what a member of the panel gives, and sends it.
func (m *met) marks(account int64, name string, value int) error {
	return m.by(account, name, func(ctx context.Context, tx *db.Tx) error {
		x, err := m.Interviews.SaidBy(ctx, tx, m.Of[name].EntryID, account)
		if err != nil {
			return err
		}
		if _, err := m.Interviews.Keep(ctx, tx, m.Of[name], x.Version, map[form.Key]int{"in-person": value},
			"Clear."); err != nil {
			return err
		}
		return m.Interviews.Send(ctx, tx, m.Of[name])
	})
}

// calendars are the iCalendar objects that went to an address, as a general parser
// reads them: method, sequence and beginning.
func (m *met) calendars(to string) (out []string) {
	m.T.Helper()
	m.Drain()
	var texts []string
	if err := m.DB.SelectContext(m.T.Context(), &texts,
		`SELECT calendar FROM post WHERE to_address = $1 AND calendar <> '' AND state = 'sent' ORDER BY id`, to); err != nil {
		m.T.Fatal(err)
	}
	uid := ""
	for _, text := range texts {
		c, err := ical.NewDecoder(strings.NewReader(text)).Decode()
		if err != nil {
			m.T.Fatal(err)
		}
		e := c.Events()[0]
		starts, _ := e.DateTimeStart(time.UTC)
		method, _ := c.Props.Text(ical.PropMethod)
		if now, _ := e.Props.Text(ical.PropUID); uid != "" && now != uid {
			m.T.Errorf("the event is another one: %s, %s", now, uid)
		} else {
			uid = now
		}
		out = append(out, method+" "+e.Props.Get(ical.PropSequence).Value+" "+starts.In(m.Form.Zone).Format("15:04"))
	}
	return out
}

// From the invitation to the order: one chooses, one is given a time and moves it, one
// lets it run out; who was met stands before who was not.
func TestInterviews(t *testing.T) {
	t.Parallel()
	m := readRound(t, "Ann", "Ben", "Cai", "Dot")
	m.lays(m.readers[:2], 4)
	by := m.Clock.Now().Add(24 * time.Hour)
	if err := m.invites(&by, "Ann", "Ben", "Cai"); err != nil {
		t.Fatal(err)
	}
	if s := m.StateOf("Ann"); s != lifecycle.Interview || m.Mailed("ann@corvoe.example", "Choose a time") != 1 {
		t.Errorf("Ann is %s", s)
	}
	third := m.slot(2)
	if err := m.by(m.Of["Ann"].LeadID, "Ann", func(ctx context.Context, tx *db.Tx) error {
		return m.Interviews.Choose(ctx, tx, m.Of["Ann"], third.ID)
	}); err != nil {
		t.Fatal(err)
	}
	if x := m.of("Ann"); x.Reply != interview.Comes || *x.SlotID != third.ID {
		t.Errorf("she chose: %+v", x)
	}
	if err := m.by(m.Of["Ben"].LeadID, "Ben", func(ctx context.Context, tx *db.Tx) error {
		return m.Interviews.Choose(ctx, tx, m.Of["Ben"], third.ID)
	}); !errors.Is(err, interview.ErrTaken) {
		t.Errorf("a time that is taken: %v", err)
	}
	if g := m.gives(); g.Given != 0 {
		t.Errorf("those who may still choose are given times: %+v", g)
	}
	// a day later the sweep gives the others one; what is over is not chosen
	m.After(24 * time.Hour)
	if err := m.Interviews.Sweep(t.Context(), m.Clock.Now()); err != nil {
		t.Fatal(err)
	}
	if err := m.by(m.Of["Ben"].LeadID, "Ben", func(ctx context.Context, tx *db.Tx) error {
		return m.Interviews.Choose(ctx, tx, m.Of["Ben"], m.slot(3).ID)
	}); err == nil {
		t.Error("Ben chooses after the time to choose")
	}
	starts := []string{m.calendars("ben@corvoe.example")[0], m.calendars("cai@corvoe.example")[0]}
	slices.Sort(starts)
	if !slices.Equal(starts, []string{"REQUEST 1 09:00", "REQUEST 1 09:30"}) ||
		!slices.Equal(m.calendars("ann@corvoe.example"), []string{"REQUEST 1 10:00"}) {
		t.Errorf("the others have %v", starts)
	}
	// Ben cannot; the office moves him, with a reason
	if err := m.by(m.Of["Ben"].LeadID, "Ben", func(ctx context.Context, tx *db.Tx) error {
		return m.Interviews.Answer(ctx, tx, m.Of["Ben"], false, " ")
	}); err == nil {
		t.Error("he cannot come, and says nothing")
	}
	if err := m.by(m.Of["Ben"].LeadID, "Ben", func(ctx context.Context, tx *db.Tx) error {
		return m.Interviews.Answer(ctx, tx, m.Of["Ben"], false, "The ferry comes at ten.")
	}); err != nil || m.of("Ben").Reply != interview.Cannot {
		t.Errorf("%v, %+v", err, m.of("Ben"))
	}
	last := m.slot(3)
	move := func(why string) error {
		return m.by(m.Officer, "Ben", func(ctx context.Context, tx *db.Tx) error {
			return m.Interviews.Move(ctx, tx, m.Of["Ben"], last.ID, why)
		})
	}
	if err := move(""); err == nil {
		t.Error("moved without a reason")
	}
	if err := move("your ferry comes at ten"); err != nil {
		t.Fatal(err)
	}
	if got := m.calendars("ben@corvoe.example"); len(got) != 2 || got[1] != "REQUEST 2 10:30" ||
		m.of("Ben").Reply != interview.Silent {
		t.Errorf("moved: %v", got)
	}
	// marks before it began, by somebody who is not there, incomplete
	if err := m.marks(m.readers[0], "Ann", 3); err == nil {
		t.Error("marked before they met")
	}
	m.After(m.slot(0).Starts.Sub(m.Clock.Now()) + 3*time.Hour)
	if err := m.marks(m.readers[2], "Ann", 3); !errors.Is(err, interview.ErrNotThere) {
		t.Errorf("by somebody else: %v", err)
	}
	if err := m.marks(m.readers[0], "Ann", 4); err == nil {
		t.Error("a mark above the steps")
	}
	for _, x := range []struct {
		name   string
		values [2]int
	}{{"Ann", [2]int{3, 2}}, {"Ben", [2]int{1, 1}}} {
		for i, v := range x.values {
			if s := m.StateOf(x.name); s != lifecycle.Interview {
				t.Errorf("%s is %s before all have marked", x.name, s)
			}
			if err := m.marks(m.readers[i], x.name, v); err != nil {
				t.Fatal(err)
			}
		}
		if s := m.StateOf(x.name); s != lifecycle.Read || m.of(x.name).Outcome != interview.Held {
			t.Errorf("%s is %s after all have marked", x.name, s)
		}
	}
	if err := m.invites(nil, "Ann"); err == nil || m.of("Ann").Outcome != interview.Held {
		t.Errorf("invited again after being met: %v", err)
	}
	// Cai was not there, and goes on without
	absent := func(then interview.After) error {
		return m.by(m.Officer, "Cai", func(ctx context.Context, tx *db.Tx) error {
			return m.Interviews.DidNotCome(ctx, tx, m.Of["Cai"], then, "")
		})
	}
	if err := absent("away"); err == nil {
		t.Error("nothing happens then")
	}
	if err := absent(interview.Without); err != nil || m.StateOf("Cai") != lifecycle.Read {
		t.Errorf("%v, %s", err, m.StateOf("Cai"))
	}
	order, err := m.Decisions.Order(t.Context(), m.DB, m.Round, m.Form, "writing")
	if err != nil || len(order.Rows) != 4 {
		t.Fatalf("%d in the order, %v", len(order.Rows), err)
	}
	for i, row := range order.Rows {
		if (row.Met != nil && row.Met.Score.Known()) != (i < 2) {
			t.Errorf("place %d: %s met %+v", i+1, row.Title, row.Met)
		}
		if strings.HasPrefix(row.Title, "Cai") && (row.Met == nil || !row.Met.Absent) {
			t.Errorf("Cai was not there: %+v", row.Met)
		}
		if strings.HasPrefix(row.Title, "Ann") {
			read, n := 0.0, float64(len(row.Scores))
			for _, s := range row.Scores {
				read += s.Float() / n
			}
			if got, want := row.Score.Float(), 0.6*read+0.4*2.5; got < want-1e-9 || got > want+1e-9 {
				t.Errorf("Ann has %v, want %v", got, want)
			}
		}
	}
}

// Called off: their calendars are told, and they are decided without. Missed with
// another time: the first is cancelled.
func TestInterviewsThatDoNotTakePlace(t *testing.T) {
	t.Parallel()
	m := readRound(t, "Ann", "Ben")
	m.lays(m.readers[:1], 3)
	if err := m.invites(nil, "Ann", "Ben"); err != nil {
		t.Fatal(err)
	}
	if m.Mailed("ann@corvoe.example", "") == 0 || m.Mailed("ann@corvoe.example", "Choose a time") != 0 {
		t.Error("who is given a time is asked to choose one")
	}
	if g := m.gives(); g != (interview.Given{Given: 2}) {
		t.Errorf("%+v", g)
	}
	off := func(why string) error {
		return m.by(m.Officer, "Ann", func(ctx context.Context, tx *db.Tx) error {
			return m.Interviews.CallOff(ctx, tx,
				m.Of["Ann"], why)
		})
	}
	if err := off(""); err == nil {
		t.Error("called off without a reason")
	}
	if err := off("the panel has what it needs"); err != nil || m.StateOf("Ann") != lifecycle.Read {
		t.Fatalf("%v, %s", err, m.StateOf("Ann"))
	}
	got := m.calendars("ann@corvoe.example")
	if len(got) != 2 || !strings.HasPrefix(got[1], "CANCEL 2") {
		t.Errorf("%v", got)
	}
	if _, err := m.Interviews.Of(t.Context(), m.DB, m.Of["Ann"].EntryID); !errors.Is(err, interview.ErrNotInvited) {
		t.Errorf("after that: %v", err)
	}
	absent := func() error {
		return m.by(m.Officer, "Ben", func(ctx context.Context, tx *db.Tx) error {
			return m.Interviews.DidNotCome(ctx, tx, m.Of["Ben"], interview.Again, "We waited a quarter of an hour.")
		})
	}
	if err := absent(); err == nil {
		t.Error("absent from what is still to come")
	}
	// the day before, whoever comes is reminded once
	m.After(m.slot(0).Starts.Sub(m.Clock.Now()) - 20*time.Hour)
	for range 2 {
		if err := m.Interviews.Sweep(t.Context(), m.Clock.Now()); err != nil {
			t.Fatal(err)
		}
	}
	m.Drain()
	if n := m.Mailed("ben@corvoe.example", "is soon"); n != 1 {
		t.Errorf("reminded %d times", n)
	}
	m.After(24 * time.Hour)
	if err := absent(); err != nil || m.StateOf("Ben") != lifecycle.Interview || m.of("Ben").SlotID != nil {
		t.Errorf("%v, %+v", err, m.of("Ben"))
	}
	if got := m.calendars("ben@corvoe.example"); len(got) != 2 || !strings.HasPrefix(got[1], "CANCEL") {
		t.Errorf("%v", got)
	}
	// no time is left today; another day has one
	if g := m.gives(); g != (interview.Given{Left: 1}) {
		t.Errorf("times that are over are given: %+v", g)
	}
	m.lays(m.readers[:1], 1)
	if g := m.gives(); g != (interview.Given{Given: 1}) || len(m.calendars("ben@corvoe.example")) != 3 {
		t.Errorf("%+v", g)
	}
	if err := m.invites(nil, "Ben"); err == nil {
		t.Error("invited twice")
	}
	// who withdraws gives the time back, and their calendar is told
	m.StateOf("Ben")
	m.Act(m.Of["Ben"].LeadID, func(ctx context.Context, tx *db.Tx) error {
		_, _, err := m.Cases.Transition(ctx, tx, m.Of["Ben"], lifecycle.Withdraw, nil)
		return err
	})
	if err := m.Interviews.Sweep(t.Context(), m.Clock.Now()); err != nil {
		t.Fatal(err)
	}
	if got := m.calendars("ben@corvoe.example"); m.of("Ben").SlotID != nil || len(got) != 4 ||
		!strings.HasPrefix(got[3], "CANCEL") {
		t.Errorf("after withdrawing: %v", got)
	}
}

// Mailed counts the mails to an address with something in the subject.
func (m *met) Mailed(to, in string) (n int) {
	m.Drain()
	list, _ := m.Tray.List(to, 0, 1000)
	for _, x := range list {
		if strings.Contains(x.Subject, in) {
			n++
		}
	}
	return n
}
