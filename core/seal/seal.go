// Package seal makes the seal of a sent application: its path, answers, files
// and letters as canonical JSON (keys in byte order, no insignificant white
// space, as RFC 8785 orders them for ASCII keys), a SHA-256 over that, and an
// Ed25519 signature (RFC 8032) over the hash. What was set aside never enters.
package seal

import (
	"bytes"
	"cmp"
	"crypto/ed25519"
	"crypto/sha256"
	"encoding/json"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/slot"
)

// Document is what is sealed.
type Document struct {
	Ref    string    `json:"ref"`
	Title  string    `json:"title"`
	Round  form.Key  `json:"round"`
	Design int       `json:"design"`
	Stage  form.Key  `json:"stage"`
	At     time.Time `json:"at"`
	By     string    `json:"by"`

	Day    calendar.Date `json:"day,omitzero"`    // of sending, in the round's time zone
	Others form.Others   `json:"others,omitzero"` // as they stood then

	Signers []string `json:"signers,omitempty"` // who might sign for whoever applies, where that is asked

	Before *Before `json:"before,omitempty"` // what conditions can read of earlier stages

	Priced time.Time `json:"priced,omitzero"`  // the instant by which the fees were taken; zero: At
	Waived bool      `json:"waived,omitempty"` // the office asked nothing

	Answers []Answer `json:"answers"`
	Files   []File   `json:"files"`
	Letters []Letter `json:"letters"`
}

// Before is what was answered and decided in the stages before this one.
type Before struct {
	Results map[form.Key]string `json:"results"`
	Answers []Answer            `json:"answers"`
}

// Answer on the path, in reading order.
type Answer struct {
	form.Place
	Raw string         `json:"value"`
	Non form.NonAnswer `json:"non,omitempty"` // given instead of a value
}

// File by its fingerprint.
type File struct {
	ID     int64    `json:"id"`
	Slot   form.Key `json:"slot"`
	Name   string   `json:"name"`
	Size   int64    `json:"size"`
	SHA256 string   `json:"sha256"`
	slot.Facts
}

// Letter of a referee, or what a signatory confirmed.
type Letter struct {
	Question form.Key      `json:"question"`
	Referee  int64         `json:"referee"`
	Name     string        `json:"name"`
	Knows    string        `json:"knows"`
	Text     string        `json:"text,omitempty"`
	File     *File         `json:"file,omitempty"`
	Pages    []File        `json:"pages,omitempty"`    // further ones, after File
	Theirs   []Answer      `json:"theirs,omitempty"`   // what they answered themselves
	Said     []Said        `json:"said,omitempty"`     // what was shown to whoever confirmed it
	Confirms bool          `json:"confirms,omitempty"` // a signatory's word, not a letter
	Paper    bool          `json:"paper,omitempty"`    // signed on paper; the file is the scan
	Contact  *bool         `json:"contact,omitempty"`  // the office may get in touch with them; nil: not asked
	Arrived  calendar.Date `json:"arrived,omitzero"`   // by post
	form.Dating
}

// Said is an answer that was shown to somebody who confirmed it.
type Said struct {
	Label string `json:"label"`
	Text  string `json:"text"`
}

// Files of the letter, in their order.
func (l Letter) Files() (out []File) {
	if l.File != nil {
		out = append(out, *l.File)
	}
	return append(out, l.Pages...)
}

// With is the document with letters that came after it was sealed.
func (d Document) With(letters []Letter) *Document {
	d.Letters = slices.Clone(d.Letters)
	for _, l := range letters {
		if !slices.ContainsFunc(d.Letters, func(x Letter) bool { return x.Referee == l.Referee }) {
			d.Letters = append(d.Letters, l)
		}
	}
	return &d
}

// Answers picks what is on the path, in reading order; the pieces of one
// question by row and column.
func Answers(filled *form.Filled, p *form.Path) []Answer {
	return answers(filled, p, func(q *form.QuestionState) bool { return q.Asked == condition.Yes })
}

// BeforeOf picks what stands from earlier stages; nil in the first.
func BeforeOf(filled *form.Filled, p *form.Path) *Before {
	if filled.Results == nil && filled.Earlier == nil {
		return nil
	}
	b := &Before{Results: filled.Results}
	if filled.Earlier != nil {
		b.Answers = answers(filled.Earlier, p, func(*form.QuestionState) bool { return true })
	}
	return b
}

func answers(filled *form.Filled, p *form.Path, take func(*form.QuestionState) bool) []Answer {
	var out []Answer
	for i := range p.Questions {
		q := &p.Questions[i]
		if !take(q) {
			continue
		}
		var places []form.Place
		for at, a := range filled.Answers {
			if at.Question == q.Key && !a.Empty() {
				places = append(places, at)
			}
		}
		slices.SortFunc(places, func(a, b form.Place) int {
			return cmp.Or(cmp.Compare(a.Row, b.Row), cmp.Compare(a.Column, b.Column))
		})
		for _, at := range places {
			out = append(out, Answer{at, filled.Answers[at].Raw, filled.Answers[at].Non})
		}
	}
	return out
}

