package colleague_test

import (
	"context"
	"slices"
	"strings"
	"testing"
	"time"

	"ulvant/core/access"
	"ulvant/core/calendar"
	"ulvant/core/refusal"
	"ulvant/core/register"
	"ulvant/internal/colleague"
	"ulvant/internal/desk"
	"ulvant/internal/people"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
)

// office is a house with a case and three who work there.
func office(t *testing.T) (p *programtest.Panel, jonas, piran int64) {
	p = programtest.SentTo(t, map[string]string{"Ann": "9,000", "Bo": "7,000"})
	give := func(email, name string) int64 {
		id := p.Person(email, name).ID
		p.Act(0, func(ctx context.Context, tx *db.Tx) error {
			return p.People.GiveRole(ctx, tx, id, access.Held{Role: access.LooksAfter})
		})
		return id
	}
	return p, give("jonas@ostrel-trust.example", "Jonas Tarn"), give("piran@ostrel-trust.example", "Piran Lode")
}

// A label is short, stands once, and comes off.
func TestLabels(t *testing.T) {
	p, jonas, _ := office(t)
	for _, c := range []struct {
		typed   string
		on      bool
		changed bool
		refused bool
		after   string
	}{
		{"site  visit ", true, true, false, "site visit"}, {"site visit", true, false, false, "site visit"},
		{"large", true, true, false, "large,site visit"}, {"", true, false, true, "large,site visit"},
		{strings.Repeat("x", 41), true, false, true, "large,site visit"}, {"a,b", true, false, true, "large,site visit"},
		{"site visit", false, true, false, "large"}, {"site visit", false, false, false, "large"},
	} {
		var changed bool
		err := p.Try(jonas, func(ctx context.Context, tx *db.Tx) (err error) {
			changed, err = p.Colleagues.Label(ctx, tx, p.Of["Ann"], c.typed, c.on)
			return err
		})
		_, refused := refusal.Of(err)
		now, lerr := p.Colleagues.Labels(t.Context(), p.DB, p.Of["Ann"])
		if lerr != nil {
			t.Fatal(lerr)
		}
		if refused != c.refused || changed != c.changed || strings.Join(now, ",") != c.after {
			t.Errorf("%q %v: changed %v, %v, then %v", c.typed, c.on, changed, err, now)
		}
	}
	p.Held(jonas, func(ctx context.Context, tx *db.Tx) error {
		for i := range colleague.MostLabels - 1 {
			if _, err := p.Colleagues.Label(ctx, tx, p.Of["Ann"], "l"+string(rune('a'+i)), true); err != nil {
				return err
			}
		}
		return nil
	})
	if err := p.Try(jonas, func(ctx context.Context, tx *db.Tx) error {
		_, err := p.Colleagues.Label(ctx, tx, p.Of["Ann"], "one more", true)
		return err
	}); err == nil {
		t.Error("more than 20 labels are kept")
	}
}

// Whom a note names.
func TestMentioned(t *testing.T) {
	all := []people.Account{{ID: 1, Name: "Neda Sparrow"}, {ID: 2, Name: "Jonas Tarn"}, {ID: 3, Name: "Jonas Ó Dálaigh"},
		{ID: 4, Name: "Piran Lode"}}
	for _, c := range []struct{ text, names, unknown string }{
		{"nobody at all", "", ""}, {"write to a@b.example", "", ""},
		{"@Piran look", "Piran Lode", ""}, {"@Piran Lode, look", "Piran Lode", ""}, {"(@Neda Sparrow)", "Neda Sparrow", ""},
		{"@Piran Lode They rang", "Piran Lode", ""}, {"@piran and @NEDA", "Piran Lode,Neda Sparrow", ""},
		{"@Jonas look", "", "Jonas"}, {"@Jonas Tarn look", "Jonas Tarn", ""}, {"@Jonas Ó Dálaigh", "Jonas Ó Dálaigh", ""},
		{"@Maren look", "", "Maren"}, {"@Piran twice @Piran", "Piran Lode", ""},
	} {
		found, unknown := colleague.Mentioned(c.text, all)
		var names []string
		for _, a := range found {
			names = append(names, a.Name)
		}
		if strings.Join(names, ",") != c.names || unknown != c.unknown {
			t.Errorf("%q names %v, unknown %q", c.text, names, unknown)
		}
	}
}

