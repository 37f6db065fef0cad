package guest

import (
	"ulvant/internal/sealcopy"
	"ulvant/internal/web/kit/site"
)

// OwnEvidence gives whoever confirmed something the page that shows it.
func OwnEvidence(r *site.Request) error {
	l, err := load(r)
	if err != nil {
		return err
	}
	e, err := r.Referees.EvidenceOf(r.Context, r.DB, l.x, l.c, l.f)
	if err != nil {
		return err
	}
	pdf, err := sealcopy.Evidence(e, l.f.Zone)
	if err != nil {
		return err
	}
	return r.Download("confirmation "+l.c.Ref+".pdf", "application/pdf", pdf)
}
