// Package formats carries the JSON Schemas of Yembo's open formats, so that the
// program checks against the very files that are published.
package formats

import "embed"

// Schemas holds NAME.schema.json for each document.
//
//go:embed *.schema.json
var Schemas embed.FS

// OnlyWritten says whether documents of a kind are written and never read: a quote and an
// invoice are what the shop showed, and nobody hands them in.
func OnlyWritten(kind string) bool { return kind == "quote" || kind == "invoice" }
