package form_test

import (
	"slices"
	"strings"
	"testing"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/slot"
)

// Where answers can be kept, by hand-made requests too: a place that no question
// has is refused with why.
func TestPlaces(t *testing.T) {
	f := asking(t, nil, form.Question{Key: "rows", Kind: form.Rows,
		Columns: []form.Question{{Key: "giver", Kind: form.Short, NonAnswers: []form.NonAnswer{form.NotKnown}},
			{Key: "sum", Kind: form.Money}}},
		form.Question{Key: "names", Kind: form.Names}, form.Question{Key: "plain", Kind: form.Short,
			NonAnswers: []form.NonAnswer{form.NotApply}}, form.Question{Key: "sure", Kind: form.Money, Sure: form.Estimated},
		form.Question{Key: "file", Kind: form.File, Limits: limits(form.Limits{Slot: &slot.Limits{SizeMost: 1}})})
	for _, c := range []struct {
		p    form.Place
		says string // part of the sentence; "" where it can be kept
	}{
		{form.Place{Question: "plain"}, ""},
		{form.Place{Question: "plain", Row: "r0001"}, "no rows or columns"},
		{form.Place{Question: "plain", Column: "x"}, "no rows or columns"},
		{form.Place{Question: "nowhere"}, "not asked any more"},
		{form.Place{Question: "sure"}, ""},
		{form.Place{Question: "sure", Column: form.ColSure}, ""},
		{form.Place{Question: "plain", Column: form.ColSure}, "no rows or columns"},
		{form.Place{Question: "post-address", Column: "street"}, ""},
		{form.Place{Question: "post-address"}, "no such part"},
		{form.Place{Question: "post-address", Column: "planet"}, "no such part"},
		{form.Place{Question: "rows", Row: "r0001", Column: "sum"}, ""},
		{form.Place{Question: "rows", Row: "r0199", Column: "giver"}, ""},
		{form.Place{Question: "rows", Row: "r0500", Column: "giver"}, "at most 500 rows"},
		{form.Place{Question: "rows", Row: "1", Column: "giver"}, "at most 500 rows"},
		{form.Place{Question: "rows", Row: "r0001", Column: "planet"}, "no such column"},
		{form.Place{Question: "names", Row: "r0001", Column: "planet"}, "no such"},
		{form.Place{Question: "budget", Row: "r0001", Column: form.ColCost}, ""},
		{form.Place{Question: "budget", Row: "r0001", Column: "profit"}, "no such column"},
		{form.Place{Question: "file"}, "put in, not written"},
		{form.Place{Question: "file", Column: "tick-0"}, ""},
		{form.Place{Question: "file", Row: "f12", Column: "detail-1"}, ""},
		{form.Place{Question: "file", Row: "f12", Column: form.ColMade}, ""},
		{form.Place{Question: "file", Row: "f12", Column: "planet"}, "put in, not written"},
		{form.Place{Question: "site-referee"}, "not answered in writing"},
	} {
		got := f.Accepts(c.p)
		if (got == "") != (c.says == "") || !strings.Contains(got, c.says) {
			t.Errorf("%+v: %q, want %q", c.p, got, c.says)
		}
	}
	for _, c := range []struct {
		p    form.Place
		non  form.NonAnswer
		want bool
	}{
		{form.Place{Question: "plain"}, "", true},
		{form.Place{Question: "plain"}, form.NotApply, true},
		{form.Place{Question: "plain"}, form.NotKnown, false},
		{form.Place{Question: "plain"}, "because", false},
		{form.Place{Question: "rows", Row: "r0001", Column: "giver"}, form.NotKnown, true},
		{form.Place{Question: "rows", Row: "r0001", Column: "sum"}, form.NotKnown, false},
		{form.Place{Question: "rows"}, form.NotKnown, false},
		{form.Place{Question: "nowhere"}, form.NotKnown, false},
	} {
		if got := f.AcceptsNon(c.p, c.non); got != c.want {
			t.Errorf("%+v %q: %v", c.p, c.non, got)
		}
	}
	x := &form.Filled{Answers: map[form.Place]form.Answer{}}
	set(x, "rows", "r0007", "sum", "1")
	set(x, "rows", "r0002", "sum", "1")
	if rows := x.Rows("rows"); !slices.Equal(rows, []string{"r0002", "r0007"}) || form.NextRow(rows) != "r0008" ||
		form.NextRow(nil) != "r0001" {
		t.Errorf("rows: %v, then %s", rows, form.NextRow(rows))
	}
	if n := form.RowNumber(x, form.Place{Question: "rows", Row: "r0007"}); n != 2 {
		t.Errorf("it is row %d", n)
	}
}

