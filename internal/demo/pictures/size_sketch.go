//go:build race || sketches

package pictures

// shrunk is by how much pictures are made smaller. The race detector makes drawing ten times slower, and
// neither what it looks for nor what the journeys do depends on their size.
const shrunk = 4
