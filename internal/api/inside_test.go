package api

// AccessTo tells who may use an operation, and whether that is said.
func AccessTo(operation string) (Access, bool) {
	a, said := accessTo[operation]
	return a, said
}
