package office

import (
	"ulvant/core/access"
	"ulvant/internal/web/kit/site"
)

// ReviewsFor reports that the asker reviews for a body of a round.
func ReviewsFor(r *site.Request, round int64, body string) bool {
	for _, h := range r.Roles {
		if h.Role == access.Reviews && h.Round == round && h.Body == body && (h.Until == nil || r.At.Before(*h.Until)) {
			return true
		}
	}
	return false
}
