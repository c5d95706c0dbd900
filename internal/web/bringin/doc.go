// Package bringin is the screens by which documents come in: uploads and their progress, folders, the
// scan tray, and what a document brought with it.
package bringin
