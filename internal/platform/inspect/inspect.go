// Package inspect finds out what a file is by opening it, in a child process
// with little memory and little time, so that a hostile file harms nothing
// else. The child is this program, called with Command. As far as the system
// lets it, it has a network of its own with nothing in it, an empty folder for
// all files, and nobody's identity; the file it looks at is its standard input.
package inspect

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"io"
	"os"
	"os/exec"
	"strconv"
	"strings"
	"syscall"
	"time"

	"github.com/gabriel-vasile/mimetype"
	"github.com/pdfcpu/pdfcpu/pkg/api"
	"github.com/pdfcpu/pdfcpu/pkg/pdfcpu/model"

	"ulvant/core/slot"
	"ulvant/internal/platform/limit"
)

// Command is the word that makes this program an inspecting child; Env names
// the variable that does the same for a test binary. A second word says which
// work.
const (
	Command = "inspect"
	Env     = "ULVANT_CHILD"
)

// The work a child can do.
const (
	looking   = "look"   // prints a Finding
	cleaning  = "clean"  // prints the file without its properties
	rendering = "render" // prints a picture small and large
	tabling   = "table"  // prints the first sheet of a workbook
	celling   = "cells"  // prints every cell of a workbook
	wording   = "words"  // prints what is written in it
	marking   = "mark"   // prints it with a mark of a template, the word after this one
)

// Finding is what was found.
type Finding struct {
	MIME  string     `json:"mime"`
	Fault slot.Fault `json:"fault"`
	slot.Facts
	Words *Words `json:"-"` // what is written in a PDF, a text or a sheet; nil when that could not be read
}

// Limits of the child. The Go runtime reserves more addresses than it uses, so
// the bound is on what comes on top of those it has when it begins (RLIMIT_AS)
// and on what it may write to (RLIMIT_DATA); setrlimit(2). Not every kernel
// holds both to the letter; together they do.
const (
	seconds = 15
	memory  = 640 << 20
	soft    = "440MiB" // where the runtime begins to collect all the time
	nobody  = 65534
)

// Bench is where files are looked at, one after another as its gate lets them
// through: however many arrive at once, they have so much memory between them.
type Bench struct{ Gate limit.Gate }

// Look opens the file at path in a child process and says what it is, and what
// can be known of it. An error means that the child could not be started, not
// that the file is bad.
func (b Bench) Look(ctx context.Context, path string) (f Finding, err error) {
	out, _, err := b.run(ctx, looking, path, 1<<20+4*mostText)
	if err != nil && !errors.Is(err, errChild) {
		return f, err
	}
	said := json.NewDecoder(bytes.NewReader(out))
	if said.Decode(&f) != nil { // it fell over before it knew what it looks at
		return Finding{Fault: slot.TooHard}, nil
	}
	var w Words
	if said.Decode(&w) == nil {
		f.Words, f.TypeLeast = &w, w.Type
	}
	return f, nil
}

// Clean writes the file at path without its properties; ErrKept when they cannot be taken
// out of it, so that it should not be shown to whom they tell too much. What was written by
// then counts for nothing.
func (b Bench) Clean(ctx context.Context, path string, to io.Writer) error {
	err := b.runTo(ctx, cleaning, path, to)
	if errors.Is(err, errChild) {
		return ErrKept
	}
	return err
}

// ErrKept: the properties of a file could not be taken out.
var ErrKept = errors.New("what this file says of who made it cannot be taken out")

// errChild: the child was started and did not bring its work to an end.
var errChild = errors.New("the file could not be opened within the limits of time and memory")

// runTo starts a child and passes on what it prints.
func (b Bench) runTo(ctx context.Context, work, path string, to io.Writer) (err error) {
	b.Gate.Do(func() {
		_, err = started(ctx, work, path, func(pipe io.Reader) error { _, err := io.Copy(to, pipe); return err })
	})
	return err
}

// run starts a child and reads at most so many bytes of what it prints.
// more are words for its work.
func (b Bench) run(ctx context.Context, work, path string, most int64, more ...string) (out []byte,
	used *os.ProcessState, err error) {
	b.Gate.Do(func() { out, used, err = run(ctx, work, path, most, more...) })
	return out, used, err
}

func run(ctx context.Context, work, path string, most int64, more ...string) (out []byte, used *os.ProcessState,
	err error) {
	used, err = started(ctx, work, path, func(pipe io.Reader) (err error) {
		out, err = io.ReadAll(io.LimitReader(pipe, most))
		return err
	}, more...)
	return out, used, err
}

