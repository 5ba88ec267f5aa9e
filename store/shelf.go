package store

import (
	"math"
	"slices"
	"sync"
)

// mostShelved is how many bytes of rows, as they are stored, a shelf keeps in memory, of all documents together; beyond it, documents are
// put away as they come. Decoded they take some ten times as much.
const mostShelved = 12 << 20

// rowBytes is what a row takes beside what it says: ids, times, names.
const rowBytes = 400

// bytes is about what a change takes as it is stored.
func (c Change) bytes() int {
	n := rowBytes + len(c.Why)
	for _, op := range c.Ops {
		n += len(op.Path) + len(op.Old) + len(op.New)
	}
	return n
}

// shelf keeps rows of histories that were read, by document. A row of a history is never changed nor taken away once a person can see its
// document, so that it is read, held against its checksum and decoded once. What a reader may see of it is the database's word: how many
// rows, and up to which number.
type shelf[T any] struct {
	mu    sync.Mutex
	of    map[string][]T // by document, in the order of their numbers
	bytes map[string]int
	all   int // bytes
	seq   func(T) int64
	size  func(T) int
}

func newShelf[T any](seq func(T) int64, size func(T) int) *shelf[T] {
	return &shelf[T]{of: map[string][]T{}, bytes: map[string]int{}, seq: seq, size: size}
}

// upTo are the rows of a document up to a number, when they are n; none when the shelf has others.
func (s *shelf[T]) upTo(doc string, last int64, n int) []T {
	s.mu.Lock()
	kept := s.of[doc]
	s.mu.Unlock()
	kept = kept[:s.count(kept, last)]
	if len(kept) > n {
		return nil
	}
	return kept
}

// count is how many rows have a number up to last.
func (s *shelf[T]) count(rows []T, last int64) int {
	n, _ := slices.BinarySearchFunc(rows, last+1, func(row T, to int64) int { return int(s.seq(row) - to) })
	return n
}

// put keeps what a reader saw of a document, unless more is kept.
func (s *shelf[T]) put(doc string, rows []T) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if len(rows) <= len(s.of[doc]) {
		return
	}
	n := s.bytes[doc]
	for _, row := range rows[len(s.of[doc]):] {
		n += s.size(row)
	}
	if n > mostShelved {
		return
	}
	s.all += n - s.bytes[doc]
	s.of[doc], s.bytes[doc] = rows, n
	for other := range s.of {
		if s.all <= mostShelved {
			return
		}
		if other != doc {
			s.all -= s.bytes[other]
			delete(s.of, other)
			delete(s.bytes, other)
		}
	}
}

// empty forgets everything.
func (s *shelf[T]) empty() {
	s.mu.Lock()
	defer s.mu.Unlock()
	clear(s.of)
	clear(s.bytes)
	s.all = 0
}

// history reads the rows of a document in order: those that the shelf has not, from the database. What a transaction sees that is not
// committed is not kept. The caller may change the list, not what is in it.
func history[T any](r Reader, s *shelf[T], name, doc string, read func(after, upTo int64) ([]T, error)) ([]T, error) {
	if s == nil {
		return read(0, math.MaxInt64)
	}
	var n int
	var last int64
	if err := r.row(r.ctx, "extent_of_"+name, doc).Scan(&n, &last); err != nil {
		return nil, err
	}
	if n == 0 {
		return nil, nil
	}
	rows := s.upTo(doc, last, n)
	if len(rows) < n {
		after := int64(0)
		if len(rows) > 0 {
			after = s.seq(rows[len(rows)-1])
		}
		more, err := read(after, last)
		if err != nil {
			return nil, err
		}
		if rows = slices.Concat(rows, more); len(rows) != n { // other rows than those that are kept: never seen, and nothing is built on it
			s.empty()
			return read(0, last)
		}
		if !r.writes {
			s.put(doc, rows)
		}
	}
	return slices.Clone(rows), nil
}
