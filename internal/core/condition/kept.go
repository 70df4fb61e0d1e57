package condition

// Kept is a condition's verdict on a post that a rule keeps out for reasons of its own,
// or the verdict itself where there are none.
func Kept(reasons []string, verdict Verdict) Verdict {
	if len(reasons) == 0 {
		return verdict
	}
	var because []Reason
	for _, text := range reasons {
		because = append(because, Reason{Text: text})
	}
	if !verdict.Caught {
		because = append(because, verdict.Because...)
	}
	return Verdict{Because: because}
}
