package material_test

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/base64"
	"encoding/hex"
	"errors"
	"fmt"
	"net/http"
	"os"
	"slices"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/core/slot"
	"ulvant/internal/application"
	"ulvant/internal/intake"
	"ulvant/internal/material"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/tus"
	"ulvant/internal/programtest"
)

// sender speaks tus 1.0.0 by hand.
type sender struct {
	*programtest.House
	c    application.Case
	form *form.Form
}

func sends(t *testing.T, change func(*form.Design)) *sender {
	h, _, c := programtest.Opened(t, change)
	f, err := h.Rounds.Form(context.Background(), h.DB, c.DesignID)
	if err != nil {
		t.Fatal(err)
	}
	return &sender{h, c, f}
}

// ask sends a request; header is name, value, …
func (s *sender) ask(method, id string, body []byte, header ...string) (*tus.Response, error) {
	q := tus.Request{Method: method, Path: "/a/" + id, Header: http.Header{"Tus-Resumable": {"1.0.0"}}, Body: body}
	for i := 0; i < len(header); i += 2 {
		q.Header.Set(header[i], header[i+1])
	}
	return s.Materials.Arrive(context.Background(), db.Account(s.c.LeadID), s.Clock.Now(), s.c, s.form, "/a/", q)
}

// begin asks for room for a file and gives the name of its upload.
func (s *sender) begin(name string, size int) (id string, err error) {
	b64 := func(v string) string { return base64.StdEncoding.EncodeToString([]byte(v)) }
	out, err := s.ask(http.MethodPost, "", nil, "Upload-Length", strconv.Itoa(size),
		"Upload-Metadata", "slot "+b64("site-plan")+",filename "+b64(name)+",head "+b64("abc"))
	if err != nil {
		return "", err
	}
	if out.Status != http.StatusCreated {
		return "", fmt.Errorf("%d %s", out.Status, out.Body)
	}
	return strings.TrimPrefix(out.Header.Get("Location"), "/a/"), nil
}

// piece sends bytes from an offset and gives status and new offset.
func (s *sender) piece(id string, offset int, body []byte) (status int, now string, err error) {
	out, err := s.ask(http.MethodPatch, id, body, "Upload-Offset", strconv.Itoa(offset), "Content-Type",
		"application/offset+octet-stream")
	if err != nil {
		return 0, "", err
	}
	return out.Status, out.Header.Get("Upload-Offset"), nil
}

func (s *sender) files() []material.File {
	list, err := s.Materials.Of(context.Background(), s.DB, s.c.EntryID)
	if err != nil {
		s.T.Fatal(err)
	}
	return list
}

func (s *sender) obstacles() string {
	filled, err := s.Cases.Filled(context.Background(), s.DB, s.c, s.form, s.Clock.Now())
	if err != nil {
		s.T.Fatal(err)
	}
	out := ""
	for _, o := range s.form.Walk(filled).Obstacles {
		if o.Place.Question == "site-plan" {
			out += fmt.Sprint(o.Detail, " ", o.Have, " of ", o.Limit, "; ")
		}
	}
	return out
}

