// Package pages is the screens on which pages are made ready (turned, straightened, cropped, recognised)
// and doubtful words are looked at. Undo and redo lead back to the screen that they were asked from.
package pages
