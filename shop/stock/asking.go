package stock

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"sync"
	"time"

	"yembo/core/hw"
	"yembo/shop/base"
	"yembo/store"
)

// Offer is what a supplier's service said of a part, and when.
type Offer struct {
	Number  string
	Name    string
	Cents   int64
	Stock   int
	Days    int
	At      time.Time
	Missing bool // it does not sell the part
}

// Asking is how the questions to the supplier's service stand.
type Asking struct {
	On     bool
	Failed string    // why the last question was not answered, "" where it was
	Again  time.Time // not before is it asked again after a failure
}

// asking asks a supplier's service: it waits a few seconds at most, leaves it alone for longer and longer
// when it fails, and keeps what was said. Nothing else ever waits for it.
type asking struct {
	mu     sync.Mutex
	offers map[string]Offer
	failed string
	fails  int
	again  time.Time
}

// Limits of a question.
const (
	askTimeout  = 3 * time.Second
	askFresh    = 10 * time.Minute // an answer that young is not asked for again
	firstPause  = 15 * time.Second
	longestWait = 15 * time.Minute
	maxOffer    = 64 << 10 // bytes
)

// errAsked is why a question was not answered, in words.
type errAsked string

func (e errAsked) Error() string { return string(e) }

// Asking says how the questions to the supplier's service stand.
func (s *Stock) Asking(ctx context.Context) (Asking, error) {
	how, err := s.Settings(ctx)
	s.ask.mu.Lock()
	defer s.ask.mu.Unlock()
	return Asking{how.SupplierService != "", s.ask.failed, s.ask.again}, err
}

// Offers is what was said of parts, by part, however long ago.
func (s *Stock) Offers() map[string]Offer {
	s.ask.mu.Lock()
	defer s.ask.mu.Unlock()
	out := make(map[string]Offer, len(s.ask.offers))
	for part, o := range s.ask.offers {
		out[part] = o
	}
	return out
}

// AskSupplier asks the supplier's service about some parts and keeps the answers. What was said a short
// while ago is not asked again. It stops at the first failure; the error says why in words.
func (s *Stock) AskSupplier(ctx context.Context, parts []string) error {
	how, err := s.Settings(ctx)
	if err != nil {
		return err
	}
	if how.SupplierService == "" {
		return errAsked("no supplier's service is named in the settings")
	}
	for _, part := range parts {
		number := ""
		err := s.Store.View(ctx, func(tx store.Tx) error {
			row, err := tx.Part(part)
			if number = row.OrderNo; number == "" {
				number = row.ID
			}
			return err
		})
		if err != nil {
			return err
		}
		if err := s.askOne(ctx, &how, part, number); err != nil {
			return err
		}
	}
	return nil
}

func (s *Stock) askOne(ctx context.Context, how *base.Settings, part, number string) error {
	a := s.ask
	a.mu.Lock()
	now := s.Now()
	if o, known := a.offers[part]; known && o.Number == number && now.Sub(o.At) < askFresh {
		a.mu.Unlock()
		return nil
	}
	if now.Before(a.again) {
		defer a.mu.Unlock()
		return errAsked(fmt.Sprintf("%s; it is asked again from %s", a.failed, a.again.Format("15:04:05")))
	}
	a.mu.Unlock()
	offer, err := fetchOffer(ctx, s.Ask, how, number)
	a.mu.Lock()
	defer a.mu.Unlock()
	if err != nil {
		a.fails++
		pause := min(firstPause<<min(a.fails-1, 10), longestWait)
		a.failed, a.again = err.Error(), s.Now().Add(pause)
		return errAsked(a.failed)
	}
	offer.At = s.Now()
	a.fails, a.failed, a.again, a.offers[part] = 0, "", time.Time{}, offer
	return nil
}

// fetchOffer asks about one number. The error is in words for people.
func fetchOffer(ctx context.Context, client *http.Client, how *base.Settings, number string) (Offer, error) {
	ctx, stop := context.WithTimeout(ctx, askTimeout)
	defer stop()
	r, err := http.NewRequestWithContext(ctx, http.MethodGet,
		how.SupplierService+"/offers?number="+url.QueryEscape(number), nil)
	if err != nil {
		return Offer{}, err
	}
	answer, err := client.Do(r)
	if errors.Is(err, context.DeadlineExceeded) {
		return Offer{}, fmt.Errorf("the supplier's service did not answer within %s", askTimeout)
	}
	if err != nil {
		return Offer{}, errors.New("the supplier's service cannot be reached")
	}
	defer answer.Body.Close()
	switch answer.StatusCode {
	case http.StatusOK:
	case http.StatusNotFound:
		return Offer{Number: number, Missing: true}, nil
	default:
		return Offer{}, fmt.Errorf("the supplier's service is out of order (it answers %d)", answer.StatusCode)
	}
	raw, err := io.ReadAll(io.LimitReader(answer.Body, maxOffer))
	if errors.Is(err, context.DeadlineExceeded) {
		return Offer{}, fmt.Errorf("the supplier's service did not answer within %s", askTimeout)
	}
	var said struct {
		Number, Name, Currency string
		PriceCents             int64 `json:"price_cents"`
		Stock, Days            int
	}
	if err != nil || json.Unmarshal(raw, &said) != nil || said.Number != number || said.PriceCents <= 0 ||
		said.PriceCents > 1_000_000_000 ||
		said.Stock < 0 || said.Days < 0 || said.Days > 365 {
		return Offer{}, errors.New("what the supplier's service answers is no offer")
	}
	if said.Currency != how.Currency {
		return Offer{}, fmt.Errorf("the supplier's service says its prices in %.3s, the shop's are in %s",
			said.Currency, how.Currency)
	}
	return Offer{Number: said.Number, Name: said.Name, Cents: said.PriceCents, Stock: said.Stock, Days: said.Days}, nil
}

// TakeOffer makes what the supplier's service said of a part its price and days. seen is the price that was
// looked at; ErrChanged where it says another by now.
func (s *Stock) TakeOffer(ctx context.Context, a base.Actor, token, part string, seen int64) error {
	offer, known := s.Offers()[part]
	if !known || offer.Missing || offer.Cents != seen {
		return base.ErrChanged
	}
	_, err := s.Once(ctx, token, func(tx store.Tx) (string, error) {
		row, err := tx.Part(part)
		if err != nil {
			return "", err
		}
		before := row
		p, err := ReadPart(&row)
		if err != nil {
			return "", err
		}
		l := LineOf(&row, p)
		l.Part.PriceCents, l.Part.LeadDays = offer.Cents, hw.Known(offer.Days)
		if err := l.Fill(&row); err != nil {
			return "", err
		}
		return part, s.savePart(tx, a, &row, &before,
			fmt.Sprintf("price and days as the supplier said %s", offer.At.Format("2 Jan 15:04")))
	})
	return err
}
