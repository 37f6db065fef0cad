package awards

import (
	"context"
	"strconv"
	"strings"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/export"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/money"
	"ulvant/core/phrase"
	"ulvant/core/refusal"
	"ulvant/internal/award"
	"ulvant/internal/platform/db"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/office"
)

// act does something and goes back to the page, or draws it again with what is wrong.
// by is the placing to go to; 0 for the one looked at.
func act(r *site.Request, was typed, by *int64, do func(ctx context.Context, tx *db.Tx, f *form.Form) (says string,
	err error)) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	says := ""
	err = r.Act(func(ctx context.Context, tx *db.Tx) (err error) {
		says, err = do(ctx, tx, f)
		return err
	})
	if no, ok := refusal.Of(err); ok {
		return drawPlacing(r, f, no, was, fiber.StatusUnprocessableEntity)
	}
	if err != nil {
		return err
	}
	r.Tell(says)
	d := placingPage{Base: "/office/rounds/" + r.Round.Key + "/placing"}
	if *by != 0 {
		return r.See(d.Base + "?by=" + strconv.FormatInt(*by, 10))
	}
	return r.See(d.link(r))
}

// WorkOut reads everybody against every award.
func WorkOut(r *site.Request) error {
	return act(r, typed{}, new(int64), func(ctx context.Context, tx *db.Tx, f *form.Form) (string, error) {
		stages := f.Applying()
		t, err := r.Decisions.Order(ctx, tx, r.Round, f, stages[len(stages)-1].Key)
		if err != nil {
			return "", err
		}
		if len(t.Rows) > award.AtOnce {
			return "It is being worked out. You can leave this page.", r.Awards.WorkOutLater(ctx, tx, r.Round, len(t.Rows))
		}
		n, err := r.Awards.WorkOut(ctx, tx, r.Round, f, nil)
		return phrase.Count(int64(n), "person is", "people are") + " read against every award.", err
	})
}

// SettlePair rules on a pair, or lays a hand on it.
func SettlePair(r *site.Request) error {
	entry, _ := strconv.ParseInt(r.FormValue("entry"), 10, 64)
	key, why, do := form.Key(r.FormValue("of")), r.FormValue("why"), r.FormValue("do")
	return act(r, typed{Do: do, Why: why}, new(int64), func(ctx context.Context, tx *db.Tx, f *form.Form) (says string,
		err error) {
		label := f.Design.AwardLabel(string(key))
		switch do {
		case "does", "does not":
			err = r.Awards.Rule(ctx, tx, r.Round, f, entry, key, do == "does", why)
			says = "Noted: it " + do + " count for “" + label + "”."
		case "give", "bar", "free":
			err = r.Awards.Lay(ctx, tx, r.Round, f, entry, key, award.Hand(do), why)
			says = map[string]string{"give": "“" + label + "” is held for them.", "bar": "“" + label +
				"” is held away from them.",
				"free": "“" + label + "” is placed as it comes again."}[do]
		default:
			return "", refusal.New("choose what is to be done")
		}
		if err != nil {
			return "", err
		}
		return says, r.Awards.Settle(ctx, tx, r.Round, f)
	})
}

// KeepWhatIf keeps a placing under rules of its own, or takes it away.
func KeepWhatIf(r *site.Request) error {
	was := typed{Do: "what-if", Name: r.FormValue("name"), Most: r.FormValue("most"), Rule: r.FormValue("rule"),
		Cap: r.FormValue("cap"), Reach: r.FormValue("reach") != ""}
	var to int64
	return act(r, was, &to, func(ctx context.Context, tx *db.Tx, f *form.Form) (string, error) {
		if r.FormValue("do") == "drop" {
			id, _ := strconv.ParseInt(r.FormValue("by"), 10, 64)
			return "The what-if is taken away.", r.Awards.Drop(ctx, tx, r.Round, id)
		}
		u := award.Rules{By: was.Rule, Cap: was.Cap, Reach: was.Reach}
		if most := strings.TrimSpace(was.Most); most != "" {
			n, err := strconv.Atoi(most)
			if err != nil {
				return "", refusal.In("most", "“"+most+"” is not a number of awards.")
			}
			u.Most = &n
		}
		id, err := r.Awards.Keep(ctx, tx, r.Round, f, 0, was.Name, u)
		if err == nil {
			to = id
		}
		return "Kept.", err
	})
}