// What a condition may read at a place: what comes before it, of what can be
// compared, and what every application has.
func TestReadable(t *testing.T) {
	f := asking(t, nil, form.Question{Key: "one", Kind: form.YesNo}, form.Question{Key: "long", Kind: form.Long},
		form.Question{Key: "rows", Kind: form.Rows, Columns: []form.Question{{Key: "giver", Kind: form.Short},
			{Key: "sum", Kind: form.Money}, {Key: "why", Kind: form.Long}}}, form.Question{Key: "two", Kind: form.Number})
	reads := func(at, column form.Key, of condition.Ref) bool { return slices.Contains(f.Readable(at, column), of) }
	for _, c := range []struct {
		what       string
		at, column form.Key
		of         condition.Ref
		want       bool
	}{
		{"what stands before", "two", "", condition.Ref{Answer: "one"}, true},
		{"itself", "two", "", condition.Ref{Answer: "two"}, false},
		{"what comes later", "one", "", condition.Ref{Answer: "two"}, false},
		{"a long text", "two", "", condition.Ref{Answer: "long"}, false},
		{"everything, at the end", "", "", condition.Ref{Answer: "two"}, true},
		{"another section before", "under-test", "", condition.Ref{Answer: "district"}, true},
		{"the section's own question", "under-test", "", condition.Ref{Answer: "one"}, false},
		{"a column before it in its row", "rows", "sum", condition.Ref{Answer: "rows", Column: "giver"}, true},
		{"the column itself", "rows", "sum", condition.Ref{Answer: "rows", Column: "sum"}, false},
		{"a row from outside", "two", "", condition.Ref{Answer: "rows", Column: "sum"}, false},
		{"today", "one", "", condition.Ref{Fixed: condition.Today}, true},
		{"the closing", "one", "", condition.Ref{Date: form.Closes}, true},
		{"a stage that is not over", "one", "", condition.Ref{Stage: "writing"}, false},
	} {
		if got := reads(c.at, c.column, c.of); got != c.want {
			t.Errorf("%s: %v, want %v", c.what, got, c.want)
		}
	}
	for _, r := range f.Readable("", "") {
		if _, ok := f.TypeOf(r); !ok && r.Fixed == "" {
			t.Errorf("%+v can be read and has no type", r)
		}
	}
	if got := f.RowsOf("rows"); len(got) != 2 || got[1].Column != "sum" || f.RowsOf("one") != nil {
		t.Errorf("of its rows: %v", got)
	}
	sources := f.Sources()
	for of, want := range map[condition.Ref]bool{{Answer: "rows"}: true, {Answer: "rows", Column: "sum"}: true,
		{Answer: "rows", Column: "giver"}: false, {Answer: "budget",
			Column: form.ColCost}: true, {Answer: "one"}: true, {Answer: "long"}: false, {Answer: "district"}: false} {
		if slices.Contains(sources, of) != want {
			t.Errorf("a figure is worked out from %+v: %v", of, !want)
		}
	}
}

