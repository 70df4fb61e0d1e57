package secrets_test

import (
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/secrets"
)

func TestWhatIsSealedIsOpenedByItsKey(t *testing.T) {
	t.Parallel()
	old, other := secrets.NewKey(), secrets.NewKey()
	box, err := secrets.NewBox(old)
	require.NoError(t, err)
	text := box.Seal("token of Lantern")
	assert.NotContains(t, text, "token")
	assert.NotEqual(t, text, box.Seal("token of Lantern"), "never twice the same")
	open, err := box.Open(text)
	require.NoError(t, err)
	assert.Equal(t, "token of Lantern", open)
	assert.True(t, box.IsCurrent(text))

	next, err := secrets.NewBox(other + ",\n" + old)
	require.NoError(t, err)
	open, err = next.Open(text)
	require.NoError(t, err, "an older key opens still")
	assert.Equal(t, "token of Lantern", open)
	assert.False(t, next.IsCurrent(text))
	assert.True(t, next.IsCurrent(next.Seal(open)))
	alone, err := secrets.NewBox(other)
	require.NoError(t, err)
	_, err = alone.Open(text)
	require.ErrorIs(t, err, secrets.ErrNoKey)
	for _, broken := range []string{text[:len(text)-2], text + "AA", strings.Replace(text, ".", ".x", 2), "s1.", "s1.x.!"} {
		got, err := next.Open(broken)
		assert.Error(t, err, broken)
		assert.Empty(t, got)
	}
	assert.Empty(t, box.Seal(""))
	plain, err := box.Open("kept before there was a box")
	require.NoError(t, err)
	assert.Equal(t, "kept before there was a box", plain)
	assert.False(t, box.IsCurrent(plain))
}

func TestKeysThatAreNone(t *testing.T) {
	t.Parallel()
	for _, keys := range []string{"", " , ", "short", "!", secrets.NewKey() + "x", secrets.NewKey() + ",AAAA"} {
		_, err := secrets.NewBox(keys)
		assert.Error(t, err, keys)
	}
}

// Of several programs that start at once all have the same key.
func TestAKeyFileIsMadeOnce(t *testing.T) {
	t.Parallel()
	path := filepath.Join(t.TempDir(), "deep", "token-key")
	var wait sync.WaitGroup
	texts := make([]string, 8)
	for i := range texts {
		wait.Go(func() {
			box, err := secrets.BoxFromFile(path)
			if assert.NoError(t, err) {
				texts[i] = box.Seal("x")
			}
		})
	}
	wait.Wait()
	box, err := secrets.BoxFromFile(path)
	require.NoError(t, err)
	for _, text := range texts {
		assert.True(t, box.IsCurrent(text))
	}
	info, err := os.Stat(path)
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), info.Mode().Perm())
	require.NoError(t, os.WriteFile(path, []byte("nonsense"), 0o600))
	_, err = secrets.BoxFromFile(path)
	assert.ErrorContains(t, err, "32 bytes in base64")
}
