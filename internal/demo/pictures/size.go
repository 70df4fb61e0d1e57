//go:build !race && !sketches

package pictures

// shrunk is by how much pictures are made smaller: not at all.
const shrunk = 1
