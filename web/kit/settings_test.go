package kit

import (
	"reflect"
	"testing"
	"yembo/shop/base"

	"yembo/core/grade"
	"yembo/core/hw"
)

// elsewhere are settings that the page shows in a table of its own, as another that took its place, or with the people.
var elsewhere = map[string]bool{"Largest": true, "Break": true, "AtBench": true}

// otherwise gives a setting another value where that takes more than a word or a number.
var otherwise = map[string]func(how *base.Settings){
	"Hours": func(how *base.Settings) { how.Hours = base.Hours{"mon": {{"08:00", "12:00"}}} },
	"PeopleHours": func(how *base.Settings) {
		how.PeopleHours = map[string]base.Hours{"A": {"mon": {{"08:00", "12:00"}}}}
	},
	"Grade":    func(how *base.Settings) { how.Grade = grade.Weights{grade.Cooling: 4} },
	"Practice": func(how *base.Settings) { how.Practice.MemoryLimit = hw.Known(hw.LimitProven) },
}

// TestEverySettingIsShown: a setting that is changed, alone, changes what the page of the settings shows. One
// that was added to the document and not to the page is named.
func TestEverySettingIsShown(t *testing.T) {
	var none base.Settings
	as := SettingsTyped(&none)
	changed := reflect.TypeFor[base.Settings]()
	for i := range changed.NumField() {
		name := changed.Field(i).Name
		var how base.Settings
		if elsewhere[name] {
			continue
		}
		if change := otherwise[name]; change != nil {
			change(&how)
		} else if !alter(reflect.ValueOf(&how).Elem().Field(i)) {
			t.Errorf("%s: no other value was found to try", name)
			continue
		}
		if reflect.DeepEqual(SettingsTyped(&how), as) {
			t.Errorf("the setting %s is not on the page", name)
		}
	}
}

// alter gives a value something else than nothing, in its first field that can be had otherwise.
func alter(v reflect.Value) bool {
	switch v.Kind() {
	case reflect.String:
		v.SetString("letter")
	case reflect.Bool:
		v.SetBool(true)
	case reflect.Int, reflect.Int64, reflect.Int32:
		v.SetInt(7_000_000)
	case reflect.Slice:
		v.Set(reflect.MakeSlice(v.Type(), 1, 1))
		alter(v.Index(0))
	case reflect.Struct:
		for i := range v.NumField() {
			if v.Field(i).CanSet() && alter(v.Field(i)) {
				return true
			}
		}
		return false
	default:
		return false
	}
	return true
}
