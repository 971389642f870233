package store

import (
	"encoding/json"
	"fmt"
	"strings"
	"unicode"
)

// maxWords is how many words of a query are looked for.
const maxWords = 20

// FindModels lists the models in whose words every word of the query stands, from its
// beginning. What is typed is quoted: a dash or a star is never the search's own sign.
func (t Tx) FindModels(query string, most int) ([]Model, error) {
	terms := match(query)
	if terms == "" {
		var all []Model
		return all, t.db.Order("maker, model, id").Limit(most).Find(&all).Error
	}
	var out []Model
	err := t.db.Limit(most).Where("id IN (SELECT id FROM model_words WHERE model_words MATCH ?)", terms).
		Order("maker, model, id").Find(&out).Error
	if err != nil {
		return nil, fmt.Errorf("searching the models: %w", err)
	}
	return out, nil
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

// indexModel writes a record's words to the search.
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