// Filled brings a sealed document back to what a walk reads.
func (d *Document) Filled(lead string) *form.Filled {
	out := &form.Filled{Answers: map[form.Place]form.Answer{}, Lead: lead}
	for _, a := range d.Answers {
		out.Answers[a.Place] = form.Answer{Raw: a.Raw, Non: a.Non}
	}
	out.Stage = d.Stage
	out.Today, out.Others, out.Signers = d.Day, d.Others, d.Signers
	out.Paying = form.Paying{At: d.At, Waived: d.Waived}
	if !d.Priced.IsZero() {
		out.Paying.At = d.Priced
	}
	if d.Before != nil {
		out.Results = d.Before.Results
		out.Earlier = &form.Filled{Answers: map[form.Place]form.Answer{}, Lead: lead, Today: d.Day}
		for _, a := range d.Before.Answers {
			out.Earlier.Answers[a.Place] = form.Answer{Raw: a.Raw, Non: a.Non}
		}
	}
	out.Files = map[form.Key][]slot.File{}
	for _, f := range d.Files {
		out.Files[f.Slot] = append(out.Files[f.Slot], slot.File{ID: f.ID, Name: f.Name, Size: f.Size, State: slot.Ready,
			Facts: f.Facts})
	}
	return out
}

// Canonical is the document's canonical JSON and its SHA-256.
func (d *Document) Canonical() ([]byte, [32]byte, error) {
	raw, err := json.Marshal(d)
	if err != nil {
		return nil, [32]byte{}, err
	}
	var any any // maps marshal with their keys in byte order
	dec := json.NewDecoder(bytes.NewReader(raw))
	dec.UseNumber()
	if err := dec.Decode(&any); err != nil {
		return nil, [32]byte{}, err
	}
	var out bytes.Buffer
	enc := json.NewEncoder(&out)
	enc.SetEscapeHTML(false)
	if err := enc.Encode(any); err != nil {
		return nil, [32]byte{}, err
	}
	b := bytes.TrimRight(out.Bytes(), "\n")
	return b, sha256.Sum256(b), nil
}

// Sign signs the hash.
func Sign(key ed25519.PrivateKey, sum [32]byte) []byte { return ed25519.Sign(key, sum[:]) }

// Verify checks document, hash and signature together.
func Verify(key ed25519.PublicKey, document, signature []byte) bool {
	sum := sha256.Sum256(document)
	return ed25519.Verify(key, sum[:], signature)
}

// ForReaders is the document without the files and letters that readers do not
// see. Where names are hidden, files are called after their slots (what people
// call a file often says who they are), those who vouch or confirm after what
// they were asked for, how they know the applicant is left out, and the
// application is called by its number.
func (d Document) ForReaders(f *form.Form) *Document {
	shown := func(k form.Key) bool {
		q := f.Question(k)
		return q != nil && q.ForReaders()
	}
	d.Files = slices.DeleteFunc(slices.Clone(d.Files), func(x File) bool { return !shown(x.Slot) })
	d.Letters = slices.DeleteFunc(slices.Clone(d.Letters), func(x Letter) bool { return !shown(x.Question) })
	if f.Design.HideNames {
		in, at := map[form.Key]int{}, map[form.Key]int{}
		for _, x := range d.Files {
			in[x.Slot]++
		}
		for i := range d.Files {
			x := &d.Files[i]
			at[x.Slot]++
			x.Name = Neutral(f.Question(x.Slot).Label, at[x.Slot], in[x.Slot], x.Name)
		}
		d.Title = d.Ref
		of := map[form.Key]int{}
		for _, x := range d.Letters {
			of[x.Question]++
		}
		nth := map[form.Key]int{}
		for i := range d.Letters {
			l := &d.Letters[i]
			nth[l.Question]++
			l.Name, l.Knows = f.Question(l.Question).Label, ""
			if of[l.Question] > 1 {
				l.Name += " " + strconv.Itoa(nth[l.Question])
			}
			if l.File != nil {
				file := *l.File
				file.Name = Neutral("Letter", i+1, len(d.Letters), file.Name)
				l.File = &file
			}
			l.Pages = slices.Clone(l.Pages)
			for n := range l.Pages {
				l.Pages[n].Name = Neutral("Letter "+strconv.Itoa(i+1)+" page", n+2, n+2, l.Pages[n].Name)
			}
		}
	}
	return &d
}

var extension = regexp.MustCompile(`\.[A-Za-z0-9]{1,5}$`)

// Neutral is the name under which readers get the n-th of so many files of a
// slot, where names are hidden: Site plan 2.pdf.
func Neutral(label string, n, of int, name string) string {
	out := strings.Map(func(r rune) rune {
		if strings.ContainsRune(`/\:*?"<>|`, r) || r < ' ' {
			return -1
		}
		return r
	}, strings.TrimSuffix(label, "?"))
	if of > 1 {
		out += " " + strconv.Itoa(n)
	}
	return out + strings.ToLower(extension.FindString(name))
}

// NameOf is what a file of the document is called in it; "" when it holds none
// by that number.
func (d *Document) NameOf(id int64) string {
	for _, f := range d.Files {
		if f.ID == id {
			return f.Name
		}
	}
	for _, l := range d.Letters {
		for _, f := range l.Files() {
			if f.ID == id {
				return f.Name
			}
		}
	}
	return ""
}

// Holds reports whether a file with this fingerprint is part of the seal.
func (d *Document) Holds(sha256 string) bool {
	for _, f := range d.Files {
		if f.SHA256 == sha256 {
			return true
		}
	}
	for _, l := range d.Letters {
		if slices.ContainsFunc(l.Files(), func(f File) bool { return f.SHA256 == sha256 }) {
			return true
		}
	}
	return false
}
