package store

import (
	"archive/zip"
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"regexp"
	"sort"
)

// backupFormat names a copy of a whole data folder.
const backupFormat = "tingate-backup-1"

// backupManifest says what a copy holds, with the hash of each file.
type backupManifest struct {
	Format string            `json:"format"`
	Files  map[string]string `json:"files"`
}

// backupAllowed are the names in a copy; nothing else is unpacked.
var backupAllowed = regexp.MustCompile(
	`^(tingate\.sqlite|(families|practices)/[A-Za-z0-9_-][A-Za-z0-9_.-]{0,120}\.yaml|receiving/[0-9A-Za-z-]{1,64}\.part)$`,
)

// Backup writes a copy of a data folder into one file, while a server runs or not. The database in it is one state, checked before the file
// takes its name: an older copy of that name stays until then.
func Backup(ctx context.Context, folder, file string) error {
	if _, err := os.Stat(filepath.Join(folder, databaseName)); err != nil {
		return fmt.Errorf("%s: there is no database here", folder)
	}
	scratch, err := os.MkdirTemp(filepath.Dir(file), ".tingate-backup-")
	if err != nil {
		return &DiskError{"the copy cannot be written there", plain(err)}
	}
	defer os.RemoveAll(scratch)
	copied := filepath.Join(scratch, databaseName)
	if err := vacuumInto(ctx, filepath.Join(folder, databaseName), copied); err != nil {
		return Explain(err)
	}
	if _, err := Verify(ctx, scratch); err != nil {
		return fmt.Errorf("the copy is not sound, and was not kept: %w", err)
	}
	files := map[string]string{databaseName: copied}
	for _, pattern := range []string{FamilyFolder + "/*.yaml", PracticeFolder + "/*.yaml", spoolFolder + "/*.part"} {
		paths, err := filepath.Glob(filepath.Join(folder, pattern))
		if err != nil {
			return err
		}
		for _, p := range paths {
			files[filepath.Join(filepath.Base(filepath.Dir(p)), filepath.Base(p))] = p
		}
	}
	out := filepath.Join(scratch, "copy")
	if err := packBackup(out, files); err != nil {
		return &DiskError{"the copy could not be written whole, and was not kept", plain(err)}
	}
	return os.Rename(out, file)
}

func vacuumInto(ctx context.Context, from, to string) error {
	db, err := sql.Open("sqlite", address(from, "?_busy_timeout=5000&mode=ro"))
	if err != nil {
		return err
	}
	defer db.Close()
	if _, err = db.ExecContext(ctx, "VACUUM INTO ?", to); err != nil {
		return err
	}
	return os.Chmod(to, 0o600)
}

func packBackup(out string, files map[string]string) (err error) {
	f, err := os.OpenFile(out, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, f.Sync(), f.Close()) }()
	z := zip.NewWriter(f)
	m := backupManifest{backupFormat, map[string]string{}}
	names := make([]string, 0, len(files))
	for n := range files {
		names = append(names, n)
	}
	sort.Strings(names)
	for _, n := range names {
		w, err := z.Create(filepath.ToSlash(n))
		if err != nil {
			return err
		}
		h := sha256.New()
		if err := copyFile(io.MultiWriter(w, h), files[n]); err != nil {
			return err
		}
		m.Files[filepath.ToSlash(n)] = hex.EncodeToString(h.Sum(nil))
	}
	w, err := z.Create("manifest.json")
	if err != nil {
		return err
	}
	if err := json.NewEncoder(w).Encode(m); err != nil {
		return err
	}
	return z.Close()
}

func copyFile(w io.Writer, path string) error {
	f, err := os.Open(path)
	if err != nil {
		return err
	}
	defer f.Close()
	_, err = io.Copy(w, f)
	return err
}