// A file in three pieces, with all that a line can do to it between them.
func TestAFileInPieces(t *testing.T) {
	s := sends(t, nil)
	plan := programtest.Plan
	id, err := s.begin("plan.pdf", len(plan))
	if err != nil {
		t.Fatal(err)
	}
	third := len(plan) / 3
	if got, want := s.obstacles(), fmt.Sprintf("arriving 0 of %d; ", len(plan)); got != want {
		t.Errorf("before the first byte: %q, want %q", got, want)
	}
	for _, p := range []struct {
		what     string
		from, to int
		status   int
		now      int
	}{
		{"the first", 0, third, 204, third},
		{"the first again, its answer was lost", 0, third, 409, 0},
		{"one that is ahead", 2 * third, len(plan), 409, 0},
		{"the second", third, 2 * third, 204, 2 * third},
	} {
		status, now, err := s.piece(id, p.from, plan[p.from:p.to])
		if err != nil || status != p.status || status == 204 && now != strconv.Itoa(p.now) {
			t.Errorf("%s: %d, now %s, %v", p.what, status, now, err)
		}
	}
	out, err := s.ask(http.MethodHead, id, nil)
	if err != nil || out.Header.Get("Upload-Offset") != strconv.Itoa(2*third) ||
		out.Header.Get("Upload-Length") != strconv.Itoa(len(plan)) || out.Header.Get("Cache-Control") != "no-store" {
		t.Errorf("how far it is: %+v %v", out, err)
	}
	if got, want := s.obstacles(), fmt.Sprintf("arriving %d of %d; ", 2*third, len(plan)); got != want {
		t.Errorf("on its way: %q, want %q", got, want)
	}
	// a write that was cut off after the disk and before the database is written over
	part := s.Config.DataDir + "/files/parts/" + id
	f, err := os.OpenFile(part, os.O_WRONLY|os.O_APPEND, 0)
	if err != nil {
		t.Fatal(err)
	}
	f.WriteString("cut off here")
	f.Close()
	if status, _, err := s.piece(id, 2*third, plan[2*third:]); err != nil || status != 204 {
		t.Fatal(status, err)
	}
	sum := sha256.Sum256(plan)
	if list := s.files(); len(list) != 1 || list[0].State != slot.Inspecting ||
		list[0].SHA256 != hex.EncodeToString(sum[:]) {
		t.Errorf("whole: %+v", list)
	}
	if _, err := os.Stat(part); !errors.Is(err, os.ErrNotExist) {
		t.Errorf("its part stays: %v", err)
	}
	if b, err := os.ReadFile(s.Files.Path(hex.EncodeToString(sum[:]))); err != nil || !bytes.Equal(b, plan) {
		t.Errorf("what is kept is not what was sent: %v", err)
	}
	s.Drain()
	if list := s.files(); len(list) != 1 || list[0].State != slot.Ready || list[0].Facts.Pages != 2 ||
		s.obstacles() != "" {
		t.Errorf("opened: %+v %s", list, s.obstacles())
	}
	if out, err := s.ask(http.MethodHead, id, nil); err != nil ||
		out.Header.Get("Upload-Offset") != strconv.Itoa(len(plan)) {
		t.Errorf("asked once more: %+v %v", out, err)
	}
	if _, err := s.ask(http.MethodDelete, id, nil); err == nil {
		t.Error("what has arrived can be given up")
	}
	// another one takes its place only when it is here whole
	id, err = s.begin("better.pdf", len(plan))
	if err != nil || len(s.files()) != 2 {
		t.Fatal(err, s.files())
	}
	if status, _, err := s.piece(id, 0, plan); err != nil || status != 204 || len(s.files()) != 1 ||
		s.files()[0].Name != "better.pdf" {
		t.Errorf("in its place: %d %v %+v", status, err, s.files())
	}
}

// What the protocol does not let through, and what is somebody else's.
func TestPiecesThatAreRefused(t *testing.T) {
	s := sends(t, nil)
	other := s.Draft("bo@corvoe.example")
	id, err := s.begin("plan.pdf", 100)
	if err != nil {
		t.Fatal(err)
	}
	says := func(err error) string {
		no, ok := refusal.Of(err)
		if !ok {
			return fmt.Sprint(err)
		}
		return no.Sentence()
	}
	if _, err := s.begin("huge.pdf", 7<<20); !strings.Contains(says(err), "7 MB, the limit is 6 MB") {
		t.Errorf("larger than its slot takes: %v", err)
	}
	if _, err := s.begin("none.pdf", 0); !strings.Contains(says(err), "is empty") {
		t.Errorf("an empty one: %v", err)
	}
	for _, q := range []struct {
		what, method, id string
		body             []byte
		header           []string
		status           int
	}{
		{"another version of the protocol", "PATCH", id, []byte("x"), []string{"Tus-Resumable", "0.2.2"}, 412},
		{"no offset", "PATCH", id, []byte("x"), []string{"Content-Type", "application/offset+octet-stream"}, 400},
		{"a body of another type", "PATCH", id, []byte("x"), []string{"Upload-Offset", "0", "Content-Type", "text/plain"},
			400},
		{"more than was said", "PATCH", id, make([]byte, 101),
			[]string{"Upload-Offset", "0", "Content-Type", "application/offset+octet-stream"}, 413},
		{"nobody's", "HEAD", "NOSUCHUPLOAD", nil, nil, 404},
		{"no length", "POST", "", nil, nil, 400},
		{"a method of no use", "PUT", id, nil, nil, 405},
		{"downloading", "GET", id, nil, nil, 405},
	} {
		out, err := s.ask(q.method, q.id, q.body, q.header...)
		if err != nil || out.Status != q.status {
			t.Errorf("%s: %+v %v", q.what, out, err)
		}
	}
	theirs := &sender{s.House, other, s.form}
	for _, method := range []string{"HEAD", "DELETE"} {
		if out, err := theirs.ask(method, id, nil); err != nil || out.Status != 404 {
			t.Errorf("another's, %s: %+v %v", method, out, err)
		}
	}
	if status, _, _ := theirs.piece(id, 0, []byte("x")); status != 404 {
		t.Errorf("another's, a piece: %d", status)
	}
	if out, err := s.ask(http.MethodDelete, id, nil); err != nil || out.Status != 204 || len(s.files()) != 0 {
		t.Errorf("given up: %+v %v", out, err)
	}
	if out, err := s.ask(http.MethodHead, id, nil); err != nil || out.Status != 404 {
		t.Errorf("given up and asked for: %+v %v", out, err)
	}
}

