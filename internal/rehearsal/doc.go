// Package rehearsal fills a form in as recipients would, before any of them does: with twenty
// invented people, and with answers at the edge of what is right ([Run]). It reports what would go
// wrong for them. [Answer] is one answer in a rehearsal by hand, and what follows from it.
package rehearsal
