package register

import (
	"net/url"
	"strconv"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/core/register"
	"ulvant/internal/bulk"
	"ulvant/internal/colleague"
	"ulvant/internal/desk"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
	"ulvant/internal/web/office"
)

// page is what office/register/register.html draws.
type page struct {
	*office.RoundPage[struct{}] // nil for the register of all rounds
	Base                        string
	Said                        []said
	AddHref, ColumnsHref        string
	KeepHref, AllHref           string
	Views                       []viewLink
	Heads                       []head
	Rows                        []row
	Foot                        []string // under each column: a sum, a mean, or nothing
	Right                       []bool   // which columns are figures
	N, OfAll, From, To          int
	Prev, Next                  string
	Lost                        []string
	Find                        string
	Shape                       []field // for forms that keep it
	Address                     string  // the same, in one
	Acts                        []actButton
	BulkTo                      string
	Outs                        []outLink
	Here                        string // the address of this page
	Side                        side
}

// deepest is how far into a register one can turn the pages; a filter goes further.
const deepest = 1_000_000

// said is one condition in the sentence.
type said struct {
	register.Said
	Edit, Off string
	On        bool // it is open beside the list
}

// field is one hidden field of a form.
type field struct{ Name, Value string }

// viewLink leads to a view that was kept.
type viewLink struct {
	colleague.View
	Href string
	On   bool
	Mine bool
}

// head of a column.
type head struct {
	Heading, Href string
	Sort          string // ascending, descending, or "" when it is not ordered by it
	Right         bool
}

// row of the list.
type row struct {
	desk.Row
	Href, Beside string
	Cells        []string
	Hot          []bool
	On           bool
}

// outLink leads to the list as a file.
type outLink struct{ Label, Href string }

// actButton begins an act on many.
type actButton struct{ Act, Label string }

// List draws the register of a round, or of all.
func List(r *site.Request) error { return draw(r, fiber.StatusOK, query(r), panel{}) }

func draw(r *site.Request, status int, values url.Values, p panel) error {
	l, err := read(r, values)
	if err != nil {
		return err
	}
	from, _ := strconv.Atoi(values.Get("from"))
	l.Offset, l.Most = min(max(from, 0), deepest), perPage
	totals, err := r.Desk.RegisterTotals(r.Context, l.Sought)
	if err != nil {
		return err
	}
	rows, err := r.Desk.Register(r.Context, l.Sought)
	if err != nil {
		return err
	}
	d := page{Base: l.Base, N: totals.N, Lost: l.Shape.Lost, AddHref: l.href(l.Shape, "beside", "add"),
		ColumnsHref: l.href(l.Shape, "beside", "columns"), KeepHref: l.href(l.Shape, "beside", "keep"), AllHref: l.Base,
		Here: l.href(l.Shape), From: l.Offset + 1, To: l.Offset + len(rows)}
	d.shape(l)
	if d.OfAll, err = all(r, l); err != nil {
		return err
	}
	if l.Offset > 0 {
		d.Prev = l.href(l.Shape, "from", strconv.Itoa(max(l.Offset-perPage, 0)))
	}
	if d.To < totals.N {
		d.Next = l.href(l.Shape, "from", strconv.Itoa(l.Offset+perPage))
	}
	if d.Side, err = p.side(r, l, values); err != nil {
		return err
	}
	open := ""
	if d.Side.Case != nil {
		open = d.Side.Case.Ref
	}
	if err := d.rows(r, l, rows, open); err != nil {
		return err
	}
	for _, key := range l.Shape.Columns {
		c, _ := l.Columns.Find(key)
		d.Right = append(d.Right, c.Type.Counts())
		foot := ""
		if plain, ok := totals.Sums[key]; ok && (c.Type != register.Money || l.Currency != "") {
			if foot = c.Figure(plain, l.Currency); c.Once {
				foot = "⌀ " + foot
			}
		}
		d.Foot = append(d.Foot, foot)
	}
	if err := d.views(r, l, values.Get("view")); err != nil {
		return err
	}
	d.acts(r, l)
	if l.Form == nil {
		return r.Draw(status, "office/register/register", view.Page{Title: "All applications", Nav: "register", Data: d})
	}
	frame, err := office.Frame(r, "applications", l.Form, struct{}{})
	if err != nil {
		return err
	}
	d.RoundPage = &frame
	return r.Draw(status, "office/register/register", view.Page{Title: "Applications, " + r.Round.Name, Nav: "rounds",
		Data: d})
}

// all counts those that are seen, whatever is asked.
func all(r *site.Request, l listed) (int, error) {
	if len(l.Shape.Filter) == 0 {
		return 0, nil
	}
	s := l.Sought
	s.Shape = register.Shape{}
	t, err := r.Desk.RegisterTotals(r.Context, s)
	return t.N, err
}

