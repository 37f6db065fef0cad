package form_test

import (
	"testing"

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