// Room is reserved before the first byte, for many at once.
func TestRoomIsReserved(t *testing.T) {
	s := sends(t, func(d *form.Design) {
		for i := range d.Sections {
			for j := range d.Sections[i].Questions {
				if q := &d.Sections[i].Questions[j]; q.Key == "site-plan" {
					q.Limits.Else.Slot = &slot.Limits{FilesMost: 9, SizeMost: slot.MostSize}
				}
			}
		}
	})
	var wait sync.WaitGroup
	var mu sync.Mutex
	in, full := 0, 0
	for i := range 6 {
		wait.Go(func() {
			_, err := s.begin(fmt.Sprintf("film-%d.mp4", i), 600<<20)
			mu.Lock()
			defer mu.Unlock()
			if err == nil {
				in++
			} else if no, ok := refusal.Of(err); ok && strings.Contains(no.Sentence(), "may keep 2 GB of files") {
				full++
			}
		})
	}
	wait.Wait()
	if in != 3 || full != 3 {
		t.Errorf("%d of 600 MB go into 2 GB, %d were refused", in, full)
	}
}

// Two devices on one upload: each byte is written once.
func TestTwoDevices(t *testing.T) {
	s := sends(t, nil)
	id, err := s.begin("plan.pdf", len(programtest.Plan))
	if err != nil {
		t.Fatal(err)
	}
	var wait sync.WaitGroup
	for range 2 {
		wait.Go(func() {
			for at := 0; at < len(programtest.Plan); {
				to := min(at+97, len(programtest.Plan))
				status, now, err := s.piece(id, at, programtest.Plan[at:to])
				switch {
				case err == nil && status == 204:
					at, _ = strconv.Atoi(now)
				case err == nil && status == 409:
					out, err := s.ask(http.MethodHead, id, nil)
					if err != nil {
						t.Error(err)
						return
					}
					at, _ = strconv.Atoi(out.Header.Get("Upload-Offset"))
				default:
					t.Error(status, err)
					return
				}
			}
		})
	}
	wait.Wait()
	s.Drain()
	if list := s.files(); len(list) != 1 || list[0].State != slot.Ready || list[0].Facts.Pages != 2 {
		t.Errorf("%+v", list)
	}
}

