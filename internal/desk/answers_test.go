package desk_test

import (
	"context"
	"testing"
	"time"

	"ulvant/core/access"
	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/register"
	"ulvant/internal/desk"
	"ulvant/internal/programtest"
)

// An office that is told “nothing waits” because a statement failed leaves something
// lying: whatever is asked of the desk fails when one of its statements does.
func TestNoListIsEmptyForAFault(t *testing.T) {
	t.Parallel()
	p := programtest.SentTo(t, map[string]string{"Ann": "60,000", "Bo": "?50,000"})
	d, r, c, now := p.Desk, p.Round.ID, p.Of["Ann"], p.Clock.Now()
	code := func(c form.Code) string { return string(c) }
	q := desk.Sought{Round: r, Columns: register.Of(p.Form), Zone: p.Form.Zone, Most: 10,
		Today: calendar.NewDate(2027, 3, 20)}
	for name, ask := range map[string]func(context.Context) error{
		"mine":       func(ctx context.Context) error { _, err := d.Mine(ctx, c.LeadID); return err },
		"counts":     func(ctx context.Context) error { _, err := d.Counts(ctx, r); return err },
		"stuck":      func(ctx context.Context) error { _, err := d.Stuck(ctx, r, code); return err },
		"mended":     func(ctx context.Context) error { _, err := d.Mended(ctx, r, code); return err },
		"letters":    func(ctx context.Context) error { _, err := d.Letters(ctx, r); return err },
		"checks":     func(ctx context.Context) error { _, err := d.Checks(ctx, r, 0, 9); return err },
		"open":       func(ctx context.Context) error { _, err := d.OpenChecks(ctx, r, 9); return err },
		"open of":    func(ctx context.Context) error { _, err := d.OpenChecksOf(ctx, r); return err },
		"open at":    func(ctx context.Context) error { _, _, err := d.OpenChecksAt(ctx, r, ""); return err },
		"applied":    func(ctx context.Context) error { _, err := d.Applied(ctx, r, "oar"); return err },
		"lately":     func(ctx context.Context) error { _, err := d.Lately(ctx, nil, nil, 9); return err },
		"changes":    func(ctx context.Context) error { _, err := d.Changes(ctx, r, 9); return err },
		"post":       func(ctx context.Context) error { _, err := d.Post(ctx, c.ID); return err },
		"support":    func(ctx context.Context) error { _, err := d.WantSupport(ctx); return err },
		"held":       func(ctx context.Context) error { _, err := d.HeldLetters(ctx); return err },
		"board":      func(ctx context.Context) error { _, err := d.Board(ctx, r, desk.BoardFilter{Most: 9}); return err },
		"owing":      func(ctx context.Context) error { _, err := d.Owing(ctx, r, desk.BoardFilter{Most: 9}); return err },
		"fees":       func(ctx context.Context) error { _, err := d.Fees(ctx, r); return err },
		"book":       func(ctx context.Context) error { _, err := d.FeeBook(ctx, r); return err },
		"ledger":     func(ctx context.Context) error { _, err := d.Ledger(ctx, r); return err },
		"fee tasks":  func(ctx context.Context) error { _, err := d.FeeTasks(ctx, now); return err },
		"waived":     func(ctx context.Context) error { _, err := d.Waived(ctx, r); return err },
		"find":       func(ctx context.Context) error { _, err := d.Find(ctx, nil, "ann", 9); return err },
		"places":     func(ctx context.Context) error { _, err := d.PlacesOf(ctx, r); return err },
		"carer":      func(ctx context.Context) error { _, err := d.CarerOf(ctx, c.ID, r, "", now); return err },
		"queue":      func(ctx context.Context) error { _, err := d.Queue(ctx, r, "", 0, "", 9); return err },
		"readers":    func(ctx context.Context) error { _, err := d.Readers(ctx, r); return err },
		"to read":    func(ctx context.Context) error { _, err := d.ReaderDesk(ctx, 1); return err },
		"pending":    func(ctx context.Context) error { _, err := d.Pending(ctx, r); return err },
		"reads":      func(ctx context.Context) error { _, err := d.Reading(ctx, r, 1); return err },
		"register":   func(ctx context.Context) error { _, err := d.Register(ctx, q); return err },
		"entries":    func(ctx context.Context) error { _, err := d.RegisterEntries(ctx, q, 9); return err },
		"totals":     func(ctx context.Context) error { _, err := d.RegisterTotals(ctx, q); return err },
		"labels":     func(ctx context.Context) error { _, err := d.Labels(ctx); return err },
		"lacking":    func(ctx context.Context) error { _, err := d.Lacking(ctx, r); return err },
		"rescue":     func(ctx context.Context) error { _, err := d.Rescue(ctx, r, now, 9); return err },
		"nudged":     func(ctx context.Context) error { _, _, err := d.Nudged(ctx, r); return err },
		"returned":   func(ctx context.Context) error { _, err := d.Returned(ctx, 9); return err },
		"want time":  func(ctx context.Context) error { _, err := d.WantTime(ctx); return err },
		"late":       func(ctx context.Context) error { _, err := d.LateLetters(ctx, r); return err },
		"tried late": func(ctx context.Context) error { _, err := d.LateTries(ctx, r); return err },
		"enquiries":  func(ctx context.Context) error { _, err := d.OpenEnquiries(ctx); return err },
		"offers":     func(ctx context.Context) error { _, err := d.OffersBack(ctx); return err },
		"queries":    func(ctx context.Context) error { _, err := d.AnsweredQueries(ctx); return err },
		"turns":      func(ctx context.Context) error { _, err := d.Turns(ctx, r, "board", now, 9); return err },
		"turn count": func(ctx context.Context) error { _, err := d.TurnCounts(ctx, r, "board"); return err },
		"promises":   func(ctx context.Context) error { _, err := d.Promises(ctx, r, p.Form, now); return err },
		"wanted":     func(ctx context.Context) error { _, err := d.WantedOf(ctx, "ann@tarl.example", now); return err },
	} {
		t.Run(name, func(t *testing.T) {
			h := *p.House
			h.T = t
			if h.Answers(ask) == 0 {
				t.Error("it asks nothing")
			}
		})
	}
}

