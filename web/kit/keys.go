package kit

// pageKey is a key of one page, and what it does there.
type pageKey struct{ Keys, Does string }

// rowKeys go through the rows of a list.
var rowKeys = []pageKey{{"j", "next row"}, {"k", "previous row"}, {"Enter", "open it"}}

// lineKeys are those of the line of a record.
var lineKeys = []pageKey{
	{"l", "go to the line"},
	{"Enter", "save it; with Shift add a line"},
	{"Ctrl Enter", "save several lines"},
	{"Tab", "take the proposed word"},
	{"↑", "recall an earlier line"},
	{"Alt 1 to 7", "choose how it is known"},
}

// pageKeys are the keys that pages have of their own, by the page. Those with a data-key in their
// template are pressed there.
var pageKeys = map[string][]pageKey{
	"benchlist": append([]pageKey{{"n", "take in a machine"}, {"a", "all jobs"}, {"w", "the week"}}, rowKeys...),
	"jobs":      rowKeys, "machines": append([]pageKey{{"n", "take in a machine"}}, rowKeys...),
	"customers": rowKeys, "models": append([]pageKey{{"n", "record a model"}}, rowKeys...),
	"parts": append([]pageKey{{"n", "add a part by form"}}, rowKeys...),
	"job": {
		{"e", "correct what was agreed"},
		{"t", "add to the contact log"},
		{"p", "open the plan"},
		{"b", "open the bench work"},
		{"c", "open the work card"},
		{"i", "open the intake sheet"},
		{"m", "open billing: invoice, payments"},
	},
	"week": {{"j", "next job in time"}, {"k", "previous job"}, {"h", "the week before"}, {"l", "the week after"},
		{"Enter", "take hold of a job, and put it"}, {"← →", "move it by a quarter of an hour, with Shift by an hour"},
		{"↑ ↓", "move it to another bench"}, {"Esc", "leave it where it was"}, {"p", "let it go again, or keep it there"},
		{"o", "the next place it may take"}, {"w", "why it stands there"}, {"u", "undo; with Shift do it again"}},
	"plan": {{"w", "go to the request"}, {"1 to 9", "go to that option"}, {"c", "open the work card of what is chosen"}},
	"run": {
		{"Space", "tick the step shown"},
		{"← →", "show the step before or after"},
		{"Esc", "close what is open"},
	},
	"arrange": {{"arrows", "move what has the focus by 1 mm, with Shift by 10"}, {"R", "turn it by 90°"},
		{"Delete", "take a screw out of the drawing"}, {"Ctrl Z", "undo"}, {"Ctrl Y", "redo"}},
	"steps":     {{"Alt ↑ or ↓", "move the step that has the focus"}},
	"modelform": lineKeys, "model": append([]pageKey{{"e", "change the record by the form"}, {"f", "open its findings"}},
		lineKeys...),
	"intake": {{"Ctrl Enter", "take the machine in, from any field"}},
	"jobcorrect": {
		{"Ctrl Enter", "save the correction, from any field"},
	}, "machinecorrect": {{"Ctrl Enter", "save the correction, from any field"}},
}

// PageKeys are the keys of the page at hand.
func (f frame) PageKeys() []pageKey { return pageKeys[f.Page] }
