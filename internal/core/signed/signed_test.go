package signed_test

import (
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/core/signed"
)

// The example of the Standard Webhooks specification.
const (
	secret    = "whsec_plJ3nmyCDGBKInavdOK15jsl"
	id        = "msg_loFOjxBNrRLzqYUf"
	timestamp = 1731705121
	body      = `{"event_type":"ping","data":{"success":true}}`
	signature = "v1,rAvfW3dJ/X/qxhsaXPOyyCGmRKsaKWcsNccKXlIktD0="
)

func TestTheExampleOfTheSpecification(t *testing.T) {
	at := time.Unix(timestamp, 0)
	got, err := signed.Sign([]string{secret}, id, at, []byte(body))
	require.NoError(t, err)
	assert.Equal(t, signature, got)
	m := signed.Message{ID: id, Timestamp: strconv.Itoa(timestamp), Signature: signature, Body: []byte(body)}
	assert.NoError(t, m.Verify([]string{secret}, at))
}

func TestWhatIsNotTaken(t *testing.T) {
	at := time.Unix(timestamp, 0)
	good := signed.Message{ID: id, Timestamp: strconv.Itoa(timestamp), Signature: signature, Body: []byte(body)}
	for name, c := range map[string]struct {
		change func(*signed.Message)
		now    time.Time
		want   error
	}{
		"another body":      {func(m *signed.Message) { m.Body = []byte(body + " ") }, at, signed.ErrSignature},
		"another id":        {func(m *signed.Message) { m.ID = "msg_x" }, at, signed.ErrSignature},
		"another time":      {func(m *signed.Message) { m.Timestamp = strconv.Itoa(timestamp + 1) }, at, signed.ErrSignature},
		"another version":   {func(m *signed.Message) { m.Signature = "v2" + strings.TrimPrefix(signature, "v1") }, at, signed.ErrSignature},
		"nonsense":          {func(m *signed.Message) { m.Signature = "v1,%%%" }, at, signed.ErrSignature},
		"a thousand others": {func(m *signed.Message) { m.Signature = strings.Repeat("v1,AAAA ", 1000) + signature }, at, signed.ErrSignature},
		"no id":             {func(m *signed.Message) { m.ID = "" }, at, signed.ErrUnsigned},
		"no time":           {func(m *signed.Message) { m.Timestamp = "now" }, at, signed.ErrUnsigned},
		"no signature":      {func(m *signed.Message) { m.Signature = "" }, at, signed.ErrUnsigned},
		"too late":          {func(*signed.Message) {}, at.Add(5*time.Minute + time.Second), signed.ErrStale},
		"too early":         {func(*signed.Message) {}, at.Add(-5*time.Minute - time.Second), signed.ErrStale},
		"just in time":      {func(*signed.Message) {}, at.Add(5 * time.Minute), nil},
		"beside another":    {func(m *signed.Message) { m.Signature = "v1,AAAA " + m.Signature }, at, nil},
	} {
		m := good
		c.change(&m)
		assert.ErrorIs(t, m.Verify([]string{secret}, c.now), c.want, name)
	}
	assert.Error(t, good.Verify([]string{"whsec_short"}, at))
	_, err := signed.Sign([]string{"whsec_AAAA"}, id, at, nil)
	assert.ErrorContains(t, err, "16 to 64 bytes")
}

// What was signed with any of several secrets is taken by who knows one of them, and by nobody else.
func TestSecretsOverlap(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var all []string
		for _, b := range rapid.SliceOfNDistinct(rapid.Byte(), 3, 3, rapid.ID[byte]).Draw(t, "secrets") {
			all = append(all, signed.NewSecret([signed.SecretSize]byte{b}))
		}
		text := rapid.SliceOf(rapid.Byte()).Draw(t, "body")
		at := time.Unix(rapid.Int64Range(0, 1<<33).Draw(t, "at"), 0)
		header, err := signed.Sign(all[:2], "m", at, text)
		require.NoError(t, err)
		m := signed.Message{ID: "m", Timestamp: strconv.FormatInt(at.Unix(), 10), Signature: header, Body: text}
		assert.NoError(t, m.Verify(all[1:], at))
		assert.ErrorIs(t, m.Verify(all[2:], at), signed.ErrSignature)
	})
}
