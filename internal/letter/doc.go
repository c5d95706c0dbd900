// Package letter writes what an office sends to people with a form: its own words, in which blanks such as {name} and {link} stand for
// what differs from person to person ([Words]). How a letter is sent is not its concern.
package letter
