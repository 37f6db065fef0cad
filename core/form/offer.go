package form

import "time"

// Offer is how what is awarded is accepted: each award for itself, until its day.
type Offer struct {
	Days     int      `json:"days"`               // working days after the letter within which it is answered, 1 to 260
	Promises []string `json:"promises,omitempty"` // what whoever accepts promises, a statement each
}

// mostOfferDays is the longest an offer can be left open: a year of working days.
const mostOfferDays = 260

// Offers reports a round in which what is awarded is accepted or declined.
func (f *Form) Offers() bool { return f.Design.Offer != nil }

// OfferEnds is the end of the last day on which what is told at a time can be answered, in
// a round that Offers.
func (f *Form) OfferEnds(told time.Time) time.Time {
	return f.WorkingDaysAfter(told, f.Design.Offer.Days)
}

// offer checks how what is awarded is accepted.
func (c *compiler) offer() {
	o := c.f.Design.Offer
	if o == nil {
		return
	}
	c.path, c.place = "offer", "what is awarded"
	c.need(o.Days > 0 && o.Days <= mostOfferDays, "an offer is left open for 1 to %d working days", mostOfferDays)
	seen := map[string]bool{}
	for _, p := range o.Promises {
		c.need(!seen[p], "“%s” is promised twice", p)
		seen[p] = true
	}
}
