package casefile

import (
	"encoding/json"
	"strconv"
	"time"

	"ulvant/core/form"
	"ulvant/core/money"
	"ulvant/core/phrase"
	"ulvant/core/say"
	"ulvant/internal/trail"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// Happened is one line of a trail.
type Happened struct {
	At        time.Time
	Who, What string
	New       bool // first of its day
}

// Narrate writes rows of the trail as sentences: ids become names, keys the
// Labels of the design that formOf finds for a row.
func Narrate(r *site.Request, rows []trail.Row, formOf func(trail.Row) *form.Form) ([]Happened, error) {
	accounts, referees := []int64{}, []int64{}
	figures := make([]map[string]string, len(rows))
	for i, row := range rows {
		if err := json.Unmarshal(row.Figures, &figures[i]); err != nil {
			return nil, err
		}
		if row.ByKind == "account" {
			accounts = append(accounts, row.ByID)
		}
		for k, to := range map[string]*[]int64{"referee": &referees, "reader": &accounts} {
			if n, err := strconv.ParseInt(figures[i][k], 10, 64); err == nil {
				*to = append(*to, n)
			}
		}
	}
	who, err := r.Desk.Names(r.Context, "account", accounts)
	if err != nil {
		return nil, err
	}
	vouch, err := r.Desk.Names(r.Context, "referee", referees)
	if err != nil {
		return nil, err
	}
	out := make([]Happened, len(rows))
	day := ""
	for i, row := range rows {
		f := formOf(row)
		h := Happened{At: row.At, Who: map[string]string{"job": "the program"}[row.ByKind]}
		if row.ByKind == "account" {
			h.Who = who[strconv.FormatInt(row.ByID, 10)]
		}
		h.What = say.Happened(row.Verb, func(name string) string { return figure(f, name, figures[i][name], who, vouch) })
		if d := row.At.In(f.Zone).Format(time.DateOnly); d != day {
			day, h.New = d, true
		}
		out[i] = h
	}
	return out, nil
}

// figure writes one figure of a trail row for people.
func figure(f *form.Form, name, v string, accounts, referees map[string]string) string {
	n, _ := strconv.ParseInt(v, 10, 64)
	switch name {
	case "reader":
		return accounts[v]
	case "referee":
		return referees[v]
	case "rule":
		return say.RuleNames(f)[form.Key(v)]
	case "question", "section":
		return Label(f, form.Key(v))
	case "gifts":
		if v != "" {
			return "; " + v
		}
	case "amount":
		return money.Format(n, f.Design.Currency)
	case "questions":
		return phrase.Count(n, "question", "questions")
	case "due", "until":
		return view.When(time.Unix(n, 0), f.Zone)
	case "late":
		return (time.Duration(n) * time.Millisecond).String()
	case "pages":
		return phrase.Count(n, "page", "pages")
	}
	return v
}

func Label(f *form.Form, k form.Key) string {
	if q := f.Question(k); q != nil {
		return q.Label
	}
	for _, s := range f.Design.Sections {
		if s.Key == k {
			return s.Label
		}
	}
	return string(k)
}