// What waits for a body waits for those who review for it while they do, and for nobody
// else.
func TestTurnTasks(t *testing.T) {
	t.Parallel()
	p := programtest.SentToRound(t, func(d *form.Design) {
		programtest.Short(d)
		d.Bodies = []form.Body{{Key: "board", Label: "The Board", By: form.ChecksBy, Marks: 10,
			Points: []form.Option{{Key: "dry", Label: "It stays dry"}}}}
	}, map[string]string{"Ann": "20,000", "Bo": "30,000"})
	now := p.Clock.Now()
	at := func(d time.Duration) *time.Time { x := now.Add(d); return &x }
	reviews := func(body string, until *time.Time) access.Held {
		return access.Held{Role: access.Reviews, Scope: access.Scope{Round: p.Round.ID, Body: body}, Until: until}
	}
	for _, c := range []struct {
		name string
		held []access.Held
		n    int
	}{
		{"nobody", nil, 0},
		{"one who checks", []access.Held{{Role: access.Checks}}, 0},
		{"for ever", []access.Held{reviews("board", nil)}, 2},
		{"until later", []access.Held{reviews("board", at(time.Second))}, 2},
		{"until now", []access.Held{reviews("board", at(0))}, 0},
		{"for another body", []access.Held{reviews("guild", nil)}, 0},
		{"besides another role", []access.Held{{Role: access.Checks}, reviews("board", nil)}, 2},
	} {
		var tasks []desk.TurnTask
		p.Answers(func(ctx context.Context) (err error) { tasks, err = p.Desk.TurnTasks(ctx, c.held, now); return err })
		n := 0
		for _, x := range tasks {
			n += x.N
			if x.RoundKey != p.Round.Key || x.Since.IsZero() || x.DueAt == nil {
				t.Errorf("%s: %+v", c.name, x)
			}
		}
		if n != c.n {
			t.Errorf("%s: %d wait, want %d", c.name, n, c.n)
		}
	}
}

// Since when the oldest rule waits is what the list of a place says; nothing where none
// does. What is added up is what fits, and without a column of numbers it is counted alone.
func TestFiguresOfAPlace(t *testing.T) {
	t.Parallel()
	p := programtest.SentTo(t, map[string]string{"Ann": "60,000", "Bo": "?50,000"})
	n, since, err := p.Desk.OpenChecksAt(t.Context(), p.Round.ID, "")
	if err != nil || n != 1 || since.IsZero() || since.After(p.Clock.Now()) {
		t.Errorf("%d wait since %v, %v", n, since, err)
	}
	if n, since, err := p.Desk.OpenChecksAt(t.Context(), p.Round.ID, "Tarl"); err != nil || n != 0 || !since.IsZero() {
		t.Errorf("elsewhere %d wait since %v, %v", n, since, err)
	}
	q := desk.Sought{Round: p.Round.ID, Columns: register.Of(p.Form), Zone: p.Form.Zone,
		Today: calendar.NewDate(2027, 3, 20)}
	for _, c := range []struct {
		columns []string
		asked   string
	}{{nil, ""}, {[]string{"title"}, ""}, {[]string{"title", "asked"}, "11000000"}} {
		q.Shape.Columns = c.columns
		got, err := p.Desk.RegisterTotals(t.Context(), q)
		if err != nil || got.N != 2 || got.Sums["asked"] != c.asked {
			t.Errorf("%v: %+v %v", c.columns, got, err)
		}
	}
}
