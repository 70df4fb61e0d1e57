package e2e

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/civil"
)

// The best hours of a year become the openings of a rule: they are filled in, and nothing changes before they are saved.
func TestBestHoursBecomeOpenings(t *testing.T) {
	thorough(t)
	t.Parallel()
	a := newApp(t)
	a.signIn("/quillmoor/results?days=365")
	a.sees("Better than the usual hour:")
	a.sees("Friday, 16:00 to 19:00")
	a.audit("results of a year")
	a.click("Use these hours")
	a.press(`//*[@role="menuitem"][contains(., "Workbench, morning and noon")]`)
	a.sees("Nothing changes until you save it.")
	require.Equal(t, cadence.Every, a.ruleCalled("Workbench, morning and noon").Cadence.By)
	a.click("Save rule")
	a.sees("Rule saved.")
	kept := a.ruleCalled("Workbench, morning and noon").Cadence
	require.Equal(t, cadence.Openings, kept.By)
	require.Len(t, kept.Openings, 1)
	assert.Equal(t, civil.MustClock("16:00"), kept.Openings[0].From)
	assert.Equal(t, civil.MustClock("19:00"), kept.Openings[0].To)

	// The rhythm is offered them as well, beside its own.
	a.do(gone(control("Discard changes")))
	a.open("/quillmoor/results?days=365")
	a.click("Use these hours")
	a.press(`//*[@role="menuitem"][contains(., "As more openings of the rhythm")]`)
	a.sees("Nothing changes until you save the rhythm.")
	a.click("Discard changes")
}

// Posts that were never shared lead to tours of them.
func TestNeverSharedLeadsToTours(t *testing.T) {
	thorough(t)
	t.Parallel()
	a := newApp(t)
	a.signIn("/quillmoor/results?by=line&days=365")
	a.sees("12 posts that are out were never shared")
	a.audit("results by line")
	a.click("Tours of these…")
	a.click("Begin 12 tours")
	a.sees("Two old friends and a comet")
	a.sees("Draft")
}
