// Package screenshots carries the pictures of the main views, which the guide shows.
package screenshots

import "embed"

// Pictures holds NAME.png for each main view.
//
//go:embed *.png
var Pictures embed.FS
