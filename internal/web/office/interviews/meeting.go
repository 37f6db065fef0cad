package interviews

import (
	"context"
	"errors"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/core/form"
	cutting "ulvant/core/interview"
	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/interview"
	"ulvant/internal/platform/db"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/office"
)

// meetingPage is what office/interviews/meeting.html draws: one interview.
type meetingPage struct {
	Case     application.Case
	M        interview.Meeting
	Day      *interview.Day // nil: they have no time
	When     string         // on both clocks
	Over     bool           // it has begun
	Open     bool           // something can still be changed
	Free     []free
	Said     []interview.Said
	Criteria []form.Criterion
	Zones    []string
	Zone     *time.Location
	Now      time.Time
	May      bool
	Wrong    refusal.Refusal
	Typed    map[string]string
}

// free is a time they can be moved to.
type free struct {
	ID   int64
	When string
}

// Meeting shows one interview: when, what was said, and what can be changed.
func Meeting(r *site.Request) error { return drawMeeting(r, fiber.StatusOK, refusal.Refusal{}) }

func drawMeeting(r *site.Request, status int, wrong refusal.Refusal) error {
	f, err := r.Rounds.Form(r.Context, r.DB, r.Case.DesignID)
	if err != nil {
		return err
	}
	d := meetingPage{Case: r.Case, Zones: cutting.Zones, Zone: f.Zone, Now: r.At, May: r.May(access.MindMeeting),
		Wrong: wrong,
		Open:  r.Case.State.Is(lifecycle.ToMeet), Typed: map[string]string{}}
	if wrong.Says != "" {
		d.Typed["why"] = r.FormValue("why")
	}
	if d.M, err = r.Interviews.Of(r.Context, r.DB, r.Case.EntryID); errors.Is(err, interview.ErrNotInvited) {
		return fiber.ErrNotFound
	} else if err != nil {
		return err
	}
	if d.M.SlotID != nil {
		_, day, x, err := r.Interviews.When(r.Context, r.DB, r.Case)
		if err != nil {
			return err
		}
		d.Day, d.When, d.Over = &day, say.OnBoth(x.Starts, d.M.In(f.Zone), f.Zone), !x.Starts.After(r.At)
	}
	times, err := r.Interviews.Free(r.Context, r.DB, r.Case, f, r.At)
	if err != nil {
		return err
	}
	for _, x := range times {
		d.Free = append(d.Free, free{x.ID, say.OnBoth(x.Starts, d.M.In(f.Zone), f.Zone)})
	}
	if d.Said, err = r.Interviews.SaidOf(r.Context, r.DB, r.Case.EntryID); err != nil {
		return err
	}
	if s := f.Interviews(form.Key(r.Case.Stage)); s != nil {
		d.Criteria = f.Design.Judged(s.Key)
	}
	return office.Draw(r, status, "office/interviews/meeting", "Interview: "+r.Case.Title, "interviews", f, d)
}

// ChangeMeeting moves an interview, calls it off, says who did not come.
func ChangeMeeting(r *site.Request) error {
	to, says := "/office/applications/"+r.Case.Ref+"/interview"+r.Case.Query(), ""
	why := strings.TrimSpace(r.FormValue("why"))
	err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		switch r.FormValue("do") {
		case "move":
			slot, _ := strconv.ParseInt(r.FormValue("slot"), 10, 64)
			says = r.Case.LeadName + " is invited to the new time."
			return r.Interviews.Move(ctx, tx, r.Case, slot, why)
		case "off":
			to, says = "/office/rounds/"+r.Round.Key+"/interviews",
				"The interview is called off, and "+r.Case.LeadName+" is told."
			return r.Interviews.CallOff(ctx, tx, r.Case, why)
		case "absent":
			says = "It is recorded that " + r.Case.LeadName + " did not come."
			return r.Interviews.DidNotCome(ctx, tx, r.Case, interview.After(r.FormValue("then")), why)
		case "zone":
			says = "Their zone is kept; what we write from now on names their clock."
			return r.Interviews.SetZone(ctx, tx, r.Case, r.FormValue("zone"))
		case "end":
			says = "The interview is over, with the marks there are."
			return r.Interviews.End(ctx, tx, r.Case)
		case "reopen":
			account, _ := strconv.ParseInt(r.FormValue("member"), 10, 64)
			says = "The marks are open again."
			return r.Interviews.Reopen(ctx, tx, r.Case, account, why)
		}
		return refusal.Unfit("nothing is to be done")
	})
	if no, ok := refusal.Of(err); ok {
		return drawMeeting(r, fiber.StatusUnprocessableEntity, no)
	}
	if err != nil {
		return err
	}
	r.Tell(says)
	return r.See(to)
}
