// Package interviews holds the office's pages of whom panels meet, and when.
package interviews

import (
	"context"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/core/calendar"
	"ulvant/core/form"
	cutting "ulvant/core/interview"
	"ulvant/core/lifecycle"
	"ulvant/core/phrase"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/decision"
	"ulvant/internal/interview"
	"ulvant/internal/platform/db"
	"ulvant/internal/reading"
	"ulvant/internal/web/casefile"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/office"
)

// timetable is what office/interviews/interviews.html draws.
type timetable struct {
	Stage   *form.Stage
	Days    []casefile.MeetingDay
	Without []interview.Meeting
	Waiting int            // of those, who may still choose
	ToAsk   []decision.Row // in the order, nobody has met them
	More    int            // beyond those drawn
	Readers []person
	Free    int // times still to come that nobody has
	Now     time.Time
	Zone    *time.Location
	May     bool
	Wrong   refusal.Refusal
	Typed   map[string]string
	Weighs  int // percent of the marks that are given at interviews
}

// person is somebody who can be of a panel.
type person struct {
	Account int64
	Name    string
	In      bool
}

// mostToAsk is how many of the order are offered at once.
const mostToAsk = 60

// stage is the stage of interviews that is looked at, with that in which was applied.
func stage(f *form.Form) (met *form.Stage, applied form.Key) {
	for _, s := range f.Applying() {
		if m := f.Interviews(s.Key); m != nil {
			met, applied = m, s.Key
		}
	}
	return met, applied
}

// Interviews shows the timetable, who has no time, and whom to ask.
func Interviews(r *site.Request) error { return draw(r, fiber.StatusOK, refusal.Refusal{}) }

func draw(r *site.Request, status int, wrong refusal.Refusal) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	d := timetable{Now: r.At, Zone: f.Zone, May: r.May(access.MeetPeople), Wrong: wrong, Typed: map[string]string{}}
	var applied form.Key
	if d.Stage, applied = stage(f); d.Stage == nil {
		return fiber.ErrNotFound
	}
	d.Weighs = f.Design.Weighs(d.Stage.Key)
	days, err := r.Interviews.Days(r.Context, r.DB, r.Round.ID, d.Stage.Key)
	if err != nil {
		return err
	}
	for _, x := range days {
		drawn := casefile.Meetings(x, f, r.At)
		d.Days = append(d.Days, drawn)
		for _, s := range drawn.Slots {
			if s.Meeting == nil && !s.Over {
				d.Free++
			}
		}
	}
	if d.Without, err = r.Interviews.Without(r.Context, r.DB, r.Round.ID, applied); err != nil {
		return err
	}
	for _, m := range d.Without {
		if m.ChooseBy != nil && m.ChooseBy.After(r.At) {
			d.Waiting++
		}
	}
	if d.ToAsk, err = toAsk(r, f, applied); err != nil {
		return err
	}
	if n := len(d.ToAsk); n > mostToAsk {
		d.ToAsk, d.More = d.ToAsk[:mostToAsk], n-mostToAsk
	}
	if d.Readers, err = people(r, nil); err != nil {
		return err
	}
	d.Typed = map[string]string{"date": "", "from": "09:00", "until": "17:00", "minutes": "30", "between": "10",
		"break-from": "12:30",
		"break-to":   "13:30", "panel": "", "place": "", "link": "", "note": "", "first": "",
		"by": r.At.In(f.Zone).AddDate(0, 0, 5).Format("2006-01-02") + "T17:00"}
	if wrong.Says != "" {
		for k := range d.Typed {
			d.Typed[k] = r.FormValue(k)
		}
		in := posted(r, "member")
		for i := range d.Readers {
			d.Readers[i].In = slices.Contains(in, d.Readers[i].Account)
		}
	}
	return office.Draw(r, status, "office/interviews/interviews", "Interviews, "+r.Round.Name, "interviews", f, d)
}

// toAsk are those whom nobody has met and who can be invited, in the order.
func toAsk(r *site.Request, f *form.Form, applied form.Key) (out []decision.Row, err error) {
	t, err := r.Decisions.Order(r.Context, r.DB, r.Round, f, applied)
	if err != nil {
		return nil, err
	}
	for _, row := range t.Rows {
		if _, err := lifecycle.Next(row.State, lifecycle.CallIn, f.ReadAfter(applied)); err == nil && row.Met == nil {
			out = append(out, row)
		}
	}
	return out, nil
}

// people who read in the round and can be of a panel.
func people(r *site.Request, in []interview.Member) (out []person, err error) {
	list, err := r.Reading.Readers(r.Context, r.DB, r.Round.ID)
	if err != nil {
		return nil, err
	}
	list = slices.DeleteFunc(list, func(x reading.Reader) bool { return !x.Reads() })
	for _, x := range list {
		out = append(out, person{x.Account, x.Name, slices.ContainsFunc(in,
			func(m interview.Member) bool { return m.Account == x.Account })})
	}
	return out, nil
}

