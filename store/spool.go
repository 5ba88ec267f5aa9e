package store

import (
	"errors"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"time"
)

// spoolFolder holds what is being received and is not kept in the database yet.
const spoolFolder = "receiving"

// Spool is a file of lines that outlives this process when it is killed: what was received is found again at the next start.
type Spool struct {
	f      *os.File
	synced time.Time
}

// NewSpool begins one. name is used once.
func (s *Store) NewSpool(name string) (*Spool, error) {
	if err := s.kept.look(s.folder); err != nil {
		return nil, err
	}
	dir := filepath.Join(s.folder, spoolFolder)
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, &DiskError{"the data folder cannot be written: nothing can be recorded", err}
	}
	f, err := os.OpenFile(filepath.Join(dir, name+".part"), os.O_CREATE|os.O_EXCL|os.O_WRONLY|os.O_APPEND, 0o600)
	if err != nil {
		return nil, &DiskError{"the data folder cannot be written: nothing can be recorded", err}
	}
	return &Spool{f: f}, nil
}

// Line adds a line. It is on the disk within a second, even when the power goes.
func (p *Spool) Line(text string) error {
	if _, err := p.f.WriteString(text + "\n"); err != nil {
		return &DiskError{"the data folder cannot be written: what comes now is not kept", err}
	}
	if now := time.Now(); now.Sub(p.synced) > time.Second {
		p.synced = now
		return p.f.Sync()
	}
	return nil
}

// Close ends it; the file stays until it is dropped.
func (p *Spool) Close() error { return errors.Join(p.f.Sync(), p.f.Close()) }

// Spools are the lines of all that was begun and not dropped, by name. A last line that was cut off is left out.
func (s *Store) Spools() (map[string][]string, error) {
	paths, err := filepath.Glob(filepath.Join(s.folder, spoolFolder, "*.part"))
	if err != nil {
		return nil, err
	}
	out := map[string][]string{}
	for _, p := range paths {
		lines, err := spoolLines(p)
		if err != nil {
			return out, err
		}
		out[strings.TrimSuffix(filepath.Base(p), ".part")] = lines
	}
	return out, nil
}

// Spooled are the lines of one.
func (s *Store) Spooled(name string) ([]string, error) {
	return spoolLines(filepath.Join(s.folder, spoolFolder, name+".part"))
}

func spoolLines(path string) ([]string, error) {
	raw, err := os.ReadFile(path)
	if err != nil {
		return nil, plain(err)
	}
	lines := strings.Split(string(raw), "\n")
	return lines[:len(lines)-1], nil // what stands behind the last end of line was cut off, or is nothing
}

// DropSpool removes one whose lines are kept elsewhere.
func (s *Store) DropSpool(name string) error {
	if err := os.Remove(filepath.Join(s.folder, spoolFolder, name+".part")); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return plain(err)
	}
	return nil
}

// Scratch is a file in the data folder for what is being taken in; drop closes and removes it. What a killed process left is removed at the
// next start.
func (s *Store) Scratch(what string) (f *os.File, drop func(), err error) {
	dir := filepath.Join(s.folder, scratchFolder)
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, nil, cannotKeep(err)
	}
	if f, err = os.CreateTemp(dir, what+"-*"); err != nil {
		return nil, nil, cannotKeep(err)
	}
	return f, func() {
		_ = f.Close() // it is thrown away
		_ = os.Remove(f.Name())
	}, nil
}

// scratchFolder holds what is on its way and is kept nowhere else.
const scratchFolder = "coming"
