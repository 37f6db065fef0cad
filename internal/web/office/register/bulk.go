package register

import (
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/phrase"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/bulk"
	"ulvant/internal/people"
	"ulvant/internal/platform/work"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
	"ulvant/internal/web/office"
)

// shownEach is how many cases of each outcome stand on a page.
const shownEach = 50

// bulkPage is what office/register/bulk.html draws.
type bulkPage struct {
	B       bulk.Bulk
	Label   string
	N       int
	Args    bulk.Args
	Tally   map[string]int
	Would   []bulk.One
	Not     []bulk.One
	More    int // of Would that are not shown
	MoreNot int
	Mail    *mailShown
	Work    *work.Work
	Problem refusal.Refusal
	Zone    *time.Location
	Whens   []when
	Bounds  []int

	// to choose from
	Rules     []form.Option
	Sections  []sectionChoice
	Office    []people.Account
	Labels    []string
	Fields    []fieldNamed
	Day, Hour string
}

type fieldNamed struct{ Name, Means string }

type sectionChoice struct {
	Label     string
	Questions []questionChoice
}

type questionChoice struct {
	Key, Label string
	On         bool
}

// mailShown is one of the mails as they would go out.
type mailShown struct {
	bulk.Mail
	At, Of     int
	Ref, Title string
	Prev, Next string
}

// when is a time at which it can be done.
type when struct{ Value, Label string }

// AnyOdd reports something that should be looked at first.
func (d bulkPage) AnyOdd() bool {
	return slices.ContainsFunc(d.Would, func(x bulk.One) bool { return x.Odd })
}

// MoreOrNot reports that it was not done to all.
func (d bulkPage) MoreOrNot() bool { return len(d.Not) > 0 }

// fieldsMean says what each field of a mail to many stands for.
var fieldsMean = []fieldNamed{{"name", "the lead’s name"}, {"title", "title"}, {"ref", "number"},
	{"round", "the round"},
	{"closes", "until when it can be written"}, {"missing", "what still stands in the way, line by line"},
	{"asked", "the sum asked"}, {"office", "who we are"}}

// BeginBulk keeps which cases something is to be done to, and asks what exactly.
func BeginBulk(r *site.Request) error {
	values, err := url.ParseQuery(r.FormValue("shape"))
	if err != nil {
		values = url.Values{}
	}
	l, err := read(r, values)
	if err != nil {
		return err
	}
	chosen := r.Values("case")
	s := l.Sought
	if r.FormValue("all") != "yes" {
		s.Entries = entriesOf(chosen)
		s.Shape.Filter = nil // those chosen, though one changed meanwhile
	}
	entries, err := r.Desk.RegisterEntries(r.Context, s, bulk.MostCases+1) // of what the asker sees
	if err != nil {
		return err
	}
	says := l.Shape.Filter.Text(l.Columns, l.Currency)
	if r.FormValue("all") != "yes" {
		says = phrase.Count(int64(len(entries)), "application", "applications") + " chosen by hand"
	}
	b := bulk.Bulk{Round: l.Round, Act: bulk.Act(r.FormValue("act")), Says: says, Back: l.href(l.Shape)}
	return office.BeginBulk(r, b, entries)
}

func entriesOf(chosen []string) []int64 {
	out := []int64{}
	for _, c := range chosen {
		if id, err := strconv.ParseInt(c, 10, 64); err == nil && len(out) < bulk.MostCases {
			out = append(out, id)
		}
	}
	return out
}

// found is the act that the address names, when the asker began it.
func found(r *site.Request) (bulk.Bulk, error) {
	id, _ := strconv.ParseInt(r.Params("bulk"), 10, 64)
	return r.Program.Bulk.Find(r.Context, r.DB, id, r.Account.ID)
}

// Bulk draws how far an act on many is.
func Bulk(r *site.Request) error {
	b, err := found(r)
	if err != nil {
		return err
	}
	return drawBulk(r, fiber.StatusOK, b, nil, refusal.Refusal{})
}

