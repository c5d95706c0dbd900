// Package rehearse is the screen on which a form is filled in as its recipients would, and by invented
// people.
package rehearse
