package decide

import (
	"context"
	"slices"
	"strconv"
	"strings"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/core/form"
	"ulvant/core/money"
	"ulvant/core/phrase"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/core/whatif"
	"ulvant/internal/decision"
	"ulvant/internal/platform/db"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
	"ulvant/internal/web/office"
)

// whatIfPage is what office/decide/whatif.html draws.
type whatIfPage struct {
	Key        string
	Stage      form.Key
	List       []decision.WhatIf
	ID         int64 // of the one looked at; 0: the order as it is, or one not kept yet
	Version    int
	Name       string
	Tried      decision.Tried
	Rows       []triedRow
	Kept       []heldCase // held cases that are not drawn
	From, Upto int
	All        int
	Prev, Next int // where other pages begin; -1: there is none
	Funds      []triedFund
	Gifts      []giftFigure
	Shares     []triedShare
	Quotas     []quotaField // those tried, and some more
	Pairs      []quotaPair
	Costs      string // what the order costs; "" until asked for
	In, Out    []string
	Short      []string
	QuotaCosts []string // of each quota
	Funded     int
	Currency   string
	May        bool
	Wrong      refusal.Refusal
	ByDefault  string
}

// triedRow is a case under the rules.
type triedRow struct {
	decision.Row
	Gives   int64
	Reserve int
	Why     string
	Running string
	Ends    string // the fund that ends before it; "" for none
	Hold    string
	HoldSum string
	Open    bool // a hand can be laid on it: it is not decided
}

// heldCase is a hand on a case of another page.
type heldCase struct {
	Entry    int64
	How, Sum string
}

// triedFund is what of a fund is placed.
type triedFund struct {
	Label              string
	Placed, Left, Fund int64
	Bar                view.Picture
	Next               string // who is next in line, and what a part would come to
}

// triedShare is what those of one place get.
type triedShare struct {
	Place   string
	Percent int
}

// quotaPair is an answer that a quota can go by.
type quotaPair struct{ Value, Label string }

// quotaField is a quota as it is typed.
type quotaField struct {
	Pair, Of, Least, Most string
}

// WhatIfs shows the order as it is, or a what-if that is kept.
func WhatIfs(r *site.Request) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	id, _ := strconv.ParseInt(r.Query("id"), 10, 64)
	return drawWhatIf(r, f, id, nil, refusal.Refusal{}, fiber.StatusOK)
}

// drawWhatIf draws one; typed are the rules on the page where they are not kept.
func drawWhatIf(r *site.Request, f *form.Form, id int64, typed *decision.Tried, wrong refusal.Refusal,
	status int) error {
	stage, err := stageOf(r, f)
	if err != nil {
		return err
	}
	d := whatIfPage{Key: r.Round.Key, Stage: stage, ID: id, Tried: decision.AsItIs(), Currency: f.Design.Currency,
		May: r.May(access.Decide), Wrong: wrong,
		Name: r.FormValue("name"), ByDefault: "the mean"}
	if f.Design.Score == form.ByCalibrated {
		d.ByDefault = "marks on one scale"
	}
	if d.List, err = r.Decisions.WhatIfs(r.Context, r.DB, r.Round.ID, stage); err != nil {
		return err
	}
	if i := slices.IndexFunc(d.List, func(w decision.WhatIf) bool { return w.ID == id }); i >= 0 {
		d.Tried, d.Version = d.List[i].Tried, d.List[i].Version
		if typed == nil {
			d.Name = d.List[i].Name
		}
	} else if id != 0 {
		return fiber.ErrNotFound
	}
	if typed != nil {
		d.Tried = *typed
	}
	tried := d.Tried
	if err := tried.Fault(f); err != nil && wrong.Says == "" {
		d.Wrong, _ = refusal.Of(err)
		tried, status = decision.AsItIs(), fiber.StatusUnprocessableEntity
	}
	t, err := r.Decisions.Try(r.Context, r.DB, r.Round, f, stage, tried)
	if err != nil {
		return err
	}
	d.pairs(f)
	d.draw(r, f, t)
	if r.FormValue("do") == "best" || len(t.Cases) <= worksOutBest && len(t.Cases) > 0 {
		d.best(t)
	}
	return office.Draw(r, status, "office/decide/whatif", "What if, "+r.Round.Name, "decisions", f, d)
}

// worksOutBest is how many cases there may be for the best set to be worked out
// unasked.
const worksOutBest = 300

// pairs are the answers that quotas can go by, and the quotas as they are typed.
func (d *whatIfPage) pairs(f *form.Form) {
	for _, o := range f.Coded() {
		q := f.Question(o.Key)
		for _, c := range f.CodesOf(q) {
			value := string(c.Key)
			if o.Key == f.Design.Listed.Question { // known by its label
				value = c.Label
			}
			d.Pairs = append(d.Pairs, quotaPair{string(o.Key) + "|" + value, o.Label + ": " + c.Label})
		}
	}
	for _, q := range d.Tried.Quotas {
		x := quotaField{Pair: string(q.Field) + "|" + q.Value, Of: "cases"}
		if q.Money {
			x.Of = "money"
		}
		if q.Least > 0 {
			x.Least = strconv.Itoa(q.Least)
		}
		if q.Most != nil {
			x.Most = strconv.Itoa(*q.Most)
		}
		d.Quotas = append(d.Quotas, x)
	}
	if d.May {
		d.Quotas = append(d.Quotas, quotaField{Of: "cases"}, quotaField{Of: "cases"})
	}
}

