package applicant

import (
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/condition"
	"ulvant/core/control"
	"ulvant/core/form"
	"ulvant/internal/application"
	"ulvant/internal/intake"
	"ulvant/internal/material"
	"ulvant/internal/platform/db"
	"ulvant/internal/reference"
	"ulvant/internal/web/kit/field"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// conflicts are errors of use cases that say themselves what can be done.
func conflict(err error) bool {
	for _, known := range []error{intake.ErrClosed, intake.ErrNotDraft, application.ErrNotReopened, material.ErrClosed,
		reference.ErrClosed, reference.ErrFullUp} {
		if errors.Is(err, known) {
			return true
		}
	}
	return false
}

func orConflict(r *site.Request, err error) error {
	if conflict(err) {
		return r.Conflict(err)
	}
	return err
}

// saved is the answer to a save: what became of each edit, and how the page
// stands now.
type saved struct {
	Results   []intake.Result  `json:"results"`
	At        time.Time        `json:"at"`
	Clock     string           `json:"clock"`
	Questions []questionStands `json:"questions"`
	Aside     string           `json:"aside"` // HTML of "before you can send it"
	Path      string           `json:"path"`  // HTML of the section path
}

type questionStands struct {
	Key      form.Key        `json:"key"`
	Shown    bool            `json:"shown"`
	Limit    string          `json:"limit"`
	Words    int             `json:"words"`
	Problems []field.Problem `json:"problems"`
	Note     string          `json:"note"`
	May      bool            `json:"may"` // it may be left
	Foot     []string        `json:"foot,omitempty"`
	Charges  string          `json:"charges,omitempty"` // HTML of the fees
	Rows     []rowStands     `json:"rows,omitempty"`
	Costs    *costsStand     `json:"costs,omitempty"`
}

// costsStand is a budget as it stands: what is worked out by name, and what is
// wrong with which line.
type costsStand struct {
	Sums   map[string]string          `json:"sums"`
	Faults map[string][]field.Problem `json:"faults"`
	Over   []form.Key                 `json:"over"` // headings above their cap
	Bad    []string                   `json:"bad"`  // inputs in which the fault lies
}

type rowStands struct {
	Key      string `json:"key"`
	Computed string `json:"computed,omitempty"`
	Faulty   bool   `json:"faulty"`
}

// Save keeps the edits of a page while somebody types.
func Save(r *site.Request) error {
	var body struct {
		Section string        `json:"section"`
		Edits   []intake.Edit `json:"edits"`
	}
	if err := json.Unmarshal(r.Body(), &body); err != nil {
		return r.Status(fiber.StatusBadRequest).
			JSON(fiber.Map{"fault": "The save could not be read. Reload the page; " +
				"what you typed is kept in this browser."})
	}
	out := saved{At: r.At}
	var w *application.Whole
	err := r.Act(func(ctx context.Context, tx *db.Tx) (err error) {
		out.Results, w, err = r.Intake.Save(ctx, tx, r.Case, body.Edits)
		return err
	})
	if conflict(err) {
		return r.Status(fiber.StatusConflict).JSON(fiber.Map{"fault": site.Sentence(err)})
	}
	if err != nil {
		return err
	}
	if err := r.Together.Tell(r.Context, r.At, r.Case.ID, r.Account.ID); err != nil {
		return err
	}
	d, err := stands(r, body.Section, w, true)
	if err != nil {
		return err
	}
	out.Clock = view.Clock(r.At, r.At, d.Zone)
	for _, f := range d.Fields {
		q := questionStands{
			Key:      f.Q.Key,
			Shown:    f.Shown,
			Limit:    f.Limit,
			Words:    f.Words,
			Problems: f.Problems,
			Note:     f.Note,
			May:      f.S.Must == condition.No,
			Foot:     f.Foot,
		}
		if f.Charges != nil {
			html, err := r.Views.Block("applicant/workspace", "charges", f)
			if err != nil {
				return err
			}
			q.Charges = string(html)
		}
		if f.Costs != nil {
			q.Costs = &costsStand{Sums: f.Costs.Sums, Faults: map[string][]field.Problem{}}
			for _, b := range f.Costs.Bands {
				if b.Over {
					q.Costs.Over = append(q.Costs.Over, b.Key)
				}
				for _, l := range b.Lines {
					for _, in := range l.Cells {
						if in.Bad {
							q.Costs.Bad = append(q.Costs.Bad, in.Name)
						}
					}
					if len(l.Faults) > 0 {
						q.Costs.Faults[l.Key] = l.Faults
					}
				}
			}
		}
		for _, row := range f.Rows {
			st := rowStands{Key: row.Key, Faulty: row.Faulty}
			for _, in := range row.Inputs {
				if in.As == control.Computed {
					st.Computed = in.Value
				}
			}
			q.Rows = append(q.Rows, st)
		}
		out.Questions = append(out.Questions, q)
	}
	for block, to := range map[string]*string{"aside": &out.Aside, "path": &out.Path} {
		html, err := r.Views.Block("applicant/workspace", block, d)
		if err != nil {
			return err
		}
		*to = string(html)
	}
	return r.JSON(out)
}

// SaveForm keeps a whole section from a plain form, without scripts.
func SaveForm(r *site.Request) error {
	d, err := load(r, r.Params("section"))
	if err != nil {
		return err
	}
	edits := formEdits(r, d)
	var results []intake.Result
	err = r.Act(func(ctx context.Context, tx *db.Tx) (err error) {
		results, _, err = r.Intake.Save(ctx, tx, r.Case, edits)
		return err
	})
	if err != nil {
		return orConflict(r, err)
	}
	again, err := load(r, r.Params("section"))
	if err != nil {
		return err
	}
	lost := false
	for i, res := range results {
		if !res.Conflict && res.Fault == "" {
			continue
		}
		lost = true
		for j := range again.Fields {
			if f := &again.Fields[j]; f.Q.Key == res.Question {
				p := field.Problem{What: res.Fault, Remedy: "What you typed: " + edits[i].Value}
				if res.Conflict {
					p.What = "Somebody else, or another window, changed this answer meanwhile. Theirs is in the box; yours is " +
						"below, to copy what you need."
				}
				f.Problems = append(f.Problems, p)
			}
		}
	}
	switch {
	case lost:
		return draw(r, fiber.StatusConflict, again)
	case r.FormValue("go") != "" && again.Next != nil:
		return r.See(again.Next.Href)
	}
	r.Tell("Kept on the server at " + r.At.In(d.Zone).Format("15:04:05") + ".")
	return r.See("/applications/" + r.Case.Ref + "/sections/" + string(d.Section.Key))
}

func formEdits(r *site.Request, d *Desk) []intake.Edit {
	var edits []intake.Edit
	for _, f := range d.Fields {
		for _, in := range f.Inputs() {
			version, err := strconv.Atoi(r.FormValue(in.Name + "!version"))
			if err != nil {
				continue // not on the page that was sent
			}
			a := field.Read(r, f.Q, in)
			if a.Raw == in.Value && a.Non == in.Non && !(in.Preset && rowTyped(r, f, in)) {
				continue
			}
			edits = append(
				edits,
				intake.Edit{Place: field.Place(in.Name), Version: version, EditID: rand.Text(), Value: a.Raw,
					Non: a.Non},
			)
		}
	}
	return edits
}

// rowTyped reports a row in which something was typed beside what it offers.
func rowTyped(r *site.Request, f field.Field, offered field.Input) bool {
	row := field.Place(offered.Name).Row
	for _, in := range f.Inputs() {
		if !in.Preset && field.Place(in.Name).Row == row && strings.TrimSpace(r.FormValue(in.Name)) != "" {
			return true
		}
	}
	return false
}

// Rename a draft.
func Rename(r *site.Request) error {
	title := r.FormValue("title")
	if says := intake.CheckTitle(title); says != "" {
		return r.Refuse(fiber.StatusUnprocessableEntity, says)
	}
	if err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.Intake.Rename(ctx, tx, r.Case,
			title)
	}); err != nil {
		return orConflict(r, err)
	}
	return r.See("/applications/" + r.Case.Ref)
}

