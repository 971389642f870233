package kit

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"net/http"
	"slices"
	"sort"
	"strings"
	"yembo/shop/base"

	"github.com/labstack/echo/v5"

	"yembo/web/form"
)

// WithContent lets a form that is sent twice be told from one that was changed and sent
// again: its fields and its files make one sum.
func WithContent(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		r := c.Request()
		if r.Method != http.MethodPost {
			return next(c)
		}
		sum := sha256.New()
		fmt.Fprintln(sum, r.URL.Path)
		for _, f := range typedIn(r) {
			fmt.Fprintf(sum, "%q=%q\n", f.Name, f.Value)
		}
		if r.MultipartForm != nil {
			for _, name := range SortedKeys(r.MultipartForm.File) {
				for _, file := range r.MultipartForm.File[name] {
					fmt.Fprintf(sum, "%q:%q %d\n", name, file.Filename, file.Size)
				}
			}
		}
		c.SetRequest(r.WithContext(base.WithContent(r.Context(), hex.EncodeToString(sum.Sum(nil)[:16]))))
		return next(c)
	}
}

// maxInMemory is how much of sent files is held in memory; the rest lies in temporary files.
const maxInMemory = 256 << 10

// secrets are the fields whose content is shown on no page, and is no part of a sum that is kept: a sum is quickly tried.
var secrets = append([]string{"/password", "/pin"}, letIn...)

// typedIn lists what was typed into a form that was sent, without what the pages put there and without secrets.
func typedIn(r *http.Request) []form.Field {
	values := map[string][]string{}
	for name, list := range r.PostForm {
		values[name] = list
	}
	if r.MultipartForm != nil {
		for name, list := range r.MultipartForm.Value {
			values[name] = list
		}
	}
	var out []form.Field
	for _, name := range SortedKeys(values) {
		if slices.Contains([]string{"csrf", "token", "version", "seen", "trace"}, name) ||
			strings.HasPrefix(name, "then:") || strings.HasPrefix(name, "was:") || slices.Contains(secrets, name) {
			continue
		}
		for _, value := range values[name] {
			if value != "" {
				out = append(out, form.Field{Name: name, Value: value})
			}
		}
	}
	return out
}

func SortedKeys[V any](m map[string]V) []string {
	out := make([]string, 0, len(m))
	for k := range m {
		out = append(out, k)
	}
	sort.Strings(out)
	return out
}
