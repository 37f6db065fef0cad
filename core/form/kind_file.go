package form

import (
	"math"
	"slices"
	"strconv"
	"strings"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/slot"
)

var _ = register(kind{
	key: File, means: "File slot", keeps: AsFiles, anew: true, limits: []string{"slot"}, check: checkFile,
	begin: func(q *Question) { q.Limits.Else.Slot = &slot.Limits{SizeMost: 6 << 20} },
	compile: func(c *compiler, q *Question) {
		c.need(q.Limits.Else.Slot != nil, "a file slot needs its limits")
		for _, l := range append(slices.Clone(q.Limits.When), Case[Limits]{Then: q.Limits.Else}) {
			if l.Then.Slot == nil || l.Then.Slot.Same == "" {
				continue
			}
			same := Key(l.Then.Slot.Same)
			other := c.f.Question(same)
			c.need(other != nil && other.Kind == File && c.f.index[same] < c.walked,
				"the same paper as in %q can only be in a slot before it", same)
		}
	},
	needs: func(q *Question) Key {
		if l := q.Limits.Else.Slot; l != nil {
			return Key(l.Needs)
		}
		return ""
	},
	ready: func(q *Question, l Limits, limit string) string {
		if l.Slot != nil && (l.Slot.Wish == slot.NotAccepted || l.Slot.Same != "") {
			return "" // nothing, or what is had ready for another
		}
		return q.Label + ": " + limit
	},
	tenths: takes(100),
})

// FileRow is the row under which what is written beside a file is kept.
func FileRow(id int64) string { return "f" + strconv.FormatInt(id, 10) }

// DetailColumn and TickColumn name where the i-th detail of a file, and the
// i-th thing ticked of a slot, are kept. ColMade keeps when a file was made.
func DetailColumn(i int) Key { return Key("detail-" + strconv.Itoa(i+1)) }

// TickColumn is where the i-th tick of a slot is kept.
func TickColumn(i int) Key { return Key("tick-" + strconv.Itoa(i+1)) }

// Tick is what an applicant ticked of a slot, or had signed in ink, and a checker
// must confirm.
type Tick struct {
	Rule Key // under which the checker's word is kept
	Slot Key
	Says []string
	Ink  string // what the page says that was to be signed; "" for none
}

// InkOf is what the page to print for a slot says; "" for a slot that asks for none.
func (q *Question) InkOf() string {
	if q.Kind != File {
		return ""
	}
	for _, l := range append(slices.Clone(q.Limits.When), Case[Limits]{Then: q.Limits.Else}) {
		if l.Then.Slot != nil && l.Then.Slot.Paper != "" {
			return l.Then.Slot.Paper
		}
	}
	return ""
}

// TickRule is the key under which a checker confirms what was ticked of a slot.
func TickRule(slot Key) Key { return "ticked-" + slot }

// NamesRule is the key under which somebody looks at names that stand in the files of a
// slot or of letters, where names are hidden.
func NamesRule(question Key) Key { return "names-" + question }

// TemplateRule is the key under which somebody looks at what came back for the template of
// a slot in an older version, or as something else.
func TemplateRule(slot Key) Key { return "template-" + slot }

// Ticks lists what was ticked and signed on a path, for the checker.
func (f *Form) Ticks(p *Path) []Tick {
	var out []Tick
	for i := range p.Questions {
		st := &p.Questions[i]
		l := st.Limits.Slot
		if l == nil || st.Presence != condition.Given {
			continue
		}
		if len(l.Ticks) > 0 || l.Paper != "" {
			out = append(out, Tick{TickRule(st.Key), st.Key, l.Ticks, l.Paper})
		}
	}
	return out
}

// ColMade keeps when a file was made or taken.
const ColMade Key = "made"

// ColFrom and ColTo keep where the excerpt of a film or a recording begins and ends.
const (
	ColFrom Key = "excerpt-from"
	ColTo   Key = "excerpt-to"
)

