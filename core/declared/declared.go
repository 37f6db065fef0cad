// Package declared compares what a household says it has with what was declared
// elsewhere, year by year. Sums are minor units.
package declared

// State is how a comparison stands.
type State string

// The states. Pending and Silent are of the service that is asked: it has not
// settled the declaration yet, or does not answer.
const (
	Agrees  State = "agrees"
	Differs State = "differs"
	Missing State = "missing"
	Pending State = "pending"
	Silent  State = "silent"
)

// Elsewhere is what the service has under a reference.
type Elsewhere struct {
	State State            // Pending, Silent, Missing for a reference it does not know, else ""
	Sums  map[string]int64 // by year, as it is labelled
}

// Year is one year compared.
type Year struct {
	Label        string
	State        State
	Here, Theirs int64
}

// Result of a comparison: the worst of its years.
type Result struct {
	State State
	Years []Year
}

// Settled reports a result that will not change by asking again: it agrees.
func (r Result) Settled() bool { return r.State == Agrees }

// Compare years, in their order, with what was declared elsewhere; they agree
// within tolerance percent of the sum declared.
func Compare(years []string, here map[string]int64, there Elsewhere, tolerance int64) Result {
	if there.State != "" {
		return Result{State: there.State}
	}
	r := Result{State: Agrees}
	for _, y := range years {
		sum, has := there.Sums[y]
		one := Year{Label: y, State: Agrees, Here: here[y], Theirs: sum}
		off := one.Here - sum
		if off < 0 {
			off = -off
		}
		switch {
		case !has:
			one.State = Missing
		case off > sum/100*tolerance+sum%100*tolerance/100:
			one.State = Differs
		}
		if one.State == Missing || one.State == Differs && r.State == Agrees {
			r.State = one.State
		}
		r.Years = append(r.Years, one)
	}
	return r
}
