package desk_test

import (
	"context"
	"testing"

	"ulvant/internal/platform/db"
	"ulvant/internal/post"
	"ulvant/internal/programtest"
)

// A mail of no application that came back stands where the office looks after
// accounts; one of an application stands with it, and one that arrived nowhere.
func TestReturned(t *testing.T) {
	h := programtest.New(t)
	h.OpenRound(h.Person("neda@ostrel-trust.example", "Neda Sparrow").ID, nil)
	c := h.Draft("imre@corvoe.example")
	h.Held(0, func(ctx context.Context, tx *db.Tx) error {
		_, err := h.Post.QueueAll(ctx, tx, []post.Letter{{Kind: "test", To: "lost@tral.example", ToName: "Lost",
			Subject: "Lost"},
			{Kind: "test", To: "case@tral.example", Subject: "Of a case", Application: c.ID, Round: c.RoundID},
			{Kind: "test", To: "here@tarl.example", Subject: "Arrived"}})
		return err
	})
	h.Crowd(`UPDATE post SET bounced_at = now(), bounce = '5.1.2 no such domain' WHERE to_address LIKE '%@tral.example'`)
	list, err := h.Desk.Returned(t.Context(), 10)
	if err != nil || len(list) != 1 || list[0].Name != "Lost" || list[0].Status() != "5.1.2" {
		t.Errorf("%+v %v", list, err)
	}
}