// Record records a placing as decisions.
func Record(r *site.Request) error {
	was := typed{Do: "record", Note: r.FormValue("note"), Reason: r.FormValue("reason"), Others: r.FormValue("others"),
		Only: r.FormValue("only")}
	return act(r, was, new(int64), func(ctx context.Context, tx *db.Tx, f *form.Form) (string, error) {
		id, _ := strconv.ParseInt(r.FormValue("by"), 10, 64)
		n, job, err := r.Awards.Record(ctx, tx, r.Round, f, award.Recording{Placing: id, Award: form.Key(was.Only),
			Others: lifecycle.State(was.Others), Note: was.Note,
			Reason: was.Reason})
		if job != 0 {
			return phrase.Count(int64(n), "decision is", "decisions are") + " being recorded; see Decisions.", err
		}
		return phrase.Count(int64(n), "decision is", "decisions are") + " recorded. The letters wait on Decisions.", err
	})
}

// comparePage is what office/awards/compare.html draws: two placings side by side.
type comparePage struct {
	Key      string
	List     []award.Placing
	A, B     award.Placing
	Rows     []differs
	Currency string
}

// differs is somebody who has something else in the two.
type differs struct {
	award.Difference
	InA, InB string
}

// Compare lays two placings side by side, as those who have something else in them.
func Compare(r *site.Request) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	d := comparePage{Key: r.Round.Key, Currency: f.Design.Currency}
	if d.List, err = r.Awards.Placings(r.Context, r.DB, r.Round.ID); err != nil {
		return err
	}
	if len(d.List) < 2 {
		return fiber.ErrNotFound
	}
	d.A, d.B = d.List[0], d.List[1]
	for _, p := range d.List {
		switch strconv.FormatInt(p.ID, 10) {
		case r.Query("a"):
			d.A = p
		case r.Query("b"):
			d.B = p
		}
	}
	list, err := r.Awards.Differ(r.Context, r.DB, r.Round, d.A.ID, d.B.ID)
	if err != nil {
		return err
	}
	labels := func(keys []string) string {
		var out []string
		for _, k := range keys {
			out = append(out, f.Design.AwardLabel(k))
		}
		return phrase.List(out)
	}
	for _, x := range list {
		d.Rows = append(d.Rows, differs{x, labels(x.A), labels(x.B)})
	}
	return office.Draw(r, fiber.StatusOK, "office/awards/compare", "Two placings, "+r.Round.Name, "placing", f, d)
}

// Export gives a placing out: a row for each award given.
func Export(r *site.Request) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	list, err := r.Awards.Placings(r.Context, r.DB, r.Round.ID)
	if err != nil {
		return err
	}
	out := export.New(export.Named("placing", "award", "donor", "application", "name", "sum")...)
	for _, p := range list {
		if by := r.Query("by"); by != "" && by != strconv.FormatInt(p.ID, 10) {
			continue
		}
		rows, err := r.Awards.All(r.Context, r.DB, p.ID)
		if err != nil {
			return err
		}
		for _, x := range rows {
			a, _ := f.Design.Award(x.Award)
			out.Add(export.Text(p.Name), export.Text(a.Label), export.Text(a.Donor), export.Text(x.Ref), export.Text(x.Lead),
				export.Decimal(money.Plain(x.Amount, f.Design.Currency)))
		}
	}
	return r.Give(r.Round.Key+".placing", out)
}
