package store

import (
	"encoding/json"
	"fmt"
	"strings"
	"unicode"

	"gorm.io/gorm"
)

// maxWords is how many words of a query are looked for.
const maxWords = 20

// FindModels lists the models in whose words every word of the query stands, from its
// beginning, with their briefs and without their documents. What is typed is quoted: a
// dash or a star is never the search's own sign.
func (t Tx) FindModels(query string, most int) ([]Model, error) {
	var rows []struct {
		ID, Maker, Model, Code, Kind string
		Brief                        []byte
	}
	q := t.db.Table("models").Select("models.id, maker, model, code, kind, b.brief").Joins("LEFT JOIN model_briefs b ON b.id = models.id")
	if err := t.found(q, query, most).Scan(&rows).Error; err != nil {
		return nil, fmt.Errorf("searching the models: %w", err)
	}
	out := make([]Model, len(rows))
	for i, r := range rows {
		out[i] = Model{ID: r.ID, Maker: r.Maker, Model: r.Model, Code: r.Code, Kind: r.Kind, Brief: r.Brief}
	}
	return out, nil
}

// found narrows a query of models to those that a search finds, in the order of names.
func (t Tx) found(db *gorm.DB, query string, most int) *gorm.DB {
	db = db.Order("maker, model, models.id").Limit(most)
	if terms := match(query); terms != "" {
		db = db.Where("models.id IN (SELECT id FROM model_words WHERE model_words MATCH ?)", terms)
	}
	return db
}

// match is a query as the search takes it: every word, quoted, from its beginning; "" for
// one without words.
func match(query string) string {
	var terms []string
	for _, word := range strings.FieldsFunc(query, func(r rune) bool { return unicode.IsSpace(r) }) {
		clean := strings.Map(func(r rune) rune {
			if unicode.IsLetter(r) || unicode.IsDigit(r) {
				return r
			}
			return ' '
		}, word)
		if strings.TrimSpace(clean) != "" && len(terms) < maxWords {
			terms = append(terms, `"`+strings.Join(strings.Fields(clean), " ")+`"*`)
		}
	}
	return strings.Join(terms, " AND ")
}

// indexModel writes a record's words to the search, and its brief beside it.
func (t Tx) indexModel(m *Model) error {
	if err := t.db.Exec("DELETE FROM model_words WHERE id = ?", m.ID).Error; err != nil {
		return err
	}
	var doc any
	if err := json.Unmarshal(m.Doc, &doc); err != nil {
		return fmt.Errorf("the words of %s: %w", m.ID, err)
	}
	var words []string
	collect("", doc, &words)
	if len(m.Brief) > 0 {
		if err := t.db.Exec("INSERT INTO model_briefs (id, brief) VALUES (?, ?) ON CONFLICT (id) DO UPDATE SET brief = excluded.brief", m.ID, m.Brief).Error; err != nil {
			return err
		}
	}
	return t.db.Exec("INSERT INTO model_words (id, words) VALUES (?, ?)", m.ID, strings.Join(words, "\n")).Error
}

// searched are the fields whose texts can be found.
var searched = map[string]bool{"id": true, "maker": true, "model": true, "code": true, "covers": true, "covers_note": true, "part_numbers": true,
	"note": true, "by": true, "name": true, "text": true, "part": true, "only_on": true, "hidden": true}

func collect(field string, node any, words *[]string) {
	switch x := node.(type) {
	case map[string]any:
		for name, child := range x {
			collect(name, child, words)
		}
	case []any:
		for _, child := range x {
			collect(field, child, words)
		}
	case string:
		if searched[field] {
			*words = append(*words, x)
		}
	}
}
