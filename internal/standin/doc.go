// Package standin holds simulated stand-ins for devices and services that an office
// has: the scan tray for a scanner, the post tray for a mail server, the roster for people records, and the test
// authority for one that issues certificates. Each stands behind a small interface, so
// that a real one can take its place.
package standin
