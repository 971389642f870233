package plans

import (
	"fmt"
	"maps"
	"net/url"
	"slices"
	"sort"
	"yembo/shop/jobs"

	"yembo/core/hw"
	"yembo/web/form"
	"yembo/web/kit"
)

// How many parts are proposed while one types, and offered for a place; any other can be
// asked about by its name, and pinned by its id in the address.
const (
	maxOffered = 400
	maxOwn     = 120
)

// offer fills what the forms of the page offer, and what the address says beside what is
// stored.
func (v *planView) offer(p *jobs.Planned, names map[string]string) {
	st := v.planState
	ch := p.Record.Chassis
	for i := range p.Parts.Parts {
		x := &p.Parts.Parts[i]
		if x.Kind != hw.KindAccessory {
			v.Parts = append(v.Parts, kit.PartChoice{ID: x.ID, Name: x.Name, Kind: hw.PartKinds.Says(x.Kind)})
		}
	}
	v.Parts = v.Parts[:min(len(v.Parts), maxOffered)]
	own := func(id string, kind hw.PartKind, now string, occupied bool) {
		o := ownPlace{Place: id, Now: now, Chosen: st.Text(kit.OwnPrefix + id),
			CanRemove: occupied && kind != hw.KindBattery && kind != hw.KindWireless}
		for i := range p.Parts.Parts {
			if x := &p.Parts.Parts[i]; x.Kind == kind && (len(o.Parts) < maxOwn || x.ID == o.Chosen) {
				o.Parts = append(o.Parts, kit.PartChoice{ID: x.ID, Name: x.Name, Kind: hw.PartKinds.Says(x.Kind)})
			}
		}
		v.OwnPlaces = append(v.OwnPlaces, o)
	}
	m := p.Record.Machine
	for _, at := range ch.Places() {
		if at.Kind == hw.InPack || at.Takes == "" {
			continue
		}
		now, _, holds := m.At(at)
		own(at.ID, at.Takes, now, holds)
	}
	if len(ch.Batteries) > 0 {
		now := "not known"
		if b := m.Fitted.Battery; b != nil {
			now = hw.PackSays(b.Option + b.PartNumber)
		}
		own(hw.BatteryPlace, hw.KindBattery, now, true)
	}
	for list, forbidden := range map[string]bool{"pin": false, "ban": true} {
		for _, id := range st.values[list] {
			v.Pinned = append(v.Pinned, pinnedPart{kit.OrDash(names[id], id+", not on the shelf any more"),
				st.toggle(list, id), forbidden})
		}
	}
	sort.Slice(v.Pinned, func(i, j int) bool { return v.Pinned[i].Undo < v.Pinned[j].Undo })
	v.Differs = p.Query.Wish != nil && !sameWish(p.Query.Wish, p.Record.Wish)
	if !st.Is("wish", "1") {
		g := p.Record.Wish.Goals
		set := st.Form.Values.Set
		set("memory_gb", kit.DecWords(g.MemoryGB))
		set("storage_gb", kit.DecWords(g.StorageGB))
		set("runtime_h", kit.DecWords(g.RuntimeH))
		set("wireless", string(g.Wireless.Or("")))
		set("ap", string(p.Record.Wish.Practice.AccessPoint.Or("")))
		if cents, ok := p.Record.Wish.BudgetCents.Get(); ok {
			set("budget", kit.AmountTyped(p.Settings.Currency, cents))
		}
	}
	v.Services, v.Keepable = kit.ServicesOf(ch, p.Request.Services, p.Settings.Currency), kit.Keepable(ch, p.Request.Keep)
	pr := p.Request.Practice
	v.LimitIs, v.PairingIs, v.MigrationIs, v.BayIs = string(pr.MemoryLimit.Or(hw.LimitMaker)),
		string(pr.Pairing.Or(hw.PairAny)), string(pr.Migration.Or(hw.Clone)), "yes"
	v.RiskWorth = "usually " + kit.AmountTyped(p.Settings.Currency, pr.RiskCents.Or(hw.UsualRiskCents))
	if !pr.AllowBay.Or(true) {
		v.BayIs = "no"
	}
	for _, name := range slices.Sorted(maps.Keys(st.values)) {
		for _, value := range st.values[name] {
			v.StateFields = append(v.StateFields, form.Field{Name: name, Value: value})
		}
	}
	full := url.Values{}
	for k, x := range st.values {
		full[k] = x
	}
	if at := st.Text("model"); at != "" && at != fmt.Sprint(p.Model.Version) {
		v.Since = append(
			v.Since,
			"the address was made for version "+at+" of the model's record; it is at "+fmt.Sprint(p.Model.Version),
		)
	}
	full.Set("model", fmt.Sprint(p.Model.Version))
	v.Address = "/machines/" + v.Key + "?" + full.Encode()
	for _, c := range p.Model.Since {
		v.Since = append(v.Since, kit.Stamp(c.At)+" "+c.By+": "+c.What)
	}
}
