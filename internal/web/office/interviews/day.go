package interviews

import (
	"context"
	"errors"
	"strconv"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/core/form"
	"ulvant/core/phrase"
	"ulvant/core/refusal"
	"ulvant/internal/interview"
	"ulvant/internal/platform/db"
	"ulvant/internal/web/casefile"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/office"
)

// dayPage is what office/interviews/day.html draws: the day's sheet, to be printed.
type dayPage struct {
	Day      casefile.MeetingDay
	Form     *form.Form
	Criteria []form.Criterion
	Readers  []person
	May      bool
	Read     bool // the names lead to what they sent; for those of the panel
	Wrong    refusal.Refusal
	Typed    map[string]string
}

func dayNamed(r *site.Request) (interview.Day, error) {
	id, _ := strconv.ParseInt(r.Params("day"), 10, 64)
	d, err := r.Interviews.Day(r.Context, r.DB, r.Round.ID, id)
	if errors.Is(err, interview.ErrNoDay) {
		return d, fiber.ErrNotFound
	}
	return d, err
}

// Day shows the sheet of one day.
func Day(r *site.Request) error { return drawDay(r, fiber.StatusOK, refusal.Refusal{}) }

func drawDay(r *site.Request, status int, wrong refusal.Refusal) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	x, err := dayNamed(r)
	if err != nil {
		return err
	}
	d := dayPage{Day: casefile.Meetings(x, f, r.At), Form: f, Criteria: f.Design.Judged(x.Stage),
		May: r.May(access.MeetPeople), Wrong: wrong,
		Typed: map[string]string{"panel": x.Panel, "place": x.Place, "link": x.Link, "note": x.Note}}
	if d.Readers, err = people(r, x.Members); err != nil {
		return err
	}
	if wrong.Says != "" {
		for k := range d.Typed {
			d.Typed[k] = r.FormValue(k)
		}
	}
	return office.Draw(r, status, "office/interviews/day", x.Panel+", "+r.Round.Name, "interviews", f, d)
}

// ChangeDay changes where a day is and who is there, takes a free time away, or all of it.
func ChangeDay(r *site.Request) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	x, err := dayNamed(r)
	if err != nil {
		return err
	}
	to, says := "/office/rounds/"+r.Round.Key+"/interviews/"+r.Params("day"), ""
	err = r.Act(func(ctx context.Context, tx *db.Tx) error {
		switch r.FormValue("do") {
		case "drop":
			to, says = "/office/rounds/"+r.Round.Key+"/interviews", "The day is taken away."
			return r.Interviews.DropDay(ctx, tx, r.Round, x.ID)
		case "drop slot":
			slot, _ := strconv.ParseInt(r.FormValue("slot"), 10, 64)
			says = "The time is taken away."
			return r.Interviews.DropSlot(ctx, tx, r.Round, x.ID, slot)
		}
		told, err := r.Interviews.ChangeDay(ctx, tx, r.Round, f, x.ID, interview.Laid{Panel: r.FormValue("panel"),
			Place: r.FormValue("place"),
			Link:  r.FormValue("link"), Note: r.FormValue("note"), Members: posted(r, "member")})
		says = "The day is changed."
		if told > 0 {
			says += " " + phrase.Count(int64(told), "person is", "people are") + " told where it is now."
		}
		return err
	})
	if no, ok := refusal.Of(err); ok {
		return drawDay(r, fiber.StatusUnprocessableEntity, no)
	}
	if err != nil {
		return err
	}
	r.Tell(says)
	return r.See(to)
}
