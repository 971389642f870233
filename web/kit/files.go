package kit

import (
	"fmt"
	"io"
	"mime/multipart"
	"net/http"
	"strconv"
	"yembo/shop/base"

	"github.com/labstack/echo/v5"

	"yembo/exchange"
	"yembo/web/form"
)

// ColumnChoice is a thing that a machine has, with the column of the file it comes from.
type ColumnChoice struct {
	Name, Words string
	At          int // -1 for none
}

// MaxPreview is how many rows are shown.
const MaxPreview = 12

// SentList is a list that was sent as a file or pasted, looked at by nobody else meanwhile; who called it
// calls done at the end.
func (s *Site) SentList(c *echo.Context) (f *form.Form, raw []byte, done func(), err error) {
	sent, err := c.MultipartForm()
	if err != nil {
		return nil, nil, nil, echo.ErrBadRequest.Wrap(err)
	}
	defer sent.RemoveAll()
	if done, err = s.LooksAlone(c); err != nil {
		return nil, nil, nil, err
	}
	f = form.Of(c, sent.Value)
	raw = []byte(f.Value("pasted"))
	for _, file := range sent.File["list"] {
		if file.Size > 0 {
			if raw, err = ReadUpload(file, exchange.MaxDocument); err != nil {
				done()
				return nil, nil, nil, err
			}
		}
	}
	return f, raw, done, nil
}

// SendFile sends a file to be saved under a name that is an id or fixed.
func SendFile(c *echo.Context, name, kind string, data []byte) error {
	c.Response().Header().Set("Content-Disposition", fmt.Sprintf("attachment; filename=%q", name))
	return c.Blob(http.StatusOK, kind, data)
}

// MaxPhotoFiles is how many pictures one form may bring.
const MaxPhotoFiles = 8

// ReadUpload reads a sent file, one byte past what is taken so that more is noticed.
func ReadUpload(file *multipart.FileHeader, most int64) ([]byte, error) {
	in, err := file.Open()
	if err != nil {
		return nil, err
	}
	defer in.Close()
	out := make([]byte, min(file.Size, most+1)) // whole at once: growing would take twice as much
	_, err = io.ReadFull(in, out)
	return out, err
}

// Number is what an address names by its number; what is none is not found.
func Number(c *echo.Context, name string) (int64, error) {
	n, err := strconv.ParseInt(c.Param(name), 10, 64)
	if err != nil {
		return 0, base.ErrNotFound
	}
	return n, nil
}

// ListAgain reads the form of a list that was sent before: which list it is, and the column of each thing
// that is known of a row.
func ListAgain(c *echo.Context, known []struct{ Name, Words string }) (f *form.Form, upload int64,
	columns map[string]int, err error) {
	if f, err = form.Sent(c); err != nil {
		return nil, 0, nil, err
	}
	if upload, err = strconv.ParseInt(f.Text("upload"), 10, 64); err != nil {
		return nil, 0, nil, base.ErrNotFound
	}
	columns = map[string]int{}
	for _, x := range known {
		if at, err := strconv.Atoi(f.Text("column:" + x.Name)); err == nil && at >= 0 {
			columns[x.Name] = at
		}
	}
	return f, upload, columns, nil
}
