// Package signed signs what is sent to webhooks, and tells whether what came in was signed, by the Standard Webhooks
// specification: HMAC-SHA256 (RFC 2104) over "id.timestamp.body". It is pure: callers say what time it is.
package signed

import (
	"crypto/hmac"
	"crypto/sha256"
	"encoding/base64"
	"errors"
	"fmt"
	"strconv"
	"strings"
	"time"
)

// The headers of a signed message.
const (
	IDHeader        = "Webhook-Id"        // the same for the same message, however often it is sent
	TimestampHeader = "Webhook-Timestamp" // of the try, in Unix seconds
	SignatureHeader = "Webhook-Signature" // one or more, with a space between them
)

// Tolerance is by how much the timestamp of a message may differ from the present moment, either way.
const Tolerance = 5 * time.Minute

const (
	prefix  = "whsec_"
	version = "v1,"
	// SecretSize is that of a secret, in bytes; the specification wants 24 to 64, and its own example has 18.
	SecretSize    = 32
	maxSecretSize = 64
	minSecretSize = 16
)

// NewSecret writes random bytes as a secret.
func NewSecret(random [SecretSize]byte) string {
	return prefix + base64.StdEncoding.EncodeToString(random[:])
}

// key reads a secret.
func key(secret string) ([]byte, error) {
	raw, err := base64.StdEncoding.DecodeString(strings.TrimPrefix(secret, prefix))
	if err != nil || len(raw) < minSecretSize || len(raw) > maxSecretSize {
		return nil, fmt.Errorf("a secret is “whsec_” and %d to %d bytes in base64", minSecretSize, maxSecretSize)
	}
	return raw, nil
}

// Sign is the header of signatures of a message, one for each secret, so that a secret can be changed while the old one
// is still in use.
func Sign(secrets []string, id string, at time.Time, body []byte) (string, error) {
	var all []string
	for _, secret := range secrets {
		one, err := sign(secret, id, strconv.FormatInt(at.Unix(), 10), body)
		if err != nil {
			return "", err
		}
		all = append(all, version+base64.StdEncoding.EncodeToString(one))
	}
	return strings.Join(all, " "), nil
}

// Headers are the headers of a signed message, by name.
func Headers(secrets []string, id string, at time.Time, body []byte) (map[string]string, error) {
	signature, err := Sign(secrets, id, at, body)
	if err != nil {
		return nil, err
	}
	return map[string]string{IDHeader: id, TimestampHeader: strconv.FormatInt(at.Unix(), 10), SignatureHeader: signature}, nil
}

func sign(secret, id, timestamp string, body []byte) ([]byte, error) {
	raw, err := key(secret)
	if err != nil {
		return nil, err
	}
	mac := hmac.New(sha256.New, raw)
	mac.Write([]byte(id + "." + timestamp + "."))
	mac.Write(body)
	return mac.Sum(nil), nil
}

// Why a message is not taken.
var (
	ErrUnsigned  = errors.New("the message lacks one of the headers webhook-id, webhook-timestamp and webhook-signature")
	ErrStale     = errors.New("the timestamp is more than 5 minutes away from the present moment")
	ErrSignature = errors.New("the signature is not that of the message with the secret")
)

// Message is what came in.
type Message struct {
	ID, Timestamp, Signature string // its headers
	Body                     []byte
}

// Verify tells whether a message was signed with one of the secrets, not long ago. It fails with ErrUnsigned, ErrStale
// or ErrSignature.
func (m Message) Verify(secrets []string, now time.Time) error {
	if m.ID == "" || m.Timestamp == "" || m.Signature == "" {
		return ErrUnsigned
	}
	seconds, err := strconv.ParseInt(m.Timestamp, 10, 64)
	if err != nil {
		return ErrUnsigned
	}
	if away := now.Unix() - seconds; away > int64(Tolerance/time.Second) || away < -int64(Tolerance/time.Second) {
		return ErrStale
	}
	for _, secret := range secrets {
		want, err := sign(secret, m.ID, m.Timestamp, m.Body)
		if err != nil {
			return err
		}
		for n, one := range strings.Fields(m.Signature) {
			text, known := strings.CutPrefix(one, version)
			got, err := base64.StdEncoding.DecodeString(text)
			if known && err == nil && n < 10 && hmac.Equal(got, want) {
				return nil
			}
		}
	}
	return ErrSignature
}
