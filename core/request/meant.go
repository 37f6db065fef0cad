package request

import (
	"strings"

	"github.com/hbollon/go-edlib"
)

// Common are domains under which very many people have their mail: common
// practice, no source; the list is ours, from memory. A round adds the domains
// that its own people use.
var Common = []string{"gmail.com", "googlemail.com", "outlook.com", "hotmail.com", "hotmail.co.uk", "live.com",
	"msn.com",
	"yahoo.com", "yahoo.co.uk", "icloud.com", "me.com", "proton.me", "protonmail.com", "gmx.net", "gmx.de", "web.de",
	"orange.fr", "free.fr", "libero.it", "btinternet.com", "eircom.net"}

// Meant is the address that was probably meant: the same one under a domain of
// the known ones that differs by one slip (a letter too many, too few, another
// one, or two of them swapped: the optimal string alignment distance), or by two
// in a domain of at least ten letters. "" when the domain is known, nothing is
// near, or two are as near.
func Meant(address string, known ...string) string {
	i := strings.LastIndexByte(address, '@')
	if i < 1 {
		return ""
	}
	local, domain := address[:i+1], strings.ToLower(strings.TrimSpace(address[i+1:]))
	best, nearest, twice := "", 3, false
	for _, k := range append(append([]string{}, Common...), known...) {
		k = strings.ToLower(k)
		if k == domain {
			return ""
		}
		d := edlib.OSADamerauLevenshteinDistance(domain, k)
		if d > 2 || d == 2 && len(domain) < 10 || k == best {
			continue
		}
		switch {
		case d < nearest:
			best, nearest, twice = k, d, false
		case d == nearest:
			twice = true
		}
	}
	if best == "" || twice {
		return ""
	}
	return local + best
}
