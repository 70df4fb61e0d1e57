package revise

import (
	"encoding/json"
	"fmt"
	"strings"
)

// Pack says how to get a text from another one, in less room where the two have much in common: a JSON array with numbers of bytes that are
// taken over, negative ones of bytes that are left out, and strings that are put in.
func Pack(from, to string) []byte {
	steps := []any{}
	for _, r := range Words(from, to) {
		switch r.Kind {
		case Same:
			steps = append(steps, len(r.Text))
		case Removed:
			steps = append(steps, -len(r.Text))
		default:
			steps = append(steps, r.Text)
		}
	}
	packed, err := json.Marshal(steps)
	if err != nil {
		panic(err) // numbers and strings always marshal
	}
	return packed
}

// Unpack gets a text from another one as Pack said. It fails where it was packed from another text, or by nobody.
func Unpack(from string, packed []byte) (string, error) {
	var steps []any
	if err := json.Unmarshal(packed, &steps); err != nil {
		return "", fmt.Errorf("reading a packed text: %w", err)
	}
	var out strings.Builder
	for _, step := range steps {
		switch step := step.(type) {
		case string:
			out.WriteString(step)
		case float64:
			n := int(step)
			keep := n > 0
			if !keep {
				n = -n
			}
			if n > len(from) {
				return "", fmt.Errorf("a packed text needs %d more bytes of the other one", n-len(from))
			}
			if keep {
				out.WriteString(from[:n])
			}
			from = from[n:]
		default:
			return "", fmt.Errorf("a packed text has %T in it", step)
		}
	}
	if from != "" {
		return "", fmt.Errorf("a packed text leaves %d bytes of the other one", len(from))
	}
	return out.String(), nil
}
