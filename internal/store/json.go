package store

import (
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
)

// Strings is a list of texts that a query returns as a JSON array.
type Strings []string

// Scan reads a JSON array.
func (s *Strings) Scan(src any) error {
	var data []byte
	switch v := src.(type) {
	case nil:
		*s = nil
		return nil
	case []byte:
		data = v
	case string:
		data = []byte(v)
	default:
		return fmt.Errorf("reading a list of texts from %T", src)
	}
	return json.Unmarshal(data, s)
}

func isNoRows(err error) bool { return errors.Is(err, sql.ErrNoRows) }
