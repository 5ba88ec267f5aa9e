//go:build unix

package store

import (
	"errors"
	"os"
	"syscall"
)

// tryLock takes the lock of a data folder for this process, and fails at once where another has it. It goes with the process, however that
// ends.
func tryLock(f *os.File) error {
	return syscall.Flock(int(f.Fd()), syscall.LOCK_EX|syscall.LOCK_NB)
}

// noRoom tells whether a write failed because disk, quota or largest file are full.
func noRoom(err error) bool {
	return errors.Is(err, syscall.ENOSPC) || errors.Is(err, syscall.EDQUOT) || errors.Is(err, syscall.EFBIG)
}
