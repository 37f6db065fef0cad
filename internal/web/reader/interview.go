package reader

import (
	"context"
	"errors"
	"slices"
	"strconv"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/interview"
	"ulvant/internal/platform/db"
	"ulvant/internal/web/casefile"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// sheetPage is what reader/sheet.html draws: the day of a panel, for those of it.
type sheetPage struct {
	Day      casefile.MeetingDay
	Form     *form.Form
	Criteria []form.Criterion
	Read     bool
}

// Sheet shows a day on which one meets people.
func Sheet(r *site.Request) error {
	id, _ := strconv.ParseInt(r.Params("day"), 10, 64)
	day, err := r.Interviews.OfMember(r.Context, r.DB, id, r.Account.ID)
	if errors.Is(err, interview.ErrNoDay) {
		return fiber.ErrNotFound
	}
	if err != nil {
		return err
	}
	rd, err := r.Rounds.ByID(r.Context, r.DB, day.RoundID)
	if err != nil {
		return err
	}
	f, err := r.Rounds.Published(r.Context, r.DB, rd)
	if err != nil {
		return err
	}
	return r.Draw(fiber.StatusOK, "reader/sheet", view.Page{Title: day.Panel, Nav: "reading",
		Data: sheetPage{casefile.Meetings(day, f, r.At), f, f.Design.Judged(day.Stage), true}})
}

// metPage is what reader/met.html draws: somebody one meets, with the marks beside.
type metPage struct {
	casefile.Papers
	Case     application.Case
	Lead     string
	M        interview.Meeting
	Day      int64
	When     string
	Begun    bool
	Said     interview.Said
	Criteria []criterion
	Left     int
	Open     bool
	Note     string
	Wrong    refusal.Refusal
}

// Met shows somebody whom one meets.
func Met(r *site.Request) error { return drawMet(r, fiber.StatusOK, refusal.Refusal{}, nil) }

func drawMet(r *site.Request, status int, wrong refusal.Refusal, typed map[form.Key]int) error {
	f, s, filled, path, err := casefile.Sealed(r, r.Case)
	if err != nil {
		return err
	}
	m, day, x, err := r.Interviews.When(r.Context, r.DB, r.Case)
	if err != nil {
		return err
	}
	said, err := r.Interviews.SaidBy(r.Context, r.DB, r.Case.EntryID, r.Account.ID)
	if err != nil {
		return err
	}
	d := metPage{Case: r.Case, Lead: r.Case.LeadName, M: m, Day: day.ID, When: say.OnBoth(x.Starts, m.In(f.Zone),
		f.Zone), Begun: !x.Starts.After(r.At),
		Said: said, Note: said.Note, Wrong: wrong, Open: r.Case.State.Is(lifecycle.ToMeet) && said.SentAt == nil &&
			r.May(access.MarkMeeting)}
	if typed != nil {
		said.Marks, d.Note = typed, r.FormValue("note")
	}
	asked := f.Criteria(path, day.Stage)
	d.Left = interview.Lacks(asked, said.Marks)
	for _, c := range asked {
		one := criterion{Criterion: c, Mark: -1}
		if v, ok := said.Marks[c.Key]; ok {
			one.Mark = v
		}
		d.Criteria = append(d.Criteria, one)
	}
	if d.Papers, err = casefile.PapersOf(r, r.Case, f, s, filled, path, "/reading/"+r.Case.Ref+"/interview/materials",
		false); err != nil {
		return err
	}
	return r.Draw(status, "reader/met", view.Page{Title: "Interview: " + r.Case.LeadName, Nav: "reading", Data: d})
}

// MarkMet keeps what one says of somebody one met, sends it, or steps out.
func MarkMet(r *site.Request) error {
	f, err := r.Rounds.Form(r.Context, r.DB, r.Case.DesignID)
	if err != nil {
		return err
	}
	marks := map[form.Key]int{}
	for _, c := range f.Design.Criteria {
		if n, err := strconv.Atoi(r.FormValue("mark:" + string(c.Key))); err == nil {
			marks[c.Key] = n
		}
	}
	version, _ := strconv.Atoi(r.FormValue("version"))
	do, says, to := r.FormValue("do"), "Kept. Your marks are not sent until you press Send marks.",
		"/reading/"+r.Case.Ref+"/interview"
	err = r.Act(func(ctx context.Context, tx *db.Tx) error {
		if do == "out" {
			says, to = "You have stepped out. The others of the panel meet them.", "/reading"
			return r.Interviews.StepOut(ctx, tx, r.Case, r.FormValue("why"))
		}
		if _, err := r.Interviews.Keep(ctx, tx, r.Case, version, marks, r.FormValue("note")); err != nil || do != "send" {
			return err
		}
		says = "Your marks for " + r.Case.LeadName + " are sent."
		return r.Interviews.Send(ctx, tx, r.Case)
	})
	if no, ok := refusal.Of(err); ok {
		return drawMet(r, fiber.StatusUnprocessableEntity, no, marks)
	}
	if err != nil {
		return err
	}
	r.Tell(says)
	if do == "send" {
		if to, err = nextMet(r); err != nil {
			return err
		}
	}
	return r.See(to)
}

// nextMet is the next person of the day who is not marked, or the day's sheet.
func nextMet(r *site.Request) (string, error) {
	m, day, x, err := r.Interviews.When(r.Context, r.DB, r.Case)
	if err != nil {
		return "", err
	}
	sheet := "/reading/interviews/" + strconv.FormatInt(*m.DayID, 10)
	i := slices.IndexFunc(day.Slots, func(s interview.Slot) bool {
		return s.Starts.After(x.Starts) && s.Meeting != nil && s.Outcome == interview.ToCome
	})
	if i < 0 || day.Slots[i].Starts.After(r.At) {
		return sheet, nil
	}
	return "/reading/" + day.Slots[i].Ref + "/interview", nil
}
