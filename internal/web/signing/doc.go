// Package signing is the room in which a form goes round: its roles fill in their fields and sign, one after the other, people by a link
// with a passcode, the office's own by their account. What was signed, by whom and when stands on a page behind the finished form, which
// the office seals with a certificate of its own where it has one.
package signing

import "embed"

// Views are the templates of the room.
//
//go:embed *.html
var Views embed.FS
