package profile

import (
	"strings"
	"time"

	"github.com/pmezard/go-difflib/difflib"
)

// Renewing an organisation: every so often, and when the funder’s terms have
// changed, somebody who acts for it reads what changed and says that what stands
// in its profile still holds.

// RenewEvery is how long what was said holds before it is renewed.
const RenewEvery = Stale

// Terms of the funder, one version of them.
type Terms struct {
	Version int // 1, 2, …; 0 for none yet
	Text    string
	At      time.Time
}

// Agreed is when somebody last read the terms for an organisation, and which.
type Agreed struct {
	Version int        // 0 for none
	At      *time.Time // nil: never
}

// Renewal says why an organisation is to be renewed at a time; "" while it need
// not be. One that is not known yet is handed in instead.
func Renewal(s State, a Agreed, now Terms, at time.Time) string {
	switch {
	case s != Known:
		return ""
	case a.At != nil && at.Sub(*a.At) > RenewEvery:
		return "It was last looked through more than a year ago."
	case now.Version > a.Version:
		return "The terms have changed since they were agreed to."
	}
	return ""
}

// Change is a paragraph of the terms: as it was, gone, or new.
type Change struct {
	Text string
	Gone bool
	Come bool
}

// Changes between two versions of the terms, paragraph by paragraph, in the order
// in which they are read; what stayed stands between.
func Changes(before, now string) (out []Change) {
	a, b := paragraphs(before), paragraphs(now)
	for _, op := range difflib.NewMatcher(a, b).GetOpCodes() {
		if op.Tag == 'e' {
			for _, p := range a[op.I1:op.I2] {
				out = append(out, Change{Text: p})
			}
			continue
		}
		for _, p := range a[op.I1:op.I2] {
			out = append(out, Change{Text: p, Gone: true})
		}
		for _, p := range b[op.J1:op.J2] {
			out = append(out, Change{Text: p, Come: true})
		}
	}
	return out
}

func paragraphs(s string) (out []string) {
	for _, p := range strings.Split(strings.ReplaceAll(s, "\r\n", "\n"), "\n") {
		if p = strings.TrimSpace(p); p != "" {
			out = append(out, p)
		}
	}
	return out
}
