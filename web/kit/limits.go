package kit

import (
	"net"
	"net/http"
	"time"

	"github.com/labstack/echo/v5"
	"github.com/labstack/echo/v5/middleware"
)

// Limits are how many requests a second are answered, and how many at once after a pause: of one address, and in all.
type Limits struct {
	Rate, AllRate   float64
	Burst, AllBurst int
}

// Limits of the shop's own door and of the customers'. A page asks for itself and up to a dozen things that it is drawn
// with; a run sends ticks as fast as a hand is. A whole shop behind one address is twenty screens.
var (
	ShopLimits      = Limits{Rate: 40, Burst: 400, AllRate: 400, AllBurst: 2000}
	CustomersLimits = Limits{Rate: 5, Burst: 60, AllRate: 60, AllBurst: 400}
)

// Limit answers requests that come faster with 429, by address and in all, so that one that floods the shop does not stop
// it. This machine itself is not held up: whoever sits at it can stop the program anyway.
func Limit(l Limits) echo.MiddlewareFunc {
	by := middleware.NewRateLimiterMemoryStoreWithConfig(middleware.RateLimiterMemoryStoreConfig{Rate: l.Rate, Burst: l.Burst,
		ExpiresIn: 10 * time.Minute})
	all := middleware.NewRateLimiterMemoryStoreWithConfig(middleware.RateLimiterMemoryStoreConfig{Rate: l.AllRate,
		Burst: l.AllBurst, ExpiresIn: 24 * time.Hour})
	return func(next echo.HandlerFunc) echo.HandlerFunc {
		return func(c *echo.Context) error {
			address := Address(c)
			if ip := net.ParseIP(address); ip != nil && ip.IsLoopback() {
				return next(c)
			}
			for _, x := range []struct {
				of   *middleware.RateLimiterMemoryStore
				name string
			}{{by, network(address)}, {all, "all"}} {
				free, err := x.of.Allow(x.name)
				if err != nil {
					return err
				}
				if !free {
					c.Response().Header().Set("Retry-After", "2")
					return c.HTML(http.StatusTooManyRequests, "<!doctype html><html lang=\"en\"><title>Too fast</title>"+
						"<p>More was asked from here than is answered. Wait some seconds and load the page again; nothing that was "+
						"stored is lost.</p></html>")
				}
			}
			return next(c)
		}
	}
}

// network is whose requests are counted together: an address, and of IPv6 the network that one household has.
func network(address string) string {
	ip := net.ParseIP(address)
	if ip == nil || ip.To4() != nil {
		return address
	}
	return ip.Mask(net.CIDRMask(64, 128)).String()
}
