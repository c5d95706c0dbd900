// Package release is the screen on which editions are written, proved and kept, and answers are taken.
package release
