// Package guide is the pages of the guide: its chapters as they are written in docs/guide, found by the page that asks.
package guide

import (
	"bytes"
	"fmt"
	"html/template"
	"io/fs"
	"net/http"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"github.com/labstack/echo/v5"
	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/extension"
	"github.com/yuin/goldmark/parser"

	"yembo/docs/guide"
	"yembo/docs/screenshots"
	"yembo/web/kit"
)

// Chapter is a chapter of the guide.
type Chapter struct {
	Number int
	Name   string // in its address
	Title  string
	HTML   template.HTML // goldmark leaves out what is HTML in the text
	text   string
}

// pages are the handlers of this area.
type pages struct {
	*kit.Site
	chapters []Chapter
}

// Routes hangs the pages of this area into a group.
func Routes(g *echo.Group, site *kit.Site) {
	s := &pages{site, Chapters()}
	g.GET("/guide", s.index)
	g.GET("/guide/:chapter", s.show)
	g.GET("/guide/pictures/:name", s.picture)
}

// written reads Markdown with tables; each heading has its own words as its anchor.
var written = goldmark.New(goldmark.WithExtensions(extension.Table), goldmark.WithParserOptions(parser.WithAutoHeadingID()))

// Chapters reads the chapters, in their order. They ship with the program: one that cannot be read stops it at the start.
func Chapters() []Chapter {
	files, err := fs.Glob(guide.Chapters, "*.md")
	if err != nil {
		panic(err)
	}
	var out []Chapter
	for _, file := range files {
		raw, err := guide.Chapters.ReadFile(file)
		if err != nil {
			panic(err)
		}
		var page bytes.Buffer
		if err := written.Convert(raw, &page); err != nil {
			panic(fmt.Errorf("guide %s: %w", file, err))
		}
		number, name, _ := strings.Cut(strings.TrimSuffix(file, ".md"), "-")
		n, err := strconv.Atoi(number)
		if err != nil {
			panic(fmt.Errorf("guide %s: %w", file, err))
		}
		title, _, _ := strings.Cut(strings.TrimPrefix(string(raw), "# "), "\n")
		// goldmark escapes what it does not write itself, and the chapters are the program's own.
		shown := pictures.ReplaceAllString(page.String(), `src="/guide/pictures/$1" loading="lazy"`)
		out = append(out, Chapter{n, name, title, template.HTML(shown), string(raw)})
	}
	slices.SortFunc(out, func(a, b Chapter) int { return a.Number - b.Number })
	return out
}

// pictures are where the chapters name them: beside themselves, or among those of the main views.
var pictures = regexp.MustCompile(`src="(?:\.\./screenshots/)?([a-z-]+\.png)"`)

// picture sends a picture of the guide.
func (s *pages) picture(c *echo.Context) error {
	name := c.Param("name")
	for _, from := range []fs.FS{guide.Chapters, screenshots.Pictures} {
		raw, err := fs.ReadFile(from, name)
		if err != nil || !strings.HasSuffix(name, ".png") {
			continue
		}
		c.Response().Header().Set("Cache-Control", "private, max-age=3600")
		return c.Blob(http.StatusOK, "image/png", raw)
	}
	return echo.ErrNotFound
}

// about says which chapter a page asks for, by how its address begins; the first that fits holds.
var about = []struct {
	path    *regexp.Regexp
	chapter string
}{
	{regexp.MustCompile(`^/jobs/[0-9]+/(run|first)|/card$`), "bench"},
	{regexp.MustCompile(`^/jobs/[0-9]+/(proof|report)|/readings|/draw`), "proof"},
	{regexp.MustCompile(`^/jobs/[0-9]+/bill|^/(invoices|quotes|q)\b`), "money"},
	{regexp.MustCompile(`^/machines/new|^/machines/import|^/(jobs|customers|week)\b|/history$`), "counter"},
	{regexp.MustCompile(`^/machines/[^/]+$`), "plan"},
	{regexp.MustCompile(`^/(models|shorthand)\b`), "record"},
	{regexp.MustCompile(`^/(parts|orders|suppliers)\b`), "shelf"},
	{regexp.MustCompile(`^/reckoner\b`), "glossary"},
	{regexp.MustCompile(`^/(people|screens|signin|enrol|journal)\b`), "people"},
	{regexp.MustCompile(`^/settings\b`), "copies"},
	{regexp.MustCompile(`^/welcome\b`), "first-day"},
}

// view is a page of the guide: a chapter, or what was searched for.
type view struct {
	Chapters []Chapter
	At       *Chapter
	Query    string
	Found    []Found
}

// Found is a line of a chapter with what was searched for.
type Found struct {
	Chapter Chapter
	Line    string
}

// index searches the guide, opens the chapter about the page that asks, or the first.
func (s *pages) index(c *echo.Context) error {
	v := view{Chapters: s.chapters, Query: strings.TrimSpace(c.QueryParam("q"))}
	if v.Query != "" {
		v.Found = search(s.chapters, v.Query)
		return s.Render(c, http.StatusOK, "guide", "Guide", "", v)
	}
	from, _, _ := strings.Cut(c.QueryParam("from"), "?")
	for _, x := range about {
		if x.path.MatchString(from) {
			return c.Redirect(http.StatusSeeOther, "/guide/"+x.chapter)
		}
	}
	if from == "/" {
		return c.Redirect(http.StatusSeeOther, "/guide/counter")
	}
	return c.Redirect(http.StatusSeeOther, "/guide/"+s.chapters[0].Name)
}

func (s *pages) show(c *echo.Context) error {
	i := slices.IndexFunc(s.chapters, func(x Chapter) bool { return x.Name == c.Param("chapter") })
	if i < 0 {
		return echo.ErrNotFound
	}
	return s.Render(c, http.StatusOK, "guide", s.chapters[i].Title, "", view{Chapters: s.chapters, At: &s.chapters[i]})
}

// plain is a line without the marks of its text.
var plain = strings.NewReplacer("**", "", "`", "", "# ", "", "- ", "", "#", "", " | ", " ", "| ", "")

// search finds the paragraphs with all the words that are asked for.
func search(chapters []Chapter, query string) []Found {
	words := strings.Fields(strings.ToLower(query))
	var out []Found
	for _, x := range chapters {
		for _, part := range regexp.MustCompile(`\n\n|\n(?:- |[0-9]+\. )`).Split(x.text, -1) {
			if strings.HasPrefix(part, "![") {
				continue // a picture
			}
			low := strings.ToLower(part)
			if slices.ContainsFunc(words, func(w string) bool { return !strings.Contains(low, w) }) {
				continue
			}
			out = append(out, Found{x, plain.Replace(strings.Join(strings.Fields(part), " "))})
		}
	}
	return out
}
