// Package formats carries the JSON Schemas of Yembo's open formats, so that the
// program checks against the very files that are published.
package formats

import "embed"

// Schemas holds NAME.schema.json for each document.
//
//go:embed *.schema.json
var Schemas embed.FS
