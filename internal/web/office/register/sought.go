// Package register is the register's room: one list over a round or over all, the
// conditions and columns that shape it, the views that are kept, a case beside the
// list, and what is done to many cases at once.
package register

import (
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/register"
	"ulvant/core/say"
	"ulvant/internal/desk"
	"ulvant/internal/people"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/office"
)

// perPage is how many rows stand on a page.
const perPage = 50

// listed is the register that a request is about, as far as the asker sees it.
type listed struct {
	desk.Sought
	Form     *form.Form // nil for all rounds
	Currency string     // "" where rounds have several
	Usual    []string
	Base     string // its address
	Office   []people.Account
}

// read finds out what is asked for: columns there are, their open values, the
// shape in the address, and what the asker sees.
func read(r *site.Request, values url.Values) (l listed, err error) {
	zone := r.Profiles.Zone()
	l.Base = "/office/applications"
	if r.Round.ID != 0 {
		if l.Form, err = office.Form(r); err != nil {
			return l, err
		}
		l.Currency, l.Base, l.Round, zone = l.Form.Design.Currency, "/office/rounds/"+r.Round.Key+"/applications", r.Round.ID,
			l.Form.Zone
		l.Weights = map[string]int{}
		for _, c := range l.Form.Design.Criteria {
			l.Weights[string(c.Key)] = c.Weight
		}
	}
	l.Zone, l.Today = zone, calendar.DateOf(r.At, zone)
	l.Columns, l.Usual = register.Of(l.Form), register.Default(l.Form)
	if err := l.open(r, named(values)); err != nil {
		return l, err
	}
	l.Shape = register.Read(values, l.Columns, l.Usual)
	return l, l.see(r)
}

// named reports a column that an address shows, asks about or is about to: the
// values there are of others are looked up for nobody.
func named(values url.Values) func(key string) bool {
	return func(key string) bool {
		return slices.Contains(strings.Split(values.Get("cols"), ","), key) || values.Get("col") == key ||
			values.Get("beside") == "add."+key ||
			slices.ContainsFunc(values["if"], func(c string) bool { return strings.HasPrefix(c, key+"~") })
	}
}

// open gives the columns whose values are not known beforehand those there are.
func (l *listed) open(r *site.Request, named func(key string) bool) error {
	set := func(key string, options []register.Option) {
		for i := range l.Columns {
			if l.Columns[i].Key == key {
				l.Columns[i].Options = options
			}
		}
	}
	var err error
	if l.Office, err = r.People.Office(r.Context, r.At); err != nil {
		return err
	}
	var colleagues []register.Option
	for _, a := range l.Office {
		o := register.Option{Value: strconv.FormatInt(a.ID, 10), Label: a.Name}
		if a.ID == r.Account.ID {
			o.Says = "me"
		}
		colleagues = append(colleagues, o)
	}
	set(register.KeyCarer, colleagues)
	var options []register.Option
	if named(register.KeyLabels) {
		labels, err := r.Desk.Labels(r.Context)
		if err != nil {
			return err
		}
		for _, name := range labels {
			options = append(options, register.Option{Value: name, Label: name})
		}
		set(register.KeyLabels, options)
	}
	if named(register.KeyLacks) {
		codes, err := r.Desk.Lacking(r.Context, l.Round)
		if err != nil {
			return err
		}
		options = nil
		for _, c := range codes {
			options = append(options, register.Option{Value: string(c), Label: say.Stuck(c)})
		}
		set(register.KeyLacks, options)
	}
	if l.Round != 0 {
		return nil
	}
	seen, err := r.Rounds.Seen(r.Context, r.Sight())
	if err != nil {
		return err
	}
	rounds, err := r.Rounds.Page(r.Context, seen.Rounds, 0, 200)
	if err != nil {
		return err
	}
	options = nil
	for _, rd := range rounds {
		options = append(options, register.Option{Value: rd.Key, Label: rd.Name})
	}
	set(register.KeyRound, options)
	return nil
}

// see keeps the register to what the asker sees.
func (l *listed) see(r *site.Request) error {
	sight := r.Sight()
	for id, parts := range sight.Parts {
		for _, p := range parts {
			l.Parts = append(l.Parts, desk.Part{Round: id, Place: p.Place, Body: p.Body})
		}
	}
	seen, err := r.Rounds.Seen(r.Context, sight)
	l.Rounds = seen.Whole
	return err
}

// href is the address of the register in a shape, with more after it.
func (l listed) href(s register.Shape, more ...string) string {
	v := s.Address(l.Usual)
	for i := 0; i+1 < len(more); i += 2 {
		v.Set(more[i], more[i+1])
	}
	if len(v) == 0 {
		return l.Base
	}
	return l.Base + "?" + v.Encode()
}

// currencyOf a row's sums.
func (l listed) currencyOf(row desk.Row) string {
	if l.Currency != "" {
		return l.Currency
	}
	return row.Currency
}

// query are the values of a request's address.
func query(r *site.Request) url.Values {
	v := url.Values{}
	for key, value := range r.RequestCtx().QueryArgs().All() {
		v.Add(string(key), string(value))
	}
	return v
}

func today(zone *time.Location, at time.Time) string { return calendar.DateOf(at, zone).String() }
