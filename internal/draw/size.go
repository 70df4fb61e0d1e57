//go:build !race

package draw

// shrunk is by how much pictures are made smaller: not at all.
const shrunk = 1
