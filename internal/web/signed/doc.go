// Package signed is the screen on which a signed file is checked: who signed what, when, and whether it still holds.
package signed
