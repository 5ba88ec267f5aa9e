//go:build race

package bench_test

// raced: the race detector makes a simulated second ten times as long.
const raced = true
