package dialect

import (
	"slices"
)

// exact up to so many settings; beyond it the table of subsets grows too large.
const exactRoute = 12

func (k keyboard) order(start int, todo []int) []int {
	n := len(todo)
	before := k.precedence(todo)
	dist := make([][]int, n+1) // row n: from the start
	for i := range dist {
		dist[i] = make([]int, n)
		from := start
		if i < n {
			from = todo[i]
		}
		for j := range n {
			if i != j {
				dist[i][j] = Presses(k.walk(from, todo[j]))
			}
		}
	}
	var path []int
	if n <= exactRoute {
		path = leastRoute(dist, before)
	} else {
		path = nearRoute(dist, before)
	}
	out := make([]int, n)
	for i, p := range path {
		out[i] = todo[p]
	}
	return out
}

// precedence says for each setting which of the others must stand first: those that move or void it, and the access level.
func (k keyboard) precedence(todo []int) [][]bool {
	pos := map[string]int{}
	for p, i := range todo {
		pos[k.f.Settings[i].Code] = p
	}
	n := len(todo)
	before := make([][]bool, n)
	for p := range before {
		before[p] = make([]bool, n)
	}
	access, gated := pos[k.f.Access.Setting]
	for p, i := range todo {
		s := &k.f.Settings[i]
		for _, list := range []Words{s.Moves, s.Voids} {
			for _, code := range list {
				if q, ok := pos[code]; ok && q != p {
					before[q][p] = true
				}
			}
		}
		if last, _ := k.f.Keeps(); last != nil && k.f.Kept.Keypad == KeptOnCommand && s.Code != last.Code {
			if q, ok := pos[last.Code]; ok { // what keeps everything closes the list
				before[q][p] = true
			}
		}
		if gated && s.Access == "full" && p != access {
			before[p][access] = true
		}
	}
	return before
}

func ready(before [][]bool, done func(int) bool, p int) bool {
	for q, must := range before[p] {
		if must && !done(q) {
			return false
		}
	}
	return true
}

// leastRoute is the shortest order that keeps what must stand first, by the table of all subsets.
func leastRoute(dist [][]int, before [][]bool) []int {
	n := len(before)
	if n == 0 {
		return nil
	}
	const far = 1 << 30
	cost := make([]int, (1<<n)*n)
	from := make([]int8, (1<<n)*n)
	for i := range cost {
		cost[i] = far
	}
	for p := range n {
		if ready(before, func(int) bool { return false }, p) {
			cost[(1<<p)*n+p] = dist[n][p]
		}
	}
	for set := 1; set < 1<<n; set++ {
		for last := range n {
			c := cost[set*n+last]
			if c == far {
				continue
			}
			for p := range n {
				if set>>p&1 == 1 || !ready(before, func(q int) bool { return set>>q&1 == 1 }, p) {
					continue
				}
				at := (set|1<<p)*n + p
				if v := c + dist[last][p]; v < cost[at] {
					cost[at], from[at] = v, int8(last)
				}
			}
		}
	}
	set, last := 1<<n-1, 0
	for p := range n {
		if cost[set*n+p] < cost[set*n+last] {
			last = p
		}
	}
	path := make([]int, n)
	for i := n - 1; i >= 0; i-- {
		path[i] = last
		prev := int(from[set*n+last])
		set &^= 1 << last
		last = prev
	}
	return path
}

// nearRoute goes to the nearest that may come next, and then moves runs of up to three to where they cost less.
func nearRoute(dist [][]int, before [][]bool) []int {
	n := len(before)
	done := make([]bool, n)
	path := make([]int, 0, n)
	for at := n; len(path) < n; at = path[len(path)-1] {
		best := -1
		for p := range n {
			if !done[p] && ready(before, func(q int) bool { return done[q] }, p) && (best < 0 || dist[at][p] < dist[at][best]) {
				best = p
			}
		}
		if best < 0 {
			break // cannot be: circles are refused when the file is read
		}
		done[best] = true
		path = append(path, best)
	}
	total := func(l []int) int {
		c, at := 0, n
		for _, p := range l {
			c, at = c+dist[at][p], p
		}
		return c
	}
	best := total(path)
	for better := true; better; {
		better = false
		for run := 1; run <= 3; run++ {
			for i := 0; i+run <= n; i++ {
				for j := 0; j+run <= n; j++ {
					if i == j {
						continue
					}
					trial := slices.Concat(path[:i], path[i+run:])
					trial = slices.Insert(trial, j, path[i:i+run]...)
					if c := total(trial); c < best && keepsOrder(trial, before) {
						path, best, better = trial, c, true
					}
				}
			}
		}
	}
	return path
}

func keepsOrder(path []int, before [][]bool) bool {
	done := make([]bool, len(path))
	for _, p := range path {
		if !ready(before, func(q int) bool { return done[q] }, p) {
			return false
		}
		done[p] = true
	}
	return true
}
