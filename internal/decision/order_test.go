package decision_test

import (
	"context"
	"errors"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/internal/application"
	"ulvant/internal/decision"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/reading"
)

// The order is by the mean of the readers' weighted means; what the fund takes
// is offered, and what somebody chose stands in place of the offer.
func TestTheOrder(t *testing.T) {
	p := programtest.SentTo(t, map[string]string{"Ann": "60,000", "Bo": "50,000", "Cy": "20,000"})
	readers := p.InviteReaders("Oriel Vane", "Teodora Brisk")
	p.Clock.Set(p.Form.HandsOutFrom())
	p.Drain()
	if _, err := p.HandsOut(); err != nil {
		t.Fatal(err)
	}
	for name, marks := range map[string][2]int{"Ann": {3, 3}, "Bo": {4, 4}, "Cy": {2, 4}} {
		p.StateOf(name)
		for i, account := range readers {
			p.Act(account, func(ctx context.Context, tx *db.Tx) error {
				g, err := p.Reading.Find(ctx, tx, p.Of[name].EntryID, account)
				if err != nil {
					return err
				}
				m := marks[i]
				if _, err := p.Reading.Keep(ctx, tx, p.Of[name], g.Version,
					reading.Marking{Marks: map[form.Key]int{"gain": m, "lasting": m, "value": m}}); err != nil || name == "Cy" &&
					i == 1 {
					return err // the second of Cy's readers does not send
				}
				return p.Reading.Send(ctx, tx, p.Of[name])
			})
		}
	}
	order := func() (decision.Table, string) {
		t.Helper()
		table, err := p.Decisions.Order(t.Context(), p.DB, p.Round, p.Form, "writing")
		if err != nil {
			t.Fatal(err)
		}
		var out []string
		for _, r := range table.Rows {
			out = append(out, strings.Fields(r.Lead)[0]+" "+r.Score.String())
		}
		return table, strings.Join(out, ", ")
	}
	table, got := order()
	if got != "Bo 4.00, Ann 3.00" || table.Unread != 1 || !table.Last || table.Fund != 10_000_000 {
		t.Errorf("%s; %d unread, last %v, fund %d", got, table.Unread, table.Last, table.Fund)
	}
	if len(table.Rows[0].Scores) != 2 {
		t.Errorf("%d scores beside Bo's", len(table.Rows[0].Scores))
	}
	chosen := func() (out []string) {
		table, _ := order()
		for i, c := range table.Cases() {
			out = append(out, strings.Fields(table.Rows[i].Lead)[0]+" "+string(c.Chosen)+" "+amount(c.Amount))
		}
		return out
	}
	if got := chosen(); !slices.Equal(got, []string{"Bo awarded 50000", "Ann reserve 60000"}) {
		t.Errorf("offered: %v", got)
	}
	choose := func(outcome lifecycle.State, sum int64, names ...string) error {
		return p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
			var list []decision.Choice
			for _, n := range names {
				list = append(list, decision.Choice{EntryID: p.Of[n].EntryID, Outcome: outcome, Amount: sum})
			}
			return p.Decisions.Choose(ctx, tx, p.Round, list)
		})
	}
	if err := choose(lifecycle.Awarded, 4_000_000, "Ann", "Bo"); err != nil {
		t.Fatal(err)
	}
	if got := chosen(); !slices.Equal(got, []string{"Bo awarded 40000", "Ann awarded 40000"}) {
		t.Errorf("chosen: %v", got)
	}
	if err := choose(lifecycle.NotAwarded, -5, "Ann"); err != nil {
		t.Fatal(err)
	}
	if got := chosen(); !slices.Equal(got, []string{"Bo awarded 40000", "Ann not awarded 0"}) {
		t.Errorf("chosen anew: %v", got)
	}
	other := p.Round
	other.ID++
	err := p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
		return p.Decisions.Choose(ctx, tx, other, []decision.Choice{{EntryID: p.Of["Ann"].EntryID,
			Outcome: lifecycle.Awarded}})
	})
	if !errors.Is(err, application.ErrNotFound) {
		t.Errorf("through another round: %v", err)
	}
	if _, err := p.Records("", table.Chosen()); err != nil {
		t.Fatal(err)
	}
	if got := chosen(); !slices.Equal(got, []string{"Bo  50000", "Ann  60000"}) {
		t.Errorf("once recorded nothing more is offered: %v", got)
	}
	if again := func() []decision.Choice { t, _ := order(); return t.Chosen() }(); len(again) != 0 {
		t.Errorf("nothing changed, and %+v would be recorded", again)
	}
}

func amount(minor int64) string { return strconv.FormatInt(minor/100, 10) }

