package form

import (
	"fmt"
	"strconv"
	"strings"

	"ulvant/core/condition"
	"ulvant/core/control"
)

var _ = register(kind{
	key: PageRef, means: "A page, or pages from to, of a file put in before", keeps: InText, typ: condition.TypeText,
	members: []string{"slot"},
	compile: func(c *compiler, q *Question) {
		s, ok := c.f.index[q.Slot]
		c.need(ok && s < c.walked && c.f.questions[s].def.Kind == File, "name the file slot before it")
	},
	needs: func(q *Question) Key { return q.Slot },
	read:  readPages, check: checkPages, how: says("Write a page such as 12, or pages such as 12–15."),
	example: exampleText("1"), tenths: takes(10), control: drawn(control.Line),
})

// readPages reads 12 or 12–15.
func readPages(_ *Form, _ *Question, raw string) (condition.Value, bool) {
	from, to, ok := pages(raw)
	return condition.Value{Text: fmt.Sprintf("%d–%d", from, to)}, ok
}

func pages(raw string) (from, to int, ok bool) {
	a, b, span := strings.Cut(strings.NewReplacer("–", "-", "—", "-", " to ", "-").Replace(strings.TrimSpace(raw)), "-")
	from, err := strconv.Atoi(strings.TrimSpace(a))
	if err != nil {
		return 0, 0, false
	}
	to = from
	if span {
		if to, err = strconv.Atoi(strings.TrimSpace(b)); err != nil {
			return 0, 0, false
		}
	}
	return from, to, from >= 1 && to >= from && to < 100_000
}

// checkPages holds a page reference to the real page count of the file.
func checkPages(w *walk, q *question, s *QuestionState) {
	from, to, _ := pages(s.Raw)
	files := w.filled.Files[q.def.Slot]
	if len(files) == 0 {
		w.obstacle(s, Obstacle{Code: CodePageSlot, Name: w.form.Question(q.def.Slot).Label})
		return
	}
	most := 0
	for _, f := range files {
		most = max(most, f.Pages)
	}
	if most > 0 && to > most {
		w.obstacle(s, Obstacle{Code: CodePageRange, Have: int64(max(from, to)), Limit: int64(most), Name: files[0].Name})
	}
}
