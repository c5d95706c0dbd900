package form

import "fmt"

// Profile is the sort of file that a form is released as.
type Profile string

// The profiles: a form of PDF 1.7, which every reader of today knows; one of PDF 2.0 (ISO 32000-2); one that is tagged for those who have
// it read out to them (ISO 14289-1); and one that nobody can fill in, for paper and for the archive.
const (
	Everyday Profile = ""
	PDF20    Profile = "pdf20"
	Flat     Profile = "flat"

	Accessible Profile = "accessible"
)

// Profiles names them as they are chosen among.
var Profiles = []Offer{
	{"", "a form of PDF 1.7, for every reader"},
	{"pdf20", "a form of PDF 2.0"},
	{"accessible", "an accessible form: tagged, to be read out"},
	{"flat", "pages that nobody can fill in, for the archive"},
}

// Check says whether it is one.
func (p Profile) Check() error {
	for _, o := range Profiles {
		if o.Value == string(p) {
			return nil
		}
	}
	return fmt.Errorf("%q is nothing that a form can go out as: use pdf20, accessible, flat, or nothing", string(p))
}

// Words names the profile; empty for the everyday one.
func (p Profile) Words() string {
	if p == Everyday {
		return ""
	}
	return offerWords(Profiles, string(p))
}
