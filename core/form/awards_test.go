package form_test

import (
	"slices"
	"strings"
	"testing"

	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/say"
)

func is(k form.Key, v string) condition.Cond {
	return condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: k}, Rel: condition.Is,
		Value: &condition.Value{Text: v}}}
}

// awarding asks for a trade, then for the awards: one for sails, one for spars,
// one for everybody; a sample is asked for the one for sails.
func awarding(t *testing.T, change func(*form.Design)) *form.Form {
	trade := form.Question{Key: "trade", Kind: form.Choice, Options: options("sails", "spars", "oars"),
		NonAnswers: []form.NonAnswer{form.NotKnown}}
	picks := form.Question{Key: "picks", Kind: form.AwardPick, Every: true, Limits: limits(form.Limits{PickMost: 2})}
	sample := form.Question{Key: "sample", Kind: form.Short,
		Asked: condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: "picks"}, Rel: condition.Includes,
			Value: &condition.Value{Text: "loft"}}}}
	return asking(t, func(d *form.Design) {
		d.Awards = []form.Award{{Key: "loft", Label: "Sail Loft", Places: 1, Match: is("trade", "sails")},
			{Key: "mast", Label: "Mast", Places: 1, Match: is("trade", "spars")}}
		for i := range d.Sections[len(d.Sections)-1].Questions {
			d.Sections[len(d.Sections)-1].Questions[i].Nature = form.Chosen
		}
		if change != nil {
			change(d)
		}
	}, trade, picks, sample)
}

// Whoever asks for every award that fits is considered for those they meet,
// and is asked for the papers of these.
func TestEveryAwardThatFits(t *testing.T) {
	f := awarding(t, nil)
	for _, c := range []struct {
		what, trade, picks string
		not                form.NonAnswer
		value              []string
		obstacle           form.Code
		sample             condition.Tri
		reads              string
	}{
		{what: "by hand", trade: "oars", picks: "loft", value: []string{"loft"}, sample: condition.Yes, reads: "Sail Loft"},
		{what: "every one, and sails", trade: "sails", picks: "every-award", value: []string{"every-award", "loft"},
			sample: condition.Yes, reads: "every award that fits: Sail Loft"},
		{what: "every one, and spars", trade: "spars", picks: "every-award", value: []string{"every-award", "mast"},
			sample: condition.No, reads: "every award that fits: Mast"},
		{what: "one by hand, and every one", trade: "spars", picks: "loft\nevery-award",
			value: []string{"loft", "every-award",
				"mast"}, sample: condition.Yes, reads: "every award that fits: Sail Loft, Mast"},
		{what: "every one, and none fits", trade: "oars", picks: "every-award", value: []string{"every-award"},
			obstacle: form.CodeNoAward, sample: condition.No, reads: "every award that fits"},
		{what: "not said yet", picks: "every-award", value: []string{"every-award"}, sample: condition.No,
			reads: "every award that fits"},
		{what: "not known: a person looks, so all count", not: form.NotKnown, picks: "every-award",
			value: []string{"every-award", "loft",
				"mast"}, sample: condition.Yes, reads: "every award that fits: Sail Loft, Mast"},
		{what: "no such award", trade: "oars", picks: "keel", obstacle: form.CodeUnreadable, sample: condition.Unknown,
			reads: "keel"},
	} {
		x := filled()
		set(x, "picks", "", "", c.picks)
		x.Answers[form.Place{Question: "trade"}] = form.Answer{Raw: c.trade, Non: c.not}
		set(x, "sample", "", "", "a jib")
		p := f.Walk(x)
		st := p.Find("picks")
		if !slices.Equal(st.Value.List, c.value) {
			t.Errorf("%s: considered for %v, want %v", c.what, st.Value.List, c.value)
		}
		if got := p.Find("sample").Asked; got != c.sample {
			t.Errorf("%s: the sample is asked: %v, want %v", c.what, got, c.sample)
		}
		if got := say.Answer(f, f.Question("picks"), x, st); got != c.reads {
			t.Errorf("%s: reads %q, want %q", c.what, got, c.reads)
		}
		var code form.Code
		for _, o := range p.Obstacles {
			if o.Place.Question == "picks" {
				code = o.Code
			}
		}
		if code != c.obstacle {
			t.Errorf("%s: obstacle %q, want %q", c.what, code, c.obstacle)
		}
	}
	x := filled()
	set(x, "picks", "", "", "every-award")
	set(x, "trade", "", "", "sails")
	if f.Design.Awards[0].Match.Always() || f.Walk(x).Awards[0] != condition.Yes {
		t.Error("the award itself is not met")
	}
}

