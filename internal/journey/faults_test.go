package journey_test

import (
	"context"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"syscall"
	"testing"

	"ulvant/internal/platform/db"
	"ulvant/internal/platform/dbtest"
	"ulvant/internal/platform/pgserver"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
	"ulvant/migrations"
)

// PostgreSQL is killed in the middle, as by a power cut, with somebody writing.
// What was said to be kept is there when it is back; what is typed meanwhile
// stays in the browser, is marked as such, and follows by itself.
func TestPostgreSQLIsKilledInTheMiddle(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	dir, err := os.MkdirTemp("", "ulvant-killed-") // t.TempDir cannot be entered by user postgres
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { os.RemoveAll(dir) })
	if err := os.Chmod(dir, 0o755); err != nil {
		t.Fatal(err)
	}
	o := pgserver.Options{Dir: dir}
	s, err := pgserver.Start(ctx, o)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Stop() })
	if err := s.EnsureDatabase(ctx, "ulvant", false); err != nil {
		t.Fatal(err)
	}
	if err := db.Migrate(ctx, s.OwnerURL("ulvant"), pgserver.App, migrations.FS); err != nil {
		t.Fatal(err)
	}
	h := programtest.On(t, s.URL("ulvant"), t.TempDir(), nil)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), nil)
	c := h.Ready("imre@corvoe.example")
	p := webtest.In(t, webtest.Window(t, base))
	p.SignsIn("imre@corvoe.example")
	p.Goes("/applications/" + c.Ref + "/sections/work")
	p.Fills("[name=afterwards]", "Kept before the fall.")
	p.Kept()

	v := webtest.Visit(t, base).As("imre@corvoe.example")
	token := v.Token()
	plan, half := programtest.Plan, len(programtest.Plan)/2
	file := beginsFile(t, v, c.Ref, len(plan))
	if status := file.sends(0, plan[:half]); status != http.StatusNoContent {
		t.Fatal(status)
	}
	o.Port = s.Port()
	s.Kill()
	if status := file.sends(half, plan[half:]); status != http.StatusServiceUnavailable {
		t.Errorf("a piece while it is down: %d", status)
	}
	p.Fills("[name=describe]", "Typed while PostgreSQL is down.")
	p.Waits(`document.getElementById('workspace').dataset.state === 'lost' && document.querySelector('#q-describe .unsent')`)
	code, body := v.SendJSON("/applications/"+c.Ref+"/answers", "application/json", `{"section":"work","edits":[]}`,
		map[string]string{"Accept": "application/json", "X-Form-Token": token})
	if code != http.StatusServiceUnavailable || !webtest.Contains(body, "stays in your browser") {
		t.Errorf("a save while it is down: %d %s", code, body)
	}
	if code, page := v.See("/applications/" + c.Ref); code != http.StatusServiceUnavailable ||
		!webtest.Contains(page, "Try again in a minute") {
		t.Errorf("a page while it is down: %d", code)
	}
	if code, _ := v.See("/ready"); code != http.StatusServiceUnavailable {
		t.Errorf("readiness while it is down: %d", code)
	}
	if s, err = pgserver.Start(ctx, o); err != nil {
		t.Fatal(err)
	}
	p.Kept()
	for q, want := range map[string]string{"afterwards": "Kept before the fall.",
		"describe": "Typed while PostgreSQL is down."} {
		if got := webtest.KeptText(t, h, c, q); got != want {
			t.Errorf("%s: %q, want %q", q, got, want)
		}
	}
	p.Waits(`!document.querySelector('.unsent')`)
	if n := file.has(); n != half { // nothing was said to be here that is not
		t.Errorf("%d of %d bytes are here", n, half)
	}
	if status := file.sends(half, plan[half:]); status != http.StatusNoContent {
		t.Errorf("the rest: %d", status)
	}
	h.Drain()
	if list, err := h.Materials.Of(t.Context(), h.DB, c.EntryID); err != nil || len(list) != 1 ||
		list[0].Facts.Pages != 2 {
		t.Errorf("whole: %+v %v", list, err)
	}
}

