// Package limited holds work of a test to limits of time and memory. Only tests may use it.
package limited

import (
	"runtime"
	"testing"
	"time"
)

// Limit is how long any one piece of outside content may keep the program busy. It is far
// above what the machine needs, so that only work that grows out of hand meets it.
const Limit = 10 * time.Second

// Work does a piece of work and fails the test where it takes longer than Limit or
// allocates more than so many megabytes in all, freed ones too. It returns these.
// Nothing else may run in the process meanwhile.
func Work(t testing.TB, megabytes int, work func()) (allocated int) {
	t.Helper()
	stop := time.AfterFunc(Limit, func() { panic("the work is not done after " + Limit.String()) })
	defer stop.Stop()
	allocated = Spent(work)
	if allocated > megabytes {
		t.Fatalf("%d MB were allocated; the limit is %d", allocated, megabytes)
	}
	return allocated
}

// Spent does a piece of work and returns how many megabytes it allocated in all.
func Spent(work func()) int {
	var before, after runtime.MemStats
	runtime.ReadMemStats(&before)
	work()
	runtime.ReadMemStats(&after)
	return int(after.TotalAlloc-before.TotalAlloc) >> 20
}
