package kit

// pageKey is a key of one page, and what it does there.
type pageKey struct{ Keys, Does string }

// rowKeys go through the rows of a list.
var rowKeys = []pageKey{{"j", "to the next row"}, {"k", "to the row before"}, {"Enter", "opens it"}}

// lineKeys are those of the line of a record.
var lineKeys = []pageKey{
	{"l", "to the line"},
	{"Enter", "keeps it; with Shift another line begins"},
	{"Ctrl Enter", "keeps several lines"},
	{"Tab", "takes the proposed word"},
	{"↑", "brings back an earlier line"},
	{"Alt 1 to 7", "choose how it is known"},
}

// pageKeys are the keys that pages have of their own, by the page. Those with a data-key in their
// template are pressed there.
var pageKeys = map[string][]pageKey{
	"benchlist": append([]pageKey{{"n", "takes in a machine"}, {"a", "all jobs"}}, rowKeys...),
	"jobs":      rowKeys, "machines": append([]pageKey{{"n", "takes in a machine"}}, rowKeys...),
	"customers": rowKeys, "models": append([]pageKey{{"n", "records a model"}}, rowKeys...),
	"parts": append([]pageKey{{"n", "a new part by form"}}, rowKeys...),
	"job": {
		{"e", "corrects what was agreed"},
		{"t", "to the line of a talk"},
		{"p", "the plan"},
		{"b", "the bench"},
		{"c", "the work card"},
		{"i", "the intake sheet"},
		{"m", "its money: invoice, payments"},
	},
	"plan": {{"w", "to what is wished"}, {"1 to 9", "to that option"}, {"c", "the work card of what is chosen"}},
	"run": {
		{"Space", "ticks the step that is shown"},
		{"← →", "show the step before or after"},
		{"Esc", "closes what is open"},
	},
	"arrange": {{"arrows", "move what has the focus by 1 mm, with Shift by 10"}, {"R", "turns it by 90°"},
		{"Delete", "takes a screw out of the drawing"}, {"Ctrl Z", "undoes"}, {"Ctrl Y", "does it again"}},
	"steps":     {{"Alt ↑ or ↓", "moves the step that has the focus"}},
	"modelform": lineKeys, "model": append([]pageKey{{"e", "changes the record by the form"}, {"f", "its findings"}}, lineKeys...),
	"intake": {{"Ctrl Enter", "takes the machine in, from any field"}},
	"jobcorrect": {
		{"Ctrl Enter", "keeps the correction, from any field"},
	}, "machinecorrect": {{"Ctrl Enter", "keeps the correction, from any field"}},
}

// PageKeys are the keys of the page at hand.
func (f frame) PageKeys() []pageKey { return pageKeys[f.Page] }
