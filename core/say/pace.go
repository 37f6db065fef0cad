package say

import (
	"math"
	"strconv"

	"ulvant/core/forecast"
	"ulvant/core/phrase"
)

// Counted is a count as it is written.
func Counted(n float64) string { return strconv.Itoa(int(math.Round(n))) }

// PaceNow is how a round fills, to be said.
type PaceNow struct {
	In          float64
	Drafts      int
	Left        float64 // share of the window
	Open, Begun bool
	Earlier     []forecast.Round
	Forecast    forecast.Forecast
	Ok          bool // there is a forecast
	Of          func(float64) string
	Money       bool
}

// Pace says how a round fills: what is in, how it was at the same distance from
// closing, what is to be expected and on what that rests.
func Pace(p PaceNow) (out []string) {
	is := " are in"
	if p.Money {
		is = " is asked for by what is in"
	} else if p.Of(p.In) == "1" {
		is = " is in"
	}
	first := p.Of(p.In) + is
	if p.Open && p.Drafts > 0 {
		first += ", and " + phrase.Count(int64(p.Drafts), "draft is", "drafts are") + " open"
	}
	out = append(out, first+".")
	var was []string
	for _, r := range p.Earlier {
		in, final := r.At(p.Left)
		was = append(was, p.Of(in)+" of "+p.Of(final)+" in "+r.Name)
	}
	if len(was) > 0 && p.Open && p.Begun {
		out = append(out, "With as much time left it was "+phrase.List(was)+".")
	} else if len(was) > 0 && !p.Open {
		out[0] = p.Of(p.In) + map[bool]string{true: " was asked for in the end.", false: " came in."}[p.Money]
		was = nil
		for _, r := range p.Earlier {
			_, final := r.At(0)
			was = append(was, p.Of(final)+" in "+r.Name)
		}
		return append(out, "It was "+phrase.List(was)+".")
	}
	switch {
	case !p.Open || !p.Begun:
	case len(p.Earlier) == 0:
		out = append(out, "No earlier round of this programme has closed, so there is no forecast; from two on, one stands here.")
	case !p.Ok:
		out = append(out, "So early, nothing was in then either: there is no forecast yet.")
	case p.Forecast.Band:
		low, high := p.Of(math.Floor(p.Forecast.Low)), p.Of(math.Ceil(p.Forecast.High))
		out = append(out, "Between "+low+" and "+high+" are to be expected at the closing, "+p.Of(p.Forecast.Likely)+
			" most likely.", "That rests on "+phrase.List(p.Forecast.Used)+
			": on how much of each was in by now, and on how many of such drafts were sent. Four times in five it ends within such a band.")
	default:
		out = append(out, "By that one round alone it would be "+p.Of(p.Forecast.Likely)+
			" at the closing. One round says nothing about how rounds differ, so there is no band; from two on there is.")
	}
	return out
}

// PromiseWord says what was promised; who is the body, of turns.
func PromiseWord(kind, who string) string {
	switch kind {
	case "enquiry":
		return "Questions about the round, answered within two working days"
	case "time":
		return "Wishes for more time, answered by the next working day"
	case "query":
		return "Answers to our queries, read within two working days"
	case "checks":
		return "Checks settled"
	case "turns":
		return "Reviewed by " + who
	case "reading":
		return "Marks of every reader in"
	case "answer":
		return "Every case decided"
	case "letters":
		return "Every decision told"
	}
	return kind
}

// StandingWord says how a promise stands.
func StandingWord(s string) string {
	return map[string]string{"kept": "kept", "on time": "on time", "soon": "due soon", "slips": "slipping",
		"was late": "done, some late"}[s]
}