// The fund is not overdrawn by a cent, by one act or by two.
func TestTheFundHolds(t *testing.T) {
	for _, c := range []struct {
		name string
		acts []map[string]int64
		last string // what the last is told; "" when it is recorded
	}{
		{"all of it", []map[string]int64{{"Ann": 6_000_000, "Bo": 4_000_000}}, ""},
		{"a cent more in one act", []map[string]int64{{"Ann": 6_000_000, "Bo": 4_000_001}}, "€0.01 more than the fund"},
		{"a cent more in two", []map[string]int64{{"Ann": 6_000_000}, {"Bo": 4_000_001}}, "€0.01 more than the fund"},
		{"all of it in two", []map[string]int64{{"Ann": 6_000_000}, {"Bo": 4_000_000}}, ""},
		{"more than was asked", []map[string]int64{{"Cy": 2_000_001}}, "asked for"},
		{"no sum", []map[string]int64{{"Cy": 0}}, ""},
	} {
		t.Run(c.name, func(t *testing.T) {
			p := programtest.SentToRound(t, programtest.Unread,
				map[string]string{"Ann": "60,000", "Bo": "50,000", "Cy": "20,000"})
			for i, sums := range c.acts {
				_, err := p.Records("", p.Choices(sums))
				last := i == len(c.acts)-1
				switch {
				case last && c.last != "" && (err == nil || !strings.Contains(err.Error(), c.last)):
					t.Errorf("%v, want %q", err, c.last)
				case (!last || c.last == "") && err != nil:
					t.Error(err)
				}
			}
		})
	}
}

// Equal scores are settled by the round’s rule: who was sent first, the mark in a
// criterion, or a lot that anybody can draw again; without one they share a place.
func TestEqualScores(t *testing.T) {
	for _, c := range []struct {
		tie  form.Key
		want string // in order, with ranks; "" for any order of one each
	}{
		{"", "1 1 1"}, {form.TieSent, "Bo 1, Cy 2, Ann 3"}, {"gain", "Cy 1, Ann 2, Bo 3"}, {form.TieLot, "1 2 3"},
	} {
		p := programtest.SentToRound(t, func(d *form.Design) {
			programtest.Short(d)
			d.Tie = c.tie
			for i := range d.Criteria { // so that different marks come to the same
				d.Criteria[i].Weight = []int{40, 40, 20}[i]
			}
		}, nil)
		for _, name := range []string{"Bo", "Cy", "Ann"} {
			p.Clock.Set(p.Clock.Now().Add(time.Minute))
			lead := p.Person(strings.ToLower(name)+"@corvoe.example", name+" Hart")
			p.Act(lead.ID, func(ctx context.Context, tx *db.Tx) error {
				c, err := p.Intake.Start(ctx, tx, "shore-2027", name+"’s work", nil)
				if err != nil {
					return err
				}
				if _, _, err = p.Intake.Save(ctx, tx, c, programtest.WholeShort("10,000")); err != nil {
					return err
				}
				p.Of[name], err = p.Intake.Send(ctx, tx, c)
				return err
			})
		}
		readers := p.InviteReaders("Oriel Vane", "Teodora Brisk")
		p.Clock.Set(p.Form.HandsOutFrom())
		p.Drain()
		if _, err := p.HandsOut(); err != nil {
			t.Fatal(err)
		}
		for name, m := range map[string][2]int{"Ann": {2, 2}, "Bo": {1, 3}, "Cy": {3, 1}} {
			p.StateOf(name)
			for _, account := range readers {
				p.Act(account, func(ctx context.Context, tx *db.Tx) error {
					g, err := p.Reading.Find(ctx, tx, p.Of[name].EntryID, account)
					if err != nil {
						return err
					}
					if _, err := p.Reading.Keep(ctx, tx, p.Of[name], g.Version,
						reading.Marking{Marks: map[form.Key]int{"gain": m[0], "lasting": m[1], "value": 2}}); err != nil {
						return err
					}
					return p.Reading.Send(ctx, tx, p.Of[name])
				})
			}
		}
		table, err := p.Decisions.Order(t.Context(), p.DB, p.Round, p.Form, "writing")
		if err != nil {
			t.Fatal(err)
		}
		var named, ranks []string
		for _, r := range table.Rows {
			named, ranks = append(named, strings.Fields(r.Lead)[0]+" "+strconv.Itoa(r.Rank)), append(ranks, strconv.Itoa(r.Rank))
			if r.Settled != (c.tie != "") || r.Tied != (c.tie == "") {
				t.Errorf("%q: %s is tied %v, settled %v", c.tie, r.Lead, r.Tied, r.Settled)
			}
		}
		if got := strings.Join(named, ", "); got != c.want && strings.Join(ranks, " ") != c.want {
			t.Errorf("%q: %s", c.tie, got)
		}
	}
}
