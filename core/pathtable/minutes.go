package pathtable

// Formula says how minutes are reckoned, for people (common practice, no
// source: the figures are ours, to be set right by what is measured). Each kind
// of question says its own time.
const Formula = "Half a minute for a choice, one for a number, a date or a line; two for an address; eight for a " +
	"table, " +
	"twenty for a budget, ten for each file, five for each person who must be asked. A text takes a minute for every fifteen words it may hold."
