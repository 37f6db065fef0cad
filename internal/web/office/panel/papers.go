package panel

import (
	"fmt"
	"strings"

	"ulvant/core/money"
	"ulvant/core/phrase"
	"ulvant/core/refusal"
	"ulvant/internal/decision"
	"ulvant/internal/sealcopy"
	"ulvant/internal/web/casefile"
	"ulvant/internal/web/kit/field"
	"ulvant/internal/web/kit/site"

	"github.com/gofiber/fiber/v3"
)

// mostPapers is of how many cases the papers are put into one file.
const mostPapers = 150

// Papers of a meeting are one PDF: the agenda, then each case as the readers of the round
// see it, with what they wrote to the panel. Whoever is out of the room for a case has it
// without that case; names are hidden where the round hides them.
func Papers(r *site.Request) error {
	f, d, err := pageOf(r)
	if err != nil {
		return err
	}
	if len(d.Items) > mostPapers {
		return drawSitting(r, fiber.StatusConflict,
			refusal.Newf("the papers of %d cases are too many for one file; %d are the most",
				len(d.Items), mostPapers).But("read them on screen, from the agenda"))
	}
	table, err := r.Decisions.Order(r.Context, r.DB, r.Round, f, d.X.Stage)
	if err != nil {
		return err
	}
	rows := map[int64]decision.Row{}
	for _, row := range table.Rows {
		rows[row.EntryID] = row
	}
	paper := sealcopy.Paper{Title: "Papers: " + d.X.Name, At: r.At,
		Head: r.Round.Name + " · " + d.X.At.In(f.Zone).Format("2 January 2006, 15:04") + place(d.X.Place)}
	var agenda []string
	for i, it := range d.Items {
		agenda = append(agenda, fmt.Sprintf("%d. %s %s, %d min: %s", i+1, it.Ref, named(d, it), it.Minutes, it.Says))
	}
	paper.Parts = append(paper.Parts, sealcopy.Part{Label: "Agenda", Text: strings.Join(agenda, "\n")})
	for i, it := range d.Items {
		head := sealcopy.Part{Label: fmt.Sprintf("%d. %s", i+1, named(d, it)), Opens: true}
		if it.OutMe {
			head.Text = "You are out of the room for this case; it is not in your copy."
			paper.Parts = append(paper.Parts, head)
			continue
		}
		row := rows[it.EntryID]
		said := []string{it.Ref, "asks " + money.Format(row.Asked0(), f.Design.Currency)}
		if row.Score.Known() {
			said = append(said, fmt.Sprintf("place %d, score %s of %s", row.Rank, row.Score,
				phrase.Count(int64(len(row.Scores)), "reader", "readers")))
		}
		head.Text = strings.Join(said, " · ")
		paper.Parts = append(paper.Parts, head)
		parts, err := partsOf(r, it.EntryID)
		if err != nil {
			return err
		}
		paper.Parts = append(paper.Parts, parts...)
		given, err := r.Reading.Of(r.Context, r.DB, it.EntryID)
		if err != nil {
			return err
		}
		var notes []string
		for _, g := range given {
			if g.SentAt != nil && strings.TrimSpace(g.Note) != "" {
				notes = append(notes, "– "+strings.TrimSpace(g.Note))
			}
		}
		paper.Parts = append(paper.Parts, sealcopy.Part{Label: "What " + f.Design.Readers() + " wrote to the panel",
			Text: strings.Join(notes, "\n")})
	}
	pdf, err := paper.Draw()
	if err != nil {
		return err
	}
	return r.Download("papers-"+r.Round.Key+"-"+r.Params("sitting")+".pdf", "application/pdf", pdf)
}

// named is how a case of the agenda is called: by its number alone where names are hidden.
func named(d sittingPage, it agendaItem) string {
	if d.Hidden {
		return it.Ref
	}
	return it.Title
}

// partsOf a case: its answers, its budget and the letters about it.
func partsOf(r *site.Request, entry int64) (out []sealcopy.Part, err error) {
	c, err := r.Cases.ByEntry(r.Context, r.DB, entry)
	if err != nil {
		return nil, err
	}
	f, s, filled, path, err := casefile.Sealed(r, c)
	if err != nil {
		return nil, err
	}
	p, err := casefile.PapersOf(r, c, f, s, filled, path, "", true)
	if err != nil {
		return nil, err
	}
	for _, sec := range p.Sections {
		for _, x := range sec.Reads {
			out = append(out, sealcopy.Part{Label: x.Q.Label, Text: x.Text})
		}
	}
	if p.Budget != nil {
		out = append(out, sealcopy.Part{Label: "Budget", Text: budgetSaid(p.Budget)})
	}
	for _, l := range p.Letters {
		out = append(out, sealcopy.Part{Label: l.Head, Text: strings.TrimSpace(l.Text + "\n" + strings.Join(l.Says, "\n"))})
	}
	var files []string
	for _, x := range append(p.Materials.Pictures, p.Materials.Rest...) {
		files = append(files, x.Title)
	}
	return append(out, sealcopy.Part{Label: "Files, to be seen on screen", Text: strings.Join(files, "\n")}), nil
}

// budgetSaid is a budget as lines of text.
func budgetSaid(b *field.Costs) string {
	var out []string
	for _, band := range b.Bands {
		for _, l := range band.Lines {
			if !l.Empty {
				out = append(out, strings.TrimPrefix(band.Label+": ", ": ")+l.Name+", "+b.Sum("row-"+l.Key))
			}
		}
	}
	for _, c := range b.Comes {
		if sum := b.Sum(c.Sum); sum != "" {
			out = append(out, c.Label+": "+sum)
		}
	}
	return strings.Join(out, "\n")
}
