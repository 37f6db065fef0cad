package designer

import (
	"strings"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/letter"
	"ulvant/internal/desk"
	"ulvant/internal/web/kit/site"
)

// letterOf fills the letter that is picked from a real case of the round, so
// that the officer reads what will go out; "" when no letter is picked.
func letterOf(r *site.Request, f *form.Form, at string) (string, error) {
	key, ok := strings.CutPrefix(at, "letters/")
	if !ok {
		return "", nil
	}
	l, ok := f.Letter(form.Key(key))
	if !ok {
		return "", nil
	}
	values := map[string]string{"name": "Wenna Astley", "title": "a title", "ref": "ABC-0000-0", "round": f.Design.Name,
		"amount": "€12,000", "asked": "€15,000", "reasons": "– a reason",
		"number": "1", "address": f.Design.Contact, "office": r.Funder.Name(), "place": "4", "stage": "the next stage",
		"closes": "3 July 2027, 16:00", "answer-on": calendar.DateOf(f.At(form.AnswerOn), f.Zone).Words()}
	rows, err := r.Desk.Register(r.Context, desk.Sought{Round: r.Round.ID, Most: 1})
	if err != nil {
		return "", err
	}
	if len(rows) > 0 {
		c, err := r.Cases.Find(r.Context, r.DB, rows[0].Ref)
		if err != nil {
			return "", err
		}
		values["name"], values["title"], values["ref"] = c.LeadName, c.Title, c.Ref
	}
	text, err := letter.Fill(l.Subject+"\n\n"+l.Body, values)
	if err != nil {
		return site.Sentence(err), nil
	}
	return text, nil
}
