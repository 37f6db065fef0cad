package form

// Keys of what is checked of every application beside its design’s rules, since it
// looks beyond the application.
const (
	ConnectedRule Key = "beyond-people" // who is named elsewhere too, or belongs to whom
	AlikeRule     Key = "beyond-texts"  // what stands in another application
	RegisterRule  Key = "beyond-register"
)

// ProposalRule is the key under which what an applicant proposed for a list waits
// for a ruling.
func ProposalRule(question Key) Key { return "proposed-" + question }
