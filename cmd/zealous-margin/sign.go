package main

import (
	"crypto/x509"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"zealousmargin.example/internal/pdf/sign"
)

func signCommand() *cobra.Command {
	var certificate, password, out, lock, may string
	o := sign.Options{}
	c := &cobra.Command{
		Use: "sign --certificate C.p12 --field NAME IN.pdf -o OUT.pdf", Short: "Sign a form with a certificate",
		Args: args(1, "--certificate C.p12 --field NAME IN.pdf -o OUT.pdf"),
		RunE: func(_ *cobra.Command, a []string) error {
			if certificate == "" || o.Field == "" || out == "" {
				return usageError{errors.New("sign needs --certificate C.p12, --field NAME and -o OUT.pdf")}
			}
			ways := map[string]sign.May{"": sign.NotCertified, "nothing": sign.Nothing, "fill": sign.Filling, "comment": sign.Commenting}
			var known bool
			if o.May, known = ways[may]; !known {
				return usageError{fmt.Errorf("%q cannot stay possible: use nothing, fill or comment", may)}
			}
			if o.All = lock == "all"; !o.All {
				o.Lock = strings.FieldsFunc(lock, func(r rune) bool { return r == ',' })
			}
			src, err := readFile(a[0])
			if err != nil {
				return err
			}
			b, err := readFile(certificate)
			if err != nil {
				return err
			}
			who, err := sign.FromPKCS12(b, password)
			if err != nil {
				return fmt.Errorf("%s: %w", certificate, err)
			}
			o.At = time.Now()
			signed, err := sign.Sign(src, who, o)
			if err != nil {
				return fmt.Errorf("%s: %w", a[0], err)
			}
			return writeFile(out, signed)
		},
	}
	c.Flags().StringVar(&certificate, "certificate", "", "a PKCS#12 file with a key and its certificate")
	c.Flags().StringVar(&password, "password", "", "the password of the certificate")
	c.Flags().StringVar(&o.Field, "field", "", "the signature field, by name")
	c.Flags().StringVar(&o.Reason, "reason", "", "why it is signed")
	c.Flags().StringVar(&o.Place, "place", "", "where it is signed")
	c.Flags().StringVar(&may, "certify", "", "certify the form; what may change afterwards: nothing, fill or comment")
	c.Flags().StringVar(&lock, "lock", "", "fields that cannot be changed afterwards, with commas between, or all")
	c.Flags().StringVarP(&out, "output", "o", "", "the file to write")
	return c
}

func checkCommand() *cobra.Command {
	var trusted string
	c := &cobra.Command{
		Use: "check SIGNED.pdf", Short: "Say who signed a file, when, and whether it still holds", Args: args(1, "SIGNED.pdf"),
		RunE: func(_ *cobra.Command, a []string) error {
			b, err := readFile(a[0])
			if err != nil {
				return err
			}
			var t sign.Trust
			if trusted != "" {
				pem, err := readFile(trusted)
				if err != nil {
					return err
				}
				t.Roots = x509.NewCertPool()
				if !t.Roots.AppendCertsFromPEM(pem) {
					return fmt.Errorf("%s has no certificate: give a PEM file", trusted)
				}
			}
			found, err := sign.Check(b, t)
			if err != nil {
				return fmt.Errorf("%s: %w", a[0], err)
			}
			if len(found) == 0 {
				return fmt.Errorf("%s: nobody has signed this file", a[0])
			}
			for _, f := range found {
				fmt.Println(f.Words())
				if !f.Holds {
					err = fmt.Errorf("%s: the signature in %s does not hold", a[0], f.Field)
				}
			}
			return err
		},
	}
	c.Flags().StringVar(&trusted, "trust", "", "certificates that are trusted, as PEM")
	return c
}
