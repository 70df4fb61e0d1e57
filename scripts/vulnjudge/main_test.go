package main

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const config = `{"config":{"go_version":"go1.26.8"}}
{"osv":{"id":"GO-1","summary":"A parser may loop"}}
`

func TestWhatIsCalledInAModuleFails(t *testing.T) {
	v, err := judge(strings.NewReader(config+
		`{"finding":{"osv":"GO-1","fixed_version":"v1.2.3","trace":[{"module":"a.example/m","version":"v1.0.0"}]}}
		{"finding":{"osv":"GO-1","fixed_version":"v1.2.3","trace":[{"module":"a.example/m","version":"v1.0.0","package":"a.example/m/p","function":"Parse"},{"module":"dapper.example"}]}}`), false)
	require.NoError(t, err)
	assert.Equal(t, map[string]string{"GO-1": "GO-1 a.example/m@v1.0.0: A parser may loop (mended in v1.2.3)"}, v.Called)
	assert.Empty(t, v.Uncalled, "it is said once, where it matters")
	assert.Empty(t, v.Standard)
	assert.True(t, v.fails(true) && v.fails(false))
}

func TestTheStandardLibraryCountsAndWhatIsNotCalledIsOnlySaid(t *testing.T) {
	v, err := judge(strings.NewReader(config+
		`{"finding":{"osv":"GO-2","trace":[{"module":"stdlib","version":"v1.26.8","package":"net/http","function":"Get"}]}}
		{"finding":{"osv":"GO-3","trace":[{"module":"b.example/m","version":"v0.1.0","package":"b.example/m"}]}}
		{"finding":{"osv":"GO-4","trace":[{"module":"stdlib","version":"v1.26.8"}]}}`), false)
	require.NoError(t, err)
	assert.Empty(t, v.Called)
	assert.Contains(t, v.Standard, "GO-2")
	assert.NotContains(t, v.Standard, "GO-4")
	assert.True(t, v.fails(true), "go.mod can name a newer toolchain")
	assert.False(t, v.fails(false), "the machine's Go is older than that")
	assert.Contains(t, v.Uncalled["GO-3"], "mended in no version yet")
}

func TestNothingReadIsNotNothingFound(t *testing.T) {
	_, err := judge(strings.NewReader(""), false)
	assert.ErrorContains(t, err, "nothing was checked")
	_, err = judge(strings.NewReader("govulncheck: no such file"), true)
	assert.ErrorContains(t, err, "cannot be read")
}

func TestInAScanOfPackagesWhatIsImportedCounts(t *testing.T) {
	imported := `{"finding":{"osv":"GO-1","trace":[{"module":"a.example/m","version":"v1.0.0","package":"a.example/m/p"}]}}`
	v, err := judge(strings.NewReader(config+imported), true)
	require.NoError(t, err)
	assert.True(t, v.fails(false), "whether it is called has to be looked at")
	v, err = judge(strings.NewReader(config+imported), false)
	require.NoError(t, err)
	assert.False(t, v.fails(true), "it was looked at, and is not called")
	v, err = judge(strings.NewReader(config+`{"finding":{"osv":"GO-1","trace":[{"module":"a.example/m","version":"v1.0.0"}]}}`), true)
	require.NoError(t, err)
	assert.False(t, v.fails(true), "no package of that module is in the program")
}
