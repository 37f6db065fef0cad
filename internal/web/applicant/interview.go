package applicant

import (
	"context"
	"errors"
	"slices"
	"strconv"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/core/calendar"
	cutting "ulvant/core/interview"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/interview"
	"ulvant/internal/platform/db"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// interviewPage is what applicant/interview.html draws.
type interviewPage struct {
	Case    application.Case
	M       interview.Meeting
	Day     *interview.Day // nil: there is no time yet
	When    string         // on both clocks
	Minutes int
	Over    bool
	Days    []offered // times to choose among, by their day
	Chooses bool      // they may choose until ChooseBy
	May     bool
	Zone    *time.Location // theirs
	Home    *time.Location
	Zones   []string
	Wrong   refusal.Refusal
	Why     string
}

// offered are the times of one day, on the clock of whoever chooses.
type offered struct {
	Day   string
	Times []interview.Slot
}

// Interview shows an invitation: the time, or the times to choose among.
func Interview(r *site.Request) error { return drawInterview(r, fiber.StatusOK, refusal.Refusal{}) }

func drawInterview(r *site.Request, status int, wrong refusal.Refusal) error {
	f, err := r.Rounds.Form(r.Context, r.DB, r.Case.DesignID)
	if err != nil {
		return err
	}
	d := interviewPage{Case: r.Case, Home: f.Zone, Zones: cutting.Zones, May: r.May(access.AnswerMeet), Wrong: wrong}
	if wrong.Says != "" {
		d.Why = r.FormValue("why")
	}
	if d.M, err = r.Interviews.Of(r.Context, r.DB, r.Case.EntryID); errors.Is(err, interview.ErrNotInvited) {
		return fiber.ErrNotFound
	} else if err != nil {
		return err
	}
	d.Zone = d.M.In(f.Zone)
	if d.M.Zone != "" && !slices.Contains(d.Zones, d.M.Zone) {
		d.Zones = append(slices.Clone(d.Zones), d.M.Zone)
	}
	if d.M.SlotID != nil {
		_, day, x, err := r.Interviews.When(r.Context, r.DB, r.Case)
		if err != nil {
			return err
		}
		d.Day, d.When, d.Minutes, d.Over = &day, say.OnBoth(x.Starts, d.Zone, f.Zone), x.Minutes, !x.Starts.After(r.At)
	}
	if d.Chooses = d.May && d.M.ChooseBy != nil && d.M.ChooseBy.After(r.At); d.Chooses {
		free, err := r.Interviews.Free(r.Context, r.DB, r.Case, f, r.At)
		if err != nil {
			return err
		}
		seen := map[time.Time]bool{} // two panels at one time are one time to whoever chooses
		for _, x := range free {
			if seen[x.Starts] {
				continue
			}
			seen[x.Starts] = true
			day := calendar.DateOf(x.Starts, d.Zone).Words()
			if len(d.Days) == 0 || d.Days[len(d.Days)-1].Day != day {
				d.Days = append(d.Days, offered{Day: day})
			}
			last := &d.Days[len(d.Days)-1]
			last.Times = append(last.Times, x)
		}
	}
	return r.Draw(status, "applicant/interview", view.Page{Title: "Interview: " + r.Case.Title, Nav: "applications",
		Data: d})
}

// AnswerInterview chooses a time, says whether they come, or where they are.
func AnswerInterview(r *site.Request) error {
	says := ""
	err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		switch r.FormValue("do") {
		case "choose":
			slot, _ := strconv.ParseInt(r.FormValue("slot"), 10, 64)
			says = "The time is yours. An invitation for your calendar is on its way by mail."
			return r.Interviews.Choose(ctx, tx, r.Case, slot)
		case "come":
			says = "Thank you. We look forward to it."
			return r.Interviews.Answer(ctx, tx, r.Case, true, "")
		case "cannot":
			says = "The office knows, and writes to you."
			return r.Interviews.Answer(ctx, tx, r.Case, false, r.FormValue("why"))
		case "zone":
			return r.Interviews.SetZone(ctx, tx, r.Case, r.FormValue("zone"))
		}
		return refusal.Unfit("nothing is to be done")
	})
	if no, ok := refusal.Of(err); ok {
		return drawInterview(r, fiber.StatusUnprocessableEntity, no)
	}
	if err != nil {
		return err
	}
	if says != "" {
		r.Tell(says)
	}
	return r.See("/applications/" + r.Case.Ref + "/interview" + r.Case.Query())
}

// InterviewCalendar is the invitation as a file for a calendar.
func InterviewCalendar(r *site.Request) error {
	text, err := r.Interviews.Calendar(r.Context, r.DB, r.Case, r.At)
	if errors.Is(err, interview.ErrNotInvited) {
		return fiber.ErrNotFound
	}
	if err != nil {
		return err
	}
	return r.Download("interview-"+r.Case.Ref+".ics", "text/calendar; charset=utf-8", []byte(text))
}
