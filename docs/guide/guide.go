// Package guide carries the guide's chapters, so that the program shows the very files that are read here.
package guide

import "embed"

// Chapters holds NAME.md for each chapter, in the order of their numbers.
//
//go:embed *.md
var Chapters embed.FS