// A note stands with the case; whom it names finds it until it is put aside or
// taken back, and the applicant’s trail has nothing of it.
func TestNotes(t *testing.T) {
	p, jonas, piran := office(t)
	add := func(text string) (named []string, err error) {
		err = p.Try(jonas, func(ctx context.Context, tx *db.Tx) (err error) {
			named, err = p.Colleagues.AddNote(ctx, tx, p.Of["Ann"], text)
			return err
		})
		return named, err
	}
	mentions := func(account int64) int {
		list, err := p.Colleagues.MentionsOf(t.Context(), p.DB, account, 10)
		if err != nil {
			t.Fatal(err)
		}
		return len(list)
	}
	if _, err := add("  "); err == nil {
		t.Error("an empty note is kept")
	}
	if _, err := add("@Maren have you seen this?"); err == nil {
		t.Error("a note that names nobody of ours is kept")
	}
	named, err := add("@Piran and @Jonas, have you seen this?")
	if err != nil || !slices.Equal(named, []string{"Piran Lode"}) {
		t.Fatalf("%v %v", named, err)
	}
	if mentions(piran) != 1 || mentions(jonas) != 0 {
		t.Errorf("Piran is named %d times, Jonas %d", mentions(piran), mentions(jonas))
	}
	p.Held(piran, func(ctx context.Context, tx *db.Tx) error { return p.Colleagues.SeeMentions(ctx, tx, p.Of["Ann"]) })
	if mentions(piran) != 0 {
		t.Error("what was put aside is still open")
	}
	if _, err := add("@Piran once more"); err != nil {
		t.Fatal(err)
	}
	notes, err := p.Colleagues.Notes(t.Context(), p.DB, p.Of["Ann"])
	if err != nil || len(notes) != 2 || notes[0].Text != "@Piran once more" || notes[0].By != "Jonas Tarn" {
		t.Fatalf("%+v %v", notes, err)
	}
	take := func(by int64) error {
		return p.Try(by, func(ctx context.Context, tx *db.Tx) error {
			return p.Colleagues.TakeNote(ctx, tx, p.Of["Ann"], notes[0].ID)
		})
	}
	if take(piran) == nil {
		t.Error("another's note is taken back")
	}
	if err := take(jonas); err != nil || mentions(piran) != 0 {
		t.Errorf("taken back: %v, Piran is named %d times", err, mentions(piran))
	}
}

// Who looks after a case: by hand before its place, and who stands in while they
// are away, once that was agreed to.
func TestWhoLooksAfterACase(t *testing.T) {
	p, jonas, piran := office(t)
	day := calendar.NewDate(2027, 3, 22)
	at := func(d calendar.Date) time.Time {
		y, m, n := d.Civil()
		return time.Date(y, m, n, 12, 0, 0, 0, time.UTC)
	}
	columns := register.Of(p.Form)
	who := func(on calendar.Date) string {
		t.Helper()
		c := p.Of["Ann"]
		name, err := p.Desk.CarerOf(t.Context(), c.ID, c.RoundID, "", at(on))
		if err != nil {
			t.Fatal(err)
		}
		// the register says the same
		q := desk.Sought{Round: p.Round.ID, Columns: columns, Today: on, Zone: p.Form.Zone, Entries: []int64{c.EntryID},
			Shape: register.Shape{Columns: []string{register.KeyCarer}}}
		rows, err := p.Desk.Register(t.Context(), q)
		if err != nil || len(rows) != 1 {
			t.Fatal(rows, err)
		}
		cells, err := desk.CellsOf(q, rows[0])
		if err != nil {
			t.Fatal(err)
		}
		if (name == "") != cells[0].Blank() {
			t.Errorf("%s: %q here, %+v in the register", on, name, cells[0])
		}
		return name
	}
	if got := who(day); got != "" {
		t.Errorf("nobody was said, and it is %q", got)
	}
	p.Act(p.Officer, func(ctx context.Context, tx *db.Tx) error {
		return p.Rounds.LooksAfter(ctx, tx, p.Round.ID, "", p.Officer)
	})
	if got := who(day); got != "Neda Sparrow" {
		t.Errorf("by the round it is %q", got)
	}
	p.Held(p.Officer, func(ctx context.Context, tx *db.Tx) error {
		_, err := p.Colleagues.Hand(ctx, tx, p.Of["Ann"], jonas)
		return err
	})
	if got := who(day); got != "Jonas Tarn" {
		t.Errorf("by hand it is %q", got)
	}
	away := func(from, to calendar.Date, cover int64) error {
		return p.Try(jonas, func(ctx context.Context, tx *db.Tx) error {
			return p.Colleagues.GoAway(ctx, tx, at(from), at(to), cover)
		})
	}
	for what, err := range map[string]error{"the last day before the first": away(day, day.AddDays(-1), piran),
		"covering for oneself": away(day, day, jonas), "a stranger": away(day, day, p.Of["Ann"].LeadID)} {
		if _, said := refusal.Of(err); !said {
			t.Errorf("%s: %v", what, err)
		}
	}
	if err := away(day, day.AddDays(4), piran); err != nil {
		t.Fatal(err)
	}
	if err := away(day.AddDays(4), day.AddDays(6), piran); err == nil {
		t.Error("somebody is away twice on a day")
	}
	if got := who(day); got != "Jonas Tarn" {
		t.Errorf("before it is agreed to it is %q", got)
	}
	list, err := p.Colleagues.Aways(t.Context(), p.DB, piran, at(day))
	if err != nil || len(list) != 1 || list[0].Name != "Jonas Tarn" || list[0].AgreedAt != nil {
		t.Fatalf("%+v %v", list, err)
	}
	agree := func(by int64) error {
		return p.Try(by, func(ctx context.Context, tx *db.Tx) error { return p.Colleagues.AgreeAway(ctx, tx, list[0].ID) })
	}
	if agree(jonas) == nil {
		t.Error("whoever is away agrees for the other")
	}
	if err := agree(piran); err != nil {
		t.Fatal(err)
	}
	for on, want := range map[calendar.Date]string{day.AddDays(-1): "Jonas Tarn", day: "Piran Lode",
		day.AddDays(4): "Piran Lode",
		day.AddDays(5): "Jonas Tarn"} {
		if got := who(on); got != want {
			t.Errorf("on %s it is %q, want %q", on, got, want)
		}
	}
	p.Held(piran, func(ctx context.Context, tx *db.Tx) error { return p.Colleagues.EndAway(ctx, tx, list[0].ID) })
	if got := who(day); got != "Jonas Tarn" {
		t.Errorf("taken back, it is %q", got)
	}
	p.Act(p.Officer, func(ctx context.Context, tx *db.Tx) error {
		_, err := p.Colleagues.Hand(ctx, tx, p.Of["Ann"], 0)
		return err
	})
	if got := who(day); got != "Neda Sparrow" {
		t.Errorf("given back, it is %q", got)
	}
}

