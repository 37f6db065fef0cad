package form_test

import (
	"testing"

	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/slot"
)

// An excerpt as a file of its own names the whole it is taken from, where there are
// several, and runs no longer; a translation, which does not run, only names.
func TestAFileThatBelongsToAnother(t *testing.T) {
	film := func(id int64, name string, seconds float64) slot.File {
		return slot.File{ID: id, Name: name, Size: 9, State: slot.Ready,
			Facts: slot.Facts{Kind: slot.Film, Seconds: seconds}}
	}
	limits := func(needs string) form.Cases[form.Limits] {
		return form.Cases[form.Limits]{Else: form.Limits{Slot: &slot.Limits{Kinds: []slot.Kind{slot.Film, slot.PDF},
			FilesMost: 3, SizeMost: 1 << 20, Needs: needs}}}
	}
	f := asking(t, nil, form.Question{Key: "films", Label: "Films", Kind: form.File, Limits: limits("")},
		form.Question{Key: "excerpts", Kind: form.File, Limits: limits("films")})
	tide, moor := film(1, "tide.mp4", 600), film(2, "moor.mp4", 30)
	for _, c := range []struct {
		what    string
		films   []slot.File
		excerpt slot.File
		says    string // what the applicant says it belongs to
		want    *form.Obstacle
	}{
		{"the only one needs no naming", []slot.File{tide}, film(9, "cut.mp4", 60), "", nil},
		{"whatever was said of one that is gone", []slot.File{tide}, film(9, "cut.mp4", 60), "f2", nil},
		{"of two it is said", []slot.File{tide, moor}, film(9, "cut.mp4", 60), "f1", nil},
		{"of two nothing is said", []slot.File{tide, moor}, film(9, "cut.mp4", 60), "",
			&form.Obstacle{Code: form.CodeFileWhole, Name: "cut.mp4", Detail: "Films"}},
		{"one that is not there", []slot.File{tide, moor}, film(9, "cut.mp4", 60), "f7",
			&form.Obstacle{Code: form.CodeFileWhole, Name: "cut.mp4", Detail: "Films"}},
		{"longer than its whole", []slot.File{tide, moor}, film(9, "cut.mp4", 31), "f2",
			&form.Obstacle{Code: form.CodeFileWhole, Name: "cut.mp4", Have: 31, Limit: 30}},
		{"as long, by another writer", []slot.File{moor}, film(9, "cut.mp4", 30.4), "", nil},
		{"what does not run", []slot.File{tide}, slot.File{ID: 9, Name: "it.pdf", Size: 9, State: slot.Ready,
			Facts: slot.Facts{Kind: slot.PDF, Pages: 1}}, "", nil},
		{"a whole whose time is not known", []slot.File{film(1, "tide.mp4", 0)}, film(9, "cut.mp4", 60), "", nil},
	} {
		x := filled()
		x.Files = map[form.Key][]slot.File{"films": c.films, "excerpts": {c.excerpt}}
		set(x, "excerpts", form.FileRow(9), form.ColWhole, c.says)
		var got *form.Obstacle
		for _, o := range f.Walk(x).Obstacles {
			if o.Code == form.CodeFileWhole {
				got = &o
			}
		}
		if (got == nil) != (c.want == nil) || got != nil && (got.Name != c.want.Name || got.Detail != c.want.Detail ||
			got.Have != c.want.Have || got.Limit != c.want.Limit || got.Place.Column != form.ColWhole) {
			t.Errorf("%s: %+v, want %+v", c.what, got, c.want)
		}
	}
}

// One paper asked for in two places is asked for once, and one file answers both.
func TestOnePaperInTwoPlaces(t *testing.T) {
	limits := func(pages int, same string) form.Cases[form.Limits] {
		return form.Cases[form.Limits]{Else: form.Limits{Slot: &slot.Limits{SizeMost: 1 << 20, PagesMost: pages, Same: same}}}
	}
	papers := func(blank form.Blank) *form.Form {
		return asking(t, nil, form.Question{Key: "has", Kind: form.YesNo},
			form.Question{Key: "accounts", Kind: form.File, Limits: limits(9, ""), Blank: blank,
				Asked: condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: "has"}, Rel: condition.Is,
					Value: &condition.Value{Yes: func() *bool { y := true; return &y }()}}}},
			form.Question{Key: "again", Kind: form.File, Limits: limits(4, "accounts")})
	}
	pdf := func(pages int) []slot.File {
		return []slot.File{{ID: 1, Name: "accounts.pdf", Size: 9, State: slot.Ready,
			Facts: slot.Facts{Kind: slot.PDF, Pages: pages}}}
	}
	for _, c := range []struct {
		what           string
		blank          form.Blank
		asked          string // whether the first is
		first, own     []slot.File
		earlier        bool // the first stood in an earlier stage
		atFirst, atOwn form.Code
		given          bool
	}{
		{"neither is there: asked for once", form.Required, "yes", nil, nil, false, form.CodeFileMissing, "", false},
		{"in the first", form.Required, "yes", pdf(3), nil, false, "", "", true},
		{"in the first, too long for the second", form.Required, "yes", pdf(5), nil, false, "", form.CodeFile, true},
		{"in the second alone", form.Required, "yes", nil, pdf(3), false, form.CodeFileMissing, "", true},
		{"the first is not asked", form.Required, "no", nil, nil, false, "", form.CodeFileMissing, false},
		{"the first may be left", form.MeansNo, "yes", nil, nil, false, "", form.CodeFileMissing, false},
		{"from an earlier stage", form.Required, "no", pdf(3), nil, true, "", "", true},
	} {
		f, x := papers(c.blank), filled()
		set(x, "has", "", "", c.asked)
		x.Files = map[form.Key][]slot.File{"accounts": c.first, "again": c.own}
		if c.earlier {
			x.Earlier = &form.Filled{Files: map[form.Key][]slot.File{"accounts": c.first}}
			delete(x.Files, "accounts")
		}
		p := f.Walk(x)
		got := map[form.Key]form.Code{}
		for _, o := range p.Obstacles {
			got[o.Place.Question] = o.Code
		}
		if got["accounts"] != c.atFirst || got["again"] != c.atOwn ||
			(p.Find("again").Presence == condition.Given) != c.given {
			t.Errorf("%s: %q and %q, given: %v", c.what, got["accounts"], got["again"], p.Find("again").Presence)
		}
	}
}
