package reader

import (
	"errors"
	"strconv"

	"ulvant/internal/check"
	"ulvant/internal/material"
	"ulvant/internal/platform/inspect"
	"ulvant/internal/web/casefile"
	"ulvant/internal/web/kit/site"

	"github.com/gofiber/fiber/v3"
)

// File sends a file of a sealed case.
func File(r *site.Request) error {
	id, _ := strconv.ParseInt(r.Params("id"), 10, 64)
	m, err := r.Materials.Find(r.Context, r.DB, id, r.Case.EntryID)
	if err != nil {
		return fiber.ErrNotFound
	}
	f, s, _, _, err := casefile.Sealed(r, r.Case)
	if err != nil {
		return err
	}
	whole, err := r.Referees.Whole(r.Context, r.DB, f, r.Case, &s.Decoded)
	if err != nil {
		return err
	}
	doc := whole.ForReaders(f)
	if !doc.Holds(m.SHA256) {
		return fiber.ErrNotFound
	}
	if m.Name = doc.NameOf(id); m.Name == "" { // the same bytes in a slot that readers do not see
		return fiber.ErrNotFound
	}
	how, text, err := r.Program.Checks.ShownTo(r.Context, r.At, r.Case, f, whole, id)
	switch {
	case err != nil:
		return err
	case how == check.NotShown:
		return fiber.NewError(fiber.StatusConflict, "Names are hidden in this round, and nobody has looked yet whether one "+
			"stands in this file. Ask the office for it.")
	case how == check.ItsWords:
		return r.Download(m.Name+" – its words, names hidden.txt", "text/plain; charset=utf-8", []byte(text))
	}
	seen := material.Made(r.Query("seen")) // what is drawn of a picture has no properties
	if f.Design.HideNames && seen != material.Small && seen != material.Large {
		// what its properties say of who made it is not for readers
		sum, err := r.Materials.Rendition(r.Context, r.At, m, material.Clean)
		if errors.Is(err, inspect.ErrKept) {
			return fiber.NewError(
				fiber.StatusConflict,
				"Names are hidden in this round, and what this file itself says of who made it cannot be taken out. Ask the office for it.",
			)
		}
		if err != nil {
			return err
		}
		m.SHA256 = sum
	}
	return r.SendMaterial(m)
}
