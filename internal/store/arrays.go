package store

import (
	"database/sql/driver"
	"fmt"
	"sync"

	"github.com/jackc/pgx/v5/pgtype"
)

// Arrays of PostgreSQL, as GORM passes and scans them: nil is null, [] is empty. They are written as
// text by the driver's own rules, so that any character stands for itself.
type (
	Texts []string
	Ints  []int64
	Bools []bool
	Blobs [][]byte
)

// typeMaps are maps of types, which may not be used by two at once.
var typeMaps = sync.Pool{New: func() any { return pgtype.NewMap() }}

func arrayValue(oid uint32, v any, none bool) (driver.Value, error) {
	if none {
		return nil, nil
	}
	m := typeMaps.Get().(*pgtype.Map)
	defer typeMaps.Put(m)
	b, err := m.Encode(oid, pgtype.TextFormatCode, v, nil)
	if err != nil {
		return nil, fmt.Errorf("writing an array: %w", err)
	}
	return string(b), nil
}

func scanArray(oid uint32, dst, src any) error {
	m := typeMaps.Get().(*pgtype.Map)
	defer typeMaps.Put(m)
	switch s := src.(type) {
	case nil:
		return m.Scan(oid, pgtype.TextFormatCode, nil, dst)
	case string:
		return m.Scan(oid, pgtype.TextFormatCode, []byte(s), dst)
	case []byte:
		return m.Scan(oid, pgtype.TextFormatCode, s, dst)
	}
	return fmt.Errorf("reading an array: %T is none", src)
}

// Value writes the array for a query.
func (a Texts) Value() (driver.Value, error) {
	return arrayValue(pgtype.TextArrayOID, []string(a), a == nil)
}

// Value writes the array for a query.
func (a Ints) Value() (driver.Value, error) {
	return arrayValue(pgtype.Int8ArrayOID, []int64(a), a == nil)
}

// Value writes the array for a query.
func (a Bools) Value() (driver.Value, error) {
	return arrayValue(pgtype.BoolArrayOID, []bool(a), a == nil)
}

// Value writes the array for a query.
func (a Blobs) Value() (driver.Value, error) {
	return arrayValue(pgtype.ByteaArrayOID, [][]byte(a), a == nil)
}

// Scan reads an array of text.
func (a *Texts) Scan(src any) error { return scanArray(pgtype.TextArrayOID, (*[]string)(a), src) }

// Scan reads an array of bigint.
func (a *Ints) Scan(src any) error { return scanArray(pgtype.Int8ArrayOID, (*[]int64)(a), src) }

// GormDataType names the type for GORM.
func (Texts) GormDataType() string { return "text[]" }

// GormDataType names the type for GORM.
func (Ints) GormDataType() string { return "bigint[]" }
