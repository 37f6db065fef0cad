package say

import (
	"fmt"
	"strings"

	"ulvant/core/slot"
)

// CameBack is a file that came back where a template was to be filled in.
type CameBack struct {
	File          string
	Came          slot.Came
	Version, Last int // of the template; 0 for one that is not recognised
}

// Templates is what a checker is asked of files that came back for a template; "" when
// each is of its last version.
func Templates(files []CameBack) string {
	var out []string
	for _, x := range files {
		switch x.Came {
		case slot.Older:
			out = append(out, fmt.Sprintf("%s is filled in on version %d of the template; version %d is asked for.", x.File,
				x.Version, x.Last))
		case slot.Unrecognised:
			out = append(out, x.File+" does not carry the mark of the template: it may be a scan, a print, or another file.")
		}
	}
	if len(out) == 0 {
		return ""
	}
	return strings.Join(out, " ") + " Open it and look whether it will do."
}

// OldTemplate warns an applicant of a file that they put in for a template; changed is what
// is different since its version. "" when there is nothing to say.
func OldTemplate(x CameBack, title, changed string) string {
	switch x.Came {
	case slot.Older:
		s := fmt.Sprintf("This is version %d of “%s”. Version %d is asked for now", x.Version, title, x.Last)
		if changed != "" {
			s += ": " + strings.TrimSuffix(changed, ".")
		}
		return s + ". Fill in the new one, or the office will look at this."
	case slot.Unrecognised:
		return "This does not look like “" + title +
			"” filled in. If it is a scan of it, that is fine: the office will look at it."
	}
	return ""
}

// GuidanceChanged tells somebody who has a draft of a new file, or a new version of one,
// beside the round they write for.
func GuidanceChanged(name, round, title string, version int, changed string, template bool, draft string) (
	subject, body string) {
	what := "There is a new file to read beside"
	if template {
		what = "There is a template to fill in for"
	}
	if version > 1 {
		what = fmt.Sprintf("Version %d has taken the place of version %d beside", version, version-1)
	}
	body = fmt.Sprintf("Dear %s,\n\n%s %s: “%s”.\n", name, what, round, title)
	if changed != "" {
		body += "\nWhat is different: " + strings.TrimSuffix(changed, ".") + ".\n"
	}
	if template && version > 1 {
		body += "\nIf you have filled in the version before, please fill in the new one.\n"
	}
	return "Changed for " + round + ": " + title, body + "\nYour draft is at " + draft + "\n"
}
