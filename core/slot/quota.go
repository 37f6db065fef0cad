package slot

// Bytes that may be kept for one slot, one application and one person, for whom
// what was replaced counts until it is swept. They bound what somebody can fill a
// disk with, and are reserved before the first byte comes; a slot's own limits are
// the officer's.
const (
	QuotaSlot        = 2 << 30
	QuotaApplication = 2 << 30
	QuotaPerson      = 8 << 30
)

// Quota is one that is full.
type Quota struct {
	Of         string // slot | application | person
	Have, Most int64  // bytes
}

// Full finds the first quota that size more bytes would go beyond.
func Full(slot, application, person, size int64) (Quota, bool) {
	for _, q := range []Quota{{"slot", slot, QuotaSlot}, {"application", application, QuotaApplication},
		{"person", person, QuotaPerson}} {
		if q.Have+size > q.Most {
			return q, true
		}
	}
	return Quota{}, false
}
