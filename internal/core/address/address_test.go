package address_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"dapper.example/internal/core/address"
)

func TestSlugs(t *testing.T) {
	t.Parallel()
	for text, want := range map[string]string{
		"Cables that can be found": "cables-that-can-be-found", "  Ünder the Möon! ": "under-the-moon", "🔭": "", "": "",
		strings.Repeat("starlight ", 12): strings.TrimSuffix(strings.Repeat("starlight-", 8), "-"),
	} {
		assert.Equal(t, want, address.Slug(text), text)
	}
	assert.Len(t, address.Slug(strings.Repeat("a", 300)), address.MaxSlug, "one long word is cut after all")
}

// Whatever is written, a slug is of ASCII letters, digits and hyphens, and short.
func TestSlugsAreReadable(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		s := address.Slug(rapid.String().Draw(t, "text"))
		if len(s) > address.MaxSlug || strings.Trim(s, "abcdefghijklmnopqrstuvwxyz0123456789-_") != "" {
			t.Fatalf("%q", s)
		}
	})
}

func ExamplePath() {
	fmt.Println(address.Path("dome", address.Slug("Clear tonight!")))
	// Output: /blog/dome/clear-tonight
}
