// Package inspect finds out what a file is by opening it, in a child process
// with little memory and little time, so that a hostile file harms nothing
// else. The child is this program, called with Command.
package inspect

import (
	"bytes"
	"context"
	"encoding/json"
	"os"
	"os/exec"
	"syscall"
	"time"

	"github.com/gabriel-vasile/mimetype"
	"github.com/pdfcpu/pdfcpu/pkg/api"
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/model"

	"ulvant/core/slot"
)

// Command is the word that makes this program an inspecting child.
const Command = "inspect"

// Finding is what was found.
type Finding struct {
	MIME  string     `json:"mime"`
	Fault slot.Fault `json:"fault"`
	slot.Facts
}

// Limits of the child.
const (
	seconds = 15
	memory  = 1 << 30
	address = 4 << 30 // the Go runtime reserves more than it uses
)

// Look opens the file at path in a child process and says what it is, and what
// can be known of it. An error means that the child could not be started, not
// that the file is bad.
func Look(ctx context.Context, path string) (Finding, error) {
	self, err := os.Executable()
	if err != nil {
		return Finding{}, err
	}
	ctx, cancel := context.WithTimeout(ctx, seconds*time.Second)
	defer cancel()
	cmd := exec.CommandContext(ctx, self, Command, path)
	cmd.Env = []string{"ULVANT_CHILD=" + Command, "GOMEMLIMIT=700MiB", "GOMAXPROCS=1", "HOME=/nonexistent"}
	cmd.SysProcAttr = &syscall.SysProcAttr{Pdeathsig: syscall.SIGKILL}
	var out bytes.Buffer
	cmd.Stdout = &out
	if err := cmd.Start(); err != nil {
		return Finding{}, err
	}
	var f Finding
	if err := cmd.Wait(); err != nil || json.Unmarshal(out.Bytes(), &f) != nil {
		return Finding{Fault: slot.TooHard}, nil
	}
	return f, nil
}

// Child is the work of the child process: it prints a Finding and ends.
func Child(path string) int {
	syscall.Setrlimit(syscall.RLIMIT_CPU, &syscall.Rlimit{Cur: seconds, Max: seconds})
	syscall.Setrlimit(syscall.RLIMIT_AS, &syscall.Rlimit{Cur: address, Max: address})
	syscall.Setrlimit(syscall.RLIMIT_FSIZE, &syscall.Rlimit{})
	f := open(path)
	if json.NewEncoder(os.Stdout).Encode(f) != nil {
		return 1
	}
	return 0
}

func open(path string) (f Finding) {
	defer func() {
		if recover() != nil {
			f.Fault = slot.Unreadable
		}
	}()
	kind, err := mimetype.DetectFile(path)
	if err != nil {
		return Finding{Fault: slot.Unreadable}
	}
	f.MIME = kind.String()
	if info, err := os.Stat(path); err == nil && info.Size() == 0 {
		f.Fault = slot.Empty
		return f
	}
	file, err := os.Open(path)
	if err != nil {
		return Finding{Fault: slot.Unreadable}
	}
	defer file.Close()
	for _, k := range known {
		for _, m := range k.mime {
			if kind.Is(m) {
				f.Kind = k.kind
				f.Fault = k.look(file, &f.Facts)
				return f
			}
		}
	}
	f.Fault = slot.WrongKind
	return f
}

// known is what a file can be, by its first bytes, and how it is looked at.
var known = []struct {
	kind slot.Kind
	mime []string
	look func(*os.File, *slot.Facts) slot.Fault
}{
	{slot.PDF, []string{"application/pdf"}, lookPDF},
	{slot.Picture, []string{"image/jpeg", "image/png"}, lookPicture},
	{slot.Film, []string{"video/mp4", "video/quicktime", "video/x-m4v"}, lookFilm},
	{slot.Sound, []string{"audio/mp4", "audio/x-m4a"}, lookFilm},
	{slot.Sound, []string{"audio/mpeg", "audio/wav", "audio/flac"}, lookNothing},
	{slot.Text, []string{"application/vnd.openxmlformats-officedocument.wordprocessingml.document", "application/vnd.oasis.opendocument.text"}, lookOffice},
	{slot.Sheet, []string{"application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", "application/vnd.oasis.opendocument.spreadsheet", "text/csv"}, lookOffice},
}

func lookNothing(*os.File, *slot.Facts) slot.Fault { return "" }

// lookPDF counts the pages, and says whether any font is used: a scan has none.
func lookPDF(file *os.File, f *slot.Facts) slot.Fault {
	api.DisableConfigDir()
	conf := model.NewDefaultConfiguration()
	conf.ValidationMode = model.ValidationRelaxed
	ctx, err := api.ReadValidateAndOptimize(file, conf)
	switch {
	case err != nil && bytes.Contains([]byte(err.Error()), []byte("password")):
		return slot.Locked
	case err != nil:
		return slot.Unreadable
	case ctx.Encrypt != nil: // opens, but is locked against printing or copying
		return slot.Locked
	}
	f.Pages, f.HasText, f.Author = ctx.PageCount, len(ctx.Optimize.FontObjects) > 0, authorOf(ctx.Author)
	return ""
}
