package demo

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/design"
	"ulvant/core/form"
	"ulvant/core/pattern"
	"ulvant/core/phrase"
	"ulvant/core/slot"
	"ulvant/internal/platform/db"
	"ulvant/internal/program"
)

// edits are the changes an officer makes on the design page, in their order:
// the same operations as the page makes.
type edits struct{ ops []design.Op }

func encode(v any) json.RawMessage {
	b, err := json.Marshal(v)
	if err != nil {
		panic(err) // designs always encode
	}
	return b
}

// add a thing to the end of a list, or before another.
func (e *edits) add(list string, thing any, before ...string) {
	op := design.Op{Do: design.Add, Path: list, Value: encode(thing)}
	if len(before) > 0 {
		op.Before = before[0]
	}
	e.ops = append(e.ops, op)
}

func (e *edits) set(path string, v any) {
	e.ops = append(e.ops, design.Op{Do: design.Set, Path: path, Value: encode(v)})
}

// ask adds a question to a section: compulsory and seen by readers, unless a
// change says otherwise.
func (e *edits) ask(section string, key form.Key, kind form.Kind, nature form.Nature, label string,
	changes ...func(*form.Question)) {
	q := design.NewQuestion(kind, label)
	q.Key, q.Nature = key, nature
	for _, c := range changes {
		c(&q)
	}
	e.add("sections/"+section+"/questions", q)
}

func (e *edits) section(key form.Key, label, help string, before string, asked condition.Cond) {
	e.add("sections", form.Section{Key: key, Label: label, Help: help, Asked: asked, Questions: []form.Question{}}, before)
}

// The changes that questions take.

func help(text string) func(*form.Question)        { return func(q *form.Question) { q.Help = text } }
func may(q *form.Question)                         { q.Blank = form.MeansUnknown }
func mayNo(q *form.Question)                       { q.Blank = form.MeansNo }
func office(q *form.Question)                      { q.Seen = form.ToOffice }
func counted(q *form.Question)                     { q.Purpose = form.ForReports }
func onlyIf(c condition.Cond) func(*form.Question) { return func(q *form.Question) { q.Asked = c } }
func limits(l form.Limits) func(*form.Question)    { return func(q *form.Question) { q.Limits.Else = l } }
func takes(l slot.Limits) func(*form.Question) {
	return func(q *form.Question) { q.Limits.Else.Slot = &l }
}
func options(pairs ...string) func(*form.Question) {
	return func(q *form.Question) { q.Options = pairsOf(pairs...) }
}
func instead(list ...form.NonAnswer) func(*form.Question) {
	return func(q *form.Question) { q.NonAnswers = list }
}

func pairsOf(pairs ...string) []form.Option {
	var out []form.Option
	for i := 0; i+1 < len(pairs); i += 2 {
		out = append(out, form.Option{Key: form.Key(pairs[i]), Label: pairs[i+1]})
	}
	return out
}

func column(key form.Key, kind form.Kind, label string, changes ...func(*form.Question)) form.Question {
	q := design.NewQuestion(kind, label)
	q.Key, q.Nature = key, form.Fact
	for _, c := range changes {
		c(&q)
	}
	return q
}

// remindBefore puts reminders into the calendar, so many days before a closing.
func remindBefore(e *edits, closes form.Moment, days ...int) {
	for i, n := range days {
		at := calendar.At(closes.At.Date.AddDays(-n), 9, 0)
		e.add("calendar", form.Moment{Key: form.Key(fmt.Sprintf("reminder-%d", i+1)),
			Label: "the reminder " + phrase.Count(int64(n), "day", "days") +
				" before", At: at, Reminds: true}, string(form.Closes))
	}
}

// Conditions, as they are picked.

func answer(k form.Key) condition.Ref { return condition.Ref{Answer: k} }
func figure(k form.Key) condition.Ref { return condition.Ref{Figure: k} }

func test(of condition.Ref, rel condition.Rel, v condition.Value) condition.Cond {
	return condition.Cond{Test: &condition.Test{Of: of, Rel: rel, Value: &v}}
}

func against(of condition.Ref, rel condition.Rel, other condition.Ref) condition.Cond {
	return condition.Cond{Test: &condition.Test{Of: of, Rel: rel, Other: &other}}
}

func text(s string) condition.Value        { return condition.Value{Text: s} }
func anyOf(list ...string) condition.Value { return condition.Value{List: list} }
func number(n int64) condition.Value {
	return condition.Value{Number: &condition.Number{Num: n, Den: 1}}
}
func day(d calendar.Date) condition.Value { return condition.Value{Date: d} }
func yesNo(yes bool) condition.Value      { return condition.Value{Yes: &yes} }
func share(num, den int64) condition.Value {
	return condition.Value{Number: &condition.Number{Num: num, Den: den}}
}
func all(list ...condition.Cond) condition.Cond  { return condition.Cond{All: list} }
func some(list ...condition.Cond) condition.Cond { return condition.Cond{Any: list} }

// programme makes a round from a pattern, designs it in full as its officer
// would, and opens it.
func (b *builder) programme(ctx context.Context, kind string, s pattern.Settings,
	change func(*edits, *form.Design)) (int64, error) {
	d := pattern.Find(kind).Make(s)
	var e edits
	change(&e, d)
	var id int64
	err := b.act(ctx, b.officer.ID, func(ctx context.Context, tx *db.Tx) (err error) {
		if id, err = b.Rounds.Create(ctx, tx, d); err != nil {
			return err
		}
		_, err = b.Rounds.Edit(ctx, tx, id, "", e.ops)
		return err
	})
	if err != nil {
		return 0, fmt.Errorf("designing %s: %w", s.Name, err)
	}
	if err := program.Open(ctx, b.Program, db.Account(b.officer.ID), b.at, id, "", true); err != nil {
		return 0, fmt.Errorf("opening %s: %w", s.Name, err)
	}
	return id, nil
}

// laid are the settings of a programme whose dates lie around now, on working
// days, so many days from it.
func laid(now time.Time, zone *time.Location, name, prefix, about string, fund, least, most int64, opens, closes,
	checks, read, answer int) pattern.Settings {
	today := calendar.DateOf(now, zone)
	on := func(days, hour int) calendar.Wall {
		return calendar.At(calendar.AddWorkingDays(today.AddDays(days-1), 1, nil), hour, 0)
	}
	s := pattern.Settings{Programme: name, Prefix: prefix, About: about, Contact: "grants@ostrel-trust.example",
		Zone: zone.String(), Currency: "EUR", Fund: fund * 100, Least: least * 100, Most: most * 100,
		ReadersEach: 3, HoldMinutes: 30, Opens: on(opens, 9), Closes: on(closes, 16), ChecksBy: on(checks,
			17), ReadingEnds: on(read, 17), AnswerOn: on(answer, 12), WorkFrom: today.AddDays(answer + 20)}
	y, m, _ := s.Closes.Date.Civil()
	s.Name = fmt.Sprintf("%s, %s %d", name, m, y)
	s.Key = form.Key(keyOf(s.Name))
	return s
}

// Names that read better where conditions are long.
const (
	condAtLeast = condition.AtLeast
	condIs      = condition.Is
)

func stageResult(stage form.Key) condition.Ref { return condition.Ref{Stage: stage} }
