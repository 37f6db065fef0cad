package pattern

import (
	"ulvant/core/form"
	"ulvant/core/slot"
)

// Parts that more than one pattern is made of.

func dates() []form.Moment {
	return []form.Moment{{Key: form.Opens, Label: "the opening"}, {Key: form.Closes, Label: "the closing"},
		{Key: form.ChecksBy, Label: "the end of checks"},
		{Key: form.ReadingEnd, Label: "the end of reading"}, {Key: form.AnswerOn, Label: "the answer"}}
}

// steps are the stages of a round that is written, checked, read and decided.
func steps(writing, reading string) []form.Stage {
	return []form.Stage{
		{Key: "writing", Label: writing, Does: form.Apply, From: form.Opens, To: form.Closes},
		{Key: "checks", Label: "Checks", Does: form.Check, From: form.Closes, To: form.ChecksBy},
		{Key: "reading", Label: reading, Does: form.Read, From: form.ChecksBy, To: form.ReadingEnd},
		{Key: "deciding", Label: "Decide", Does: form.Decide, From: form.ReadingEnd, To: form.AnswerOn},
	}
}

// ask is a question that must be answered and that readers see.
func ask(key form.Key, kind form.Kind, nature form.Nature, label string) form.Question {
	return form.Question{Key: key, Kind: kind, Label: label, Nature: nature, Blank: form.Required, Seen: form.ToReaders}
}

// with sets what an ordinary question does not have.
func with(q form.Question, set func(*form.Question)) form.Question {
	set(&q)
	return q
}

func options(pairs ...string) []form.Option {
	var out []form.Option
	for i := 0; i+1 < len(pairs); i += 2 {
		out = append(out, form.Option{Key: form.Key(pairs[i]), Label: pairs[i+1]})
	}
	return out
}

func limit(l form.Limits) form.Cases[form.Limits] { return form.Cases[form.Limits]{Else: l} }

func pdf(pages int) form.Cases[form.Limits] {
	return limit(form.Limits{Slot: &slot.Limits{SizeMost: 6 << 20, PagesMost: pages}})
}

func declarations() form.Section {
	office := func(q *form.Question) { q.Seen = form.ToOffice }
	return form.Section{Key: "declarations", Label: "Declarations", Help: "Read them one by one.",
		Questions: []form.Question{
			with(ask("true", form.Declaration, form.Chosen, "What is written here is true and complete as far as I know."),
				office),
			with(ask("news", form.Declaration, form.Chosen, "Write to me about the next round."),
				func(q *form.Question) { q.Seen, q.Blank = form.ToOffice, form.MeansNo }),
			with(ask("signed", form.Signature, form.Chosen, "Type your name as it stands on file"), office),
		}}
}

// criteria share a hundred percent as evenly as whole numbers go.
func criteria(labels ...string) []form.Criterion {
	steps := []string{"nothing shown", "little shown", "some of it shown", "most of it shown, loosely", "shown clearly",
		"shown clearly, and better than most"}
	out := make([]form.Criterion, len(labels)/2)
	for i := range out {
		out[i] = form.Criterion{Key: form.Key(labels[2*i]), Label: labels[2*i+1], Weight: 100 / len(out), Steps: steps}
	}
	out[0].Weight += 100 - 100/len(out)*len(out)
	return out
}
