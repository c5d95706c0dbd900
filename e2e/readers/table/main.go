// Readers prints what readers of other makes do with a form that has everything, as Markdown.
//
//	go run ./e2e/readers/table [READER ...] > docs/readers.md
package main

import (
	"fmt"
	"os"

	"zealousmargin.example/e2e/readers"
)

func main() {
	rows, err := readers.Try("node_modules/pdfjs-dist/legacy", readers.All, os.Args[1:]...)
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
	fmt.Print(readers.Markdown(rows))
	if len(os.Args) > 1 {
		return
	}
	forms, err := readers.FormsOfOthers(".")
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
	fmt.Print(readers.KeptMarkdown(readers.Keep(forms, 6)))
}
