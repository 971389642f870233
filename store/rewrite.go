package store

import (
	"context"
	"fmt"
	"unicode/utf8"

	"gorm.io/gorm"
)

// Rewrite changes every text that is kept, and every document, by a function; pictures stay as they are. The demo moves its
// dates by it. What the data file guards against every change, a quote that was shown, is changed with the rest.
func (s *Store) Rewrite(ctx context.Context, change func(text string) string) error {
	return s.write.WithContext(ctx).Transaction(func(db *gorm.DB) error {
		var guards []struct{ Name, SQL string }
		if err := db.Raw(`SELECT name, sql FROM sqlite_schema WHERE type = 'trigger'`).Scan(&guards).Error; err != nil {
			return err
		}
		for _, g := range guards {
			if err := db.Exec(fmt.Sprintf("DROP TRIGGER %q", g.Name)).Error; err != nil {
				return err
			}
		}
		var tables []string
		// The tables of a search index are its own.
		const own = `SELECT name FROM pragma_table_list WHERE schema = 'main' AND type = 'table' AND name NOT LIKE 'sqlite_%'`
		if err := db.Raw(own).Scan(&tables).Error; err != nil {
			return err
		}
		for _, table := range tables {
			var columns []string
			err := db.Raw(`SELECT name FROM pragma_table_info(?) WHERE type COLLATE NOCASE IN ('text', 'blob', 'datetime', 'json')`,
				table).Scan(&columns).Error
			if err != nil {
				return err
			}
			for _, column := range columns {
				if err := rewriteColumn(db, table, column, change); err != nil {
					return fmt.Errorf("%s.%s: %w", table, column, err)
				}
			}
		}
		for _, g := range guards {
			if err := db.Exec(g.SQL).Error; err != nil {
				return err
			}
		}
		return nil
	})
}

// kept is a value of a row, as the bytes that it has whatever it counts as.
type kept struct {
	Row   int64
	Value []byte
	Text  bool
}

func rewriteColumn(db *gorm.DB, table, column string, change func(string) string) error {
	var all []kept
	// Names come from the data file's own tables, and are quoted.
	read := fmt.Sprintf(`SELECT rowid AS row, CAST(%[1]q AS BLOB) AS value, typeof(%[1]q) = 'text' AS text FROM %[2]q
WHERE typeof(%[1]q) IN ('text', 'blob')`, column, table)
	if err := db.Raw(read).Scan(&all).Error; err != nil {
		return err
	}
	write := fmt.Sprintf("UPDATE %q SET %q = ? WHERE rowid = ?", table, column)
	for _, x := range all {
		if !utf8.Valid(x.Value) {
			continue
		}
		now := change(string(x.Value))
		if now == string(x.Value) {
			continue
		}
		var value any = []byte(now)
		if x.Text {
			value = now
		}
		if err := db.Exec(write, value, x.Row).Error; err != nil {
			return err
		}
	}
	return nil
}
