package rules

import (
	"errors"
	"fmt"
	"strings"

	script "github.com/dop251/goja/parser"
)

// CheckScript reads a script of one's own, and tells where its syntax is wrong. It is not run.
func CheckScript(js string) error {
	_, err := script.ParseFile(nil, "", "(function (event) {\n"+js+"\n})", 0)
	var list script.ErrorList
	if errors.As(err, &list) && len(list) > 0 {
		first := list[0]
		line := first.Position.Line - 1
		if line > strings.Count(js, "\n")+1 { // what is not closed is missed after the end
			return fmt.Errorf("the script breaks off at its end: %s", first.Message)
		}
		return fmt.Errorf("the script breaks off in line %d, at sign %d: %s", max(1, line), first.Position.Column, first.Message)
	}
	return err
}
