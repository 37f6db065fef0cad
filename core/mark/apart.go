package mark

// apartPercent of the scale is how far two readers' scores of a case are from each
// other when they are far apart. The figure is ours: common practice, no source, is
// only that such cases are talked over before anybody decides.
const apartPercent = 30

// Apart reports scores of which the highest and the lowest are far apart on a scale
// from 0 to most steps. Scores that are not known do not count.
func Apart(scores []Score, most int) bool {
	var lo, hi Score
	for _, s := range scores {
		if !s.Known() {
			continue
		}
		if !lo.Known() || s.Compare(lo) < 0 {
			lo = s
		}
		if !hi.Known() || s.Compare(hi) > 0 {
			hi = s
		}
	}
	if !lo.Known() {
		return false
	}
	// hi − lo ≥ most · apartPercent / 100, in whole numbers
	return 100*(hi.Num*lo.Den-lo.Num*hi.Den) >= apartPercent*int64(most)*hi.Den*lo.Den
}
