package app_test

import (
	"bytes"
	"errors"
	"path/filepath"
	"strings"
	"syscall"
	"testing"

	"tingate/app/base"
	"tingate/app/drives"
	"tingate/core/drivefile"
	"tingate/store"
	"tingate/testtools/raced"
)

// The disk fills while it serves: what does not fit is refused whole and said, a family that was not kept is not known, and with room it
// goes on.
func TestTheDiskFills(t *testing.T) {
	raced.Skip(t)
	t.Parallel()
	disk := t.TempDir()
	if err := syscall.Mount("tmpfs", disk, "tmpfs", 0, "size=1600k"); err != nil {
		t.Skip("a small disk of memory cannot be had here: ", err)
	}
	t.Cleanup(func() { _ = syscall.Unmount(disk, 0) })
	d := open(t, filepath.Join(disk, "data"))
	t.Cleanup(func() { _ = d.store.Close() }) // before the disk goes
	d.place, d.rh = base.NewID(), base.Actor{Person: base.NewID()}
	d.ok(d.CreatePlace(ctx, d.place, "P", drivefile.Simulated, "UTC", map[string]drivefile.Person{d.rh.Person: {Initials: "RH"}}))
	id := base.NewID()
	_, err := d.CreateDrive(ctx, d.rh, drives.NewDrive{ID: id, Place: d.place, Sets: []drives.Set{{Path: "tag", Text: "F-1"}}})
	d.ok(err)
	big := append(skua(), "\n# "+strings.Repeat("x", 2<<20)...)
	var full *store.DiskError
	if _, err := d.AddFamily(ctx, d.rh, big); !errors.As(err, &full) || !strings.Contains(full.What, "full") || d.FamilyOf("Skua") != nil {
		t.Errorf("a family that does not fit: %v", err)
	}
	if left, _ := filepath.Glob(filepath.Join(d.folder, "families", "*")); len(left) != 0 {
		t.Errorf("left there: %v", left)
	}
	acked := map[string]bool{}
	for range 400 {
		entry := base.NewID()
		err := d.Attach(ctx, d.rh, id, entry, "plate", "motor-plate", append(bytes.Clone(png), bytes.Repeat([]byte(entry), 600)...))
		if errors.As(err, &full) {
			break
		}
		d.ok(err)
		acked[entry] = true
	}
	if !errors.As(err, &full) && len(acked) == 400 {
		t.Fatal("the disk never filled")
	}
	must(t, syscall.Mount("tmpfs", disk, "tmpfs", syscall.MS_REMOUNT, "size=16m"))
	d.set(d.rh, id, "notes", "room again")
	if _, err := d.AddFamily(ctx, d.rh, big); err != nil || d.FamilyOf("Skua") == nil {
		t.Errorf("with room: %v", err)
	}
	rows, err := d.History(ctx, id)
	d.ok(err)
	for _, r := range rows {
		delete(acked, r.ID)
	}
	if len(acked) > 0 {
		t.Errorf("%d acknowledged photos are lost", len(acked))
	}
	if _, err := store.Verify(ctx, d.folder); err != nil {
		t.Error(err)
	}
}
