//go:build !race

package bench_test

const raced = false
