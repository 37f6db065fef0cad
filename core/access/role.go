package access

import (
	"slices"
	"time"
)

// Role is what somebody does at the office.
type Role string

// The roles.
const (
	RunsRounds    Role = "runs rounds"
	LooksAfter    Role = "looks after cases"
	Checks        Role = "checks"
	PreparesMoney Role = "prepares money"
	ReleasesMoney Role = "releases money"
	Chairs        Role = "chairs"
	LooksOnly     Role = "looks only"
	Sits          Role = "sits on the panel"
	Reviews       Role = "reviews for a body" // a second one, in its turn: sees its own cases
	Gives         Role = "gives an award"     // a donor: sees their own award, and no case
)

// Roles lists them all.
var Roles = []Role{RunsRounds, LooksAfter, Checks, PreparesMoney, ReleasesMoney, Chairs, Sits, Reviews, LooksOnly,
	Gives}

// relation is what a role makes of somebody, where it holds.
func (r Role) relation() Relations {
	return map[Role]Relations{RunsRounds: Runner, LooksAfter: Carer, Checks: Checker, PreparesMoney: MoneyMaker,
		ReleasesMoney: MoneyReleaser, Chairs: Chair, LooksOnly: Looker, Sits: Sitter, Reviews: BodyMember, Gives: DonorOf}[r]
}

// Scope is where a role holds: the zero value is the whole office. A programme, a
// round, or within a round one stream or area, as its list of applications names
// them.
type Scope struct {
	Programme string `json:"programme,omitempty"`
	Round     int64  `json:"round,omitempty"`
	Place     string `json:"place,omitempty"`
	Body      string `json:"body,omitempty"`
	Award     string `json:"award,omitempty"`
}

// Within reports that a scope is a part of another, or the same.
func (s Scope) Within(o Scope) bool {
	return (o.Programme == "" || o.Programme == s.Programme) && (o.Round == 0 || o.Round == s.Round) &&
		(o.Place == "" || o.Place == s.Place) && (o.Body == "" || o.Body == s.Body) && (o.Award == "" || o.Award == s.Award)
}

// Held is a role that somebody holds.
type Held struct {
	Role Role `json:"role"`
	Scope
	Until *time.Time `json:"until,omitempty"` // it ends then; nil: until it is taken away
}

// About is what a request names: a round with its programme, and of a case the
// stream or area it is listed under. The zero value names nothing.
type About struct {
	Programme string
	Round     int64
	Place     string
	Bodies    []string // that a case which was sent is for
	Award     string
}

// Over reports a role that has ended by a time, or that is none of ours.
func (h Held) Over(at time.Time) bool {
	return h.Role.relation() == 0 || h.Until != nil && !at.Before(*h.Until)
}

// Of are the relations that roles give, at a time, to what a request is about.
// Whoever holds a role anywhere is AtOffice; whoever holds one for a part of the
// round alone is InRound. A donor works nowhere and gives one award.
func Of(roles []Held, about About, at time.Time) (r Relations) {
	for _, h := range roles {
		if h.Over(at) {
			continue
		}
		in := (h.Programme == "" || h.Programme == about.Programme) && (h.Round == 0 || h.Round == about.Round)
		if h.Role == Gives {
			r |= DonorSomewhere
			if in && about.Award != "" && h.Award == about.Award {
				r |= DonorOf
			}
			continue
		}
		r |= AtOffice
		if h.Role == RunsRounds && h.Place == "" {
			r |= RunsSomewhere
		}
		if in && about.Round != 0 {
			r |= InRound
		}
		if in && (h.Place == "" || h.Place == about.Place) && (h.Role != Reviews || slices.Contains(about.Bodies, h.Body)) {
			r |= h.Role.relation()
		}
	}
	return r
}

// Fits reports a role that can hold where it is said to: a body is reviewed for and
// an award given in a round, and nothing else is of a body or an award; a stream or
// area is one of a round.
func (h Held) Fits() bool {
	return (h.Body != "") == (h.Role == Reviews) && (h.Award != "") == (h.Role == Gives) &&
		(h.Round != 0 || h.Place == "" && h.Body == "" && h.Award == "") && h.Role.relation() != 0
}

// MayGive reports that somebody with these roles may give a role, or take it away:
// whoever runs rounds, as far as they run them, and nobody to themselves.
func MayGive(roles []Held, h Held, at time.Time) bool {
	return slices.ContainsFunc(roles, func(own Held) bool {
		return own.Role == RunsRounds && own.Place == "" && !own.Over(at) && h.Scope.Within(own.Scope)
	})
}

// Part of a round that is seen: a stream or area, or the cases of a body.
type Part struct {
	Place string // "" for any
	Body  string // "" for any
}

// Sight is what of the office's lists somebody sees.
type Sight struct {
	All        bool
	Programmes []string
	Rounds     []int64
	Parts      map[int64][]Part // of a round that is seen in part
}

// Shows reports that a case of a round that is seen in part is among what is seen.
func (s Sight) Shows(round int64, place string, bodies []string) bool {
	return slices.ContainsFunc(s.Parts[round], func(p Part) bool {
		return (p.Place == "" || p.Place == place) && (p.Body == "" || slices.Contains(bodies, p.Body))
	})
}

// Sees is the sight that roles give at a time.
func Sees(roles []Held, at time.Time) (s Sight) {
	whole := map[int64]bool{}
	for _, h := range roles {
		switch {
		case h.Over(at), h.Role == Gives:
		case h.Role == Reviews && h.Round == 0: // of nothing
		case h.Scope == Scope{}:
			return Sight{All: true}
		case h.Round == 0:
			s.Programmes = append(s.Programmes, h.Programme)
		default:
			if !slices.Contains(s.Rounds, h.Round) {
				s.Rounds = append(s.Rounds, h.Round)
			}
			if h.Place == "" && h.Role != Reviews {
				whole[h.Round] = true
			} else {
				if s.Parts == nil {
					s.Parts = map[int64][]Part{}
				}
				s.Parts[h.Round] = append(s.Parts[h.Round], Part{h.Place, h.Body})
			}
		}
	}
	for id := range whole {
		delete(s.Parts, id)
	}
	return s
}
