package guest

import (
	"crypto/sha256"
	"encoding/hex"

	"github.com/gofiber/fiber/v3"

	"ulvant/internal/reference"
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

// OfficerEvidence gives an officer of an organisation the page that shows what
// they confirmed.
func OfficerEvidence(r *site.Request) error {
	o, err := r.Profiles.Officer(r.Context, r.DB, r.Link.Subject)
	if err != nil {
		return err
	}
	if o.State != "confirmed" || o.Confirmed == "" {
		return fiber.ErrNotFound
	}
	p, err := r.Profiles.ByID(r.Context, r.DB, o.ProfileID)
	if err != nil {
		return err
	}
	sum := sha256.Sum256([]byte(o.Confirmed))
	pdf, err := sealcopy.Evidence(reference.Evidence{Ref: "Officer", Title: p.Name, Round: "an organisation on file",
		Question: o.Post, Name: o.Name, Email: o.Email, At: o.At, Word: reference.Word{Wants: o.Confirmed},
		Fingerprint: hex.EncodeToString(sum[:]), LinkID: r.Link.ID}, r.Profiles.Zone())
	if err != nil {
		return err
	}
	return r.Download("confirmation "+p.Name+".pdf", "application/pdf", pdf)
}

// SponsorEvidence gives a body that holds money for somebody the page that shows
// what it agreed to.
func SponsorEvidence(r *site.Request) error {
	x, err := r.Profiles.Sponsor(r.Context, r.DB, r.Link.Subject)
	if err != nil {
		return err
	}
	if x.State != "confirmed" || x.Confirmed == "" {
		return fiber.ErrNotFound
	}
	sum := sha256.Sum256([]byte(x.Confirmed))
	pdf, err := sealcopy.Evidence(reference.Evidence{Ref: "Sponsoring body", Title: x.Name, Round: "for " + x.For,
		Question: "a body that holds the money", Name: x.ToName, Email: x.Email, At: x.At,
		Word: reference.Word{Wants: x.Confirmed}, Fingerprint: hex.EncodeToString(sum[:]), LinkID: r.Link.ID},
		r.Profiles.Zone())
	if err != nil {
		return err
	}
	return r.Download("agreed "+x.Name+".pdf", "application/pdf", pdf)
}