// The database has no room: an answer is not said to be kept, and follows when
// there is room again; so is a send that was tried meanwhile, once.
func TestTheDatabaseIsFull(t *testing.T) {
	t.Parallel()
	url, owner := dbtest.New(t)
	h := programtest.On(t, url, t.TempDir(), nil)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), nil)
	c := h.Ready("imre@corvoe.example")
	v := webtest.Visit(t, base).As("imre@corvoe.example")
	dbtest.Exec(t, owner,
		`CREATE FUNCTION full_disk() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN RAISE EXCEPTION 'could not extend file: No space left on device' USING ERRCODE = '53100'; END $$`)
	for _, table := range []string{"answer", "seal"} {
		dbtest.Exec(t, owner,
			`CREATE TRIGGER full_disk BEFORE INSERT OR UPDATE ON `+table+` FOR EACH ROW EXECUTE FUNCTION full_disk()`)
	}
	if code, body := v.SaveOne(c.Ref, "no-room", "1", "Typed on a full disk."); code != http.StatusServiceUnavailable ||
		!webtest.Contains(body, "We cannot keep anything at the moment") {
		t.Errorf("saving: %d %s", code, body)
	}
	if got := webtest.KeptText(t, h, c, "describe"); got != "Reed." {
		t.Errorf("the server has %q", got)
	}
	send := func() int {
		code, _ := v.Submit("/applications/"+c.Ref+"/send", map[string][]string{"password": {programtest.Password}})
		return code
	}
	if code := send(); code != http.StatusServiceUnavailable {
		t.Errorf("sending: %d", code)
	}
	if s := h.StateOf(c); s != "draft" {
		t.Errorf("it is %s", s)
	}
	for _, table := range []string{"answer", "seal"} {
		dbtest.Exec(t, owner, `DROP TRIGGER full_disk ON `+table)
	}
	if code, body := v.SaveOne(c.Ref, "no-room", "1", "Typed on a full disk."); code != 200 ||
		!webtest.Contains(body, `"version":2`) {
		t.Errorf("saving again: %d %s", code, body)
	}
	if code := send(); code != 303 {
		t.Errorf("sending again: %d", code)
	}
	var seals int
	if err := h.DB.Get(&seals, `SELECT count(*) FROM seal`); err != nil || seals != 1 {
		t.Errorf("%d seals, %v", seals, err)
	}
}

// There is no room for files: an upload says so, the file that was there stays,
// and writing goes on. The folder is a file system of its own that holds
// little, which only root can make; elsewhere files_test.go must do.
func TestTheFolderOfFilesIsFull(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	small := filepath.Join(dir, "files")
	if err := os.Mkdir(small, 0o755); err != nil {
		t.Fatal(err)
	}
	if err := syscall.Mount("tmpfs", small, "tmpfs", 0, "size=256k"); err != nil {
		t.Skip("a small file system cannot be mounted here: ", err)
	}
	t.Cleanup(func() { syscall.Unmount(small, syscall.MNT_DETACH) })
	url, _ := dbtest.New(t)
	h := programtest.On(t, url, dir, nil)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), nil)
	c := h.Ready("imre@corvoe.example")
	v := webtest.Visit(t, base).As("imre@corvoe.example")
	was, err := h.Materials.Of(t.Context(), h.DB, c.EntryID)
	if err != nil || len(was) != 1 {
		t.Fatalf("%d files, %v", len(was), err)
	}
	at := "/applications/" + c.Ref + "/file/site-plan"
	if code, page := v.Upload(at, nil, "large.pdf", "%PDF-1.7\n"+strings.Repeat("0123456789",
		100_000)); code != http.StatusInsufficientStorage || !webtest.Contains(page, "no room for your file") {
		t.Errorf("a file that does not fit: %d", code)
	}
	if is, err := h.Materials.Of(t.Context(), h.DB, c.EntryID); err != nil || len(is) != 1 || is[0].ID != was[0].ID ||
		is[0].State != "ready" {
		t.Errorf("the file that was there: %+v %v", is, err)
	}
	if code, _ := v.SaveOne(c.Ref, "goes-on", "1", "Writing goes on."); code != 200 {
		t.Errorf("writing: %d", code)
	}
	if left, _ := filepath.Glob(filepath.Join(small, "tmp-*")); len(left) != 0 {
		t.Errorf("half a file lies there: %v", left)
	}
	// in pieces: what is here stays, and it goes on when there is room
	file := beginsFile(t, v, c.Ref, 500_000)
	if status := file.sends(0, make([]byte, 50_000)); status != http.StatusNoContent {
		t.Errorf("a piece that fits: %d", status)
	}
	if status := file.sends(50_000, make([]byte, 450_000)); status != http.StatusInsufficientStorage {
		t.Errorf("one that does not: %d", status)
	}
	if n := file.has(); n != 50_000 {
		t.Errorf("%d bytes are here", n)
	}
	if err := syscall.Mount("", small, "", syscall.MS_REMOUNT, "size=4m"); err != nil {
		t.Fatal(err)
	}
	if status := file.sends(50_000, make([]byte, 450_000)); status != http.StatusNoContent || file.has() != 500_000 {
		t.Errorf("there is room again: %d, %d bytes are here", status, file.has())
	}
	h.Clock.Set(h.Clock.Now().Add(48 * 3600e9))
	if err := h.Materials.Sweep(t.Context(), h.Clock.Now()); err != nil {
		t.Fatal(err)
	}
	var loose int
	if err := h.DB.Get(&loose,
		`SELECT count(*) FROM material WHERE state = 'uploading' AND removed_at IS NULL`); err != nil || loose != 0 {
		t.Errorf("%d rows of files that never arrived, %v", loose, err)
	}
}
