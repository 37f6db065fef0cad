package say

import (
	"strings"

	"ulvant/core/form"
)

// Marked says how an application was marked, each criterion by the step described for
// it that the marks come to, in the words of the round; "" where nothing is marked.
func Marked(criteria []form.Criterion, steps map[form.Key]int) string {
	var out []string
	for _, c := range criteria {
		if v, ok := steps[c.Key]; ok && v >= 0 && v < len(c.Steps) {
			out = append(out, c.Label+": "+c.Steps[v]+".")
		}
	}
	return strings.Join(out, "\n")
}

// ReasonsIn are the lines of a letter that say how it was marked.
func ReasonsIn(criteria []form.Criterion, body string) string {
	var out []string
	for line := range strings.Lines(body) {
		line = strings.TrimSpace(line)
		for _, c := range criteria {
			if strings.HasPrefix(line, c.Label+": ") {
				out = append(out, line)
			}
		}
	}
	return strings.Join(out, "\n")
}

// NotesLetter is the letter with which readers’ notes go out by themselves.
func NotesLetter(name, title, notes, office string) string {
	return "Dear " + name + ",\n\nwe promised to pass on what those who read “" + title +
		"” wrote for you. It changes nothing in our decision.\n\n" + notes + "\n\n" + office
}

// ReadersWrote leads over to what readers wrote for whoever applied.
func ReadersWrote(notes string) string {
	return "Those who read it wrote for you:\n\n" + notes
}
