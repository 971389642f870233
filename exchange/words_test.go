package exchange

import (
	"encoding/json"
	"slices"
	"testing"

	"yembo/core/hw"
	"yembo/core/money"
	"yembo/core/proof"
	"yembo/core/quote"
	"yembo/core/week"
	"yembo/docs/formats"
)

// tables are the vocabularies that a property of the schemas takes its words from.
var tables = map[string][][]string{
	"kind": {hw.Builds.Words(), hw.PartKinds.Words(), money.Kinds.Words()}, "type": {hw.MemoryTypes.Words()},
	"form": {hw.ModuleForms.Words(), hw.DriveForms.Words()}, "purpose": {hw.Purposes.Words()},
	"protocols": {hw.Interfaces.Words()}, "refuses": {hw.Refusals.Words()}, "cooling": {hw.Coolings.Words()},
	"ecc": {hw.ECCUses.Words()}, "rotational": {hw.RotationalUses.Words()}, "clocked": {hw.ClockedUses.Words()},
	"toward": {hw.Towards.Words()}, "faces": {hw.FacesWays.Words()}, "loosen": {hw.LoosenOrders.Words()},
	"old_parts": {quote.OldPartsWays.Words()},
	"what":      {proof.Whats.Words()}, "code": {proof.Codes(), week.Reasons.Words(), week.NoPlaces.Words(), week.PinCodes.Words(),
		week.TellCodes.Words()},
	"do": {week.Dos.Words()}, "split": {week.Splits.Words()}, "promise": {week.States.Words()},
	"from":      {hw.FixingsFrom.Words()},
	"interface": {hw.DriveInterfaces.Words(), hw.CardInterfaces.Words()}, "verb": {hw.VerbWords().Words()},
	"side": {hw.Sides.Words()}, "connector": {hw.Connectors.Words()},
	"quirks": {hw.Quirks.Words()}, "source": {hw.Sources.Words(), hw.Origins.Words()},
	"partition_table": {hw.PartitionTables.Words()}, "standard": {hw.Standards.Words()},
	"wireless": {hw.Standards.Words()}, "access_point": {hw.Standards.Words()},
	"memory_limit": {hw.LimitPractices.Words()}, "pairing": {hw.Pairings.Words()},
	"migration": {hw.Migrations.Words()}, "how": {hw.Migrations.Words()},
}

// results are properties whose words an answer alone has: nobody types or chooses them.
var results = []string{"turn_deg", "class", "verdict", "do", "mode"}

// TestWords holds the vocabularies and the schemas' lists against each other: a word that
// stands in one alone is told, whichever it is.
func TestWords(t *testing.T) {
	used := map[string]int{}
	files, err := formats.Schemas.ReadDir(".")
	if err != nil {
		t.Fatal(err)
	}
	for _, f := range files {
		raw, err := formats.Schemas.ReadFile(f.Name())
		if err != nil {
			t.Fatal(err)
		}
		var schema any
		if err := json.Unmarshal(raw, &schema); err != nil {
			t.Fatal(err)
		}
		enums(schema, "", func(name string, words []string) {
			if slices.Contains(results, name) && f.Name() != "week.schema.json" || f.Name() == "observed.schema.json" && name == "from" {
				return
			}
			slices.Sort(words)
			for i, table := range tables[name] {
				table = slices.Sorted(slices.Values(table))
				if slices.Equal(words, table) {
					used[name] |= 1 << i
					return
				}
			}
			t.Errorf("%s: %s takes %v, and no table has these words", f.Name(), name, words)
		})
	}
	for name, list := range tables {
		for i, table := range list {
			// a bay's form is free in its schema: other forms are told, not refused
			if used[name]&(1<<i) == 0 && !slices.Equal(table, hw.DriveForms.Words()) {
				t.Errorf("no schema has the words of %s: %v", name, table)
			}
		}
	}
}

// enums calls back for each list of words in a schema, with the property it belongs to.
func enums(at any, name string, found func(name string, words []string)) {
	switch x := at.(type) {
	case map[string]any:
		if list, ok := x["enum"].([]any); ok {
			var words []string
			for _, w := range list {
				if text, ok := w.(string); ok {
					words = append(words, text)
				}
			}
			found(name, words)
		}
		for k, v := range x {
			switch k {
			case "items", "properties", "anyOf", "oneOf", "allOf":
				enums(v, name, found)
			default:
				enums(v, k, found)
			}
		}
	case []any:
		for _, v := range x {
			enums(v, name, found)
		}
	}
}
