// Package signin is the screen on which a person signs in and out.
package signin
