package kit

import (
	"strconv"
	"strings"
	"yembo/shop/records"

	"yembo/core/hw"
)

// PhotoView is one picture as pages show it.
type PhotoView struct {
	ID, Fact, Caption, By, Date string
	About                       string // the fact or place in words
	Width, Height               int
	Src, Thumb                  string
	Removed                     bool
}

func PhotoViews(model string, list []records.Photo) (shown, removed []PhotoView) {
	return PhotoViewsAt("/models/"+model+"/photos/", list)
}

// PhotoViewsAt are the photos whose files lie under an address.
func PhotoViewsAt(base string, list []records.Photo) (shown, removed []PhotoView) {
	for _, p := range list {
		id := strconv.FormatInt(p.ID, 10)
		v := PhotoView{ID: id, Fact: p.Fact, Caption: p.Caption, By: p.By, Date: hw.Day(p.On), Width: p.Width,
			Height: p.Height,
			Src:    base + id + ".jpg", Removed: p.Removed}
		v.Thumb = strings.TrimSuffix(v.Src, ".jpg") + "/thumb.jpg"
		if p.Fact != "" {
			v.About = PhotoFactWords(p.Fact)
		}
		if p.Removed {
			removed = append(removed, v)
			continue
		}
		shown = append(shown, v)
	}
	return shown, removed
}

// PhotoFactWords names a fact, or a place as a whole.
func PhotoFactWords(path string) string {
	words := strings.Split(strings.Trim(path, "/"), "/")
	if words[0] == "memory" && len(words) == 3 && words[1] != "limits" || words[0] != "memory" && len(words) == 2 {
		return words[len(words)-1]
	}
	return FactName(path)
}
