package stops

import (
	"fmt"
	"strings"
)

// Chatter is a circuit that never comes to rest: parts that switch one another on and off.
type Chatter struct {
	At    int
	Parts []string
}

func (e *Chatter) Error() string {
	return fmt.Sprintf("at %d ms these switch one another without end: %s", e.At, strings.Join(e.Parts, ", "))
}

func (r *play) chatter(now int) error {
	e := &Chatter{At: now}
	for i := range r.list {
		if r.list[i].moves > 10 {
			e.Parts = append(e.Parts, r.p.Name(r.list[i].id))
		}
	}
	return e
}
