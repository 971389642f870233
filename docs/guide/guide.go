// Package guide carries the guide's chapters, with the pictures that are theirs alone: the program shows the very files that
// are read here.
package guide

import "embed"

// Chapters holds N-NAME.md for each chapter, and NAME.png for each picture.
//
//go:embed *.md *.png
var Chapters embed.FS
