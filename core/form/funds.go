package form

// Fund is money that is given for itself: that of a stream, or what is left of the
// round’s for all other cases.
type Fund struct {
	Stream Key // "" for what is left
	Label  string
	Money  int64 // minor units
}

// Funds of the round: first what is left for all that have none of their own, then
// those of the streams that have.
func (d *Design) Funds() []Fund {
	out := []Fund{{Label: "The fund", Money: d.Fund}}
	for _, s := range d.Streams {
		if s.Fund > 0 {
			out = append(out, Fund{s.Key, s.Label, s.Fund})
			out[0].Money -= s.Fund
		}
	}
	out[0].Money = max(out[0].Money, 0)
	return out
}
