package store

import (
	"crypto/sha256"
	"database/sql/driver"
	"encoding/binary"
	"fmt"
	"hash"
	"math"

	"modernc.org/sqlite"
)

// row_sum is known to every connection: a checksum of all values of a row, in their order, each with its kind and length. It is the first
// eight bytes of their SHA-256, as a number that SQLite can hold.
func init() {
	sqlite.MustRegisterDeterministicScalarFunction("row_sum", -1,
		func(_ *sqlite.FunctionContext, args []driver.Value) (driver.Value, error) {
			return rowSum(args)
		})
}

func rowSum(values []driver.Value) (int64, error) {
	h := sha256.New()
	for _, v := range values {
		switch v := v.(type) {
		case nil:
			part(h, 'n', nil)
		case string:
			part(h, 't', []byte(v))
		case []byte:
			part(h, 'b', v)
		case int64:
			part(h, 'i', binary.BigEndian.AppendUint64(nil, uint64(v)))
		case float64:
			part(h, 'f', binary.BigEndian.AppendUint64(nil, math.Float64bits(v)))
		default:
			return 0, fmt.Errorf("row_sum of a %T", v)
		}
	}
	return int64(binary.BigEndian.Uint64(h.Sum(nil))), nil
}

func part(h hash.Hash, kind byte, b []byte) {
	h.Write(binary.BigEndian.AppendUint64([]byte{kind}, uint64(len(b)))) // a hash never fails
	h.Write(b)
}

// DamagedError is a row that is not as it was written: a bit of the file was flipped, or it was changed past the program. It is never given
// out as valid. What says what kind of row it is, ID which one: for who mends the file, not for who works with it.
type DamagedError struct{ What, ID string }

// damaged are what people call the rows of the tables.
var damaged = map[string]string{"document": "a drive or place", "change": "a change in a history", "entry": "an entry in a history",
	"attachment": "a kept file", "kept file": "a kept file", "glance": "a line of the Yard", "table": "one of its tables"}

func (e *DamagedError) Error() string {
	what := e.What
	if w := damaged[what]; w != "" {
		what = w
	}
	return fmt.Sprintf("The database file is damaged: %s is not as it was written. Nothing of it is shown as valid. Put back a copy "+
		"(tingate restore); tingate verify names the row.", what)
}

// sound turns a checksum's verdict into an error.
func sound(ok bool, what, id string) error {
	if ok {
		return nil
	}
	return &DamagedError{what, id}
}