func backTo(r *site.Request, q form.Key, f *form.Form) error {
	return r.See("/applications/" + r.Case.Ref + "/sections/" + string(f.SectionOf(q)) + "#q-" + string(q))
}

func (d *Desk) problem(q form.Key, what, remedy string) {
	for i := range d.Fields {
		if d.Fields[i].Q.Key == q {
			d.Fields[i].Problems = append(d.Fields[i].Problems, field.Problem{What: what, Remedy: remedy})
		}
	}
}

// slotOf is the slot that an address names.
func slotOf(r *site.Request) (*form.Form, *form.Question, error) {
	f, err := r.Rounds.Form(r.Context, r.DB, r.Case.DesignID)
	if err != nil {
		return nil, nil, err
	}
	q := f.Question(form.Key(r.Params("slot")))
	if q == nil || !q.TakesFiles() {
		return nil, nil, fiber.ErrNotFound
	}
	return f, q, nil
}

// PutFile puts a file into a slot and opens it to see that it can be read.
func PutFile(r *site.Request) error {
	f, q, err := slotOf(r)
	if err != nil {
		return err
	}
	h, body, err := r.Upload("file")
	if err != nil {
		d, lerr := load(r, string(f.SectionOf(q.Key)))
		if lerr != nil {
			return lerr
		}
		d.problem(q.Key, "No file was chosen.", "Choose one, then press the button.")
		return draw(r, fiber.StatusUnprocessableEntity, d)
	}
	defer body.Close()
	ctx, cancel := r.UploadContext()
	defer cancel()
	if _, err := r.Materials.PutInSlot(ctx, r.Actor(), r.At, r.Case, q, h.Filename, h.Size, body); err != nil {
		return orConflict(r, err)
	}
	return backTo(r, q.Key, f)
}

