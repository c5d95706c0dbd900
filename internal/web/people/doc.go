// Package people is where the roster is looked through and kept up to date, and where a form takes its answers from it.
package people
