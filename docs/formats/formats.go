// Package formats carries the JSON Schemas of Yembo's open formats, so that the
// program checks against the very files that are published.
package formats

import "embed"

// Schemas holds NAME.schema.json for each document.
//
//go:embed *.schema.json
var Schemas embed.FS

// OnlyWritten says whether documents of a kind are written and never read: a quote, an
// invoice and a report are what the shop showed, differences and a schedule
// an answer; nobody hands them in.
func OnlyWritten(kind string) bool {
	return kind == "quote" || kind == "invoice" || kind == "differences" || kind == "report" || kind == "schedule"
}