// While the deciding answer is open the loosest limits that are still possible
// hold, member by member, and it is said that they may become less.
func TestLoosestLimits(t *testing.T) {
	ptr := func(n int64) *int64 { return &n }
	early, late := &form.Day{On: calendar.NewDate(2027, 7, 1)}, &form.Day{On: calendar.NewDate(2027, 9, 1)}
	peat := form.Limits{Words: 100, LeastWords: 20, Characters: 500, Least: ptr(10), Most: ptr(90), NotBefore: late,
		NotAfter: late, PickLeast: 2, PickMost: 3, MatchPercent: 20,
		Slot: &slot.Limits{Wish: slot.NotAccepted, SizeMost: 1 << 20, FilesLeast: 2, FilesMost: 2, PagesMost: 4,
			WidthLeast: 800, DPILeast: 300, SecondsMost: 60, Colour: "grey", TextLeast: true,
			TypeLeast: 11, MadeSince: late.On,
			Ticks: []string{"No name."}}}
	other := form.Limits{Words: 300, Least: ptr(5), NotBefore: early, NotAfter: early, PickLeast: 1, PickMost: 2,
		Slot: &slot.Limits{SizeMost: 6 << 20, FilesLeast: 1, FilesMost: 5, PagesMost: 0, WidthLeast: 400, DPILeast: 0,
			TypeLeast:   9,
			SecondsMost: 90, TitleApart: true, MadeSince: early.On}}
	f := asking(t, nil, form.Question{Key: "peat", Kind: form.YesNo}, form.Question{Key: "x", Kind: form.Long, Media: true,
		Limits: form.Cases[form.Limits]{Else: other, When: []form.Case[form.Limits]{{Then: peat, If: condition.Cond{
			Test: &condition.Test{Of: condition.Ref{Answer: "peat"}, Rel: condition.Is,
				Value: &condition.Value{Yes: new(true)}}}}}}})
	walk := func(raw string) *form.QuestionState {
		x := filled()
		set(x, "peat", "", "", raw)
		return f.Walk(x).Find("x")
	}
	if st := walk("yes"); !st.Settled || st.Limits.Words != 100 || st.Limits.Slot.Wish != slot.NotAccepted {
		t.Errorf("of peat: %+v", st.Limits)
	}
	if st := walk("no"); !st.Settled || st.Limits.Words != 300 || st.Limits.Slot.FilesMost != 5 {
		t.Errorf("of others: %+v", st.Limits)
	}
	st := walk("")
	l, s := st.Limits, st.Limits.Slot
	for what, ok := range map[string]bool{"it is not settled": !st.Settled, "words": l.Words == 300,
		"no least number of words": l.LeastWords == 0, "no limit on characters": l.Characters == 0,
		"the least": *l.Least == 5, "no most": l.Most == nil, "not before the earlier": l.NotBefore.On == early.On,
		"not after the later": l.NotAfter.On == late.On, "picks": l.PickLeast == 1 && l.PickMost == 3,
		"no match": l.MatchPercent == 0, "files are taken": s.Wish == "", "the larger size": s.SizeMost == 6<<20,
		"fewer files will do": s.FilesLeast == 1 && s.FilesMost == 5, "no limit on pages": s.PagesMost == 0,
		"the smaller picture": s.WidthLeast == 400 &&
			s.DPILeast == 0, "the longer film": s.SecondsMost == 90, "either colour": s.Colour == "", "scans too": !s.TextLeast,
		"the smaller type":       s.TypeLeast == 9,
		"a title page apart":     s.TitleApart,
		"made since the earlier": s.MadeSince == early.On, "nothing to tick": len(s.Ticks) == 0} {
		if !ok {
			t.Errorf("while it is open: %s does not hold: %+v %+v", what, l, *s)
		}
	}
	if peat.Slot.Wish != slot.NotAccepted || other.Slot.PagesMost != 0 || peat.Words != 100 {
		t.Error("the design itself was changed")
	}
}