func TestAwardsInOrder(t *testing.T) {
	f := asking(t, func(d *form.Design) {
		d.Awards = []form.Award{{Key: "loft", Label: "Sail Loft", Places: 1}, {Key: "mast", Label: "Mast", Places: 1},
			{Key: "keel", Label: "Keel", Places: 1}}
	}, form.Question{Key: "order", Kind: form.AwardOrder, Limits: limits(form.Limits{PickLeast: 2, PickMost: 2})})
	if parts := f.Parts(f.Question("order")); len(parts) != 2 || len(parts[0].Options) != 3 || parts[0].Label != "First" {
		t.Errorf("places: %+v", parts)
	}
	for _, c := range []struct {
		first, second string
		want          form.Code
		reads         string
	}{
		{"keel", "loft", "", "First: Keel\nSecond: Sail Loft"},
		{"keel", "keel", form.CodePickedTwice, "First: Keel\nSecond: Keel"},
		{"keel", "", form.CodeTooFewPicked, "First: Keel"},
		{"rudder", "loft", form.CodePartUnreadable, "First: rudder\nSecond: Sail Loft"},
	} {
		x := filled()
		set(x, "order", "", "place-a", c.first)
		set(x, "order", "", "place-b", c.second)
		p := f.Walk(x)
		var code form.Code
		for _, o := range p.Obstacles {
			if code == "" {
				code = o.Code
			}
		}
		if code != c.want {
			t.Errorf("%s, %s: %q, want %q", c.first, c.second, code, c.want)
		}
		if got := say.Answer(f, f.Question("order"), x, p.Find("order")); got != c.reads {
			t.Errorf("%s, %s reads %q, want %q", c.first, c.second, got, c.reads)
		}
	}
}

// What stands only after the question cannot say which awards fit there.
func TestAwardsAreKnownWhereEveryOneIsAskedFor(t *testing.T) {
	d := awarding(t, nil).Design
	for what, change := range map[string]func(*form.Design){
		"an award reads what is asked later": func(d *form.Design) { d.Awards[0].Match = is("sample", "x") },
		"a fact": func(d *form.Design) {
			d.Sections[len(d.Sections)-1].Questions[1].Nature = form.Fact
		},
		"the key of every award": func(d *form.Design) { d.Awards[0].Key = form.EveryAward },
		"no awards":              func(d *form.Design) { d.Awards = nil },
	} {
		was := *d
		was.Awards = slices.Clone(d.Awards)
		was.Sections = slices.Clone(d.Sections)
		last := &was.Sections[len(was.Sections)-1]
		last.Questions = slices.Clone(last.Questions)
		change(&was)
		if _, err := form.Compile(&was); err == nil {
			t.Errorf("%s: no fault", what)
		}
	}
}

// The signer is one of those who may sign for whoever applies.
func TestSigner(t *testing.T) {
	f := asking(t, nil, form.Question{Key: "signs", Kind: form.Signer})
	for _, c := range []struct {
		what    string
		signers []string
		typed   string
		want    form.Code
	}{
		{"a person signs for themselves", nil, "Imre Calloway", ""},
		{"nobody else does", nil, "Wenna Astley", form.CodeNotAuthorised},
		{"an officer signs for an organisation", []string{"Ann Rae", "Bo Lind"}, "Bo Lind", ""},
		{"its lead does not, unless they are one", []string{"Ann Rae"}, "Imre Calloway", form.CodeNotAuthorised},
		{"nobody is confirmed yet", []string{}, "Imre Calloway", form.CodeNotAuthorised},
		{"it is left", nil, "", form.CodeBlank},
	} {
		x := filled()
		x.Signers = c.signers
		set(x, "signs", "", "", c.typed)
		var code form.Code
		for _, o := range f.Walk(x).Obstacles {
			code = o.Code
		}
		if code != c.want {
			t.Errorf("%s: %q, want %q", c.what, code, c.want)
		}
	}
	if !f.AsksSigner() {
		t.Error("which kinds it asks")
	}
}