// MoveFile brings a file one place forward or back among those of its slot.
func MoveFile(forward bool) func(*site.Request) error {
	return func(r *site.Request) error {
		f, err := r.Rounds.Form(r.Context, r.DB, r.Case.DesignID)
		if err != nil {
			return err
		}
		id, _ := strconv.ParseInt(r.Params("id"), 10, 64)
		m, err := r.Materials.Find(r.Context, r.DB, id, r.Case.EntryID)
		if err != nil || m.EntryID == nil {
			return fiber.ErrNotFound
		}
		err = r.Act(
			func(ctx context.Context, tx *db.Tx) error { return r.Materials.Move(ctx, tx, r.Case, id, forward) },
		)
		if errors.Is(err, material.ErrNotFound) {
			return fiber.ErrNotFound
		}
		if err != nil {
			return orConflict(r, err)
		}
		return backTo(r, m.Slot, f)
	}
}

// RemoveFile takes a file out.
func RemoveFile(r *site.Request) error {
	f, err := r.Rounds.Form(r.Context, r.DB, r.Case.DesignID)
	if err != nil {
		return err
	}
	id, _ := strconv.ParseInt(r.Params("id"), 10, 64)
	m, err := r.Materials.Find(r.Context, r.DB, id, r.Case.EntryID)
	if err != nil || m.EntryID == nil {
		return fiber.ErrNotFound
	}
	if err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.Materials.Remove(ctx, tx, r.Case,
			id)
	}); err != nil {
		return orConflict(r, err)
	}
	return backTo(r, m.Slot, f)
}

// File sends a file that the applicant put in; never a referee's letter.
func File(r *site.Request) error {
	id, _ := strconv.ParseInt(r.Params("id"), 10, 64)
	m, err := r.Materials.Find(r.Context, r.DB, id, r.Case.EntryID)
	if err != nil || m.EntryID == nil {
		return fiber.ErrNotFound
	}
	return r.SendMaterial(m)
}
