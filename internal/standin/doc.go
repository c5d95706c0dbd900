// Package standin holds simulated stand-ins for devices and services that an office
// has: today the scan tray, for a scanner. Each stands behind a small interface, so
// that a real one can take its place.
package standin