// Only what is applied for is ranked.
func TestRankingWhatIsAppliedFor(t *testing.T) {
	f := asking(t, func(d *form.Design) {
		d.Awards = []form.Award{{Key: "loft", Label: "Sail Loft", Places: 1}, {Key: "mast", Label: "Mast", Places: 1}}
	}, form.Question{Key: "picks", Kind: form.AwardPick},
		form.Question{Key: "order", Kind: form.AwardOrder, Blank: form.MeansUnknown})
	x := filled()
	set(x, "picks", "", "", "loft")
	for award, want := range map[string]string{"loft": "", "mast": "not-applied-for at order"} {
		set(x, "order", "", "place-a", award)
		if got := codes(f.Walk(x)); got != want {
			t.Errorf("%s first: %q, want %q", award, got, want)
		}
	}
}

// Of the awards to be put in order those applied for are offered, and what was
// chosen before; with nothing picked, all.
func TestOffered(t *testing.T) {
	f := asking(t, func(d *form.Design) {
		d.Awards = []form.Award{{Key: "loft", Label: "Sail Loft", Places: 1}, {Key: "mast", Label: "Mast", Places: 1},
			{Key: "keel", Label: "Keel", Places: 1}}
	}, form.Question{Key: "picks", Kind: form.AwardPick},
		form.Question{Key: "order", Kind: form.AwardOrder, Blank: form.MeansUnknown})
	all := []form.Option{{Key: "loft"}, {Key: "mast"}, {Key: "keel"}}
	for _, c := range []struct{ picked, chosen, question, want string }{
		{"loft", "", "order", "loft"},
		{"loft\nkeel", "", "order", "loft keel"},
		{"loft", "mast", "order", "loft mast"},
		{"", "", "order", "loft mast keel"},
		{"loft", "", "picks", "loft mast keel"},
	} {
		x := filled()
		set(x, "picks", "", "", c.picked)
		var got []string
		for _, o := range f.Offered(f.Walk(x), f.Question(form.Key(c.question)), all, c.chosen) {
			got = append(got, string(o.Key))
		}
		if strings.Join(got, " ") != c.want {
			t.Errorf("%q picked, %q chosen: %s offers %q, want %q", c.picked, c.chosen, c.question, got, c.want)
		}
	}
}

// The questions a rule hangs on, straight and through figures of figures.
func TestReadBy(t *testing.T) {
	answer := func(k form.Key) condition.Ref { return condition.Ref{Answer: k} }
	number := condition.Value{Number: &condition.Number{Num: 1_000_000}}
	f := asking(t, func(d *form.Design) {
		d.Figures = append(d.Figures, form.Figure{Key: "both", Label: "both", Op: form.Sum,
			Of: []condition.Ref{answer("one"), answer("two")}},
			form.Figure{Key: "more", Label: "more", Op: form.Sum, Of: []condition.Ref{{Figure: "both"}, answer("three")}})
		d.Rules = append(d.Rules, form.Rule{Key: "enough", Label: "Enough",
			Holds: condition.Cond{Test: &condition.Test{Of: condition.Ref{Figure: "more"}, Rel: condition.AtLeast,
				Value: &number}}, Yes: "Enough.", No: "Too few."})
	}, form.Question{Key: "one", Kind: form.Number}, form.Question{Key: "two", Kind: form.Number},
		form.Question{Key: "three", Kind: form.Number}, form.Question{Key: "four", Kind: form.Number})
	if got, want := f.ReadBy("enough"), []form.Key{"one", "two", "three"}; !slices.Equal(got, want) {
		t.Errorf("read by it: %v, want %v", got, want)
	}
	if got := f.ReadBy(); got != nil {
		t.Errorf("no rule reads %v", got)
	}
}

// The highest step that any criterion describes.
func TestMostMark(t *testing.T) {
	steps := make([]string, 4) // 0 to 3
	for name, c := range map[string]struct {
		criteria []form.Criterion
		want     int
	}{"none": {nil, 0}, "one": {[]form.Criterion{{Steps: steps}},
		3}, "the longest": {[]form.Criterion{{Steps: steps}, {Steps: make([]string, 11)}, {Steps: steps}}, 10}} {
		t.Run(name, func(t *testing.T) {
			if got := (&form.Design{Criteria: c.criteria}).MostMark(); got != c.want {
				t.Errorf("%d, want %d", got, c.want)
			}
		})
	}
}
