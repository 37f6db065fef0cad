// Package files keeps bytes by their SHA-256 in one folder. A file is written
// beside its place and renamed, so that a name always holds whole bytes.
package files

import (
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"syscall"
)

// Store is a folder of files.
type Store struct {
	root *os.Root
	dir  string
}

// Open makes the folder if need be. It and all in it are its owner's alone.
func Open(dir string) (*Store, error) {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, err
	}
	if err := os.Chmod(dir, 0o700); err != nil { // one from before may be anybody's
		return nil, err
	}
	root, err := os.OpenRoot(dir)
	return &Store{root, dir}, err
}

// Put stores bytes and returns their SHA-256 in hexadecimal.
func (s *Store) Put(r io.Reader) (sum string, size int64, err error) {
	tmp := "tmp-" + rand.Text()
	f, err := s.root.OpenFile(tmp, os.O_RDWR|os.O_CREATE|os.O_EXCL, 0o600)
	if err != nil {
		return "", 0, err
	}
	defer s.root.Remove(tmp)
	h := sha256.New()
	if size, err = io.Copy(io.MultiWriter(f, h), r); err == nil {
		err = f.Sync()
	}
	if cerr := f.Close(); err == nil {
		err = cerr
	}
	if err != nil {
		return "", 0, err
	}
	sum = hex.EncodeToString(h.Sum(nil))
	if err := s.root.Mkdir(sum[:2], 0o700); err != nil && !os.IsExist(err) {
		return "", 0, err
	}
	return sum, size, s.root.Rename(tmp, filepath.Join(sum[:2], sum))
}

// Full reports an error that is the folder's having no room left.
func Full(err error) bool {
	return errors.Is(err, syscall.ENOSPC) || errors.Is(err, syscall.EDQUOT)
}

// Remove deletes a file; one that is not there is no error.
func (s *Store) Remove(sum string) error {
	if err := os.Remove(s.Path(sum)); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	return nil
}

// Path of stored bytes, for programs that take a path.
func (s *Store) Path(sum string) string { return filepath.Join(s.dir, sum[:2], sum) }

// parts is the folder of files that have not arrived whole.
const parts = "parts"

// ErrLost: what is said to have arrived of a file is not here any more.
var ErrLost = errors.New("the part that had arrived is not in the folder")

func part(name string) string { return filepath.Join(parts, filepath.Base(name)) }

// Add writes what r gives to an unfinished file, behind the offset bytes that are
// known to be there, and flushes it. What lies beyond the offset is of a write
// that was cut off, and is written over. The bytes pass through seen as well.
func (s *Store) Add(name string, offset int64, r io.Reader, seen io.Writer) (n int64, err error) {
	if err := s.root.Mkdir(parts, 0o700); err != nil && !os.IsExist(err) {
		return 0, err
	}
	f, err := s.root.OpenFile(part(name), os.O_RDWR|os.O_CREATE, 0o600)
	if err != nil {
		return 0, err
	}
	defer f.Close()
	info, err := f.Stat()
	if err == nil && info.Size() < offset {
		err = ErrLost
	}
	if err == nil && info.Size() > offset {
		err = f.Truncate(offset)
	}
	if err == nil {
		_, err = f.Seek(offset, io.SeekStart)
	}
	if err != nil {
		return 0, err
	}
	if n, err = io.Copy(io.MultiWriter(f, seen), r); err == nil {
		err = f.Sync()
	}
	return n, err
}

// Whole puts an unfinished file in its place, under its SHA-256. The part stays
// until it is dropped, so that a transaction may still fail.
func (s *Store) Whole(name, sum string) error {
	if err := s.root.Mkdir(sum[:2], 0o700); err != nil && !os.IsExist(err) {
		return err
	}
	if err := s.root.Link(part(name), filepath.Join(sum[:2], sum)); err != nil && !errors.Is(err, fs.ErrExist) {
		return err
	}
	return nil
}

// Drop deletes an unfinished file; one that is not there is no error.
func (s *Store) Drop(name string) error {
	if err := s.root.Remove(part(name)); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	return nil
}

// Parts are the names of unfinished files.
func (s *Store) Parts() (out []string, err error) {
	list, err := os.ReadDir(filepath.Join(s.dir, parts))
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	}
	for _, e := range list {
		out = append(out, e.Name())
	}
	return out, err
}
