package decide

import (
	"slices"
	"strconv"
	"ulvant/core/form"
	"ulvant/core/say"
	"ulvant/internal/decision"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/office"

	"github.com/gofiber/fiber/v3"
)

// comparePage is what office/decide/compare.html draws.
type comparePage struct {
	Key      string
	Stage    form.Key
	List     []decision.WhatIf
	A, B     compared
	Rows     []comparedRow
	Currency string
}

// compared is one side.
type compared struct {
	ID     int64
	Name   string
	Funded int
	Placed int64
	Worth  string
}

// comparedRow is a case that the two treat in different ways.
type comparedRow struct {
	decision.Row
	A, B       int64
	WhyA, WhyB string
}

// CompareWhatIfs lays two what-ifs side by side as the cases that differ.
func CompareWhatIfs(r *site.Request) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	stage, err := stageOf(r, f)
	if err != nil {
		return err
	}
	d := comparePage{Key: r.Round.Key, Stage: stage, Currency: f.Design.Currency}
	if d.List, err = r.Decisions.WhatIfs(r.Context, r.DB, r.Round.ID, stage); err != nil {
		return err
	}
	side := func(name string) (c compared, t *decision.Trial, err error) {
		c.ID, _ = strconv.ParseInt(r.Query(name), 10, 64)
		rules := decision.AsItIs()
		c.Name = "As the order has it"
		if i := slices.IndexFunc(d.List, func(w decision.WhatIf) bool { return w.ID == c.ID }); i >= 0 {
			rules, c.Name = d.List[i].Tried, d.List[i].Name
		} else if c.ID != 0 {
			return c, nil, fiber.ErrNotFound
		}
		if t, err = r.Decisions.Try(r.Context, r.DB, r.Round, f, stage, rules); err != nil {
			return c, nil, err
		}
		c.Funded, c.Worth = t.Result.Funded(), say.Mark(float64(t.Result.Worth)/100)
		for _, n := range t.Result.Placed {
			c.Placed += n
		}
		return c, t, nil
	}
	var a, b *decision.Trial
	if d.A, a, err = side("a"); err != nil {
		return err
	}
	if d.B, b, err = side("b"); err != nil {
		return err
	}
	at := map[int64]int{} // the two may stand in different orders
	for j, row := range b.Table.Rows {
		at[row.EntryID] = j
	}
	names := whatIfPage{}
	names.pairs(f)
	why := func(t *decision.Trial, i int) string {
		if by := t.Result.By[i]; by >= 0 {
			return say.WhyGiven(t.Result.Why[i], names.named(t.Quotas[by]))
		}
		if s := say.WhyGiven(t.Result.Why[i], ""); s != "" || t.Result.Gives[i] > 0 {
			return s
		}
		return "below where the fund ends"
	}
	for i, row := range a.Table.Rows {
		j, ok := at[row.EntryID]
		if !ok || a.Result.Gives[i] == b.Result.Gives[j] {
			continue
		}
		d.Rows = append(d.Rows, comparedRow{row, a.Result.Gives[i], b.Result.Gives[j], why(a, i), why(b, j)})
	}
	one := func(x comparedRow) int { // whom only one of them gives to stand first
		if x.A == 0 || x.B == 0 {
			return 0
		}
		return 1
	}
	slices.SortStableFunc(d.Rows, func(x, y comparedRow) int { return one(x) - one(y) })
	return office.Draw(r, fiber.StatusOK, "office/decide/compare", "Two what-ifs, "+r.Round.Name, "decisions", f, d)
}
