//go:build !race

// Package raced tells tests whether the race detector is on: it makes simulated time ten times as long.
package raced

// On is true under the race detector.
const On = false
