package counter

import (
	"net/url"
	"slices"
	"strings"
	"time"

	"yembo/shop/base"
	"yembo/shop/jobs"

	"yembo/core/hw"
	"yembo/web/form"
	"yembo/web/kit"
)

// counterView is what is asked at the counter when a machine is handed in, and corrected later.
type counterView struct {
	*form.Form
	Chassis   *hw.Chassis
	Customers []jobs.Customer
	Standards []hw.Term[string]
	Services  []kit.Pickable
	Keepable  []kit.Pickable
	Seals     []string
	Consents  []kit.ConsentRow
}

// counterOf asks about a machine of a model; customers are proposed while one types.
func counterOf(f *form.Form, ch *hw.Chassis, customers []jobs.Customer) counterView {
	return counterView{Form: f, Chassis: ch, Customers: customers[:min(len(customers), kit.MaxProposed)],
		Standards: hw.Standards.Terms(), Seals: jobs.Seals, Services: kit.ServicesOf(ch, askedServices(f, ch), f.Currency),
		Keepable: kit.Keepable(ch, kit.KeptPlaces(f, ch)), Consents: kit.ConsentRows(kit.ConsentsOf(f))}
}

// askedServices are the services that are ticked.
func askedServices(f *form.Form, ch *hw.Chassis) []hw.AskedService {
	var out []hw.AskedService
	for i := range ch.Services {
		if id := ch.Services[i].ID; kit.Ticked(f, "/services", id) {
			out = append(out, hw.AskedService{ID: id})
		}
	}
	return out
}

// readAgreement reads what was said, seen and agreed. What cannot be read is a fault at its field.
func readAgreement(f *form.Form, ch *hw.Chassis, now time.Time, how *base.Settings, was time.Time) jobs.Agreement {
	wish := &hw.Request{Format: hw.FormatRequest, BudgetCents: f.Cents("/budget_cents")}
	wish.Goals = hw.Goals{MemoryGB: f.Dec("/goals/memory_gb"), StorageGB: f.Dec("/goals/storage_gb"),
		RuntimeH: f.Dec("/goals/runtime_h"), Wireless: form.Choose(f, "/goals/wireless", hw.Standards)}
	wish.Services, wish.Keep = askedServices(f, ch), kit.KeptPlaces(f, ch)
	wish.Practice.AccessPoint = form.Choose(f, "/practice/access_point", hw.Standards)
	in := jobs.Agreement{Customer: f.Text("/customer"), Contact: f.Text("/contact"), Complaint: f.Text("/complaint"),
		Wish: wish}
	in.Details = jobs.Details{Use: f.Text("/use"), Account: f.Text("/account"), Consents: kit.ConsentsOf(f),
		Condition: jobs.Condition{
			Looked: f.Is("/condition/looked", "yes"), Damp: f.Is("/condition/damp", "yes"),
			Cracked: f.Is("/condition/cracked", "yes"), Swollen: f.Is("/condition/swollen", "yes"),
			Hot: f.Is("/condition/hot", "yes"), Screws: f.Is("/condition/screws", "yes"), Seal: f.Text("/condition/seal"),
			Note: f.Text("/condition/note")}}
	between := ","
	if strings.Contains(f.Text("/accessories"), ";") { // where one of them has a comma in it
		between = ";"
	}
	for _, a := range strings.Split(f.Text("/accessories"), between) {
		if a = strings.TrimSpace(a); a != "" {
			in.Details.Accessories = append(in.Details.Accessories, a)
		}
	}
	if in.Customer == "" {
		f.Fault("/customer", hw.Word(hw.FaultMissing, "", "the customer's name"))
	}
	if text := f.Text("/promised"); text != "" {
		at, err := form.Promise(text, now)
		if err != nil {
			f.Fault("/promised", err.Error())
		} else if doubt := how.Doubt(at, now); doubt != "" && !at.Equal(was) && !f.Is("/promised_so", "yes") {
			f.Fault("/promised", doubt+". Say another time, or tick that it is meant so")
			f.Values.Set("/promised_doubted", "yes")
		}
		in.Promised = at
	}
	return in
}

// agreementTyped is what was agreed for a job as the form has it.
func agreementTyped(r *jobs.MachineRecord, currency string) url.Values {
	d, w := &r.Details, r.Wish
	out := url.Values{}
	for name, text := range map[string]string{
		"/customer": r.Customer, "/contact": r.Contact, "/complaint": r.Complaint,
		"/goals/memory_gb": kit.DecWords(w.Goals.MemoryGB), "/goals/storage_gb": kit.DecWords(w.Goals.StorageGB),
		"/goals/runtime_h": kit.DecWords(w.Goals.RuntimeH), "/goals/wireless": string(w.Goals.Wireless.Or("")),
		"/practice/access_point": string(w.Practice.AccessPoint.Or("")), "/use": d.Use, "/account": d.Account,
		"/accessories": accessoryWords(d.Accessories), "/condition/seal": d.Condition.Seal,
		"/condition/note": d.Condition.Note} {
		out.Set(name, text)
	}
	if cents, ok := w.BudgetCents.Get(); ok {
		out.Set("/budget_cents", kit.AmountTyped(currency, cents))
	}
	if !r.Promised.IsZero() {
		out.Set("/promised", r.Promised.Format("2 Jan 2006 15:04"))
	}
	tick := func(name string, is bool) {
		if is {
			out.Set(name, "yes")
		}
	}
	c := &d.Condition
	for name, is := range map[string]bool{"looked": c.Looked, "damp": c.Damp, "cracked": c.Cracked,
		"swollen": c.Swollen, "hot": c.Hot, "screws": c.Screws} {
		tick("/condition/"+name, is)
	}
	for _, code := range d.Consents {
		tick("/consents/"+string(code), true)
	}
	for _, s := range w.Services {
		tick("/services/"+s.ID, true)
	}
	for _, id := range w.Keep {
		tick("/keep/"+id, true)
	}
	return out
}

// accessoryWords are what was handed in with a machine as it is typed: with semicolons between where one
// has a comma in it.
func accessoryWords(list []string) string {
	for _, a := range list {
		if strings.Contains(a, ",") {
			return strings.Join(list, "; ") + ";"
		}
	}
	return strings.Join(list, ", ")
}

// keepCharges leaves the charges of services that are asked for as before as they are.
func keepCharges(was, now *hw.Request) {
	for i := range now.Services {
		at := slices.IndexFunc(was.Services, func(x hw.AskedService) bool { return x.ID == now.Services[i].ID })
		if at >= 0 {
			now.Services[i].Charge = was.Services[at].Charge
		}
	}
}
