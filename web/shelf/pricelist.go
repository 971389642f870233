package shelf

import (
	"context"
	"errors"
	"net/http"
	"net/url"

	"yembo/shop/stock"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/exchange"
	"yembo/web/form"
	"yembo/web/kit"
)

// pricesView is a price list or a document of parts: the file, then what each row would become, then what
// was taken.
type pricesView struct {
	*form.Form
	Upload               int64
	Head                 []string
	Columns              []kit.ColumnChoice
	Suppliers            []stock.Supplier
	Supplier             int64
	New, Changed         []stock.ListedPart // the first of them
	News, Changes, Sames int
	Aside                []stock.ListedPart
	Asides, Sound        int
	Taken                *stock.PricesTaken
	Stopped              bool
	Currency             string
	Most                 int
	UnderWay             string
}

const mostAside = 50

func (s *pages) newPrices(c *echo.Context) error {
	return s.pricesStart(c, http.StatusOK, form.New(url.Values{}))
}

func (s *pages) pricesStart(c *echo.Context, status int, f *form.Form) error {
	all, err := s.Shop.Suppliers(c.Request().Context())
	if err != nil {
		return err
	}
	return s.Render(c, status, "prices", "Price list", "parts",
		pricesView{Form: f, Most: exchange.MaxTableRows, Suppliers: all,
			UnderWay: s.Shop.UnderWay()})
}

// lookAtPrices keeps the file and shows what its rows would become.
func (s *pages) lookAtPrices(c *echo.Context) error {
	f, raw, done, err := s.SentList(c)
	if err != nil {
		return err
	}
	defer done()
	if len(raw) == 0 {
		f.Fault("/list", "choose a file, or paste rows including the header line")
		return s.pricesStart(c, http.StatusUnprocessableEntity, f)
	}
	upload, err := s.Shop.KeepUpload(c.Request().Context(), raw)
	if err != nil {
		return err
	}
	return s.pricesPage(c, http.StatusOK, f, upload, nil, int64(f.Whole("supplier").Or(0)))
}

// pricesPage shows a kept list; columns nil takes those of such a list before.
func (s *pages) pricesPage(c *echo.Context, status int, f *form.Form, upload int64, columns map[string]int,
	supplier int64) error {
	ctx := c.Request().Context()
	list, err := s.Shop.LookAtPrices(ctx, upload, columns, supplier)
	if err != nil {
		if !f.Take(err) {
			return err
		}
		return s.pricesStart(c, http.StatusUnprocessableEntity, f)
	}
	all, err := s.Shop.Suppliers(ctx)
	if err != nil {
		return err
	}
	v := pricesView{Form: f, Upload: upload, Head: list.Head, Suppliers: all, Supplier: list.Supplier,
		Currency: list.Currency,
		Most:     exchange.MaxTableRows, UnderWay: s.Shop.UnderWay()}
	for _, x := range stock.ListColumns {
		at, ok := list.Columns[x.Name]
		if !ok {
			at = -1
		}
		v.Columns = append(v.Columns, kit.ColumnChoice{Name: x.Name, Words: x.Words, At: at})
	}
	v.sort(list.Rows)
	return s.Render(c, status, "prices", "Price list", "parts", v)
}

// sort counts the rows by what becomes of them and keeps the first of each.
func (v *pricesView) sort(rows []stock.ListedPart) {
	for _, l := range rows {
		switch {
		case l.Fault != "":
			if v.Asides++; len(v.Aside) < mostAside {
				v.Aside = append(v.Aside, l)
			}
		case l.Same:
			v.Sames++
		case l.Part == "":
			if v.News++; len(v.New) < kit.MaxPreview {
				v.New = append(v.New, l)
			}
		default:
			if v.Changes++; len(v.Changed) < kit.MaxPreview {
				v.Changed = append(v.Changed, l)
			}
		}
	}
	v.Sound = v.News + v.Changes
}

// takePrices shows the rows anew, takes them aside, or sends those that were kept aside.
func (s *pages) takePrices(c *echo.Context) error {
	f, upload, columns, err := kit.ListAgain(c, stock.ListColumns)
	if err != nil {
		return err
	}
	supplier := int64(f.Whole("supplier").Or(0))
	ctx := c.Request().Context()
	switch f.Text("do") {
	case "take":
		if _, err := s.Shop.Upload(ctx, upload); err != nil {
			return err
		}
		return s.Aside(c, f.Text("token"), "Parts from a list",
			func(ctx context.Context, step func(done, of int)) (kit.Shown, error) {
				taken, err := s.Shop.TakePrices(ctx, s.Acting(c), upload, columns, supplier, step)
				var faults hw.Faults
				if errors.As(err, &faults) {
					taken.Faults, err = kit.FaultTexts(faults), nil
				}
				return func(c *echo.Context, stopped bool) error {
					return s.showPricesTaken(c, pricesTaken{taken, upload, columns, supplier}, stopped)
				}, err
			})
	case "aside":
		list, err := s.Shop.LookAtPrices(ctx, upload, columns, supplier)
		if err != nil {
			return err
		}
		out, err := stock.AsidePrices(&list)
		if err != nil {
			return echo.ErrBadRequest.Wrap(err)
		}
		return kit.SendFile(c, "kept-aside.csv", "text/csv; charset=utf-8", out)
	}
	return s.pricesPage(c, http.StatusOK, f, upload, columns, supplier)
}

// pricesTaken is what came of taking in a list.
type pricesTaken struct {
	stock.PricesTaken
	upload   int64
	columns  map[string]int
	supplier int64
}

func (s *pages) showPricesTaken(c *echo.Context, t pricesTaken, stopped bool) error {
	v := pricesView{Form: form.New(url.Values{}), Upload: t.upload, Supplier: t.supplier, Taken: &t.PricesTaken,
		Stopped: stopped,
		Aside:   t.Rows, Asides: t.Aside}
	if t.Table {
		v.Head = []string{""}
	}
	for _, x := range stock.ListColumns {
		if at, ok := t.columns[x.Name]; ok {
			v.Columns = append(v.Columns, kit.ColumnChoice{Name: x.Name, Words: x.Words, At: at})
		}
	}
	return s.Render(c, http.StatusOK, "prices", "Price list", "parts", v)
}