// started starts a child and lets read what it prints; errChild when it did not bring its
// work to an end: what it had said by then stands.
func started(ctx context.Context, work, path string, read func(io.Reader) error, more ...string) (*os.ProcessState,
	error) {
	self, err := os.Executable()
	if err != nil {
		return nil, err
	}
	file, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	defer file.Close()
	empty, err := os.MkdirTemp("", "ulvant-empty-")
	if err != nil {
		return nil, err
	}
	defer os.Remove(empty)
	st, err := file.Stat()
	if err != nil {
		return nil, err
	}
	ctx, cancel := context.WithTimeout(ctx, time.Duration(secondsFor(work, st.Size()))*time.Second)
	defer cancel()
	start := func(flags uintptr) (*exec.Cmd, io.ReadCloser, error) {
		cmd := exec.CommandContext(ctx, self, append([]string{Command, work}, more...)...)
		cmd.Env = []string{Env + "=" + Command, "GOMEMLIMIT=" + soft, "GOMAXPROCS=1", "HOME=/nonexistent",
			"TMPDIR=/nonexistent"}
		cmd.Dir, cmd.Stdin = empty, file
		cmd.SysProcAttr = &syscall.SysProcAttr{Pdeathsig: syscall.SIGKILL, Cloneflags: flags}
		if flags&syscall.CLONE_NEWUSER != 0 {
			cmd.SysProcAttr.UidMappings = []syscall.SysProcIDMap{{ContainerID: 0, HostID: os.Getuid(), Size: 1}}
			cmd.SysProcAttr.GidMappings = []syscall.SysProcIDMap{{ContainerID: 0, HostID: os.Getgid(), Size: 1}}
		}
		pipe, err := cmd.StdoutPipe()
		if err != nil {
			return nil, nil, err
		}
		return cmd, pipe, cmd.Start()
	}
	own := uintptr(syscall.CLONE_NEWNET | syscall.CLONE_NEWIPC)
	if os.Getuid() != 0 {
		own |= syscall.CLONE_NEWUSER
	}
	cmd, pipe, err := start(own)
	if errors.Is(err, syscall.EPERM) || errors.Is(err, syscall.EINVAL) || errors.Is(err, syscall.ENOSPC) ||
		errors.Is(err, syscall.EACCES) {
		cmd, pipe, err = start(0) // the system gives no namespaces here
	}
	if err != nil {
		return nil, err
	}
	rerr := read(pipe)
	if err := cmd.Wait(); err != nil || rerr != nil {
		return cmd.ProcessState, errChild
	}
	return cmd.ProcessState, nil
}

// Child is the work of the child process; the file is its standard input.
func Child(work string, more ...string) int {
	confine(work)
	switch work {
	case looking:
		f := open(os.Stdin)
		if json.NewEncoder(os.Stdout).Encode(f) == nil {
			if f.Fault == "" && (f.Kind == slot.PDF && f.HasText || f.Kind == slot.Text || f.Kind == slot.Sheet) {
				_ = wordsOf(os.Stdin, os.Stdout) // what it is stands without them
			}
			return 0
		}
	case tabling:
		if sheet(os.Stdin, os.Stdout) == nil {
			return 0
		}
	case celling:
		if cells(os.Stdin, os.Stdout) == nil {
			return 0
		}
	case rendering:
		if drawn(os.Stdin, os.Stdout) == nil {
			return 0
		}
	case wording:
		if wordsOf(os.Stdin, os.Stdout) == nil {
			return 0
		}
	case cleaning:
		if cleaned(os.Stdin, os.Stdout) == nil {
			return 0
		}
	case marking:
		b, err := io.ReadAll(io.LimitReader(os.Stdin, mostCleaned))
		if err == nil && len(more) > 0 {
			b, err = marked(b, more[0])
		}
		if err == nil {
			_, err = os.Stdout.Write(b)
		}
		if err == nil {
			return 0
		}
	}
	return 1
}

// drawn is render, for a picture that makes it fall over.
func drawn(file *os.File, w io.Writer) (err error) {
	defer func() {
		if recover() != nil {
			err = errNotDrawn
		}
	}()
	return render(file, w)
}

