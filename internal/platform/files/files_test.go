package files_test

import (
	"bytes"
	"errors"
	"io"
	"os"
	"path/filepath"
	"strings"
	"syscall"
	"testing"

	"ulvant/internal/platform/files"
)

// Bytes lie under their SHA-256 (FIPS 180-4, the example “abc”), once however
// often they are put; what breaks off leaves nothing behind.
func TestPut(t *testing.T) {
	dir := t.TempDir()
	s, err := files.Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	const abc = "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad"
	for range 2 {
		if sum, n, err := s.Put(strings.NewReader("abc")); err != nil || sum != abc || n != 3 {
			t.Errorf("%s, %d bytes, %v", sum, n, err)
		}
	}
	if b, err := os.ReadFile(s.Path(abc)); err != nil || string(b) != "abc" {
		t.Errorf("%q %v", b, err)
	}
	broken := io.MultiReader(bytes.NewReader(make([]byte, 100_000)), failing{errors.New("the line is cut")})
	if _, _, err := s.Put(broken); err == nil {
		t.Error("half a file was taken")
	}
	if list, _ := filepath.Glob(filepath.Join(dir, "tmp-*")); len(list) != 0 {
		t.Errorf("left behind: %v", list)
	}
	for range 2 {
		if err := s.Remove(abc); err != nil {
			t.Errorf("removing: %v", err)
		}
	}
}

// A full disk is known as one, however deep the error lies.
func TestFull(t *testing.T) {
	s, err := files.Open(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	if _, _, err := s.Put(failing{&os.PathError{Op: "write", Path: "x", Err: syscall.ENOSPC}}); !files.Full(err) {
		t.Errorf("no room: %v", err)
	}
	if _, _, err := s.Put(failing{errors.New("the line is cut")}); err == nil || files.Full(err) {
		t.Errorf("a line that is cut: %v", err)
	}
}

type failing struct{ err error }

func (f failing) Read([]byte) (int, error) { return 0, f.err }
