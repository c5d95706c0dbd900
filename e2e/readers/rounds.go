package readers

// rounds are the ways round what a reader does otherwise, by the property and the reader.
var rounds = map[string]map[string]string{
	"takes no more than it shows": {
		"pdf.js": "It scrolls instead: give the field a most number of signs as well.",
	},
	"hidden typing does not show": {
		"mutool": "It draws what was typed into the file that it saves: ask for nothing secret on a form, or protect the file.",
	},
	"Polish letters show": {
		"mutool": "The answer is kept whole and shows as dots there; filling, flattening and returns draw it anew from what is kept.",
	},
	"Greek letters show": {
		"Chromium": "The answer is kept whole, and shows well while it is typed; the drawing that is saved has letters over each other, " +
			"with any font: filling, flattening and returns draw it anew from what is kept.",
	},
	"Cyrillic letters show": {
		"Chromium": "As with Greek letters.",
	},
	"radio buttons of one value go together": {
		"pdf.js": "It turns each on by itself; what is sent is the same. A hint says so.",
	},
	"dropdown": {
		"mutool": "It keeps what the option shows instead of its value: filling and returns take both.",
	},
	"list box": {
		"mutool": "As with a dropdown.",
	},
	"dropdown with an entry of one's own": {
		"pdf.js": "It offers the list only. A hint says so: an option such as other, and a text field beside it.",
	},
	"an entry of one's own in a format": {
		"pdf.js": "As with a dropdown with an entry of one's own: it offers the list only.",
		"mutool": "It shows the entry as it was typed; what is kept is the same.",
	},
	"required if": {
		"Chromium": "It does not hold people to it; what comes back is held to it. A hint says so.",
		"mutool":   "As in Chromium.",
	},
	"button: send as FDF": {
		"pdf.js": "It sends nothing: a line on the form says where the saved file can be sent to, too.",
	},
	"button: send as XFDF": {
		"Chromium": "It sends FDF, whatever is asked for: who takes answers goes by what the body is.",
		"pdf.js":   "As with FDF.",
	},
	"button: send as form data": {
		"Chromium": "As with XFDF.",
		"pdf.js":   "As with FDF.",
	},
	"button: send the whole PDF": {
		"Chromium": "As with XFDF.",
		"pdf.js":   "As with FDF.",
	},
	"button: lock a field": {
		"mutool": "It can be changed there all the same: what must not change is calculated, or checked when it comes back.",
	},
	"button: free a field": {
		"mutool": "It stays read-only there. A hint says so: let the field start free, and lock it by a step.",
	},
	"tab order by hand": {
		"pdf.js": "It goes row by row, whatever the file says (tried: /Tabs W, S, R and none). A hint says so: place the fields so.",
	},
	"when the document is opened": {
		"mutool": "The library runs no script then; first values stand in the fields as they are released.",
	},
}
