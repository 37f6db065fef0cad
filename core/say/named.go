package say

import (
	"strconv"
	"strings"

	"ulvant/core/phrase"
)

// NamedFile is a file in which names were looked for, where names are hidden from those
// who judge.
type NamedFile struct {
	Name  string
	Names []string // as they stand in it; nil for none
	Page  int      // where the first stands, from 1; 0: the file has no pages
	Blind bool     // it, or a part of it, cannot be read: a scan
}

// mostNamed is how many names of a file are said.
const mostNamed = 3

// Named is what a checker is asked of files in which names stand, or that cannot be read;
// "" when there are neither.
func Named(files []NamedFile) string {
	var out []string
	for _, f := range files {
		switch {
		case len(f.Names) > 0:
			said := f.Names[:min(len(f.Names), mostNamed)]
			s := f.Name + " says “" + strings.Join(said, "”, “") + "”"
			if more := len(f.Names) - len(said); more > 0 {
				s += " and " + phrase.Count(int64(more), "more name", "more names")
			}
			if f.Page > 0 {
				s += ", first on page " + strconv.Itoa(f.Page)
			}
			out = append(out, s+".")
		case f.Blind:
			out = append(out, f.Name+" is a scan, or cannot be read by a machine.")
		}
	}
	if len(out) == 0 {
		return ""
	}
	return "Names are hidden in this round. " + strings.Join(out, " ") +
		" Open it. It is met when those who judge may have it as it is; if not, ask the applicant for another."
}
