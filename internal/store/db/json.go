package db

import (
	"database/sql"
	"database/sql/driver"
	"encoding/json"
	"errors"
	"fmt"
)

// Strings is a list of texts that a query returns as a JSON array.
type Strings []string

// Scan reads a JSON array.
func (s *Strings) Scan(src any) error { return ScanJSON(src, s) }

// IDs is a list of ids, kept as a JSON array.
type IDs []int64

// Scan reads a JSON array.
func (ids *IDs) Scan(src any) error { return ScanJSON(src, ids) }

// Value writes a JSON array.
func (ids IDs) Value() (driver.Value, error) {
	if ids == nil {
		return "[]", nil
	}
	text, err := json.Marshal([]int64(ids))
	return string(text), err
}

// JSONOf is the list as a JSON array.
func JSONOf(s Strings) string {
	if s == nil {
		return "[]"
	}
	text, err := json.Marshal(s)
	if err != nil {
		panic(err) // texts
	}
	return string(text)
}

// Fields are a post's custom fields, kept as a JSON object of texts.
type Fields map[string]string

// Scan reads a JSON object.
func (f *Fields) Scan(src any) error { return ScanJSON(src, f) }

// Value writes a JSON object.
func (f Fields) Value() (driver.Value, error) {
	if f == nil {
		return "{}", nil
	}
	text, err := json.Marshal(f)
	return string(text), err
}

// ID is an id that may be none: 0 is kept as null.
type ID int64

// Scan reads an id; null is 0.
func (id *ID) Scan(src any) error {
	switch v := src.(type) {
	case nil:
		*id = 0
	case int64:
		*id = ID(v)
	default:
		return fmt.Errorf("reading an id from %T", src)
	}
	return nil
}

// Value writes an id; 0 as null.
func (id ID) Value() (driver.Value, error) {
	if id == 0 {
		return nil, nil
	}
	return int64(id), nil
}

// Pointer is nil of 0.
func (id ID) Pointer() *int64 {
	if id == 0 {
		return nil
	}
	n := int64(id)
	return &n
}

// JSON is a value as a column of JSON keeps it.
func JSON(v any) (driver.Value, error) {
	text, err := json.Marshal(v)
	return string(text), err
}

// ScanJSON reads a column of JSON; null leaves the zero value.
func ScanJSON(src, dest any) error {
	switch v := src.(type) {
	case nil:
		return nil
	case []byte:
		return json.Unmarshal(v, dest)
	case string:
		return json.Unmarshal([]byte(v), dest)
	}
	return fmt.Errorf("reading %T from %T", dest, src)
}

func IsNoRows(err error) bool { return errors.Is(err, sql.ErrNoRows) }