// named is how a quota is called.
func (d *whatIfPage) named(q decision.TriedQuota) string {
	at := string(q.Field) + "|" + q.Value
	for _, p := range d.Pairs {
		if p.Value == at {
			return p.Label
		}
	}
	return q.Value
}

func (d *whatIfPage) draw(r *site.Request, f *form.Form, t *decision.Trial) {
	from, _ := strconv.Atoi(r.FormValue("from"))
	d.All, d.Funded = len(t.Table.Rows), t.Result.Funded()
	from = max(min(from, d.All-1), 0) / office.PerPage * office.PerPage
	d.From, d.Upto, d.Prev, d.Next = from+1, min(from+office.PerPage, d.All), -1, -1
	if from > 0 {
		d.Prev = from - office.PerPage
	}
	if d.Upto < d.All {
		d.Next = d.Upto
	}
	running, ended := make([]int64, len(t.Funds)), make([]bool, len(t.Funds))
	next := make([]int, len(t.Funds)) // who is first below each line
	for k := range next {
		next[k] = -1
	}
	shares, order := map[string]int64{}, []string{}
	for i, row := range t.Table.Rows {
		c, gives := t.Cases[i], t.Result.Gives[i]
		running[c.Fund] += gives
		if gives > 0 {
			if _, ok := shares[row.Place]; !ok {
				order = append(order, row.Place)
			}
			shares[row.Place] += gives
		}
		if gives == 0 && c.Known && next[c.Fund] < 0 && !row.State.Decided() && t.Result.Why[i] != whatif.ByHand {
			next[c.Fund] = i
		}
		h, held := d.Tried.Held[row.EntryID]
		sum := ""
		if h.Sum > 0 {
			sum = money.Plain(h.Sum, d.Currency)
		}
		if i < from || i >= d.Upto {
			if held {
				d.Kept = append(d.Kept, heldCase{row.EntryID, h.How, sum})
			}
			continue
		}
		x := triedRow{Row: row, Gives: gives, Reserve: t.Result.Reserve[i], Hold: h.How, HoldSum: sum,
			Open: !row.State.Decided()}
		if by := t.Result.By[i]; by >= 0 {
			x.Why = say.WhyGiven(t.Result.Why[i], d.named(t.Quotas[by]))
		} else {
			x.Why = say.WhyGiven(t.Result.Why[i], "")
		}
		if row.State.Decided() {
			x.Why = "recorded: " + string(row.State)
		}
		if gives > 0 {
			x.Running = money.Format(running[c.Fund], d.Currency)
		}
		if t.Result.Why[i] == whatif.Line && !ended[c.Fund] {
			ended[c.Fund], x.Ends = true, t.Funds[c.Fund].Label
		}
		d.Rows = append(d.Rows, x)
	}
	d.Gifts = giftFigures(t.Table, t.Gifts(), d.Currency)
	for k, fund := range t.Funds {
		if fund.Money == 0 && t.Result.Placed[k] == 0 {
			continue
		}
		x := triedFund{
			Label:  fund.Label,
			Placed: t.Result.Placed[k],
			Fund:   fund.Money,
			Left:   fund.Money - t.Result.Placed[k],
			Bar:    view.FundBar(t.Result.Placed[k], fund.Money),
		}
		if i := next[k]; i >= 0 {
			x.Next = "Next in line, " + t.Table.Rows[i].Ref + ", asks " + money.Format(
				t.Cases[i].Asked,
				d.Currency,
			) + "."
			if x.Left > 0 && t.Cases[i].Asked > x.Left {
				x.Next += " What is left is " + strconv.FormatInt(x.Left*100/t.Cases[i].Asked, 10) + "% of it."
			}
		}
		d.Funds = append(d.Funds, x)
	}
	var placed int64
	for _, n := range shares {
		placed += n
	}
	if f.Design.Listed.Heading != "" {
		for _, place := range order {
			d.Shares = append(d.Shares, triedShare{place, int((shares[place]*200 + placed) / (2 * placed))})
		}
	}
	for _, q := range t.Result.Short {
		d.Short = append(d.Short, d.named(t.Quotas[q]))
	}
	for q := range t.Rules.Quotas {
		d.QuotaCosts = append(
			d.QuotaCosts,
			say.QuotaCosts(d.named(t.Quotas[q]), whatif.CostOf(t.Cases, t.Rules, q, t.Result)),
		)
	}
}

