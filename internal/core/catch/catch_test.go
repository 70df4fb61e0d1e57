package catch_test

import (
	"cmp"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/core/catch"
)

var start = time.Date(2026, 11, 24, 12, 0, 0, 0, time.UTC)

// stretches is a rule of which each post belongs from one hour up to another.
type stretches struct {
	from, to []int
	key      []int64
}

func hour(h int) time.Time { return start.Add(time.Duration(h) * time.Hour) }

func (s *stretches) Judge(i int, at time.Time) (bool, time.Time) {
	switch {
	case at.Before(hour(s.from[i])):
		return false, hour(s.from[i])
	case at.Before(hour(s.to[i])):
		return true, hour(s.to[i])
	}
	return false, time.Time{}
}

func (s *stretches) Key(i int) catch.Key { return catch.Key{First: s.key[i], Tie: uint64(i)} }

// A pool that moves on and is touched holds what one that is made anew would.
func TestAPoolIsWhatAskingAllWouldGive(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := &stretches{}
		draw := func(i int) {
			s.from[i] = rapid.IntRange(-5, 40).Draw(t, "from")
			s.to[i] = s.from[i] + rapid.IntRange(0, 30).Draw(t, "for")
			s.key[i] = rapid.Int64Range(0, 5).Draw(t, "key")
		}
		grow := func() {
			s.from, s.to, s.key = append(s.from, 0), append(s.to, 0), append(s.key, 0)
			draw(len(s.from) - 1)
		}
		for range rapid.IntRange(0, 12).Draw(t, "posts") {
			grow()
		}
		at := start
		pool := catch.New(s, len(s.from), at, hour(60))
		for range 15 {
			switch rapid.IntRange(0, 3).Draw(t, "do") {
			case 0:
				at = at.Add(time.Duration(rapid.IntRange(0, 10).Draw(t, "on")) * time.Hour)
				pool.Advance(at)
			case 1:
				if len(s.from) > 0 {
					i := rapid.IntRange(0, len(s.from)-1).Draw(t, "post")
					draw(i)
					pool.Touch(i)
				}
			case 2:
				grow()
				pool.Add()
			}
			var want []int
			for i := range s.from {
				belongs, _ := s.Judge(i, at)
				require.Equal(t, belongs, pool.Has(i))
				if belongs {
					want = append(want, i)
				}
			}
			require.Equal(t, len(want), pool.Len())
			require.Equal(t, want, slices.Collect(pool.All()))
			slices.SortFunc(want, func(a, b int) int {
				return cmp.Or(cmp.Compare(s.key[a], s.key[b]), cmp.Compare(a, b))
			})
			require.Equal(t, want, slices.Collect(pool.InOrder()))
			for first := range pool.InOrder() {
				require.Equal(t, want[0], first)
				break
			}
		}
	})
}

// Beyond its end, a pool keeps no account of turns to come.
func TestAnEndSparesTurns(t *testing.T) {
	s := &stretches{from: []int{5}, to: []int{9}, key: []int64{0}}
	pool := catch.New(s, 1, start, hour(4))
	pool.Advance(hour(6))
	require.False(t, pool.Has(0))
}

// A turn that is further away than nanoseconds tell does not come at once.
func TestWhatTurnsInAThousandYearsIsNotAskedAgain(t *testing.T) {
	asked := &distant{}
	pool := catch.New(asked, 3, hour(0), time.Time{})
	pool.Advance(hour(1))
	require.Equal(t, 3, asked.n)
	require.Equal(t, 3, pool.Len())
}

type distant struct{ n int }

func (d *distant) Judge(int, time.Time) (bool, time.Time) {
	d.n++
	return true, time.Date(3026, 1, 1, 0, 0, 0, 0, time.UTC)
}

func (d *distant) Key(post int) catch.Key { return catch.Key{First: int64(post)} }
