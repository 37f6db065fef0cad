package application_test

import (
	"context"
	"fmt"
	"testing"
	"ulvant/core/form"
	"ulvant/core/profile"
	"ulvant/internal/application"
	"ulvant/internal/intake"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
)

// The signer of a later agreement is one of the officers who confirmed it for
// the organisation; when one is revoked, the draft says so before sending, and
// what is sealed holds who might have signed.
func TestSignerOfTheAgreement(t *testing.T) {
	ctx := context.Background()
	h, lead, c := programtest.Opened(t, func(d *form.Design) {
		programtest.Short(d)
		d.Sections[0].Questions = append(d.Sections[0].Questions,
			form.Question{Key: "signs", Kind: form.Signer, Label: "Who signs?", Nature: form.Chosen, Blank: form.Required,
				Seen: form.ToOffice})
	})
	act := func(f func(context.Context, *db.Tx) error) { t.Helper(); h.Held(lead, f) }
	version := 0
	save := func(k form.Key, v string) {
		t.Helper()
		e := programtest.Edit(k, v)
		e.EditID = fmt.Sprint("e-", k, version)
		if k == "signs" {
			e.Version = version
			version++
		}
		act(func(ctx context.Context, tx *db.Tx) error {
			_, _, err := h.Intake.Save(ctx, tx, c, []intake.Edit{e})
			return err
		})
	}
	obstacles := func() (out []form.Code) {
		t.Helper()
		_, _, p, err := h.Cases.Walk(ctx, h.DB, c, h.Clock.Now())
		if err != nil {
			t.Fatal(err)
		}
		for _, o := range p.Obstacles {
			out = append(out, o.Code)
		}
		return out
	}
	stops := func(what string, want ...form.Code) {
		t.Helper()
		got := obstacles()
		if len(got) != len(want) || len(got) > 0 && got[0] != want[0] {
			t.Errorf("%s: %v, want %v", what, got, want)
		}
	}
	save("request", "9000")
	save("land-leave", "yes")
	stops("nobody chosen", form.CodeBlank)
	save("signs", "Imre Calloway")
	stops("a person signs for themselves")

	var body int64
	var officers = map[string]int64{}
	act(func(ctx context.Context, tx *db.Tx) (err error) {
		if body, err = h.Profiles.Make(ctx, tx, profile.Body, "Corvoe Common"); err != nil {
			return err
		}
		for _, n := range []string{"Ann Rae", "Bo Lind"} {
			if err := h.Profiles.AskOfficer(ctx, tx, body, n, n[:2]+"@corvoe.example", "chair"); err != nil {
				return err
			}
		}
		return h.Cases.For(ctx, tx, c.ID, body)
	})
	stops("nobody is confirmed yet", form.CodeNotAuthorised)
	list, err := h.Profiles.Officers(ctx, h.DB, body)
	if err != nil {
		t.Fatal(err)
	}
	for _, o := range list {
		officers[o.Name] = o.ID
		act(func(ctx context.Context, tx *db.Tx) error { return h.Profiles.Confirm(ctx, tx, o.ID, true) })
	}
	save("signs", "Bo Lind")
	stops("an officer who confirmed")
	act(func(ctx context.Context, tx *db.Tx) error {
		return h.Profiles.RevokeOfficer(ctx, tx, body, officers["Bo Lind"])
	})
	stops("an officer who was revoked", form.CodeNotAuthorised)
	save("signs", "Ann Rae")
	var sent application.Case
	act(func(ctx context.Context, tx *db.Tx) (err error) { sent, err = h.Intake.Send(ctx, tx, c); return err })
	s, err := h.Cases.Sealed(ctx, h.DB, *sent.SealID)
	if err != nil || len(s.Decoded.Signers) != 1 || s.Decoded.Signers[0] != "Ann Rae" {
		t.Errorf("sealed: %+v %v", s.Decoded.Signers, err)
	}
	f, err := h.Rounds.Form(ctx, h.DB, sent.DesignID)
	if err != nil {
		t.Fatal(err)
	}
	if p := f.Walk(s.Decoded.Filled(sent.LeadName)); len(p.Obstacles) != 0 {
		t.Errorf("the seal, walked: %v", p.Obstacles)
	}
}
