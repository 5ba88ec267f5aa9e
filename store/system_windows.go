//go:build windows

package store

import (
	"errors"
	"os"

	"golang.org/x/sys/windows"
)

// tryLock takes the lock of a data folder for this process, and fails at once where another has it. It goes with the process, however that
// ends. Locked bytes cannot be read by others here: the one that is locked lies far behind the address that a second process reads from the
// file.
func tryLock(f *os.File) error {
	return windows.LockFileEx(windows.Handle(f.Fd()), windows.LOCKFILE_EXCLUSIVE_LOCK|windows.LOCKFILE_FAIL_IMMEDIATELY, 0, 1, 0,
		&windows.Overlapped{OffsetHigh: 1})
}

// noRoom tells whether a write failed because disk or quota are full.
func noRoom(err error) bool {
	return errors.Is(err, windows.ERROR_DISK_FULL) || errors.Is(err, windows.ERROR_HANDLE_DISK_FULL) ||
		errors.Is(err, windows.ERROR_DISK_QUOTA_EXCEEDED)
}
