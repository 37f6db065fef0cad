// Package onetime reads the codes of a second factor: six digits from an app that
// shares a secret with us, new every thirty seconds.
//
// Source: RFC 6238 (TOTP), with SHA-1 and a time step of thirty seconds as every such
// app takes them; its section 5.2 asks that a code be taken once, and advises to take
// those of a clock that is a step off.
package onetime

import (
	"encoding/base32"
	"strings"
	"time"

	"github.com/pquerna/otp/hotp"
)

// Period is how long a code holds, in seconds.
const Period = 30

// skew: how many periods a clock may be off, either way.
const skew = 1

// Step finds the time step that a code is of at an instant, counted in periods since
// 1970. A step up to last, the one used last, is no good any more: ok is false for it,
// as for a code that is of no step near at. Blanks in the code do not matter.
func Step(secret []byte, code string, at time.Time, last int64) (step int64, ok bool) {
	code = strings.Join(strings.Fields(code), "")
	shared := base32.StdEncoding.WithPadding(base32.NoPadding).EncodeToString(secret)
	for d := -int64(skew); d <= skew; d++ {
		step := at.Unix()/Period + d
		if step > last && hotp.Validate(code, uint64(step), shared) {
			return step, true
		}
	}
	return 0, false
}
