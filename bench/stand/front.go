package stand

import (
	"encoding/binary"
	"io"
	"math/rand/v2"
	"net"
	"sync"
	"time"
)

// What a stand-in says of itself by Modbus device identification (function 43/14 of the Modbus application protocol, basic identification),
// so that it is known for what it is on another port or machine too.
const (
	Vendor  = "Tin Gate"
	Product = "SIMULATED stand-in drive"
)

// front answers for the Modbus server behind it where the library has no answer: device identification. All else is passed on.
type front struct {
	l     net.Listener
	inner string
	delay time.Duration
	mu    sync.Mutex
	conns map[net.Conn]bool
	// What a poor network does to answers: late by up to so much, a share of them lost.
	late time.Duration
	lost float64
	rng  *rand.Rand
}

// poor sets what the network does to answers.
func (f *front) poor(late time.Duration, lost float64) {
	f.mu.Lock()
	defer f.mu.Unlock()
	f.late, f.lost = late, lost
}

// fate is what becomes of the next answer.
func (f *front) fate() (late time.Duration, lost bool) {
	f.mu.Lock()
	defer f.mu.Unlock()
	if f.late > 0 {
		late = time.Duration(f.rng.Int64N(int64(f.late)))
	}
	return late, f.lost > 0 && f.rng.Float64() < f.lost
}

// answers writes one to who asked, as the network lets it.
func (f *front) answers(c net.Conn, turn *sync.Mutex, answer []byte) error {
	late, lost := f.fate()
	time.Sleep(late)
	if lost {
		return nil
	}
	turn.Lock()
	defer turn.Unlock()
	_, err := c.Write(answer)
	return err
}

func newFront(l net.Listener, inner string, delay time.Duration) *front {
	f := &front{l: l, inner: inner, delay: delay, conns: map[net.Conn]bool{},
		rng: rand.New(rand.NewPCG(1, 0x6e6574))}
	go func() {
		for {
			c, err := l.Accept()
			if err != nil {
				return
			}
			if f.keep(c) {
				go f.serve(c)
			}
		}
	}()
	return f
}

// keep notes a connection that is to end with the front; false when it has ended already.
func (f *front) keep(c net.Conn) bool {
	f.mu.Lock()
	defer f.mu.Unlock()
	if f.conns == nil {
		c.Close()
		return false
	}
	f.conns[c] = true
	return true
}

func (f *front) drop(c net.Conn) {
	c.Close()
	f.mu.Lock()
	defer f.mu.Unlock()
	delete(f.conns, c)
}

// close ends it, and every connection.
func (f *front) close() {
	f.l.Close()
	f.mu.Lock()
	defer f.mu.Unlock()
	for c := range f.conns {
		c.Close()
	}
	f.conns = nil
}

// mostFrame is the longest request of Modbus TCP, after its length.
const mostFrame = 254

func (f *front) serve(c net.Conn) {
	defer f.drop(c)
	var (
		behind net.Conn
		turn   sync.Mutex // one answer at a time
	)
	defer func() {
		if behind != nil {
			f.drop(behind)
		}
	}()
	for {
		head := make([]byte, 7)
		if _, err := io.ReadFull(c, head); err != nil {
			return
		}
		n := int(binary.BigEndian.Uint16(head[4:]))
		if n < 2 || n > mostFrame {
			return
		}
		pdu := make([]byte, n-1)
		if _, err := io.ReadFull(c, pdu); err != nil {
			return
		}
		if len(pdu) >= 2 && pdu[0] == 0x2b && pdu[1] == 0x0e {
			time.Sleep(f.delay)
			if f.answers(c, &turn, framed(head, identity())) != nil {
				return
			}
			continue
		}
		if behind == nil {
			var err error
			if behind, err = net.Dial("tcp", f.inner); err != nil || !f.keep(behind) {
				return
			}
			go func(from net.Conn) {
				defer c.Close() // the server behind ended it
				buf := make([]byte, 512)
				for {
					n, err := from.Read(buf)
					if n > 0 && f.answers(c, &turn, buf[:n]) != nil {
						return
					}
					if err != nil {
						return
					}
				}
			}(behind)
		}
		if _, err := behind.Write(append(head, pdu...)); err != nil {
			return
		}
	}
}

// framed puts an answer behind the head of its request.
func framed(head, pdu []byte) []byte {
	out := append([]byte{}, head...)
	binary.BigEndian.PutUint16(out[4:], uint16(len(pdu)+1))
	return append(out, pdu...)
}

// identity is the answer to a request for the basic objects: vendor, product, revision.
func identity() []byte {
	out := []byte{0x2b, 0x0e, 0x01, 0x01, 0x00, 0x00, 3}
	for id, text := range []string{Vendor, Product, "1"} {
		out = append(append(out, byte(id), byte(len(text))), text...)
	}
	return out
}