// A view is one's own until it is shared; its address says why it is not seen.
func TestViews(t *testing.T) {
	p, jonas, piran := office(t)
	keep := func(by int64, v colleague.View) (id int64, err error) {
		err = p.Try(by, func(ctx context.Context, tx *db.Tx) (err error) {
			id, err = p.Colleagues.KeepView(ctx, tx, v)
			return err
		})
		return id, err
	}
	for what, v := range map[string]colleague.View{"no name": {Name: " "}, "a long name": {Name: strings.Repeat("x", 61)},
		"a long address": {Name: "a", Address: strings.Repeat("x", 8001)}} {
		if _, err := keep(jonas, v); err == nil {
			t.Errorf("%s is kept", what)
		}
	}
	mine, err := keep(jonas, colleague.View{Round: p.Round.ID, Name: "Mine", Address: "if=a"})
	if err != nil {
		t.Fatal(err)
	}
	names := func(account, round int64) string {
		list, err := p.Colleagues.Views(t.Context(), p.DB, round, account)
		if err != nil {
			t.Fatal(err)
		}
		var out []string
		for _, v := range list {
			out = append(out, v.Name+" "+v.Address)
		}
		return strings.Join(out, ",")
	}
	if names(jonas, p.Round.ID) != "Mine if=a" || names(piran, p.Round.ID) != "" || names(jonas, 0) != "" {
		t.Errorf("%q, %q, %q", names(jonas, p.Round.ID), names(piran, p.Round.ID), names(jonas, 0))
	}
	if _, err := p.Colleagues.View(t.Context(), p.DB, mine, piran); err == nil ||
		!strings.Contains(err.Error(), "not shared") {
		t.Errorf("another's view: %v", err)
	}
	again, err := keep(jonas, colleague.View{Round: p.Round.ID, Name: "Mine", Address: "if=b", Shared: true})
	if err != nil || again != mine {
		t.Fatalf("kept anew under the same name: %d and %d, %v", mine, again, err)
	}
	if names(piran, p.Round.ID) != "Mine if=b" {
		t.Errorf("shared, Piran sees %q", names(piran, p.Round.ID))
	}
	drop := func(by int64) error {
		return p.Try(by, func(ctx context.Context, tx *db.Tx) error { return p.Colleagues.DropView(ctx, tx, mine) })
	}
	if drop(piran) == nil {
		t.Error("another's view is taken away")
	}
	if err := drop(jonas); err != nil || names(jonas, p.Round.ID) != "" {
		t.Errorf("%v, %q", err, names(jonas, p.Round.ID))
	}
	p.Held(jonas, func(ctx context.Context, tx *db.Tx) error { return p.Colleagues.BringViewBack(ctx, tx, mine) })
	if names(jonas, p.Round.ID) != "Mine if=b" {
		t.Errorf("brought back: %q", names(jonas, p.Round.ID))
	}
}
