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
// beginning, with their briefs and without their documents. What is typed is quoted: a
// dash or a star is never the search's own sign.
func (t Tx) FindModels(query string, most int) ([]Model, error) {
	var out []Model
	q := t.db.Table("model_briefs").Order("maker, model, id").Limit(most)
	if terms := match(query); terms != "" {
		q = q.Where("n IN (SELECT rowid FROM model_words WHERE model_words MATCH ?)", terms)
	}
	var rows []struct {
		ID, Maker, Model, Code, Kind string
		Brief                        []byte
	}
	if err := q.Scan(&rows).Error; err != nil {
		return nil, fmt.Errorf("searching the models: %w", err)
	}
	for _, r := range rows {
		out = append(out, Model{ID: r.ID, Maker: r.Maker, Model: r.Model, Code: r.Code, Kind: r.Kind, Brief: r.Brief})
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

// indexModel writes what lists show of a record, and its words to the search.
func (t Tx) indexModel(m *Model) error {
	var doc any
	if err := json.Unmarshal(m.Doc, &doc); err != nil {
		return fmt.Errorf("the words of %s: %w", m.ID, err)
	}
	var words []string
	collect("", doc, &words)
	var n int64
	err := t.db.Raw(`INSERT INTO model_briefs (id, maker, model, code, kind, brief) VALUES (?, ?, ?, ?, ?, ?)
		ON CONFLICT (id) DO UPDATE SET maker = excluded.maker, model = excluded.model, code = excluded.code, kind = excluded.kind, brief = excluded.brief
		RETURNING n`, m.ID, m.Maker, m.Model, m.Code, m.Kind, m.Brief).Scan(&n).Error
	if err != nil {
		return err
	}
	if err := t.db.Exec("DELETE FROM model_words WHERE rowid = ?", n).Error; err != nil {
		return err
	}
	return t.db.Exec("INSERT INTO model_words (rowid, words) VALUES (?, ?)", n, strings.Join(words, "\n")).Error
}

// searched are the fields whose texts can be found.
var searched = map[string]bool{"id": true, "maker": true, "model": true, "code": true, "covers": true,
	"covers_note": true, "part_numbers": true,
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
