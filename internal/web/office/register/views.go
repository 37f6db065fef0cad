package register

import (
	"context"
	"net/url"
	"strconv"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/refusal"
	"ulvant/internal/colleague"
	"ulvant/internal/platform/db"
	"ulvant/internal/web/kit/site"
)

// KeepView keeps the shape under a name.
func KeepView(r *site.Request) error {
	values, err := url.ParseQuery(r.FormValue("shape"))
	if err != nil {
		values = url.Values{}
	}
	l, err := read(r, values)
	if err != nil {
		return err
	}
	v := colleague.View{Round: l.Round, Name: r.FormValue("name"), Shared: r.FormValue("shared") == "yes",
		Address: l.Shape.Address(l.Usual).Encode()}
	err = r.Act(func(ctx context.Context, tx *db.Tx) error {
		_, err := r.Colleagues.KeepView(ctx, tx, v)
		return err
	})
	var no refusal.Refusal
	if refusal.AsUnfit(err, &no) {
		values.Set("beside", "keep")
		return draw(r, fiber.StatusUnprocessableEntity, values, panel{wrong: no, typed: v.Name, shared: v.Shared})
	}
	if err != nil {
		return err
	}
	r.Tell("Kept as “" + v.Name + "”.")
	return r.See(l.href(l.Shape))
}

// OpenView leads to a view that was kept: the address one sends to a colleague.
func OpenView(r *site.Request) error {
	id, _ := strconv.ParseInt(r.Params("view"), 10, 64)
	v, err := r.Colleagues.View(r.Context, r.DB, id, r.Account.ID)
	if err != nil {
		return err
	}
	base := "/office/applications"
	if v.Round != 0 {
		rd, err := r.Rounds.ByID(r.Context, r.DB, v.Round)
		if err != nil {
			return err
		}
		base = "/office/rounds/" + rd.Key + "/applications"
	}
	if v.Address != "" {
		base += "?" + v.Address
	}
	return r.See(base)
}

// DropView takes a view away; BringViewBack undoes it.
func DropView(r *site.Request) error {
	return onView(r, "The view is taken away; whoever has its address sees it no more.", r.Colleagues.DropView)
}

// BringViewBack undoes DropView.
func BringViewBack(r *site.Request) error {
	return onView(r, "The view is back.", r.Colleagues.BringViewBack)
}

func onView(r *site.Request, says string, do func(context.Context, *db.Tx, int64) error) error {
	id, _ := strconv.ParseInt(r.Params("view"), 10, 64)
	if err := r.Act(func(ctx context.Context, tx *db.Tx) error { return do(ctx, tx, id) }); err != nil {
		return err
	}
	r.Tell(says)
	return r.See(back(r, "/office/applications"))
}

// back is where a form came from: an address of ours, or else.
func back(r *site.Request, otherwise string) string {
	to := r.FormValue("back")
	u, err := url.Parse(to)
	if err != nil || u.Host != "" || u.Scheme != "" || len(to) < 2 || to[0] != '/' || to[1] == '/' || to[1] == '\\' {
		return otherwise
	}
	return to
}