// ColWhole keeps which file of another slot a file belongs to, by its FileRow: the whole
// of an excerpt, the original of a translation.
const ColWhole Key = "whole"

// WholeOf is the file of a slot's other slot that a file with some answer belongs to: the
// only one there needs no naming. ok is false when none is named, or one that is not there.
func WholeOf(others []slot.File, named string) (whole slot.File, ok bool) {
	if len(others) == 1 {
		return others[0], true
	}
	for _, x := range others {
		if FileRow(x.ID) == strings.TrimSpace(named) {
			return x, true
		}
	}
	return whole, false
}

func checkFile(w *walk, q *question, s *QuestionState) {
	limits := slot.Limits{}
	if s.Limits.Slot != nil {
		limits = *s.Limits.Slot
	}
	files := w.filled.Files[q.def.Key]
	switch {
	case limits.Wish == slot.NotAccepted:
		for _, f := range files {
			w.obstacle(s, Obstacle{Code: CodeNotAccepted, Name: f.Name})
		}
		s.Presence = condition.NotAsked
		return
	case len(files) == 0 && w.crossedOff(s, limits):
		return
	case len(files) == 0:
		if s.Must != condition.No && limits.Wish != slot.BetterNot {
			w.obstacle(s, Obstacle{Code: CodeFileMissing})
		}
		return
	}
	s.Presence = condition.Given
	w.files(q, s, files, limits)
}

// SamePaper are the files of another slot that are the same paper as a slot asks for, as
// they stand in this stage or stood in an earlier one; asked: that slot is asked for here.
func (f *Form) SamePaper(filled *Filled, p *Path, l slot.Limits) (files []slot.File, other *Question, asked bool) {
	other = f.Question(Key(l.Same))
	if l.Same == "" || other == nil {
		return nil, nil, false
	}
	files = filled.Files[other.Key]
	if len(files) == 0 && filled.Earlier != nil {
		files = filled.Earlier.Files[other.Key]
	}
	st := p.Find(other.Key)
	return files, other, st != nil && st.Asked == condition.Yes
}

// crossedOff reports an empty slot that needs nothing of its own: the paper is in another, or
// is asked for there, once. A paper there that this slot would not take is said.
func (w *walk) crossedOff(s *QuestionState, limits slot.Limits) bool {
	files, other, asked := w.form.SamePaper(w.filled, w.path, limits)
	if other == nil || !asked && len(files) == 0 {
		return false
	}
	for _, f := range files {
		if fault, have, limit := slot.Check(f, limits); fault != "" {
			w.obstacle(s, Obstacle{Code: CodeFile, Name: f.Name, Detail: string(fault), Have: have, Limit: limit})
		}
		s.Presence = condition.Given
	}
	st := w.path.Find(other.Key)
	return len(files) > 0 || st.Must != condition.No // what may be left there is asked for here
}

