package rounds

import (
	"github.com/gofiber/fiber/v3"

	"ulvant/core/fallout"
	"ulvant/core/form"
	"ulvant/core/promise"
	"ulvant/core/say"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/office"
)

// promised is a promise as it is drawn.
type promised struct {
	promise.Promise
	Says, Word string
	Hot        bool
}

// watchPage is what office/rounds/watch.html draws.
type watchPage struct {
	Paces     []paced
	Promises  []promised
	By        []form.Option // questions that one can look by
	At        form.Key
	Heading   string
	All       fallout.Row
	Rows      []fallout.Row
	Steps     []string
	Sentences []string
	Nudged    int
	Sent      int
}

// steps of the table of who falls out where.
var fallSteps = []string{"began", "sent", "eligible", "awarded"}

// promisesOf are those of the round that slip or soon may.
func promisesOf(r *site.Request, f *form.Form) ([]promised, error) {
	all, err := allPromises(r, f)
	var out []promised
	for _, p := range all {
		if p.Hot {
			out = append(out, p)
		}
	}
	return out, err
}

func allPromises(r *site.Request, f *form.Form) ([]promised, error) {
	list, err := r.Desk.Promises(r.Context, r.Round.ID, f, r.At)
	var out []promised
	for _, p := range list {
		stands := p.Stands(r.At, f.Zone, f.Off)
		out = append(out, promised{p, say.PromiseWord(string(p.Kind), p.Who), say.StandingWord(string(stands)),
			stands == promise.Slips || stands == promise.Soon})
	}
	return out, err
}

// reached leaves out steps to which nobody has come yet.
func reached(groups []fallout.Group) ([]fallout.Group, []string) {
	last := 0
	for _, g := range groups {
		for s, n := range g.N {
			if n > 0 {
				last = max(last, s)
			}
		}
	}
	for i := range groups {
		groups[i].N = groups[i].N[:last+1]
	}
	return groups, fallSteps[:last+1]
}

// Watch is a round watched more closely: its pace by money and stream, who falls
// out where, what was promised.
func Watch(r *site.Request) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	d := watchPage{Steps: fallSteps, At: form.Key(r.Query("by"))}
	list, forms, err := behind(r, f)
	if err != nil {
		return err
	}
	put := func(label string, money bool, stream form.Key) error {
		p, err := pace(r, f, list, forms, money, stream)
		p.Label = label
		d.Paces = append(d.Paces, p)
		return err
	}
	if err := put("By count", false, ""); err != nil {
		return err
	}
	if f.Design.Request != "" {
		if err := put("By money asked", true, ""); err != nil {
			return err
		}
	}
	for _, s := range f.Design.Streams {
		if err := put(s.Label, false, s.Key); err != nil {
			return err
		}
	}
	if d.Promises, err = allPromises(r, f); err != nil {
		return err
	}
	d.By = f.Coded()
	if d.At == "" && len(d.By) > 0 {
		d.At = d.By[0].Key
	}
	if q := f.Question(d.At); q != nil && f.IsCoded(q) {
		d.Heading = q.Label
		groups, err := r.Desk.FellOut(r.Context, r.Round.ID, f.FirstStage(), d.At, f.CodesOf(q))
		if err != nil {
			return err
		}
		groups, d.Steps = reached(groups)
		d.All, d.Rows = fallout.Table(groups)
		d.Sentences = say.FallsOut(d.Rows, d.Steps)
	}
	if d.Nudged, d.Sent, err = r.Desk.Nudged(r.Context, r.Round.ID); err != nil {
		return err
	}
	return office.Draw(r, fiber.StatusOK, "office/rounds/watch", "Watching, "+r.Round.Name, "overview", f, d)
}
