package form

import "slices"

// Keys of what is checked of every application beside its design’s rules, since it
// looks beyond the application.
const (
	ConnectedRule Key = "beyond-people" // who is named elsewhere too, or belongs to whom
	AlikeRule     Key = "beyond-texts"  // what stands in another application
	RegisterRule  Key = "beyond-register"
)

// TurnRule is the key under which a case waits for a reviewing body, TurnedRule the
// one under which what the body said stands.
func TurnRule(body Key) Key   { return "turn-" + body }
func TurnedRule(body Key) Key { return "turned-" + body }

// HasLetter reports that the design has a letter by that key.
func (d *Design) HasLetter(k Key) bool {
	return slices.ContainsFunc(d.Letters, func(l Letter) bool { return l.Key == k })
}

// ProposalRule is the key under which what an applicant proposed for a list waits
// for a ruling.
func ProposalRule(question Key) Key { return "proposed-" + question }
