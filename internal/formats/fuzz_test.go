package formats_test

import (
	"errors"
	"strings"
	"testing"

	"dapper.example/internal/formats"
	"dapper.example/internal/limited"
)

// Whatever is sent as a plan file is refused as Problems, or read and answered.
func FuzzPlan(f *testing.F) {
	f.Add(`{"zone":"America/Halifax","from":"2026-11-24","days":7,"rhythm":{"gap":30,"seed":1,"openings":[
		{"key":"a","kind":"window","weekdays":["monday","friday"],"from":"08:00","to":"11:00","count":2}]},"shelf":[{"id":"1","deadline":"2026-11-25"},{"id":"2","notBefore":"2026-11-26T09:40"}]}`)
	f.Add(`{"from":"9999-12-31","days":732}`)
	f.Add(strings.Repeat(`{"a":`, 500))
	f.Add(`{` + strings.Repeat(`"a":1,`, 500) + `"b":2}`)
	f.Add(`{"days":1e400}`)
	f.Add("\ufeff{}")
	f.Fuzz(func(t *testing.T, text string) {
		limited.Work(t, 300, func() {
			plan, err := formats.ReadPlan(strings.NewReader(text))
			var problems formats.Problems
			if err != nil && !errors.As(err, &problems) {
				t.Fatalf("%T: %v", err, err)
			}
			if err != nil || plan.Days > 7 || len(plan.Rhythm.Openings) > 2 {
				return
			}
			if _, err := plan.Answer(); err != nil && !errors.As(err, &problems) {
				t.Fatalf("%T: %v", err, err)
			}
		})
	})
}
