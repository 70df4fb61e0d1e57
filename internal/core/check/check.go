// Package check has the one way to say what is wrong with what somebody entered: which
// field, and what to do about it. The package is pure.
package check

// FieldProblem is what is wrong with one field.
type FieldProblem struct {
	Path    string `json:"path" example:"openings[2].to"`
	Message string `json:"message"` // a sentence, with the way out
}