// Restore puts a copy into a data folder that holds nothing yet. Every file is held against its hash and the database is verified before
// the folder is given over; what fails leaves the folder as it was.
func Restore(ctx context.Context, file, folder string) (Verified, error) {
	if _, err := os.Stat(filepath.Join(folder, databaseName)); err == nil {
		return Verified{}, fmt.Errorf("%s holds a database already: restore into an empty folder, look at it, then put it in place of "+
			"the other", folder)
	}
	z, err := zip.OpenReader(file)
	if err != nil {
		return Verified{}, fmt.Errorf("%s: got a file that is no whole copy (%w), want one that tingate backup wrote", file, plain(err))
	}
	defer z.Close()
	if err := os.MkdirAll(folder, 0o700); err != nil {
		return Verified{}, &DiskError{"the data folder cannot be written", plain(err)}
	}
	lock, err := os.OpenFile(filepath.Join(folder, lockName), os.O_CREATE|os.O_RDWR, 0o600)
	if err != nil {
		return Verified{}, &DiskError{"the data folder cannot be written", plain(err)}
	}
	defer lock.Close()
	if tryLock(lock) != nil {
		return Verified{}, &LockedError{folder, ""}
	}
	scratch, err := os.MkdirTemp(folder, ".restoring-")
	if err != nil {
		return Verified{}, &DiskError{"the data folder cannot be written", plain(err)}
	}
	defer os.RemoveAll(scratch)
	if err := unpackBackup(&z.Reader, file, scratch); err != nil {
		return Verified{}, err
	}
	v, err := Verify(ctx, scratch)
	if err != nil {
		return v, fmt.Errorf("%s: its database is damaged, and nothing was restored: %w", file, err)
	}
	// The database last: without it the folder still counts as empty.
	for _, n := range []string{FamilyFolder, PracticeFolder, spoolFolder, databaseName} {
		if _, err := os.Stat(filepath.Join(scratch, n)); err != nil {
			continue
		}
		if err := os.Rename(filepath.Join(scratch, n), filepath.Join(folder, n)); err != nil {
			return v, &DiskError{n + " could not be put into its place", plain(err)}
		}
	}
	return v, nil
}

func unpackBackup(z *zip.Reader, file, to string) error {
	bad := func(got, want string) error {
		return fmt.Errorf("%s: got %s, want %s; nothing was restored", file, got, want)
	}
	var m backupManifest
	seen := map[string]bool{}
	sums := map[string]string{}
	for _, f := range z.File {
		if seen[f.Name] || f.Name != "manifest.json" && !backupAllowed.MatchString(f.Name) {
			return bad(fmt.Sprintf("%q", f.Name), "each file of a copy once, and no other")
		}
		seen[f.Name] = true
		r, err := f.Open()
		if err != nil {
			return bad(f.Name+", which cannot be read", "a whole copy")
		}
		if f.Name == "manifest.json" {
			err = json.NewDecoder(io.LimitReader(r, 10<<20)).Decode(&m)
		} else {
			sums[f.Name], err = unpackOne(r, filepath.Join(to, filepath.FromSlash(f.Name)))
		}
		r.Close()
		if err != nil {
			return bad(fmt.Sprintf("%s, which is damaged (%v)", f.Name, plain(err)), "a whole copy")
		}
	}
	if m.Format != backupFormat {
		return bad(fmt.Sprintf("format %q", m.Format), backupFormat)
	}
	if len(m.Files) != len(sums) || sums[databaseName] == "" {
		return bad(fmt.Sprint(len(sums), " files"), fmt.Sprint("the ", len(m.Files), " of its manifest, the database among them"))
	}
	for n, sum := range sums {
		if m.Files[n] != sum {
			return bad(n+" with another hash than its manifest's", "a copy as it was written")
		}
	}
	return nil
}

func unpackOne(r io.Reader, path string) (sum string, err error) {
	if err := os.MkdirAll(filepath.Dir(path), 0o700); err != nil {
		return "", err
	}
	f, err := os.OpenFile(path, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return "", err
	}
	defer func() { err = errors.Join(err, f.Sync(), f.Close()) }()
	h := sha256.New()
	_, err = io.Copy(io.MultiWriter(f, h), r)
	return hex.EncodeToString(h.Sum(nil)), err
}