// posted are the numbers of a field that stands several times.
func posted(r *site.Request, name string) (out []int64) {
	for _, v := range r.Ctx.Request().PostArgs().PeekMulti(name) {
		if n, err := strconv.ParseInt(string(v), 10, 64); err == nil && !slices.Contains(out, n) {
			out = append(out, n)
		}
	}
	return out
}

// Change does what the page of interviews offers.
func Change(r *site.Request) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	met, applied := stage(f)
	if met == nil {
		return fiber.ErrNotFound
	}
	says := ""
	err = r.Act(func(ctx context.Context, tx *db.Tx) error {
		switch r.FormValue("do") {
		case "day":
			l, err := laid(r, f)
			if err != nil {
				return err
			}
			says = phrase.Count(int64(len(l.Times)), "time is", "times are") + " there. Whoever is of the panel is told."
			_, err = r.Interviews.AddDay(ctx, tx, r.Round, met.Key, l)
			return err
		case "invite":
			entries, by, err := asked(r, f, applied)
			if err != nil {
				return err
			}
			says = phrase.Count(int64(len(entries)), "person is", "people are") + " invited."
			if by == nil {
				says += " Give them times now: they hear from us when they have one."
			}
			return r.Interviews.Invite(ctx, tx, r.Round, f, entries, by)
		case "give":
			g, err := r.Interviews.Give(ctx, tx, r.Round, f, applied)
			says = say.TimesGiven(g.Given, g.Left, g.Night)
			return err
		}
		return refusal.Unfit("nothing is to be done")
	})
	if no, ok := refusal.Of(err); ok {
		return draw(r, fiber.StatusUnprocessableEntity, no)
	}
	if err != nil {
		return err
	}
	r.Tell(says)
	return r.See("/office/rounds/" + r.Round.Key + "/interviews")
}

// asked are the entries that are to be invited, and until when they choose a time; nil
// when they are given one.
func asked(r *site.Request, f *form.Form, applied form.Key) (entries []int64, by *time.Time, err error) {
	entries = posted(r, "who")
	if first := strings.TrimSpace(r.FormValue("first")); first != "" {
		n, err := strconv.Atoi(first)
		if err != nil || n < 1 {
			return nil, nil, refusal.In("first", "“"+first+"” is not a number of people.")
		}
		rows, err := toAsk(r, f, applied)
		if err != nil {
			return nil, nil, err
		}
		for _, row := range rows[:min(n, len(rows))] {
			if !slices.Contains(entries, row.EntryID) {
				entries = append(entries, row.EntryID)
			}
		}
	}
	if r.FormValue("how") == "choose" {
		at, err := time.ParseInLocation("2006-01-02T15:04", r.FormValue("by"), f.Zone)
		if err != nil {
			return nil, nil, refusal.In("by", "Give the day and time until which they choose.")
		}
		by = &at
	}
	return entries, by, nil
}

// laid is a day as it was typed.
func laid(r *site.Request, f *form.Form) (l interview.Laid, err error) {
	l = interview.Laid{Panel: r.FormValue("panel"), Place: r.FormValue("place"), Link: r.FormValue("link"),
		Note:    r.FormValue("note"),
		Members: posted(r, "member")}
	day := cutting.Day{}
	if date, ok := calendar.ParseDate(r.FormValue("date")); ok {
		day.Date = date
	}
	for _, x := range []struct {
		field, says string
		into        *int
	}{{"from", "Say when the first interview begins, as 09:00.", &day.From}, {"until", "Say when the day ends, as 17:00.",
		&day.Until},
		{"break-from", "Say when the break begins, as 12:30, or leave both times of it empty.", &day.BreakFrom},
		{"break-to", "Say when the break ends, as 13:30, or leave both times of it empty.", &day.BreakUpto}} {
		text := strings.TrimSpace(r.FormValue(x.field))
		if text == "" && strings.HasPrefix(x.field, "break") {
			continue
		}
		at, err := time.Parse("15:04", text)
		if err != nil {
			return l, refusal.In(x.field, x.says)
		}
		*x.into = at.Hour()*60 + at.Minute()
	}
	for _, x := range []struct {
		field string
		into  *int
	}{{"minutes", &day.Minutes}, {"between", &day.Between}} {
		if *x.into, err = strconv.Atoi(strings.TrimSpace(r.FormValue(x.field))); err != nil {
			return l, refusal.In(x.field, "“"+r.FormValue(x.field)+"” is not a number of minutes.")
		}
	}
	if l.Times, err = day.Slots(f.Zone); err != nil {
		return l, err
	}
	l.Minutes = day.Minutes
	if !l.Times[0].After(r.At) {
		return l, refusal.In("date", "The first interview is to come: choose a later day.")
	}
	return l, nil
}
