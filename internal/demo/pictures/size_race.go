//go:build race

package pictures

// shrunk is by how much pictures are made smaller. The race detector makes drawing ten
// times slower, and what it looks for does not depend on their size.
const shrunk = 4
