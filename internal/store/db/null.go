package db

import "time"

// OrZero is the moment, the zero time of nil.
func OrZero(t *time.Time) time.Time {
	if t == nil {
		return time.Time{}
	}
	return *t
}