// The closing, a sending, a withdrawal and a changed slot between two pieces.
func TestBetweenTwoPieces(t *testing.T) {
	plan := programtest.Plan
	half := len(plan) / 2
	began := func(t *testing.T) (*sender, string) {
		s := sends(t, nil)
		id, err := s.begin("plan.pdf", len(plan))
		if err != nil {
			t.Fatal(err)
		}
		if status, _, err := s.piece(id, 0, plan[:half]); err != nil || status != 204 {
			t.Fatal(status, err)
		}
		return s, id
	}
	closes := time.Date(2027, 4, 9, 15, 0, 0, 0, time.UTC)
	t.Run("just before the closing", func(t *testing.T) {
		s, id := began(t)
		s.Clock.Set(closes.Add(-time.Millisecond))
		if status, _, err := s.piece(id, half, plan[half:]); err != nil || status != 204 {
			t.Error(status, err)
		}
		s.Clock.Set(closes.Add(time.Minute)) // what is here is opened whenever that is
		s.Drain()
		if list := s.files(); len(list) != 1 || list[0].State != slot.Ready {
			t.Errorf("%+v", list)
		}
	})
	t.Run("the closing", func(t *testing.T) {
		s, id := began(t)
		s.Clock.Set(closes)
		if _, _, err := s.piece(id, half, plan[half:]); !errors.Is(err, material.ErrClosed) {
			t.Error(err)
		}
		if list := s.files(); len(list) != 1 || list[0].State != slot.Uploading || list[0].Arrived != int64(half) {
			t.Errorf("%+v", list)
		}
	})
	t.Run("withdrawn", func(t *testing.T) {
		s, id := began(t)
		s.Act(s.c.LeadID, func(ctx context.Context, tx *db.Tx) error { return s.Intake.Withdraw(ctx, tx, s.c) })
		if _, _, err := s.piece(id, half, plan[half:]); !errors.Is(err, material.ErrClosed) {
			t.Error(err)
		}
	})
	t.Run("sending while it is on its way", func(t *testing.T) {
		s, _ := began(t)
		err := s.Try(s.c.LeadID, func(ctx context.Context, tx *db.Tx) error {
			_, err := s.Intake.Send(ctx, tx, s.c)
			return err
		})
		var stopped intake.Stopped
		if !errors.As(err, &stopped) || !strings.Contains(fmt.Sprint(stopped.Obstacles), "arriving") {
			t.Error(err)
		}
	})
	t.Run("taken out", func(t *testing.T) {
		s, id := began(t)
		file := s.files()[0].ID
		s.Held(s.c.LeadID, func(ctx context.Context, tx *db.Tx) error { return s.Materials.Remove(ctx, tx, s.c, file) })
		if status, _, err := s.piece(id, half, plan[half:]); err != nil || status != 404 {
			t.Error(status, err)
		}
	})
	t.Run("erased", func(t *testing.T) {
		s, id := began(t)
		s.Held(0, func(ctx context.Context, tx *db.Tx) error { return s.Materials.Erase(ctx, tx, s.c.EntryID) })
		if status, _, err := s.piece(id, half, plan[half:]); err != nil || status != 404 {
			t.Error(status, err)
		}
		if err := s.Materials.Sweep(context.Background(), s.Clock.Now()); err != nil {
			t.Fatal(err)
		}
		if names, err := s.Files.Parts(); err != nil || len(names) != 0 {
			t.Errorf("its part stays: %v %v", names, err)
		}
	})
	t.Run("its part was lost", func(t *testing.T) {
		s, id := began(t)
		if err := s.Files.Drop(id); err != nil {
			t.Fatal(err)
		}
		if _, _, err := s.piece(id, half, plan[half:]); err == nil || !strings.Contains(err.Error(), "begins anew") {
			t.Error(err)
		}
	})
	t.Run("a week of nothing", func(t *testing.T) {
		s, id := began(t)
		at := s.Clock.Now().Add(7 * 24 * time.Hour)
		for _, w := range []struct {
			at    time.Time
			state slot.State
			parts int
		}{{at, slot.Uploading, 1}, {at.Add(time.Second), slot.Refused, 0}} {
			if err := s.Materials.Sweep(context.Background(), w.at); err != nil {
				t.Fatal(err)
			}
			names, _ := s.Files.Parts()
			if list := s.files(); len(list) != 1 || list[0].State != w.state || len(names) != w.parts {
				t.Errorf("%s: %+v %v", w.at, list, names)
			}
		}
		if out, err := s.ask(http.MethodHead, id, nil); err != nil || out.Status != 404 {
			t.Errorf("it goes on: %+v %v", out, err)
		}
		if !strings.Contains(s.obstacles(), "unfinished") {
			t.Error("nothing says that it never came")
		}
	})
	t.Run("another process goes on", func(t *testing.T) {
		s, id := began(t)
		next := *s // with nothing of what the first one knew
		next.House = programtest.On(t, s.Config.DatabaseURL, s.Config.DataDir, nil)
		if status, _, err := next.piece(id, half, plan[half:]); err != nil || status != 204 {
			t.Error(status, err)
		}
		next.Drain()
		if list := next.files(); len(list) != 1 || list[0].State != slot.Ready || list[0].Facts.Pages != 2 {
			t.Errorf("%+v", list)
		}
	})
	t.Run("its slot changed", func(t *testing.T) { // and is judged as it is when the file is here
		s, id := began(t)
		d := *s.form.Design
		d.Sections = slices.Clone(d.Sections)
		for i := range d.Sections {
			d.Sections[i].Questions = slices.Clone(d.Sections[i].Questions)
			for j := range d.Sections[i].Questions {
				if q := &d.Sections[i].Questions[j]; q.Key == "site-plan" {
					q.Limits.Else.Slot = &slot.Limits{SizeMost: 6 << 20, PagesMost: 1}
				}
			}
		}
		f, err := form.Compile(&d)
		if err != nil {
			t.Fatal(err)
		}
		s.form = f
		if status, _, err := s.piece(id, half, plan[half:]); err != nil || status != 204 {
			t.Fatal(status, err)
		}
		s.Drain()
		if !strings.Contains(s.obstacles(), "too-many-pages 2 of 1") {
			t.Errorf("it is judged by %q", s.obstacles())
		}
	})
	t.Run("the database was away", func(t *testing.T) {
		s, id := began(t)
		ctx, cancel := context.WithCancel(context.Background())
		cancel()
		_, err := s.Materials.Arrive(ctx, db.Account(s.c.LeadID), s.Clock.Now(), s.c, s.form, "/a/", tus.Request{
			Method: "PATCH", Path: "/a/" + id, Body: plan[half:], Header: http.Header{"Tus-Resumable": {"1.0.0"},
				"Upload-Offset": {strconv.Itoa(half)}, "Content-Type": {"application/offset+octet-stream"}}})
		if err == nil {
			t.Error("a piece is acknowledged that was not kept")
		}
	})
}
