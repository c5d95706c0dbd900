// Package ask turns requests into commands. It knows the names of form values and how the page is
// shown; what a command does to a draft is for package command to say.
package ask