func drawBulk(r *site.Request, status int, b bulk.Bulk, typed *bulk.Args, no refusal.Refusal) error {
	d := bulkPage{B: b, Label: strings.TrimSuffix(b.Act.Label(), "…"), Problem: no, Zone: r.Profiles.Zone(),
		Fields: fieldsMean}
	var err error
	if d.Args, err = b.Told(); err != nil {
		return err
	}
	if typed != nil {
		d.Args = *typed
	}
	tally, err := r.Program.Bulk.Tally(r.Context, r.DB, b.ID)
	if err != nil {
		return err
	}
	d.N, d.Tally = tally.N(), map[string]int{}
	for k, n := range tally {
		d.Tally[string(k)] = n
	}
	does, not := []bulk.Outcome{bulk.Would, bulk.StopOne}, []bulk.Outcome{bulk.WouldNot}
	if b.Stage == bulk.Done || b.Stage == bulk.Undone || b.Stage == bulk.Doing || b.Stage == bulk.Undoing {
		does = []bulk.Outcome{bulk.Did, bulk.TakenOff}
		not = []bulk.Outcome{bulk.Failed, bulk.Stands, bulk.WouldNot, bulk.StopOne}
	}
	if b.Stage == bulk.Asked {
		does, not = []bulk.Outcome{"", bulk.Would, bulk.WouldNot, bulk.StopOne}, nil
	}
	from, _ := strconv.Atoi(r.Query("from"))
	if d.Would, err = r.Program.Bulk.Of(r.Context, r.DB, b.ID, does, max(from, 0), shownEach); err != nil {
		return err
	}
	if d.Not, err = r.Program.Bulk.Of(r.Context, r.DB, b.ID, not, 0, shownEach); err != nil {
		return err
	}
	for _, o := range does {
		d.More += tally[o]
	}
	for from := range d.More {
		if from%shownEach == 0 && d.More > shownEach {
			d.Bounds = append(d.Bounds, from)
		}
	}
	d.More -= len(d.Would)
	for _, o := range not {
		d.MoreNot += tally[o]
	}
	d.MoreNot -= len(d.Not)
	d.mail(r, from)
	if b.WorkID != 0 && (b.Stage == bulk.Drawing || b.Stage == bulk.Doing || b.Stage == bulk.Undoing) {
		w, err := r.Work.Any(r.Context, b.WorkID)
		if err != nil {
			return err
		}
		d.Work = &w
	}
	if err := d.choices(r, b); err != nil {
		return err
	}
	d.Whens = whens(b, r.At.In(d.Zone))
	return r.Draw(status, "office/register/bulk", view.Page{Title: d.Label + ", " + phrase.Count(int64(d.N), "application",
		"applications"), Nav: "register", Data: d})
}

// whens are the times at which it can be done: what leaves the house is held.
func whens(b bulk.Bulk, now time.Time) []when {
	if !b.Act.Leaves() {
		return []when{{"0", "at once; it can be undone"}}
	}
	out := []when{{"10", "in ten minutes, at " + now.Add(10*time.Minute).Format("15:04") +
		", and can be stopped until then"},
		{"60", "in an hour, at " + now.Add(time.Hour).Format("15:04")}}
	if now.Hour() >= 8 {
		out = append(out, when{"morning", "tomorrow morning at 8:00"})
	}
	return append(out, when{"0", "at once; nothing can be stopped"})
}

// mail is one of the mails among those shown, by the number in the address.
func (d *bulkPage) mail(r *site.Request, from int) {
	n, _ := strconv.Atoi(r.Query("mail"))
	var all []mailShown
	for _, x := range d.Would {
		for _, m := range x.Mails {
			all = append(all, mailShown{Mail: m, Ref: x.Ref, Title: x.Title})
		}
	}
	if len(all) == 0 {
		return
	}
	n = min(max(n, 0), len(all)-1)
	at := func(i int) string {
		if i < 0 || i >= len(all) {
			return ""
		}
		return "?mail=" + strconv.Itoa(i) + "&from=" + strconv.Itoa(from) + "#mail"
	}
	d.Mail = &all[n]
	d.Mail.At, d.Mail.Of, d.Mail.Prev, d.Mail.Next = n+1, len(all), at(n-1), at(n+1)
	d.Mail.Body = strings.ReplaceAll(d.Mail.Body, "{{link}}", "(their own link stands here)")
}

// choices are what the form of an act chooses from.
func (d *bulkPage) choices(r *site.Request, b bulk.Bulk) (err error) {
	switch b.Act {
	case bulk.HandTo:
		d.Office, err = r.People.Office(r.Context, r.At)
	case bulk.PutLabel, bulk.OffLabel:
		d.Labels, err = r.Desk.Labels(r.Context)
	case bulk.Write:
		if d.Args.Subject == "" && d.Args.Text == "" {
			d.Args.Subject, d.Args.Text = "About “{{title}}”", "Dear {{name}},\n\n\n\n{{office}}\n"
		}
	case bulk.MoreTime:
		if !d.Args.Until.IsZero() {
			at := d.Args.Until.In(d.Zone)
			d.Day, d.Hour = calendar.DateOf(at, d.Zone).Words(), at.Format("15:04")
		}
	case bulk.Settle, bulk.HandBack:
		f, ferr := bulkForm(r, b)
		if ferr != nil || f == nil {
			return ferr
		}
		names := say.RuleNames(f)
		for _, rule := range f.Design.Rules {
			d.Rules = append(d.Rules, form.Option{Key: rule.Key, Label: names[rule.Key]})
		}
		for _, s := range f.Design.Sections {
			out := sectionChoice{Label: s.Label}
			for i := range s.Questions {
				if q := &s.Questions[i]; q.Purpose != form.ForSurvey && !q.AsksPeople() {
					out.Questions = append(out.Questions, questionChoice{string(q.Key), q.Label, holds(d.Args.Questions, q.Key)})
				}
			}
			if out.Questions != nil {
				d.Sections = append(d.Sections, out)
			}
		}
		if d.Args.Days == 0 {
			d.Args.Days = 5
		}
	}
	return err
}

func holds(list []form.Key, k form.Key) bool {
	for _, x := range list {
		if x == k {
			return true
		}
	}
	return false
}

// bulkForm is the design of the round whose register it began in; nil for none.
func bulkForm(r *site.Request, b bulk.Bulk) (*form.Form, error) {
	if b.Round == 0 {
		return nil, nil
	}
	rd, err := r.Rounds.ByID(r.Context, r.DB, b.Round)
	if err != nil {
		return nil, err
	}
	return r.Rounds.Published(r.Context, r.DB, rd)
}
