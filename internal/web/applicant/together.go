package applicant

import (
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"regexp"
	"strconv"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/internal/platform/db"
	"ulvant/internal/together"
	"ulvant/internal/web/kit/field"
	"ulvant/internal/web/kit/site"
)

// beat is how often an open page says that it is still there.
const beat = 10 * time.Second

var tabForm = regexp.MustCompile(`^[a-z0-9]{16,64}$`)

var errSessionOver = errors.New("the session is over")

// Stream tells an open page who else has the case open and where, and that
// something in it was changed. It carries no answers: the page fetches those.
func Stream(r *site.Request) error {
	tab, section := r.Query("tab"), form.Key(r.Query("section"))
	if !tabForm.MatchString(tab) {
		return fiber.NewError(fiber.StatusBadRequest, "The page has no proper number; reload it.")
	}
	// Nothing of the request may be used once this returns: take it out.
	id, account, store, clock := r.Case.ID, r.Account.ID, r.Together, r.Clock
	done, conn := r.RequestCtx().Done(), r.RequestCtx().Conn()
	told, end, free := r.Hears.Listen(id, account)
	if !free {
		return fiber.NewError(fiber.StatusTooManyRequests,
			"You have many pages of this open; close some, or reload this one later to see who else is here.")
	}
	people, session := r.People, r.Token()
	r.Set(fiber.HeaderContentType, "text/event-stream")
	r.Set(fiber.HeaderCacheControl, "no-store")
	r.Set("X-Accel-Buffering", "no")
	return r.SendStreamWriter(func(w *bufio.Writer) {
		defer end()
		tick := time.NewTicker(beat)
		defer tick.Stop()
		within := func(f func(ctx context.Context) error) bool {
			ctx, cancel := context.WithTimeout(context.Background(), 5*time.Second)
			defer cancel()
			return f(ctx) == nil
		}
		defer within(func(ctx context.Context) error { return store.Go(ctx, tab, id) })
		for changed := false; ; {
			var who []together.Person
			over := false
			ok := within(func(ctx context.Context) (err error) {
				if goes, err := people.Goes(ctx, session, clock.Now()); err != nil || !goes {
					return errSessionOver // it ends with the session it was opened in
				}
				if _, err = store.Come(ctx, clock.Now(), tab, id, account, section); err == nil {
					who, err = store.Who(ctx, clock.Now(), id, account)
				}
				if over = errors.Is(err, together.ErrOver); over {
					return nil
				}
				return err
			})
			raw, err := json.Marshal(struct {
				Who     []together.Person `json:"who"`
				Changed bool              `json:"changed"`
				Over    bool              `json:"over"`
			}{who, changed, over})
			if !ok || err != nil {
				return
			}
			conn.SetWriteDeadline(time.Now().Add(beat))
			if fmt.Fprintf(w, "data: %s\n\n", raw); w.Flush() != nil || over {
				return
			}
			select {
			case <-done:
				return
			case <-told:
				changed = true
			case <-tick.C:
				changed = false
			}
		}
	})
}

// Answers gives the answers of a section as they stand, with their versions,
// to a page that was told of a change.
func Answers(r *site.Request) error {
	d, err := load(r, r.Query("section"))
	if err != nil {
		return err
	}
	type answer struct {
		Value   string         `json:"value"`
		Non     form.NonAnswer `json:"non,omitempty"`
		Version int            `json:"version"`
	}
	out := map[string]answer{}
	for i := range d.Fields {
		for _, in := range d.Fields[i].Inputs() {
			out[in.Name] = answer{in.Value, in.Non, in.Version}
		}
	}
	says := map[form.Key][]said{}
	for _, f := range d.Fields {
		for _, c := range f.Comments {
			says[f.Q.Key] = append(says[f.Q.Key], said{c.Name, c.Text})
		}
	}
	return r.JSON(fiber.Map{"answers": out, "comments": says})
}

// said is a comment as a page is told of it.
type said struct{ Name, Text string }

// Comment says something beside a question.
func Comment(r *site.Request) error {
	q := form.Key(r.Params("question"))
	err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.Together.Say(ctx, tx, r.Case, q, r.FormValue("text"))
	})
	return afterComment(r, q, err)
}

// TickOffComment takes one off the page.
func TickOffComment(r *site.Request) error {
	id, _ := strconv.ParseInt(r.FormValue("comment"), 10, 64)
	err := r.Act(func(ctx context.Context, tx *db.Tx) error { return r.Together.TickOff(ctx, tx, r.Case, id) })
	return afterComment(r, form.Key(r.Params("question")), err)
}

func afterComment(r *site.Request, q form.Key, err error) error {
	f, ferr := r.Rounds.Form(r.Context, r.DB, r.Case.DesignID)
	var unfit refusal.Refusal
	switch {
	case ferr != nil:
		return ferr
	case f.Question(q) == nil:
		return fiber.ErrNotFound
	case refusal.AsUnfit(err, &unfit):
		r.Tell(unfit.Sentence())
	case err != nil:
		return orConflict(r, err)
	default:
		if err := r.Together.Tell(r.Context, r.At, r.Case.ID, r.Account.ID); err != nil {
			return err
		}
	}
	return backTo(r, q, f)
}

// commentsOf are drawn beside the questions of a draft that others write or
// read too.
func commentsOf(r *site.Request) (map[form.Key][]field.Comment, error) {
	list, err := r.Together.Comments(r.Context, r.DB, r.Case.EntryID)
	if err != nil {
		return nil, err
	}
	out := map[form.Key][]field.Comment{}
	for k, cs := range list {
		for _, c := range cs {
			out[k] = append(out[k], field.Comment{ID: c.ID, Name: c.Name, At: c.At, Text: c.Text})
		}
	}
	return out, nil
}
