package form

import (
	"slices"

	"ulvant/core/condition"
	"ulvant/core/control"
)

var _ = register(kind{
	key: Signer, means: "Who signs the agreement, of those authorised", keeps: InText, typ: condition.TypeText, anew: true,
	read: readText, how: says(howChoosing), example: exampleText(ExampleLead), tenths: takes(10), identifies: always,
	check: func(w *walk, _ *question, s *QuestionState) {
		if !slices.Contains(w.filled.Authorised(), s.Value.Text) {
			w.obstacle(s, Obstacle{Code: CodeNotAuthorised, Name: s.Value.Text})
		}
	},
	control: func(_ *Form, _ *Question, filled *Filled, value string) Control {
		c := Control{As: control.Radio}
		for _, n := range filled.Authorised() {
			c.Options = append(c.Options, Option{Key(n), n})
		}
		if value != "" && !slices.Contains(filled.Authorised(), value) { // revoked since: it stands until another is chosen
			c.Options = append(c.Options, Option{Key(value), value + " (may not sign any more)"})
		}
		return c
	},
	standing: func(filled *Filled) string {
		if len(filled.Authorised()) == 0 {
			return "Nobody may sign for your organisation yet: its officers confirm that by links of their own, which its " +
				"profile sends."
		}
		return ""
	},
})

// AsksSigner reports a form that asks who signs, and so must know who may.
func (f *Form) AsksSigner() bool {
	return slices.ContainsFunc(f.questions, func(q question) bool { return q.def.Kind == Signer })
}
