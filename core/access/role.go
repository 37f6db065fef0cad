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
)

// Roles lists them all.
var Roles = []Role{RunsRounds, LooksAfter, Checks, PreparesMoney, ReleasesMoney, Chairs, LooksOnly}

// relation is what a role makes of somebody, where it holds.
func (r Role) relation() Relations {
	return map[Role]Relations{RunsRounds: Runner, LooksAfter: Carer, Checks: Checker, PreparesMoney: MoneyMaker,
		ReleasesMoney: MoneyReleaser, Chairs: Chair, LooksOnly: Looker}[r]
}

// Scope is where a role holds: the zero value is the whole office. A programme, a
// round, or within a round one stream or area, as its list of applications names
// them.
type Scope struct {
	Programme string `json:"programme,omitempty"`
	Round     int64  `json:"round,omitempty"`
	Place     string `json:"place,omitempty"`
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
}

// Of are the relations that roles give, at a time, to what a request is about.
// Whoever holds a role anywhere is AtOffice; whoever holds one for a part of the
// round alone is InRound.
func Of(roles []Held, about About, at time.Time) (r Relations) {
	for _, h := range roles {
		if h.Role.relation() == 0 || h.Until != nil && !at.Before(*h.Until) {
			continue
		}
		r |= AtOffice
		in := (h.Programme == "" || h.Programme == about.Programme) && (h.Round == 0 || h.Round == about.Round)
		if in && about.Round != 0 {
			r |= InRound
		}
		if in && (h.Place == "" || h.Place == about.Place) {
			r |= h.Role.relation()
		}
	}
	return r
}

// Sight is what of the office's lists somebody sees.
type Sight struct {
	All        bool
	Programmes []string
	Rounds     []int64
	Places     map[int64][]string // of a round that is seen in part
}

// Sees is the sight that roles give at a time.
func Sees(roles []Held, at time.Time) (s Sight) {
	whole := map[int64]bool{}
	for _, h := range roles {
		switch {
		case h.Role.relation() == 0 || h.Until != nil && !at.Before(*h.Until):
		case h.Scope == Scope{}:
			return Sight{All: true}
		case h.Round == 0:
			s.Programmes = append(s.Programmes, h.Programme)
		default:
			if !slices.Contains(s.Rounds, h.Round) {
				s.Rounds = append(s.Rounds, h.Round)
			}
			if h.Place == "" {
				whole[h.Round] = true
			} else {
				if s.Places == nil {
					s.Places = map[int64][]string{}
				}
				s.Places[h.Round] = append(s.Places[h.Round], h.Place)
			}
		}
	}
	for id := range whole {
		delete(s.Places, id)
	}
	return s
}
