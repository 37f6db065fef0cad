package office

import (
	"ulvant/core/access"
	"ulvant/internal/application"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// KeptOf reads it for the asker; back is the address that its forms lead back to.
func KeptOf(r *site.Request, c application.Case, back string) (k view.Kept, err error) {
	k = view.Kept{Ref: c.Ref, Zone: r.Profiles.Zone(), Query: c.Query(), Back: back, Me: r.Account.ID}
	st, err := r.Cases.Standing(r.Context, r.DB, c.EntryID)
	if err != nil {
		return k, err
	}
	about := access.About{Programme: r.Round.Programme, Round: c.RoundID, Place: st.Place}
	rel := access.SignedIn | access.Of(r.Roles, about, r.At) | r.Rel
	may := func(a access.Action) bool { return access.Allow(a, rel, c.State) == access.Allowed }
	k.Hands, k.Writes, k.Puts = may(access.GiveInHand), may(access.NoteCase), may(access.LabelCase)
	if k.Carer, err = r.Desk.CarerOf(r.Context, c.ID, c.RoundID, st.Place, r.At.In(r.Profiles.Zone())); err != nil {
		return k, err
	}
	if k.InHand, err = r.Colleagues.InHand(r.Context, r.DB, c); err != nil {
		return k, err
	}
	if k.Labels, err = r.Colleagues.Labels(r.Context, r.DB, c); err != nil {
		return k, err
	}
	if k.Known, err = r.Desk.Labels(r.Context); err != nil {
		return k, err
	}
	if rel.Inside() {
		k.Notes, err = r.Colleagues.Notes(r.Context, r.DB, c)
	} else {
		k.Notes, err = r.Colleagues.Theirs(r.Context, r.DB, c, r.Account.ID)
	}
	if err != nil {
		return k, err
	}
	if k.Named, err = r.Colleagues.Named(r.Context, r.DB, c, r.Account.ID); err != nil {
		return k, err
	}
	k.Office, err = r.People.Office(r.Context, r.At)
	return k, err
}
