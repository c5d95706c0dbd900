package main

import (
	"errors"
	"fmt"
	"strings"

	"github.com/spf13/cobra"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/read"
	"zealousmargin.example/internal/pdf/write"
)

func protectCommand() *cobra.Command {
	var p form.Protection
	var out, may, password string
	var older bool
	c := &cobra.Command{
		Use: "protect [--open PASSWORD] [--owner PASSWORD] [--may fill,print] IN.pdf -o OUT.pdf", Short: "Lock a form with passwords",
		Args: args(1, "[--open PASSWORD] [--owner PASSWORD] [--may fill,print] IN.pdf -o OUT.pdf"),
		RunE: func(c *cobra.Command, a []string) error {
			if out == "" {
				return usageError{errors.New("protect needs -o OUT.pdf")}
			}
			p.Strength = form.AES256
			if older {
				p.Strength = form.AES128
			}
			ways := map[string]*bool{"fill": &p.Fill, "print": &p.Print, "copy": &p.Copy, "change": &p.Change, "comment": &p.Comment}
			for _, w := range strings.FieldsFunc(may, func(r rune) bool { return r == ',' || r == ' ' }) {
				if ways[w] == nil {
					return usageError{fmt.Errorf("recipients cannot be let %q: use fill, print, copy, change or comment", w)}
				}
				*ways[w] = true
			}
			if err := p.Check(); err != nil {
				return usageError{err}
			}
			src, err := readFile(a[0])
			if err != nil {
				return err
			}
			h, err := read.CheckWith(c.Context(), src, password)
			if err == nil {
				err = h.Change()
			}
			if err != nil {
				return fmt.Errorf("%s: %w", a[0], err)
			}
			b, err := write.Protect(h.Bytes, p)
			if err != nil {
				return fmt.Errorf("%s: %w", a[0], err)
			}
			fmt.Println(p.Sentence())
			return writeFile(out, b)
		},
	}
	c.Flags().StringVar(&p.Open, "open", "", "the password to open the file; none lets everybody open it")
	c.Flags().StringVar(&p.Owner, "owner", "", "the owner's password; none is one that nobody knows")
	c.Flags().StringVar(&may, "may", "fill,print", "what recipients may do: fill, print, copy, change, comment")
	c.Flags().StringVar(&password, "password", "", passwordHelp)
	c.Flags().BoolVar(&older, "aes128", false, "AES-128, for readers from before 2017")
	c.Flags().StringVarP(&out, "output", "o", "", "the file to write")
	return c
}