// files judges the files of a slot, and what is written beside them.
func (w *walk) files(q *question, s *QuestionState, files []slot.File, limits slot.Limits) {
	total, taken, here := int64(0), 0, 0
	for _, f := range files {
		total += f.Size
		if f.State != slot.Uploading { // what is on its way may yet take the place of another
			here++
		}
		if fault, have, limit := slot.Check(f, limits); fault != "" {
			w.obstacle(s, Obstacle{Code: CodeFile, Name: f.Name, Detail: string(fault), Have: have, Limit: limit})
			continue
		}
		taken++
		row := FileRow(f.ID)
		for i, d := range limits.Details {
			at := Place{q.def.Key, row, DetailColumn(i)}
			if w.filled.Answers[at].Empty() {
				w.obstacle(s, Obstacle{Code: CodeFileDetail, Place: at, Name: f.Name, Detail: d})
			}
		}
		if !limits.MadeSince.IsZero() {
			w.made(q, s, f, limits.MadeSince)
		}
		if limits.Needs != "" {
			w.whole(q, s, f, Key(limits.Needs))
		}
		if limits.ExcerptMost > 0 && (f.Kind == slot.Film || f.Kind == slot.Sound) {
			w.excerpt(q, s, f, limits.ExcerptMost)
		}
	}
	if taken < limits.FilesLeast {
		w.obstacle(s, Obstacle{Code: CodeFilesFew, Have: int64(taken), Limit: int64(limits.FilesLeast)})
	} else if here > limits.Most() {
		w.obstacle(s, Obstacle{Code: CodeFilesMany, Have: int64(here), Limit: int64(limits.Most())})
	}
	if limits.SizeAll > 0 && total > limits.SizeAll {
		w.obstacle(s, Obstacle{Code: CodeFilesSize, Have: total, Limit: limits.SizeAll})
	}
	if limits.Needs != "" && len(w.filled.Files[Key(limits.Needs)]) == 0 {
		o := Obstacle{Code: CodeFileNeeds, Name: files[0].Name, Detail: limits.Needs}
		if other := w.form.Question(Key(limits.Needs)); other != nil {
			o.Detail = other.Label
		}
		w.obstacle(s, o)
	}
	for i, t := range limits.Ticks {
		at := Place{Question: q.def.Key, Column: TickColumn(i)}
		if w.filled.Answers[at].Raw != "yes" {
			w.obstacle(s, Obstacle{Code: CodeFileTick, Place: at, Detail: t})
		}
	}
}

// excerpt holds the part that is named of a recording to its length.
func (w *walk) excerpt(q *question, s *QuestionState, f slot.File, most int) {
	at := Place{q.def.Key, FileRow(f.ID), ColFrom}
	to := Place{q.def.Key, FileRow(f.ID), ColTo}
	_, fault := slot.ReadExcerpt(w.filled.Answers[at].Raw, w.filled.Answers[to].Raw, f.Seconds, most)
	if fault != slot.ExcerptComplete {
		w.obstacle(s, Obstacle{Code: CodeFileExcerpt, Place: at, Name: f.Name, Detail: string(fault),
			Have: int64(f.Seconds), Limit: int64(most)})
	}
}

// whole holds a file to the one that it belongs to: it names one, and what runs for some
// time runs no longer than that.
func (w *walk) whole(q *question, s *QuestionState, f slot.File, in Key) {
	others := w.filled.Files[in]
	if len(others) == 0 {
		return // said once for the slot
	}
	at := Place{q.def.Key, FileRow(f.ID), ColWhole}
	whole, ok := WholeOf(others, w.filled.Answers[at].Raw)
	switch {
	case !ok:
		o := Obstacle{Code: CodeFileWhole, Place: at, Name: f.Name, Detail: string(in)}
		if other := w.form.Question(in); other != nil {
			o.Detail = other.Label
		}
		w.obstacle(s, o)
	case f.Seconds > 0 && whole.Seconds > 0 && f.Seconds > whole.Seconds+wholeSlack:
		w.obstacle(s, Obstacle{Code: CodeFileWhole, Place: at, Name: f.Name, Have: int64(math.Ceil(f.Seconds)),
			Limit: int64(math.Ceil(whole.Seconds))})
	}
}

// wholeSlack is by how many seconds two writers differ on the running time of one film.
const wholeSlack = 0.5

func (w *walk) made(q *question, s *QuestionState, f slot.File, since calendar.Date) {
	at := Place{q.def.Key, FileRow(f.ID), ColMade}
	d, ok := calendar.ParseDate(strings.TrimSpace(w.filled.Answers[at].Raw))
	switch {
	case !ok:
		w.obstacle(s, Obstacle{Code: CodeFileDetail, Place: at, Name: f.Name, Detail: "when it was made"})
	case d < since:
		w.obstacle(s, Obstacle{Code: CodeFileMade, Place: at, Name: f.Name, Day: since})
	}
}

// IsTick reports the column of something that is ticked for a whole slot.
func IsTick(column Key) bool { return strings.HasPrefix(string(column), "tick-") }
