package address_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"dapper.example/internal/core/address"
)

func TestHomes(t *testing.T) {
	shared := address.HomeOf("https://blog.example", "dome", "")
	own := address.HomeOf("https://blog.example:8443", "dome", "notes.example")
	for _, c := range []struct{ got, want string }{
		{shared.Full("a-post"), "https://blog.example/blog/dome/a-post"},
		{shared.Path(""), "/blog/dome/"},
		{shared.Of("/blog/dome/a-post"), "/blog/dome/a-post"},
		{shared.FullOf("/blog/dome/a-post"), "https://blog.example/blog/dome/a-post"},
		{shared.FullOf("/about"), "https://blog.example/about"},
		{own.Origin(), "https://notes.example:8443"},
		{own.Full(""), "https://notes.example:8443/"},
		{own.Path("feed.atom"), "/feed.atom"},
		{own.Of("/blog/dome/pictures/x.jpg"), "/pictures/x.jpg"},
		{own.Of("/blog/domestic/x"), "/blog/domestic/x"},
		{own.Of("https://else.example/blog/dome/x"), "https://else.example/blog/dome/x"},
		{own.FullOf("/blog/dome/x"), "https://notes.example:8443/x"},
		{own.FullOf("/blog/lanes/x"), "https://blog.example:8443/blog/lanes/x"},
		{own.FullOf("//else.example/x"), "//else.example/x"},
		{own.FullOf("mailto:a@b.example"), "mailto:a@b.example"},
		{address.HomeOf("http://127.0.0.1:8080", "dome", "notes.example").Full("x"), "http://notes.example:8080/x"},
	} {
		assert.Equal(t, c.want, c.got)
	}
	for written, path := range map[string]string{
		"/blog/dome/x": "x", "https://blog.example:8443/blog/dome/x?a=b": "x?a=b", "https://notes.example:8443/x": "x", "https://notes.example:8443/": "",
	} {
		got, ours := own.Within(written)
		assert.True(t, ours, written)
		assert.Equal(t, path, got, written)
	}
	for _, written := range []string{"/x", "/blog/lanes/x", "https://notes.example.evil.example/x", "https://else.example/blog/dome/x", ""} {
		_, ours := own.Within(written)
		assert.False(t, ours, written)
	}
}

func TestHostsOfABlogsOwn(t *testing.T) {
	for given, want := range map[string]string{
		"": "", "  ": "", "notes.example": "notes.example", " Notes.Example. ": "notes.example", "gärten.example": "xn--grten-gra.example",
		"a.b.c.example": "a.b.c.example", "notes.localhost": "notes.localhost",
	} {
		got, problem := address.Host(given, "https://blog.example")
		assert.Empty(t, problem, given)
		assert.Equal(t, want, got, given)
	}
	for given, says := range map[string]string{
		"https://notes.example": "without https://", "notes.example/": "without https://", "a@notes.example": "alone", "notes example": "alone",
		"notes.example:80": "without a port", "127.0.0.1": "not a number", "[::1]": "not a number", "::1": "not a number",
		"localhost": "with a dot", "notes": "with a dot", "blog.example": "program itself", "BLOG.example": "program itself",
		"-notes.example": "can’t be the name", "no_tes.example": "can’t be the name", "a..example": "can’t be the name", "🌱": "with a dot",
		strings.Repeat("a", 64) + ".example": "can’t be the name", strings.Repeat("a.", 127) + "example": "more than 253",
	} {
		_, problem := address.Host(given, "https://blog.example:8443")
		assert.Contains(t, problem, says, given)
	}
}

func TestTheHostThatARequestNames(t *testing.T) {
	for authority, want := range map[string]string{
		"notes.example": "notes.example", "Notes.Example:8080": "notes.example", "notes.example.": "notes.example", "127.0.0.1:8080": "", "[::1]:8080": "", "[::1]": "",
		"": "", "notes.example/x": "notes.example", strings.Repeat("a", 300): "", "localhost:8080": "localhost",
	} {
		assert.Equal(t, want, address.HostOf(authority), authority)
	}
}

func ExampleHomeOf() {
	home := address.HomeOf("https://blog.example", "dome", "notes.example")
	fmt.Println(home.Full("clear-tonight"))
	// Output: https://notes.example/clear-tonight
}
