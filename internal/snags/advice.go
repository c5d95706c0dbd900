package snags

// unmended says for each check whose snags have no mend why nothing is done in one press, and what to do.
var unmended = map[string]string{
	"no-tooltip":         "only you know what it asks for: write it into its note",
	"off-page":           "only you know where it belongs: drag it onto the page, or remove it",
	"machine-name":       "only you know what it is: give it a name in its note",
	"too-small":          "what is printed around it decides how high it can be: draw it higher",
	"too-narrow":         "what is printed around it decides how wide it can be: draw it wider",
	"never-seen":         "it may be meant for a step or for whoever takes the answers: else remove it",
	"check-broken":       "only you know what it is to hold: mend the check in its note",
	"contradiction":      "either of the two may be meant: change one of them in its note",
	"no-address":         "only you know where the answers go: write it into its note, or let them come to this application",
	"step-lost":          "only you know what is meant instead: change the step in its note",
	"script-broken":      "only you know what it is to do: mend the script in its note",
	"own-script":         "nobody but you can tell whether it does what it should",
	"no-action":          "only you know what it is for: choose what it does in its note, or remove it",
	"needs-scripts":      "whether your recipients' readers run scripts is not to be seen from here",
	"same-tooltip":       "only you know what tells them apart: say it in one of the tooltips",
	"double-name":        "either may be the wrong one: give one of them another name in its note",
	"overlap":            "either may be the wrong one: move one of them, or remove it",
	"empty-list":         "only you know the options: write them into its note, or take a list that is ready",
	"option":             "only you know what each is to send: mend the options in its note",
	"same-export":        "only you know what each is to send: change one in its note",
	"formula-broken":     "only you know what is to be worked out: mend it in its note",
	"circle":             "any of them may be the wrong one: take one out of the others' formulas",
	"covers-words":       "the field or its place may be wrong: move it, or make it smaller",
	"doubtful":           "they are doubtful: look at them in Find, and keep or drop each",
	"no-language":        "its words are too few to tell: name the language in Bring in",
	"no-title":           "it has no name yet: write its title in Bring in",
	"reader-unison":      "there is nothing to mend: what is sent is the same",
	"picture-script":     "there is no other way in a PDF form to take a picture",
	"reader-entry":       "whether an entry of one's own is needed is yours to say",
	"reader-required":    "there is nothing to mend: what comes back is held to it here",
	"reader-order":       "the order was made on purpose: only the places of the fields would change it there",
	"signature-not-last": "the order may be meant: drag its bead behind the others",
}

// Unmended says why a snag has no mend in one press, and what to do; empty for one that has.
func (s Snag) Unmended() string {
	if s.mend != nil {
		return ""
	}
	return unmended[s.Check]
}
