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

// modelOrders are the orders of the list of models.
var modelOrders = map[string]string{"": "b.maker, b.model, b.id", "code": "b.code = '', b.code, b.id", "newest": "b.n DESC"}

// FindModels lists the models in whose words every word of the query stands, from its
// beginning, with their briefs and without their documents; at most so many, all for -1. What is
// typed is quoted: a dash or a star is never the search's own sign.
func (t Tx) FindModels(query string, most int) ([]Model, error) {
	out, _, err := t.ModelsPage(ListQuery{Words: query, Limit: most})
	return out, err
}

// ModelsPage is FindModels for one page of a list, with how many there are.
func (t Tx) ModelsPage(q ListQuery) (out []Model, found int, err error) {
	db := t.db.Table("model_briefs b")
	if terms := match(q.Words); terms != "" {
		db = db.Where("b.n IN (SELECT rowid FROM model_words WHERE model_words MATCH ?)", terms)
	}
	order, ok := modelOrders[q.Sort]
	if !ok {
		order = modelOrders[""]
	}
	var n int64
	if q.Limit >= 0 {
		if err := db.Session(&gorm.Session{}).Count(&n).Error; err != nil {
			return nil, 0, fmt.Errorf("searching the models: %w", err)
		}
	}
	var rows []struct {
		ID, Maker, Model, Code, Kind string
		Brief                        []byte
		Version                      int
	}
	err = db.Joins("JOIN models m ON m.id = b.id").Select("b.id, b.maker, b.model, b.code, b.kind, b.brief, m.version").
		Order(order).Offset(q.From).Limit(q.Limit).Scan(&rows).Error
	if err != nil {
		return nil, 0, fmt.Errorf("searching the models: %w", err)
	}
	for _, r := range rows {
		out = append(
			out,
			Model{ID: r.ID, Maker: r.Maker, Model: r.Model, Code: r.Code, Kind: r.Kind, Brief: r.Brief, Version: r.Version},
		)
	}
	return out, max(int(n), len(out)), nil
}

// MachinesOfModels counts the machines of some models.
func (t Tx) MachinesOfModels(ids []string) (map[string]int, error) {
	var rows []struct {
		ModelID string
		N       int
	}
	err := t.db.Model(&Machine{}).Where("model_id IN ?", ids).Select("model_id, count(*) AS n").Group("model_id").Scan(&rows).Error
	out := make(map[string]int, len(rows))
	for _, r := range rows {
		out[r.ModelID] = r.N
	}
	return out, err
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
		ON CONFLICT (id) DO UPDATE SET maker = excluded.maker, model = excluded.model, code = excluded.code,
			kind = excluded.kind, brief = excluded.brief
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
