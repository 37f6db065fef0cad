package slot

import "testing"

func TestFull(t *testing.T) {
	for _, c := range []struct {
		slot, application, person, size int64
		want                            string
	}{
		{0, 0, 0, 8 << 20, ""},
		{QuotaSlot - 5, 0, 0, 5, ""},
		{QuotaSlot - 5, 0, 0, 6, "slot"},
		{0, QuotaApplication, 0, 1, "application"},
		{0, 0, QuotaPerson - 1, 2, "person"},
		{QuotaSlot, QuotaApplication, QuotaPerson, 0, ""},
	} {
		if q, full := Full(c.slot, c.application, c.person, c.size); q.Of != c.want || full != (c.want != "") {
			t.Errorf("%+v: %+v", c, q)
		}
	}
}