// wordsOf is written, for a file that makes it fall over.
func wordsOf(file *os.File, w io.Writer) (err error) {
	defer func() {
		if recover() != nil {
			err = errNotDrawn
		}
	}()
	return written(file, w)
}

// cleaned is clean, for a file that makes it fall over.
func cleaned(file *os.File, w io.Writer) (err error) {
	defer func() {
		if recover() != nil {
			err = errNotCleaned
		}
	}()
	return clean(file, w)
}

// addresses is how many bytes of addresses the process has reserved (proc(5),
// statm, in pages); 0 when the system does not say.
func addresses() uint64 {
	b, err := os.ReadFile("/proc/self/statm")
	if err != nil {
		return 0
	}
	first, _, _ := strings.Cut(string(b), " ")
	pages, err := strconv.ParseUint(first, 10, 64)
	if err != nil {
		return 0
	}
	return pages * uint64(os.Getpagesize())
}

// secondsFor is how long a child may take: what copies a file through gets more for a large
// one, at 20 MB a second.
func secondsFor(work string, size int64) uint64 {
	if work == cleaning {
		return seconds + uint64(size)/(20<<20)
	}
	return seconds
}

// confine gives up what the child does not need. What the system refuses is
// left: the limits hold in any case.
func confine(work string) {
	most := uint64(seconds)
	if st, err := os.Stdin.Stat(); err == nil {
		most = secondsFor(work, st.Size())
	}
	syscall.Setrlimit(syscall.RLIMIT_CPU, &syscall.Rlimit{Cur: most, Max: most})
	if has := addresses(); has > 0 {
		syscall.Setrlimit(syscall.RLIMIT_AS, &syscall.Rlimit{Cur: has + memory, Max: has + memory})
	}
	syscall.Setrlimit(syscall.RLIMIT_DATA, &syscall.Rlimit{Cur: memory, Max: memory})
	syscall.Setrlimit(syscall.RLIMIT_FSIZE, &syscall.Rlimit{})
	syscall.Setrlimit(syscall.RLIMIT_CORE, &syscall.Rlimit{})
	syscall.Setrlimit(syscall.RLIMIT_NOFILE, &syscall.Rlimit{Cur: 16, Max: 16})
	syscall.Chroot(".") // the empty folder it was started in
	const noNewPrivileges = 38
	syscall.RawSyscall(syscall.SYS_PRCTL, noNewPrivileges, 1, 0)
	if os.Getuid() == 0 { // really, or in a name space of its own where there is nobody else to be
		syscall.Setgroups(nil)
		syscall.Setgid(nobody)
		syscall.Setuid(nobody)
	}
}

// open looks at a file from its beginning.
func open(file *os.File) (f Finding) {
	defer func() {
		if recover() != nil {
			f.Fault = slot.Unreadable
		}
	}()
	kind, err := mimetype.DetectReader(file)
	if err != nil {
		return Finding{Fault: slot.Unreadable}
	}
	f.MIME = kind.String()
	if info, err := file.Stat(); err == nil && info.Size() == 0 {
		f.Fault = slot.Empty
		return f
	}
	if _, err := file.Seek(0, io.SeekStart); err != nil {
		return Finding{Fault: slot.Unreadable}
	}
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
	{slot.Film, []string{"video/webm"}, lookWebM},
	{slot.Sound, []string{"audio/webm"}, lookWebM},
	{slot.Sound, []string{"audio/mp4", "audio/x-m4a"}, lookFilm},
	{slot.Sound, []string{"audio/mpeg", "audio/wav", "audio/flac"}, lookSound},
	{slot.Text, []string{"application/vnd.openxmlformats-officedocument.wordprocessingml.document",
		"application/vnd.oasis.opendocument.text"}, lookOffice},
	{slot.Sheet, []string{"application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
		"application/vnd.oasis.opendocument.spreadsheet", "text/csv"}, lookOffice},
}

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
	dims, err := ctx.PageDims()
	if err != nil {
		return slot.Unreadable
	}
	for _, d := range dims {
		f.PageShort, f.PageLong = max(f.PageShort, min(d.Width, d.Height)), max(f.PageLong, d.Width, d.Height)
	}
	f.Pages, f.HasText, f.Author = ctx.PageCount, len(ctx.Optimize.FontObjects) > 0, authorOf(ctx.Author)
	f.Template = authorOf(ctx.Properties[slot.TemplateProperty])
	return ""
}
