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