// Stages that people write in, their windows, what each starts from.
func TestStagesOfARound(t *testing.T) {
	d := *asking(t, nil).Design
	d.Calendar = append(slices.Clone(d.Calendar), form.Moment{Key: "plans-in", Label: "the closing of plans",
		At: calendar.At(calendar.NewDate(2027, 5, 14), 16, 0)})
	d.Stages = slices.Insert(slices.Clone(d.Stages), 3, form.Stage{Key: "plans", Label: "Plans", Does: form.Apply,
		From: form.ReadingEnd, To: "plans-in", Invited: true})
	d.Sections = slices.Clone(d.Sections)
	for i := range d.Sections {
		if d.Sections[i].Key == "declarations" || d.Sections[i].Key == "budget-section" {
			d.Sections[i].Again = []form.Key{"plans"}
		}
	}
	f, err := form.Compile(&d)
	if err != nil {
		t.Fatal(err)
	}
	if list := f.Applying(); len(list) != 2 || f.FirstStage() != "writing" || f.NextStage("writing").Key != "plans" ||
		f.NextStage("plans") != nil || f.NextStage("nowhere") != nil {
		t.Errorf("%d stages, first %s", len(list), f.FirstStage())
	}
	if f.ByInvitation("writing") || !f.ByInvitation("plans") || f.Place("") != f.Place("writing") ||
		f.Place("plans") <= f.Place("writing") || f.Place(form.AfterSending) <= f.Place("deciding") {
		t.Error("who comes to which stage, and when")
	}
	if !f.ReadAfter("writing") || f.ReadAfter("plans") {
		t.Error("outlines are read, and plans are not")
	}
	both := d
	both.Stages = slices.Insert(slices.Clone(d.Stages), 4,
		form.Stage{Key: "reading-plans", Label: "Reading plans", Does: form.Read, From: "plans-in", To: "plans-in"})
	if f, err := form.Compile(&both); err != nil {
		t.Fatal(err)
	} else {
		for at, want := range map[time.Time][]form.Key{f.At(form.Closes).Add(-time.Second): nil,
			f.At(form.Closes): {"writing"}, f.At("plans-in").Add(-time.Second): {"writing"}, f.At("plans-in"): {"writing",
				"plans"}} {
			if got := f.HandsOut(at); !slices.Equal(got, want) || !f.HandsOutFrom().Equal(f.At(form.Closes)) {
				t.Errorf("handed out at %s: %v, want %v, from %s", at, got, want, f.HandsOutFrom())
			}
		}
	}
	if w := f.StageWindow("plans"); !w.Opens.Equal(f.At(form.ReadingEnd)) || !w.Closes.Equal(f.At("plans-in")) ||
		!f.WritingEnds().Equal(w.Closes) || !f.Window().Closes.Equal(f.At(form.Closes)) {
		t.Errorf("plans are written from %s to %s", w.Opens, w.Closes)
	}
	if v := f.StageValues(f.NextStage("writing")); v["stage"] != "“Plans”" || v["closes"] != "14 May 2027, 16:00" {
		t.Errorf("a letter says %v", v)
	}
	var carried []form.Key
	for _, q := range f.Carried("plans") {
		carried = append(carried, q.Key)
	}
	if !slices.Contains(carried, "request") || !slices.Contains(carried, "budget") ||
		slices.Contains(carried, "signed") || slices.Contains(carried, "true") {
		t.Errorf("plans start from %v", carried)
	}
	for kind, want := range map[form.Kind]bool{form.Short: true, form.Budget: true, form.AwardPick: true,
		form.Declaration: false, form.Signature: false, form.Signer: false, form.Referee: false, form.Signatory: false,
		form.Fees: false, form.File: false} {
		if f.CarriesOver(&form.Question{Kind: kind}) != want {
			t.Errorf("%s is carried over: %v", kind, !want)
		}
	}
	for label, key := range map[string]form.Key{"Plans": "plans", "after sending": form.AfterSending, "": "nowhere"} {
		if d.StageLabel(key) != label {
			t.Errorf("%s is called %q", key, d.StageLabel(key))
		}
	}
	for word, want := range map[string]string{"": "readers", "juror": "jurors"} {
		if (&form.Design{ReaderWord: word}).Readers() != want {
			t.Errorf("%q are called %s", word, (&form.Design{ReaderWord: word}).Readers())
		}
	}
}
