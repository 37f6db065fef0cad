package designer

import (
	"encoding/json"
	"io"
	"strings"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/design"
	"ulvant/core/form"
	"ulvant/core/phrase"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/round"
	"ulvant/internal/web/kit/site"
)

// Export sends the working design as a JSON document.
func Export(r *site.Request) error {
	d, err := round.Decode(r.Round.Working)
	if err != nil {
		return err
	}
	b, err := json.MarshalIndent(d, "", "  ")
	if err != nil {
		return err
	}
	return r.Download(r.Round.Key+".design.json", "application/json", b)
}

// Questions sends the questions as CSV for colleagues.
func Questions(r *site.Request) error {
	f, _, err := r.Rounds.Working(r.Round)
	if err != nil {
		return err
	}
	names := say.Names{Form: f}
	sheet := design.QuestionsSheet(f.Design, func(q *form.Question) string { return say.When(q.Asked, names) },
		func(q *form.Question) string { return say.Limit(f, q, q.Limits.Else, true) })
	return r.Give(r.Round.Key+".questions", sheet)
}

// Awards sends the awards as CSV.
func Awards(r *site.Request) error {
	d, err := round.Decode(r.Round.Working)
	if err != nil {
		return err
	}
	return r.Give(r.Round.Key+".awards", design.AwardsSheet(d))
}

// Import takes a design document, questions or awards from a file. It is taken
// whole or refused whole, every fault listed by place.
func Import(r *site.Request) error {
	_, body, err := r.Upload("file")
	if err != nil {
		return draw(r, fiber.StatusUnprocessableEntity, state{problem: "Choose a file first."})
	}
	defer body.Close()
	raw, err := io.ReadAll(io.LimitReader(body, round.MostBytes+1))
	if err != nil {
		return err
	}
	d, err := round.Decode(r.Round.Working)
	if err != nil {
		return err
	}
	var ops []design.Op
	var faults []form.Fault
	switch value(r, "what") {
	case "questions":
		ops, faults = design.QuestionsFromCSV(r.Round.Working, d, string(raw))
	case "awards":
		ops, faults = design.AwardsFromFile(r.Round.Working, d.Currency, string(raw))
	default:
		ops, faults = importDesign(r.Round.Working, raw)
	}
	if len(faults) > 0 {
		var says []string
		for _, f := range faults[:min(len(faults), 30)] {
			says = append(says, f.Sentence())
		}
		return draw(r, fiber.StatusUnprocessableEntity, state{problem: "Nothing was taken over:\n" +
			strings.Join(says, "\n")})
	}
	if len(ops) == 0 {
		r.Tell("The file holds nothing that is not here already.")
		return r.See(there(r, value(r, "path")))
	}
	r.Tell(phrase.Count(int64(len(ops)), "change was", "changes were") + " taken over; undo takes all of them back.")
	return edit(r, ops, there(r, ""))
}

// unreadable is what is said of a document of which nothing can be taken.
func unreadable(err error) []form.Fault {
	says := "it cannot be read"
	if no, ok := refusal.Of(err); ok {
		says = no.Clause()
	}
	return []form.Fault{{Place: "the document", Says: says}}
}

func importDesign(working, raw []byte) ([]design.Op, []form.Fault) {
	d, err := round.Decode(raw)
	if err != nil {
		return nil, unreadable(err)
	}
	if _, faults := form.Draft(d); len(faults) > 0 {
		return nil, faults
	}
	ops, err := design.Difference(working, raw)
	if err != nil {
		return nil, unreadable(err)
	}
	return ops, nil
}
