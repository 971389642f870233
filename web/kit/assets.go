package kit

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"io/fs"
	"net/http"
	"path"
	"regexp"
	"strings"

	"github.com/labstack/echo/v5"

	"yembo/web/ui"
)

// assets serves the embedded static files under names that carry a hash of their
// content, so that browsers may keep them for good.
type assets struct {
	byName map[string]string // "app.css" -> "/static/app.0123456789ab.css"
	byURL  map[string]asset
}

type asset struct {
	content []byte
	kind    string
}

var cssURL = regexp.MustCompile(`url\(["']?([^"')]+)["']?\)`)

func loadAssets() (*assets, error) {
	a := &assets{byName: map[string]string{}, byURL: map[string]asset{}}
	var styles []string
	for _, folder := range []string{"static", "scripts"} {
		err := fs.WalkDir(ui.Static, folder, func(file string, d fs.DirEntry, err error) error {
			if err != nil || d.IsDir() {
				return err
			}
			if strings.HasSuffix(file, ".css") {
				styles = append(styles, file) // they name other files, so they come last
				return nil
			}
			content, err := ui.Static.ReadFile(file)
			if err != nil {
				return err
			}
			a.add(strings.TrimPrefix(file, folder+"/"), content)
			return nil
		})
		if err != nil {
			return nil, err
		}
	}
	for _, file := range styles {
		content, err := ui.Static.ReadFile(file)
		if err != nil {
			return nil, err
		}
		var missing string
		content = cssURL.ReplaceAllFunc(content, func(m []byte) []byte {
			name := string(cssURL.FindSubmatch(m)[1])
			if strings.HasPrefix(name, "data:") {
				return m
			}
			url, ok := a.byName[name]
			if !ok {
				missing = name
			}
			return []byte("url(" + url + ")")
		})
		if missing != "" {
			return nil, fmt.Errorf("%s names %s, which is not shipped", file, missing)
		}
		a.add(strings.TrimPrefix(file, "static/"), content)
	}
	return a, nil
}

func (a *assets) add(name string, content []byte) {
	sum := sha256.Sum256(content)
	ext := path.Ext(name)
	url := "/static/" + strings.TrimSuffix(name, ext) + "." + hex.EncodeToString(sum[:6]) + ext
	a.byName[name] = url
	a.byURL[url] = asset{content, contentType(ext)}
}

func contentType(ext string) string {
	switch ext {
	case ".css":
		return "text/css; charset=utf-8"
	case ".js":
		return "text/javascript; charset=utf-8"
	case ".svg":
		return "image/svg+xml"
	case ".woff2":
		return "font/woff2"
	}
	return "application/octet-stream"
}

// url is the address of a static file; a file that is not shipped stops the page.
func (a *assets) url(name string) (string, error) {
	url, ok := a.byName[name]
	if !ok {
		return "", fmt.Errorf("%s is not shipped", name)
	}
	return url, nil
}

func (a *assets) serve(c *echo.Context) error {
	f, ok := a.byURL[c.Request().URL.Path]
	if !ok {
		return echo.ErrNotFound
	}
	c.Response().Header().Set("Cache-Control", "public, max-age=31536000, immutable")
	return c.Blob(http.StatusOK, f.kind, f.content)
}
