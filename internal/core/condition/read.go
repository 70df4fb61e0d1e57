package condition

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
)

// Read reads a condition from JSON and checks it. What is wrong is told with its path;
// unknown names are refused, since a misspelt test would catch the wrong posts.
func Read(raw []byte) (Node, []Problem) {
	in := json.NewDecoder(bytes.NewReader(raw))
	in.DisallowUnknownFields()
	var n Node
	if err := in.Decode(&n); err != nil {
		var kind *json.UnmarshalTypeError
		if errors.As(err, &kind) {
			return n, []Problem{{kind.Field, fmt.Sprintf("This is a %s; it must be a %s.", kind.Value, kind.Type)}}
		}
		return n, []Problem{{"", fmt.Sprintf("This is not a condition: %v.", err)}}
	}
	if _, err := in.Token(); !errors.Is(err, io.EOF) {
		return n, []Problem{{"", "There is something after the condition; there must be only one."}}
	}
	return n, Check(n)
}
