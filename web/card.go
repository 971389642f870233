package web

import (
	"context"
	"net/http"
	"strings"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/core/teardown"
	"yembo/shop"
)

// cardView is the work card: what to take out, what to fit, what to mind, and a
// place for signatures. It is printed on one sheet in black and white.
type cardView struct {
	MachineID, Model, Code, Serial string
	Customer, Contact, Complaint   string
	Paper                          string // a4 or letter
	Out, In, Keep                  []cardLine
	Minutes                        string
	Total                          string
	Consents                       []string
	Warnings                       []plan.Warning
	Cautions                       []string
	Steps                          []cardStep
	Back                           []string
	Closing                        string
	Memory                         string
	Migration                      string
	ChosenBy, ChosenAt, Printed    string
	Gone                           bool // the chosen option is not among the plan's any more
}

type cardLine struct{ Place, What, Note string }

type cardStep struct {
	Number int
	Words  string
}

func (s *server) showCard(c *echo.Context) error {
	id := c.Param("id")
	r, err := s.Shop.Machine(c.Request().Context(), id)
	if err != nil {
		return err
	}
	if r.Choice == nil {
		return s.planPage(c, id, http.StatusConflict, "No option is chosen yet. Choose one, then its work card can be printed.", c.QueryParams())
	}
	p, err := s.Shop.Plan(c.Request().Context(), id, queryOf(r.Choice))
	if err != nil {
		return err
	}
	v, err := buildCard(c.Request().Context(), &p)
	if err != nil {
		return err
	}
	if v.Paper, err = s.paperOf(c); err != nil {
		return err
	}
	v.Printed = stamp(s.Shop.Now())
	return s.render(c, http.StatusOK, "card", "Work card for "+id, "machines", v)
}

// queryOf asks for the plan that a choice was made from: under its practice, and with the
// same combination where it was put together by hand.
func queryOf(c *shop.Choice) shop.PlanQuery {
	q := shop.PlanQuery{Practice: &c.Practice}
	if c.Option.ID != shop.OwnID {
		return q
	}
	q.Own = map[string]string{}
	for _, a := range c.Option.Actions {
		switch {
		case a.Do == plan.DoRemove:
			q.Own[a.Place] = plan.Removed
		case a.Part != "":
			q.Own[a.Place] = a.Part
		}
	}
	return q
}

func buildCard(ctx context.Context, p *shop.Planned) (cardView, error) {
	r, o := &p.Record, p.Record.Choice.Option
	v := cardView{MachineID: r.Machine.ID, Model: r.Chassis.Name(), Code: r.Chassis.Code, Serial: r.Machine.Serial, Customer: r.Customer,
		Contact: r.Contact, Complaint: r.Complaint, Minutes: o.Minutes.String(), Total: money(r.Choice.Currency, o.TotalCents),
		ChosenBy: r.ChosenBy, ChosenAt: stamp(r.ChosenAt), Warnings: o.Warnings, Gone: true}
	for i := range p.Plan.Options {
		if isChosen(r.Choice, &p.Plan.Options[i]) {
			v.Gone = false
		}
	}
	if p.Own != nil && len(p.Against) == 0 && isChosen(r.Choice, p.Own) {
		v.Gone = false
	}
	names := partNames(p.Parts)
	var reaches []string
	for _, a := range o.Actions {
		if a.Do == plan.DoKeep {
			v.Keep = append(v.Keep, cardLine{Place: a.Place})
			continue
		}
		reach, _ := r.Chassis.ReachOf(a.Place)
		reaches = append(reaches, reach)
		if a.Out != "" {
			v.Out = append(v.Out, cardLine{a.Place, a.Out, "back to the customer, unless agreed otherwise"})
		}
		if a.Part != "" {
			name := names[a.Part]
			if name == "" {
				name = a.Part
			}
			v.In = append(v.In, cardLine{a.Place, name, spareWords(p.Parts, &o, a.Part)})
		}
	}
	v.Memory, _ = memoryWords(o.Memory)
	if m := o.Migration; m != nil {
		v.Migration = m.Place + ": " + hw.Migrations.Says(m.How)
		if min, ok := m.Minutes.Get(); ok {
			v.Migration += ", about " + min.String() + " min of copying"
		}
	}
	for _, code := range o.Consents {
		v.Consents = append(v.Consents, code.Row().Says)
	}
	best, err := teardown.BestOrder(ctx, r.Chassis, teardown.Down(r.Chassis, reaches))
	if err != nil {
		return v, err
	}
	order := best.Steps
	for k := range order {
		v.Steps = append(v.Steps, cardStep{k + 1, stepWords(r.Chassis, &r.Chassis.Steps[order[k]])})
		v.Back = append(v.Back, teardown.Back(r.Chassis, &r.Chassis.Steps[order[len(order)-1-k]]))
	}
	v.Closing = strings.Join(teardown.Closing(r.Chassis, order), "; ")
	v.Cautions = cautions(r.Chassis)
	return v, nil
}

// spareWords says what is left over of a kit that is not used up.
func spareWords(parts *hw.Parts, o *plan.Option, id string) string {
	for i := range parts.Parts {
		if parts.Parts[i].ID != id || parts.Parts[i].Pieces() == 1 {
			continue
		}
		used := 0
		for _, a := range o.Actions {
			if a.Part == id {
				used++
			}
		}
		if left := parts.Parts[i].Purchases(used)*parts.Parts[i].Pieces() - used; left > 0 {
			return "one module of the kit; " + itoa(left) + " left over, to the customer or the shelf"
		}
		return "one module of the kit"
	}
	return ""
}

func stepWords(ch *hw.Chassis, st *hw.Step) string {
	words := strings.TrimSuffix(st.Does(), " it")
	if n := teardown.Screws(st); n > 0 {
		words += ", " + itoa(n) + " screws"
		if n == 1 {
			words = words[:len(words)-1]
		}
		if i := ch.FastenerByID(st.Fasteners[0].Group); i >= 0 {
			if bit, ok := ch.Fasteners[i].Bit.Get(); ok {
				words += " " + bit
			}
		}
	}
	if st.StartAt != "" {
		words += ", from the " + st.StartAt
	}
	if st.IsolatesPwr.Or(false) {
		words += ": the machine is without power from here down"
	}
	return words
}

// cautions are the usual ones at the bench (handbook 11), with those of the pack
// where there is one.
func cautions(ch *hw.Chassis) []string {
	out := []string{
		"Power off and charger out before a screw is turned.",
		"Earthed wrist strap or mat, or touch bare earthed metal first. Boards by their edges.",
		"Plastic pry tools, shallow and slow. Plugs by their bodies. Never force: a part that will not move has one more screw or clip.",
		"A cracked screen, a damp machine, a smell or heat stops the job.",
	}
	if ch.Batteries == nil || len(ch.Batteries) > 0 {
		out = append(out, "Look at the pack before it is unplugged. Swollen, dented, hot or leaking: stop. Do not charge, press or pry it; move it away from anything that burns and follow local rules and the shop's fire plan.")
	}
	return append(out, "Local electrical, battery and waste rules, and the maker's service sheet, come before this card. Mains-side and cell-level work belongs to licensed people.")
}
