package store

import (
	"bytes"
	"context"
	"crypto/rand"
	"database/sql"
	"encoding/binary"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"sync"
)

// lockName is the file by which one process holds a data folder.
const lockName = "lock"

// beginName is there while a new database is made: an empty one beside it is no loss, an empty one without it is.
const beginName = "beginning"

// begin readies the place of the database. It tells whether the database is new; one that is there and holds nothing is refused.
func (s *Store) begin(path string) (began bool, err error) {
	mark := filepath.Join(s.folder, beginName)
	st, err := os.Stat(path)
	_, unfinished := os.Stat(mark)
	switch {
	case err == nil && st.Size() == 0 && unfinished != nil:
		return false, &DiskError{"the database file is empty (0 bytes): what it held is gone from here. Put back a copy (tingate restore)",
			errors.New(path)}
	case err == nil && unfinished != nil:
		return false, nil
	case err != nil && !errors.Is(err, fs.ErrNotExist):
		return false, &DiskError{"the data folder cannot be read", plain(err)}
	}
	if err := os.WriteFile(mark, nil, 0o600); err != nil {
		return false, &DiskError{"the data folder cannot be written", plain(err)}
	}
	f, err := os.OpenFile(path, os.O_CREATE|os.O_RDWR, 0o600)
	if err != nil {
		return false, &DiskError{"the data folder cannot be written", plain(err)}
	}
	return true, f.Close()
}

// mark gives a new database a number of its own, by which it is known from another that was copied over it.
func (s *Store) mark(w *sql.DB) error {
	var b [4]byte
	_, _ = rand.Read(b[:]) // it never fails
	if _, err := w.ExecContext(context.Background(),
		fmt.Sprintf("PRAGMA user_version = %d", int32(binary.BigEndian.Uint32(b[:])))); err != nil {
		return err
	}
	if _, err := w.ExecContext(context.Background(), "PRAGMA wal_checkpoint(TRUNCATE)"); err != nil {
		return err
	}
	return os.Remove(filepath.Join(s.folder, beginName))
}

// folderState is what the folder's files were when they were looked at last. Once one of them is another, nothing is written any more.
type folderState struct {
	mu     sync.Mutex
	files  map[string]fs.FileInfo
	size   int64
	head   []byte // of the database: what it is, and its own number
	broken error
}

// look makes sure that the folder's files are those that this process holds open: a removed or replaced file would take what is written
// with it.
func (k *folderState) look(folder string) error {
	k.mu.Lock()
	defer k.mu.Unlock()
	if k.broken != nil {
		return k.broken
	}
	if k.files == nil {
		k.files = map[string]fs.FileInfo{}
	}
	for _, name := range []string{lockName, databaseName, databaseName + "-wal"} {
		now, err := os.Stat(filepath.Join(folder, name))
		was, known := k.files[name]
		switch {
		case err != nil && !known && name != lockName && name != databaseName: // not made yet
		case err != nil:
			return k.breaks(name+" has gone from the data folder", err)
		case known && !os.SameFile(was, now):
			return k.breaks(name+" in the data folder is another file than the one that was opened", nil)
		default:
			k.files[name] = now
		}
		if err == nil && name == databaseName {
			if now.Size() < k.size {
				return k.breaks(fmt.Sprintf("the database file was cut off, from %d to %d bytes", k.size, now.Size()), nil)
			}
			k.size = now.Size()
		}
	}
	head, err := headOf(filepath.Join(folder, databaseName))
	if err == nil && k.head != nil && !bytes.Equal(head, k.head) {
		return k.breaks("the database file holds another database than the one that was opened", nil)
	}
	if err != nil {
		return k.breaks("the database file cannot be read", err)
	}
	k.head = head
	return nil
}

// breakOff stops all writing for a reason found elsewhere.
func (k *folderState) breakOff(err error) {
	k.mu.Lock()
	defer k.mu.Unlock()
	_ = k.breaks(strings.TrimSuffix(err.Error(), "."), err) // it is kept there
}

func (k *folderState) breaks(what string, err error) error {
	if err == nil {
		err = errors.New("found when it was looked at before writing")
	}
	k.broken = &DiskError{what + ": nothing more is stored, and what was not acknowledged is not kept. Put the folder back and start " +
		"Tin Gate again", plain(err)}
	return k.broken
}

// headOf are the bytes of a database file that say what it is and which: the first 16, and the user version at 60.
func headOf(path string) ([]byte, error) {
	f, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	b := make([]byte, 64)
	n, err := f.ReadAt(b, 0)
	if n < 64 {
		return nil, err
	}
	return append(b[:16:16], b[60:64]...), nil
}

// Kinds of file that people put into the data folder, each in a folder of its own.
const (
	FamilyFolder   = "families"
	PracticeFolder = "practices"
)

// Files reads the files of a kind that people put into the data folder, by file name.
func (s *Store) Files(kind string) (map[string][]byte, error) {
	paths, err := filepath.Glob(filepath.Join(s.folder, kind, "*.yaml"))
	if err != nil {
		return nil, err
	}
	out := map[string][]byte{}
	for _, p := range paths {
		raw, err := os.ReadFile(p)
		if err != nil {
			return out, fmt.Errorf("%s: %w", p, plain(err))
		}
		out[filepath.Base(p)] = raw
	}
	return out, nil
}

// KeepFile stores a file of a kind in the data folder, whole and on the disk, or not at all. One of the same bytes is left alone.
func (s *Store) KeepFile(kind, name string, raw []byte) error {
	if err := s.kept.look(s.folder); err != nil {
		return err
	}
	dir := filepath.Join(s.folder, kind)
	path := filepath.Join(dir, name+".yaml")
	if have, err := os.ReadFile(path); err == nil && bytes.Equal(have, raw) {
		return nil
	}
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return cannotKeep(err)
	}
	return WriteWhole(path, raw)
}

// WriteWhole puts a file into its place whole and on the disk, or leaves what was there.
func WriteWhole(path string, raw []byte) error {
	f, err := os.OpenFile(path+".new", os.O_CREATE|os.O_TRUNC|os.O_WRONLY, 0o600)
	if err != nil {
		return cannotKeep(err)
	}
	_, err = f.Write(raw)
	err = errors.Join(err, f.Sync(), f.Close())
	if err == nil {
		err = os.Rename(path+".new", path)
	}
	if err != nil {
		_ = os.Remove(path + ".new") // the first error is the one to tell
		return cannotKeep(err)
	}
	if d, err := os.Open(filepath.Dir(path)); err == nil {
		_ = d.Sync() // the name as well; not every file system can
		_ = d.Close()
	}
	return nil
}

func cannotKeep(err error) error {
	what := "the data folder cannot be written: nothing of this was stored"
	if noRoom(err) {
		what = "the disk is full: nothing of this was stored; make room and try again"
	}
	return &DiskError{what, plain(err)}
}
