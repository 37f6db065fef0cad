package form_test

import (
	"fmt"
	"testing"

	"github.com/expr-lang/expr"

	"ulvant/core/condition"
	"ulvant/core/form"
)

// crowded is a design with twenty rules over ten questions, and an application.
func crowded(b *testing.B) (*form.Form, *form.Filled) {
	var questions []form.Question
	for i := range 10 {
		questions = append(questions, form.Question{Key: form.Key(fmt.Sprintf("sum-%d", i)), Kind: form.Money},
			form.Question{Key: form.Key(fmt.Sprintf("kind-%d", i)), Kind: form.Choice, Options: options("a", "b", "c")})
	}
	f := asking(b, func(d *form.Design) {
		d.Rules = nil
		for i := range 20 {
			sum := condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: form.Key(fmt.Sprintf("sum-%d", i%10))},
				Rel: condition.AtLeast, Value: &condition.Value{Number: &condition.Number{Num: int64(1000 * i), Den: 1}}}}
			kind := condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: form.Key(fmt.Sprintf("kind-%d", i%10))},
				Rel: condition.In, Value: &condition.Value{List: []string{"a", "b"}}}}
			d.Rules = append(d.Rules, form.Rule{Key: form.Key(fmt.Sprintf("rule-%d", i)), Label: "Rule",
				Holds: condition.Cond{Any: []condition.Cond{sum, kind}}, Yes: "Yes.", No: "No.", Look: "Look."})
		}
	}, questions...)
	x := filled()
	for i := range 10 {
		set(x, form.Key(fmt.Sprintf("sum-%d", i)), "", "", "1,500.50")
		set(x, form.Key(fmt.Sprintf("kind-%d", i)), "", "", []string{"a", "b", "c"}[i%3])
	}
	return f, x
}

// 10,000 applications, their answers in memory, against 20 rules.
func Benchmark10000ApplicationsAgainst20Rules(b *testing.B) {
	f, x := crowded(b)
	judge := f.Judges()
	for b.Loop() {
		for range 10_000 {
			if p := judge(x); len(p.Rules) != 20 {
				b.Fatal(len(p.Rules))
			}
		}
	}
}

// Judge says of the rules what Walk says.
func TestJudgeAgreesWithWalk(t *testing.T) {
	f := grants(t)
	for _, change := range []map[form.Key]string{{}, {"district": "elsewhere"}, {"applicant-kind": "group"},
		{"land-leave": ""}, {"paid-elsewhere": "yes", "district": ""}} {
		x := filled()
		for k, v := range change {
			set(x, k, "", "", v)
		}
		a, b := f.Walk(x), f.Judge(x)
		if a.Verdict() != b.Verdict() || fmt.Sprint(a.Rules) != fmt.Sprint(b.Rules) {
			t.Errorf("%v: %v, judged %v", change, a.Rules, b.Rules)
		}
	}
}

// One condition, against the same one in a general expression library
// (github.com/expr-lang/expr), in one run; the ratio is theirs to ours.
func BenchmarkAgainstAGeneralExpressionLibrary(b *testing.B) {
	yes := true
	cond := condition.Cond{All: []condition.Cond{
		{Test: &condition.Test{Of: condition.Ref{Answer: "kind"}, Rel: condition.In,
			Value: &condition.Value{List: []string{"peat", "shore"}}}},
		{Any: []condition.Cond{{Test: &condition.Test{Of: condition.Ref{Answer: "sum"}, Rel: condition.AtLeast,
			Value: &condition.Value{Number: &condition.Number{Num: 2_000_000, Den: 1}}}},
			{Test: &condition.Test{Of: condition.Ref{Answer: "leave"}, Rel: condition.Is,
				Value: &condition.Value{Yes: &yes}}}}}}}
	ours, err := condition.Compile(cond, threeCells{})
	if err != nil {
		b.Fatal(err)
	}
	no := false
	frame := []condition.Cell{{Presence: condition.Given, Value: condition.Value{Text: "peat"}},
		{Presence: condition.Given, Value: condition.Value{Number: &condition.Number{Num: 2_100_000,
			Den: 1}}}, {Presence: condition.Given, Value: condition.Value{Yes: &no}}}
	env := map[string]any{"kind": "peat", "sum": int64(2_100_000), "leave": false}
	theirs, err := expr.Compile(`kind in ["peat", "shore"] && (sum >= 2000000 || leave)`, expr.Env(env), expr.AsBool())
	if err != nil {
		b.Fatal(err)
	}
	var general float64
	b.Run("general", func(b *testing.B) {
		for b.Loop() {
			if v, err := expr.Run(theirs, env); err != nil || v != true {
				b.Fatal(v, err)
			}
		}
		general = float64(b.Elapsed()) / float64(b.N)
	})
	b.Run("ours", func(b *testing.B) {
		for b.Loop() {
			if ours.Eval(frame).Tri != condition.Yes {
				b.Fatal("not yes")
			}
		}
		if general > 0 {
			b.ReportMetric(general/(float64(b.Elapsed())/float64(b.N)), "theirs/ours")
		}
	})
}

type threeCells struct{}

func (threeCells) List(condition.Key) condition.List { return nil }

func (threeCells) Resolve(r condition.Ref) (int, condition.Type, error) {
	switch r.Answer {
	case "kind":
		return 0, condition.TypeText, nil
	case "sum":
		return 1, condition.TypeNumber, nil
	}
	return 2, condition.TypeYes, nil
}
