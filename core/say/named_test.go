package say_test

import (
	"testing"

	"ulvant/core/say"
)

func TestNamed(t *testing.T) {
	const ends = " Open it. It is met when those who judge may have it as it is; if not, ask the applicant for another."
	for _, c := range []struct {
		files []say.NamedFile
		want  string
	}{
		{nil, ""},
		{[]say.NamedFile{{Name: "plan.pdf"}}, ""},
		{[]say.NamedFile{{Name: "plan.pdf"}, {Name: "text.docx", Names: []string{"Imre", "Calloway"}}},
			"Names are hidden in this round. text.docx says “Imre”, “Calloway”." + ends},
		{[]say.NamedFile{{Name: "plan.pdf", Names: []string{"A", "B", "C", "D", "E"}, Page: 2},
			{Name: "scan.pdf", Blind: true}},
			"Names are hidden in this round. plan.pdf says “A”, “B”, “C” and 2 more names, first on page 2. " +
				"scan.pdf is a scan, or cannot be read by a machine." + ends},
	} {
		if got := say.Named(c.files); got != c.want {
			t.Errorf("%+v:\n %q, want\n %q", c.files, got, c.want)
		}
	}
}