// shape draws the sentence, the heads, and what forms must keep.
func (d *page) shape(l listed) {
	for i, s := range l.Shape.Filter.Sentence(l.Columns, l.Currency) {
		if l.Shape.Filter[i].Column == register.KeyFind {
			d.Find = l.Shape.Filter[i].Values[0]
		}
		at := "if." + strconv.Itoa(i)
		d.Said = append(d.Said, said{s, l.href(l.Shape, "beside", at), l.href(l.Shape.Without(i)), false})
	}
	for _, key := range l.Shape.Columns {
		c, _ := l.Columns.Find(key)
		h := head{Heading: c.Heading, Href: l.href(l.Shape.Sorted(c)), Right: c.Type.Counts()}
		if l.Shape.Sort == key {
			h.Sort = map[bool]string{true: "descending", false: "ascending"}[l.Shape.Down]
		}
		d.Heads = append(d.Heads, h)
	}
	d.Shape, d.Address = fields(l.Shape.Address(l.Usual)), l.Shape.Address(l.Usual).Encode()
	base := "/office"
	if l.Round != 0 {
		base = l.Base[:len(l.Base)-len("/applications")]
	}
	d.BulkTo = base + "/bulk"
	for _, kind := range []string{"csv", "xlsx", "json"} {
		v := l.Shape.Address(l.Usual)
		d.Outs = append(d.Outs, outLink{Label: map[string]string{"csv": "CSV", "xlsx": "XLSX", "json": "JSON"}[kind],
			Href: base + "/register." + kind + "?" + v.Encode()})
	}
}

func fields(v url.Values) (out []field) {
	for _, key := range []string{"cols", "if", "sort"} {
		for _, value := range v[key] {
			out = append(out, field{key, value})
		}
	}
	return out
}

func (d *page) rows(r *site.Request, l listed, rows []desk.Row, open string) error {
	for _, x := range rows {
		cells, err := desk.CellsOf(l.Sought, x)
		if err != nil {
			return err
		}
		out := row{Row: x, Href: "/office/applications/" + x.Ref,
			Beside: l.href(l.Shape, "beside", "case."+x.Ref, "from", strconv.Itoa(l.Offset)) + "#row-" + x.Ref,
			On:     x.Ref == open}
		for i, key := range l.Shape.Columns {
			c, _ := l.Columns.Find(key)
			text := c.Say(cells[i], l.currencyOf(x), l.Zone, r.At)
			if key == register.KeyLetter && text == "" {
				text = "nobody named"
			}
			out.Cells = append(out.Cells, text)
			out.Hot = append(out.Hot, key == register.KeyLetter && cells[i].Text == "uploaded" ||
				key == register.KeyVerdict && cells[i].Text == "no")
		}
		d.Rows = append(d.Rows, out)
	}
	return nil
}

// views are those that were kept; on is the one whose address this is.
func (d *page) views(r *site.Request, l listed, on string) error {
	list, err := r.Colleagues.Views(r.Context, r.DB, l.Round, r.Account.ID)
	if err != nil {
		return err
	}
	now := l.Shape.Address(l.Usual).Encode()
	for _, v := range list {
		link := viewLink{View: v, Href: l.Base + "?" + v.Address, Mine: v.ByID == r.Account.ID, On: v.Address == now &&
			now != ""}
		d.Views = append(d.Views, link)
	}
	return nil
}

// acts are those that the asker's roles have somewhere in this register.
func (d *page) acts(r *site.Request, l listed) {
	for _, a := range bulk.Acts {
		if (l.Round != 0 || !a.OfRound()) && mayAny(r, a.Needs()) {
			d.Acts = append(d.Acts, actButton{string(a), a.Label()})
		}
	}
}

// mayAny reports an act that some role of the asker has, wherever it holds; each
// case is asked about when it is drawn.
func mayAny(r *site.Request, needs access.Action) bool {
	for _, h := range r.Roles {
		if h.Over(r.At) {
			continue
		}
		about := access.About{Programme: h.Programme, Round: h.Round, Place: h.Place, Bodies: []string{h.Body}}
		rel := access.SignedIn | access.Of(r.Roles, about, r.At)
		for _, state := range lifecycle.States() {
			if access.Allow(needs, rel, state) == access.Allowed {
				return true
			}
		}
	}
	return false
}

// SetCondition adds a condition, or changes one, and leads back to the list.
func SetCondition(r *site.Request) error {
	values := query(r)
	l, err := read(r, values)
	if err != nil {
		return err
	}
	n := -1
	if at := values.Get("at"); at != "" {
		n, _ = strconv.Atoi(at)
	}
	col, ok := l.Columns.Find(values.Get("col"))
	if !ok {
		return fiber.ErrNotFound
	}
	c, err := register.Typed(col, register.Op(values.Get("op")), values["value"], l.Currency)
	if no, said := refusal.Of(err); said {
		values.Set("beside", "add."+col.Key)
		if n >= 0 {
			values.Set("beside", "if."+strconv.Itoa(n))
		}
		return draw(r, fiber.StatusUnprocessableEntity, values, panel{wrong: no})
	}
	if err != nil {
		return err
	}
	if col.Key == register.KeyFind { // the box asks once
		for i, have := range l.Shape.Filter {
			if have.Column == col.Key {
				n = i
			}
		}
	}
	return r.See(l.href(l.Shape.With(n, c)))
}

// SetColumns chooses the columns, in order, and leads back to the list.
func SetColumns(r *site.Request) error {
	values := query(r)
	l, err := read(r, values)
	if err != nil {
		return err
	}
	s := l.Shape
	s.Columns = nil
	chosen := values["col"]
	place := func(key string) int {
		n, err := strconv.Atoi(values.Get("place." + key))
		if err != nil {
			return 1000
		}
		return n
	}
	ordered := make([]string, 0, len(chosen))
	for _, key := range chosen {
		if c, ok := l.Columns.Find(key); ok && !c.Hidden && len(ordered) < register.MostColumns {
			at := len(ordered)
			for at > 0 && place(ordered[at-1]) > place(key) {
				at--
			}
			ordered = append(ordered[:at], append([]string{key}, ordered[at:]...)...)
		}
	}
	if s.Columns = ordered; len(ordered) == 0 {
		s.Columns = l.Usual
	}
	return r.See(l.href(s))
}
