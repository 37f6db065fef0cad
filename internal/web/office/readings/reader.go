package readings

import (
	"context"
	"slices"
	"strconv"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/form"
	"ulvant/core/phrase"
	"ulvant/core/refusal"
	"ulvant/internal/desk"
	"ulvant/internal/platform/db"
	"ulvant/internal/reading"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/office"
)

// readerPage is what office/readings/reader.html draws: one reader of the round.
type readerPage struct {
	R       reading.Reader
	Fields  []form.Option
	Tongues []form.Option
	Tongue  string // how the question is called
	Field   string // how the question is called
	Places  []string
	Cases   []desk.Reads
	May     bool // change who reads
	MayGive bool // hand out and take back
	Wrong   refusal.Refusal
	Typed   map[string]string
	Zone    *time.Location
}

// readerOf finds the reader that the address names.
func readerOf(r *site.Request) (reading.Reader, error) {
	id, _ := strconv.ParseInt(r.Params("account"), 10, 64)
	list, err := r.Reading.Readers(r.Context, r.DB, r.Round.ID)
	if err != nil {
		return reading.Reader{}, err
	}
	for _, x := range list {
		if x.Account == id {
			return x, nil
		}
	}
	return reading.Reader{}, fiber.ErrNotFound
}

// Reader shows one reader: what is known of them, and how far they are.
func Reader(r *site.Request) error { return drawReader(r, fiber.StatusOK, refusal.Refusal{}) }

func drawReader(r *site.Request, status int, wrong refusal.Refusal) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	x, err := readerOf(r)
	if err != nil {
		return err
	}
	d := readerPage{R: x, Wrong: wrong, Zone: f.Zone, Typed: map[string]string{}}
	if wrong.Says != "" {
		for _, k := range []string{"knows", "interests", "organisation", "most", "from", "to", "why"} {
			d.Typed[k] = r.FormValue(k)
		}
	} else {
		d.Typed["knows"], d.Typed["organisation"], d.Typed["interests"] = x.Knows, x.Organisation, x.Interests
		if x.OwnMost != nil {
			d.Typed["most"] = strconv.Itoa(*x.OwnMost)
		}
		if x.AwayFrom != nil && x.AwayTo != nil {
			d.Typed["from"], d.Typed["to"] = x.AwayFrom.Format("2006-01-02"), x.AwayTo.Format("2006-01-02")
		}
	}
	if q := f.Question(f.Design.Field); q != nil {
		d.Fields, d.Field = f.Options(q), q.Label
	}
	if q := f.Question(f.Design.Language); q != nil {
		d.Tongues, d.Tongue = f.Options(q), q.Label
	}
	if q := f.Question(f.Design.Listed.Question); q != nil {
		for _, o := range f.Options(q) {
			d.Places = append(d.Places, o.Label)
		}
	}
	d.May, d.MayGive = r.May("invite readers"), r.May("hand cases out")
	if d.Cases, err = r.Desk.Reading(r.Context, r.Round.ID, x.Account); err != nil {
		return err
	}
	return office.Draw(r, status, "office/readings/reader", x.Name+", "+r.Round.Name, "reading", f, d)
}

// Has reports that the reader knows a field.
func (d readerPage) Has(key form.Key) bool { return slices.Contains(d.R.Fields, string(key)) }

// SetReader keeps what is known of a reader, takes them off, or has them back.
func SetReader(r *site.Request) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	x, err := readerOf(r)
	if err != nil {
		return err
	}
	says := "Kept."
	var no refusal.Refusal
	switch r.FormValue("do") {
	case "take off":
		says = x.Name + " reads no more in this round, and is told so. What they had not sent can be handed out again."
	case "back":
		says = x.Name + " reads again."
	default:
		x, err = x.With(reading.Typed{Fields: r.Values("field"), Languages: r.Values("language"),
			Interests: r.FormValue("interests"), Knows: r.FormValue("knows"), Organisation: r.FormValue("organisation"),
			Most: r.FormValue("most"), From: r.FormValue("from"), To: r.FormValue("to")})
		if refusal.AsUnfit(err, &no) {
			return drawReader(r, fiber.StatusUnprocessableEntity, no)
		}
		x.Jury = r.FormValue("jury")
	}
	err = r.Act(func(ctx context.Context, tx *db.Tx) error {
		switch r.FormValue("do") {
		case "take off":
			return r.Reading.TakeOff(ctx, tx, r.Round, x.Account, r.FormValue("why"))
		case "back":
			return r.Reading.Return(ctx, tx, r.Round, x.Account)
		}
		return r.Reading.Describe(ctx, tx, r.Round, f, x)
	})
	if refusal.AsUnfit(err, &no) {
		return drawReader(r, fiber.StatusUnprocessableEntity, no)
	}
	if err != nil {
		return err
	}
	r.Tell(says)
	return r.See("/office/rounds/" + r.Round.Key + "/readers/" + r.Params("account"))
}

// Reads reports a language that the reader reads.
func (d readerPage) Reads(key form.Key) bool { return slices.Contains(d.R.Languages, string(key)) }

// CaseReading takes a case back from a reader, opens their marks again, or ends its
// reading with the marks there are.
func CaseReading(r *site.Request) error {
	account, _ := strconv.ParseInt(r.FormValue("reader"), 10, 64)
	why := r.FormValue("why")
	says := ""
	err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		switch r.FormValue("do") {
		case "take back":
			says = "Taken back. It can be handed out again."
			return r.Reading.TakeBack(ctx, tx, r.Case, account, why)
		case "reopen":
			says = "The marks are open again, and the reader is told why."
			return r.Reading.Reopen(ctx, tx, r.Case, account, why)
		case "talk":
			says = "Its readers are asked to talk it over. Each sees what the others gave, and sends once more."
			return r.Reading.OpenTalk(ctx, tx, r.Case, why)
		case "one more":
			f, err := r.Rounds.Form(ctx, tx, r.Case.DesignID)
			if err != nil {
				return err
			}
			to, err := r.Reading.OneMore(ctx, tx, r.Round, f, r.Case, why)
			says = to.Name + " reads it too, and is told so."
			return err
		case "end":
			says = "Reading has ended with the marks there are."
			return r.Reading.EndReading(ctx, tx, r.Case, why)
		}
		return fiber.ErrNotFound
	})
	back := "/office/applications/" + r.Case.Ref + r.Case.Query()
	if account != 0 && r.FormValue("from") == "reader" {
		back = "/office/rounds/" + r.Case.RoundKey + "/readers/" + strconv.FormatInt(account, 10)
	}
	if no, ok := refusal.Of(err); ok {
		r.Tell("Nothing was changed: " + no.Sentence())
		return r.See(back)
	}
	if err != nil {
		return err
	}
	r.Tell(says)
	return r.See(back)
}

// Remind writes to every reader who has not sent everything.
func Remind(r *site.Request) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	n := 0
	err = r.Act(func(ctx context.Context, tx *db.Tx) (err error) {
		n, err = r.Reading.RemindLate(ctx, tx, r.Round, f)
		return err
	})
	if no, ok := refusal.Of(err); ok {
		r.Tell(no.Sentence())
		return r.See("/office/rounds/" + r.Round.Key + "/reading")
	}
	if err != nil {
		return err
	}
	r.Tell(phrase.Count(int64(n), "reader is", "readers are") + " reminded by mail.")
	return r.See("/office/rounds/" + r.Round.Key + "/reading")
}
