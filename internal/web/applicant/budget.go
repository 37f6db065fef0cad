package applicant

import (
	"bytes"
	"context"
	"errors"
	"io"
	"os"
	"strings"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/costbook"
	"ulvant/core/form"
	"ulvant/core/money"
	"ulvant/core/refusal"
	"ulvant/internal/application"
	"ulvant/internal/intake"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/workbook"
	"ulvant/internal/web/kit/field"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// bringInPage is what applicant/budget.html draws.
type bringInPage struct {
	Case   application.Case
	Q      *form.Question
	Back   string
	Open   bool
	Faults []string
	// What a file would change, before it does.
	Read   bool
	Taken  costbook.Taken
	Mark   string
	CSV    string // the budget as it would stand
	Costs  *field.Costs
	Left   []field.Problem // what would still keep it from adding up
	Same   bool
	Sheets string // those that were not read
}

// budgetOf finds the budget that an address names, as it stands in the draft.
func budgetOf(r *site.Request) (*application.Whole, *form.Question, bool, error) {
	w, err := r.Cases.Look(r.Context, r.DB, r.Case, r.At)
	if err != nil && !conflict(err) {
		return nil, nil, false, err
	}
	q := w.Form.Question(form.Key(r.Params("question")))
	if q == nil || q.Keeps() != form.InLines {
		return nil, nil, false, fiber.ErrNotFound
	}
	return w, q, err == nil, nil
}

// BudgetXLSX sends the budget as a workbook.
func BudgetXLSX(r *site.Request) error {
	w, q, _, err := budgetOf(r)
	if err != nil {
		return err
	}
	b, err := workbook.XLSX(costbook.Out(w.Form, q, w.Filled), money.Digits(w.Form.Design.Currency))
	if err != nil {
		return err
	}
	return r.Download(
		"budget "+r.Case.Ref+".xlsx",
		"application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
		b,
	)
}

// BudgetCSV sends it as CSV.
func BudgetCSV(r *site.Request) error {
	w, q, _, err := budgetOf(r)
	if err != nil {
		return err
	}
	return r.Give("budget "+r.Case.Ref, costbook.CSV(w.Form, q, w.Filled))
}

// BringInForm asks for the file.
func BringInForm(r *site.Request) error {
	w, q, open, err := budgetOf(r)
	if err != nil {
		return err
	}
	return bringIn(r, fiber.StatusOK, w, q, bringInPage{Open: open})
}

func bringIn(r *site.Request, status int, w *application.Whole, q *form.Question, d bringInPage) error {
	d.Case, d.Q = r.Case, q
	d.Open = d.Open && w.Takes(q.Key)
	d.Back = "/applications/" + r.Case.Ref + "/sections/" + string(w.Form.SectionOf(q.Key)) + "#q-" + string(q.Key)
	return r.Draw(status, "applicant/budget", view.Page{Title: "Bring a budget in", Nav: "applications", Data: d})
}

// mostFile is how large a workbook may be.
const mostFile = 6 << 20

// BringIn reads a file, and shows what it would change or why it cannot be taken.
func BringIn(r *site.Request) error {
	w, q, open, err := budgetOf(r)
	if err != nil {
		return err
	}
	refuse := func(says ...string) error {
		return bringIn(r, fiber.StatusUnprocessableEntity, w, q, bringInPage{Open: open, Faults: says})
	}
	_, body, err := r.Upload("file")
	if err != nil {
		return refuse("Choose a file first.")
	}
	defer body.Close()
	raw, err := io.ReadAll(io.LimitReader(body, mostFile+1))
	if err != nil {
		return err
	}
	if len(raw) > mostFile {
		return refuse("The file is larger than 6 MB: a budget takes less. Take out what does not belong to it.")
	}
	taken, faults, err := readBudget(r, w, q, raw)
	if no, ok := refusal.Of(err); ok {
		return refuse(site.Sentence(no))
	}
	if err != nil {
		return err
	}
	if len(faults) > 0 {
		var says []string
		for _, f := range faults {
			says = append(says, f.String())
		}
		return refuse(says...)
	}
	d := bringInPage{Open: open, Read: true, Taken: taken, Mark: intake.BudgetMark(w.Form, w.Filled, q),
		Same: len(taken.Changes) == 0, Sheets: strings.Join(taken.Left, ", ")}
	after := *w.Filled
	after.Answers = make(map[form.Place]form.Answer, len(w.Filled.Answers))
	for p, a := range w.Filled.Answers {
		after.Answers[p] = a
	}
	for _, c := range taken.Changes {
		after.Answers[c.Place] = form.Answer{Raw: c.Value}
	}
	d.CSV = costbook.CSV(w.Form, q, &after).CSV()
	path := w.Form.Walk(&after)
	drawn := field.New(w.Form, &after, path, q, nil)
	d.Costs, d.Left = field.ReadCosts(
		w.Form,
		&after,
		path,
		func(x *form.Question) bool { return x.Key == q.Key },
	), drawn.AllProblems()
	return bringIn(r, fiber.StatusOK, w, q, d)
}

// readBudget reads a workbook in a child, or CSV.
func readBudget(
	r *site.Request,
	w *application.Whole,
	q *form.Question,
	raw []byte,
) (costbook.Taken, []costbook.Fault, error) {
	if !bytes.HasPrefix(raw, []byte("PK")) && !bytes.HasPrefix(raw, []byte("\xd0\xcf\x11\xe0")) {
		t, faults := costbook.FromCSV(w.Form, q, w.Filled, raw)
		return t, faults, nil
	}
	file, err := os.CreateTemp("", "ulvant-budget-")
	if err != nil {
		return costbook.Taken{}, nil, err
	}
	defer os.Remove(file.Name())
	_, err = file.Write(raw)
	if err = errors.Join(err, file.Close()); err != nil {
		return costbook.Taken{}, nil, err
	}
	ctx, cancel := r.UploadContext()
	defer cancel()
	book, err := r.Materials.Bench.Cells(ctx, file.Name())
	if err != nil {
		return costbook.Taken{}, nil, err
	}
	t, faults := costbook.In(w.Form, q, w.Filled, book)
	return t, faults, nil
}

// TakeIn keeps what was shown.
func TakeIn(r *site.Request) error {
	w, q, _, err := budgetOf(r)
	if err != nil {
		return err
	}
	taken, faults := costbook.FromCSV(w.Form, q, w.Filled, []byte(r.FormValue("csv")))
	if len(faults) > 0 { // not as it was shown
		return r.Refuse(fiber.StatusUnprocessableEntity, faults[0].String())
	}
	err = r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.Intake.BringIn(ctx, tx, r.Case, q.Key, r.FormValue("mark"), taken.Changes)
	})
	if err != nil {
		return orConflict(r, err)
	}
	r.Tell("The budget is taken in. What stood there before is kept among the earlier versions.")
	return backTo(r, q.Key, w.Form)
}
