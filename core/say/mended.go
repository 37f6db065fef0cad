package say

import (
	"strconv"
	"strings"

	"ulvant/core/phrase"
)

// Help is what was done for somebody whose draft had come to a halt.
type Help string

// What helps; Alone is nothing that is known of.
const (
	Alone     Help = ""
	Nudged    Help = "nudge"
	Reminded  Help = "reminder"
	MoreTime  Help = "time"
	Supported Help = "support"
)

// helps are the kinds of help in the order in which they are told, with their words.
var helps = []struct {
	help  Help
	words string
}{{Nudged, "after a nudge"}, {Supported, "after support was given"}, {MoreTime, "after more time was given"},
	{Reminded, "after a reminder"}, {Alone, "by themselves"}}

// Mended says how many got over what had brought them to a halt, and after what;
// "" for nobody.
func Mended(n map[Help]int) string {
	all := 0
	var parts []string
	for _, h := range helps {
		if n[h.help] > 0 {
			all += n[h.help]
			parts = append(parts, strconv.Itoa(n[h.help])+" "+h.words)
		}
	}
	switch {
	case all == 0:
		return ""
	case len(parts) == 1:
		_, words, _ := strings.Cut(parts[0], " ")
		return strconv.Itoa(all) + " got over it, " + words + "."
	}
	return strconv.Itoa(all) + " got over it: " + phrase.List(parts) + "."
}
