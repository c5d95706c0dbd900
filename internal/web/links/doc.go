// Package links is the room of the roads on which an edition goes out: links for everybody and for one person each, the letters that carry
// them, the tray that letters lie in where there is no mail server, and the page that a link leads to. People with an account make links;
// whoever has one opens it, without an account and without a cookie.
package links

import "embed"

// Views are the templates of the room.
//
//go:embed *.html
var Views embed.FS
