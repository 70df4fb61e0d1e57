package secrets

import (
	"crypto/aes"
	"crypto/cipher"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"encoding/hex"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
)

// Box seals what has to be read again, such as the tokens of channels, with AES-256 in Galois/Counter Mode
// (NIST SP 800-38D). It has one key to seal with and any number of older ones that open what was sealed
// before. What is sealed says by which key: "s1.KEY.DATA", both in base64 for addresses.
type Box struct {
	keys []key
}

type key struct {
	name string
	aead cipher.AEAD
}

// KeySize is that of a key, in bytes.
const KeySize = 32

// sealed begins what is sealed.
const sealed = "s1."

// ErrNoKey says that something was sealed with a key that the box does not have.
var ErrNoKey = errors.New("it was sealed with another key: add that key behind the present one")

// NewKey draws a key, as it is written in configuration.
func NewKey() string {
	var b [KeySize]byte
	rand.Read(b[:])
	return base64.StdEncoding.EncodeToString(b[:])
}

// NewBox returns a box with keys in base64 (RFC 4648), parted by commas or white space; the first seals.
func NewBox(keys string) (*Box, error) {
	box := &Box{}
	for _, text := range strings.FieldsFunc(keys, func(r rune) bool { return r == ',' || r == ' ' || r == '\n' || r == '\r' || r == '\t' }) {
		raw, err := base64.StdEncoding.DecodeString(text)
		if err != nil || len(raw) != KeySize {
			return nil, fmt.Errorf("a key for tokens is %d bytes in base64, as `openssl rand -base64 %d` makes one", KeySize, KeySize)
		}
		block, err := aes.NewCipher(raw)
		if err != nil {
			return nil, err
		}
		aead, err := cipher.NewGCM(block)
		if err != nil {
			return nil, err
		}
		sum := sha256.Sum256(append([]byte("name of a key: "), raw...))
		box.keys = append(box.keys, key{hex.EncodeToString(sum[:4]), aead})
	}
	if len(box.keys) == 0 {
		return nil, errors.New("there is no key for tokens")
	}
	return box, nil
}

// BoxFromFile returns a box with the keys of a file, which is made with a new one where it is missing.
func BoxFromFile(path string) (*Box, error) {
	text, err := os.ReadFile(path)
	if errors.Is(err, fs.ErrNotExist) {
		if text, err = makeKeyFile(path); err != nil {
			return nil, fmt.Errorf("making a key for tokens: %w", err)
		}
	}
	if err != nil {
		return nil, fmt.Errorf("reading the key for tokens: %w", err)
	}
	return NewBox(string(text))
}

// makeKeyFile makes a file with a key. Of several processes that do so at once one wins.
func makeKeyFile(path string) ([]byte, error) {
	if err := os.MkdirAll(filepath.Dir(path), 0o700); err != nil {
		return nil, err
	}
	file, err := os.CreateTemp(filepath.Dir(path), ".key")
	if err != nil {
		return nil, err
	}
	defer os.Remove(file.Name())
	if _, err = file.WriteString(NewKey() + "\n"); err == nil {
		err = file.Close()
	}
	if err != nil {
		return nil, err
	}
	if err := os.Link(file.Name(), path); err != nil && !errors.Is(err, fs.ErrExist) {
		return nil, err
	}
	return os.ReadFile(path)
}

// Seal seals a text; "" stays "".
func (b *Box) Seal(text string) string {
	if text == "" {
		return ""
	}
	k := b.keys[0]
	nonce := make([]byte, k.aead.NonceSize())
	rand.Read(nonce)
	data := k.aead.Seal(nonce, nonce, []byte(text), []byte(k.name))
	return sealed + k.name + "." + base64.RawURLEncoding.EncodeToString(data)
}

// Open opens what was sealed; "" stays "". It fails with ErrNoKey where no key fits. What was never sealed, as
// tokens were before there was a box, is returned as it is.
func (b *Box) Open(text string) (string, error) {
	rest, is := strings.CutPrefix(text, sealed)
	if !is {
		return text, nil
	}
	name, data, _ := strings.Cut(rest, ".")
	raw, err := base64.RawURLEncoding.DecodeString(data)
	if err != nil {
		return "", fmt.Errorf("what was sealed is broken: %w", err)
	}
	for _, k := range b.keys {
		if k.name != name || len(raw) < k.aead.NonceSize() {
			continue
		}
		n := k.aead.NonceSize()
		open, err := k.aead.Open(nil, raw[:n], raw[n:], []byte(name))
		if err != nil {
			return "", fmt.Errorf("what was sealed is broken: %w", err)
		}
		return string(open), nil
	}
	return "", ErrNoKey
}

// IsCurrent tells whether a text is sealed with the key that seals now, or empty.
func (b *Box) IsCurrent(text string) bool {
	return text == "" || strings.HasPrefix(text, sealed+b.keys[0].name+".")
}
