package check

import (
	"context"
	"errors"
	"slices"
	"strings"
	"time"

	"ulvant/core/form"
	"ulvant/core/hiding"
	"ulvant/core/say"
	"ulvant/core/seal"
	"ulvant/core/slot"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/inspect"
)

// Where names are hidden, those that stand inside a file are not: its words are read, and
// somebody looks at a file in which a name stands, or that cannot be read, before it goes
// to those who judge. What comes later than the checks goes to them as its words alone.
// What a picture, a film or a recording shows is seen by nobody but people: a design asks
// applicants to tick that it names nobody, and a checker confirms it.

// worded reports a file whose words are read.
func worded(facts slot.Facts) bool {
	return facts.Kind == slot.PDF || facts.Kind == slot.Text || facts.Kind == slot.Sheet
}

// Words are what stands in the files of a case, by their fingerprints.
type words map[string]inspect.Words

// wordsFor reads the words of the files that those who judge see of a case, where names
// are hidden. It is done before a transaction, as a child works at each.
func (s *Store) wordsFor(ctx context.Context, at time.Time, entry int64) (words, error) {
	c, err := s.Cases.ByEntry(ctx, s.DB, entry)
	if err != nil || c.SealID == nil {
		return nil, err
	}
	f, err := s.Cases.Rounds.Form(ctx, s.DB, c.DesignID)
	if err != nil || !f.Design.HideNames {
		return nil, err
	}
	sealed, err := s.Cases.Now(ctx, s.DB, *c.SealID)
	if err != nil {
		return nil, err
	}
	out := words{}
	for _, list := range judged(f, &sealed.Decoded) {
		for _, x := range list {
			w, err := s.Materials.WordsOf(ctx, at, x.SHA256)
			if errors.Is(err, inspect.ErrKept) {
				w, err = inspect.Words{More: true}, nil
			}
			if err != nil {
				return nil, err
			}
			out[x.SHA256] = w
		}
	}
	return out, nil
}

// judged are the files of a document with words that those who judge see, by what they
// were asked for.
func judged(f *form.Form, d *seal.Document) map[form.Key][]seal.File {
	out := map[form.Key][]seal.File{}
	add := func(k form.Key, x seal.File) {
		if q := f.Question(k); q != nil && q.ForReaders() && worded(x.Facts) {
			out[k] = append(out[k], x)
		}
	}
	for _, x := range d.Files {
		add(x.Slot, x)
	}
	for _, l := range d.Letters {
		for _, x := range l.Files() {
			add(l.Question, x)
		}
	}
	return out
}

// putNamed keeps what a person must look at in the files of a case, where names are hidden.
func (s *Store) putNamed(ctx context.Context, tx *db.Tx, f *form.Form, c application.Case, d *seal.Document, read words,
	counts map[form.Outcome]int) error {
	if !f.Design.HideNames {
		return nil
	}
	names, err := s.Connections.Hidden(ctx, tx, c, f, d)
	if err != nil {
		return err
	}
	var list []found
	for k, files := range judged(f, d) {
		var said []say.NamedFile
		for _, x := range files {
			said = append(said, namedIn(names, x, read[x.SHA256]))
		}
		if reason := say.Named(said); reason != "" {
			counts[form.Person]++
			list = append(list, found{form.NamesRule(k), form.Person, reason})
		}
	}
	return s.putAll(ctx, tx, c.EntryID, list)
}

// namedIn is what is said of the names in a file's words; a PDF without words is a scan.
func namedIn(names hiding.Names, x seal.File, w inspect.Words) say.NamedFile {
	out := say.NamedFile{Name: x.Name, Blind: w.More || x.Kind == slot.PDF && w.Blank()}
	for i, page := range w.Pages {
		for _, name := range names.Found(page) {
			if out.Names == nil && len(w.Pages) > 1 {
				out.Page = i + 1
			}
			if !slices.Contains(out.Names, name) {
				out.Names = append(out.Names, name)
			}
		}
	}
	return out
}

// Shown is how those who judge have a file of a case.
type Shown string

// How they have it.
const (
	AsItIs   Shown = "as it is"
	ItsWords Shown = "its words" // without the names in them
	NotShown Shown = "not"       // it cannot be read, and nobody has looked at it
)

// ShownTo says how those who judge have a file of a case, d its document with what came
// later; text is its words without names where they have those alone.
func (s *Store) ShownTo(ctx context.Context, at time.Time, c application.Case, f *form.Form, d *seal.Document,
	id int64) (how Shown, text string, err error) {
	if !f.Design.HideNames {
		return AsItIs, "", nil
	}
	for k, files := range judged(f, d) {
		for _, x := range files {
			if x.ID != id {
				continue
			}
			if looked, err := s.lookedAt(ctx, c.EntryID, form.NamesRule(k), id); err != nil || looked {
				return AsItIs, "", err
			}
			names, err := s.Connections.Hidden(ctx, s.DB, c, f, d)
			if err != nil {
				return NotShown, "", err
			}
			w, err := s.Materials.WordsOf(ctx, at, x.SHA256)
			if errors.Is(err, inspect.ErrKept) {
				return NotShown, "", nil
			}
			if err != nil {
				return NotShown, "", err
			}
			switch said := namedIn(names, x, w); {
			case said.Blind:
				return NotShown, "", nil
			case len(said.Names) == 0:
				return AsItIs, "", nil
			}
			return ItsWords, names.In(strings.Join(w.Pages, "\n\n— — —\n\n")), nil
		}
	}
	return AsItIs, "", nil // it has no words
}

// lookedAt reports that somebody has said of a rule of an entry that it holds when a file
// was there: of one that came later nobody has said anything.
func (s *Store) lookedAt(ctx context.Context, entry int64, rule form.Key, file int64) (looked bool, err error) {
	err = s.DB.GetContext(ctx, &looked, `
		SELECT EXISTS (SELECT FROM finding f JOIN material m ON m.id = $4
		  WHERE f.entry_id = $1 AND f.rule = $2 AND f.settled = $3 AND COALESCE(m.arrived_at, m.at) <= f.settled_at)`,
		entry, rule, form.Holds, file)
	return looked, err
}