// best says what the order costs, and which cases come and go.
func (d *whatIfPage) best(t *decision.Trial) {
	best := t.Best()
	if best.Gives != nil {
		for i, g := range best.Gives {
			switch name := t.Table.Rows[i].Ref + " " + t.Table.Rows[i].Title; {
			case g > 0 && t.Result.Gives[i] == 0:
				d.In = append(d.In, name)
			case g == 0 && t.Result.Gives[i] > 0:
				d.Out = append(d.Out, name)
			}
		}
	}
	d.Costs = say.OrderCosts(t.Result.Worth, best, len(d.In), len(d.Out))
	if best.Gives != nil && best.Worth <= t.Result.Worth {
		d.In, d.Out = nil, nil
	}
}

// triedOf reads the rules on the page; the refusal names what cannot be read.
func triedOf(r *site.Request, f *form.Form) (t decision.Tried, err error) {
	t = decision.Tried{
		Score: r.FormValue("score"),
		Past:  r.FormValue("past") != "",
		Part:  r.FormValue("part") != "",
		Held:  map[int64]decision.TriedHeld{},
	}
	number := func(field, text string, into *int) {
		if text = strings.TrimSpace(text); text == "" || err != nil {
			return
		}
		n, bad := strconv.Atoi(text)
		if bad != nil {
			err = refusal.In(field, "“"+text+"” is not a whole number.")
			return
		}
		*into = n
	}
	number("cut", r.FormValue("cut"), &t.Cut)
	number("down", r.FormValue("down"), &t.Down)
	number("reserves", r.FormValue("reserves"), &t.Reserves)
	pairs, ofs, leasts, mosts := r.Values(
		"quota",
	), r.Values(
		"quota-of",
	), r.Values(
		"quota-least",
	), r.Values(
		"quota-most",
	)
	for i, pair := range pairs {
		field, value, ok := strings.Cut(pair, "|")
		if !ok || i >= len(ofs) || i >= len(leasts) || i >= len(mosts) {
			continue
		}
		q := decision.TriedQuota{Field: form.Key(field), Value: value, Money: ofs[i] == "money"}
		number("quota", leasts[i], &q.Least)
		if strings.TrimSpace(mosts[i]) != "" {
			q.Most = new(int)
			number("quota", mosts[i], q.Most)
		}
		t.Quotas = append(t.Quotas, q)
	}
	for _, id := range r.Values("case") {
		entry, bad := strconv.ParseInt(id, 10, 64)
		h := decision.TriedHeld{How: r.FormValue("held:" + id)}
		if bad != nil || h.How == "" {
			continue
		}
		if text := strings.TrimSpace(r.FormValue("sum:" + id)); text != "" && h.How == decision.HoldGive {
			sum, ok := money.Parse(text, f.Design.Currency)
			if !ok || sum <= 0 {
				err = refusal.In("held", "“"+text+"” is not a sum.")
			}
			h.Sum = sum
		}
		t.Held[entry] = h
	}
	return t, err
}

// TryWhatIf works the rules on the page out, and keeps nothing.
func TryWhatIf(r *site.Request) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	id, _ := strconv.ParseInt(r.FormValue("id"), 10, 64)
	t, err := triedOf(r, f)
	no, _ := refusal.Of(err)
	status := fiber.StatusOK
	if err != nil {
		status = fiber.StatusUnprocessableEntity
	}
	return drawWhatIf(r, f, id, &t, no, status)
}

// KeepWhatIf keeps a what-if, takes it over into the decisions, or takes it away.
func KeepWhatIf(r *site.Request) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	stage, err := stageOf(r, f)
	if err != nil {
		return err
	}
	id, _ := strconv.ParseInt(r.FormValue("id"), 10, 64)
	version, _ := strconv.Atoi(r.FormValue("version"))
	t, err := triedOf(r, f)
	if no, ok := refusal.Of(err); ok {
		return drawWhatIf(r, f, id, &t, no, fiber.StatusUnprocessableEntity)
	}
	to, says := "/office/rounds/"+r.Round.Key+"/what-ifs", ""
	at := func(id int64) string { return to + "?stage=" + string(stage) + "&id=" + strconv.FormatInt(id, 10) }
	err = r.Act(func(ctx context.Context, tx *db.Tx) error {
		switch r.FormValue("do") {
		case "drop":
			says, to = "The what-if is taken away.", to+"?stage="+string(stage)
			return r.Decisions.DropWhatIf(ctx, tx, r.Round, id)
		case "adopt":
			n, err := r.Decisions.Adopt(ctx, tx, r.Round, f, stage, id)
			says = phrase.Count(
				int64(n),
				"outcome is",
				"outcomes are",
			) + " chosen as the what-if has them. Nothing is recorded yet."
			to = "/office/rounds/" + r.Round.Key + "/decisions?stage=" + string(stage)
			return err
		case "new":
			id, version = 0, 0
		}
		id, err := r.Decisions.KeepWhatIf(ctx, tx, r.Round, f, stage, id, version, r.FormValue("name"), t)
		says, to = "Kept.", at(id)
		return err
	})
	if no, ok := refusal.Of(err); ok {
		return drawWhatIf(r, f, id, &t, no, fiber.StatusUnprocessableEntity)
	}
	if err != nil {
		return err
	}
	r.Tell(says)
	return r.See(to)
}
