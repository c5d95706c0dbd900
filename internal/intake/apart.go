package intake

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"strings"
	"time"

	"zealousmargin.example/internal/pdf/object"
	"zealousmargin.example/internal/pdf/write"
)

// asSetter is the variable that makes a program turn a picture or a text into pages, and nothing else: it holds the kind of the file,
// which comes from standard input. Some texts take days to set, and some pictures gigabytes, so it is done in a process with limits.
const asSetter = "ZEALOUS_MARGIN_SETTER"

var setterLimits = limits{wall: 40 * time.Second, cpu: 60 * time.Second, data: 900 << 20}

func init() {
	k := kind(os.Getenv(asSetter))
	if k == unknown {
		return
	}
	_ = os.Unsetenv(asSetter)
	b, err := io.ReadAll(os.Stdin)
	if err == nil {
		b, err = set(k, b)
	}
	said := byte('+')
	if err != nil {
		said, b = '-', []byte(err.Error())
	}
	if _, err := os.Stdout.Write([]byte{said}); err == nil {
		_, _ = os.Stdout.Write(b)
	}
	os.Exit(0)
}

// set makes pages of a picture or a text.
func set(k kind, b []byte) ([]byte, error) {
	if k == isPicture {
		pics, err := pictures(b)
		if err != nil {
			return nil, err
		}
		return write.FromPictures(pics)
	}
	s, _ := plainText(b)
	switch {
	case k == isText && len(s) > maxText, k == isMarkdown && len(s) > maxMarkdown:
		return nil, errLongText
	case k == isMarkdown && nestedTooDeep(s):
		return nil, errNested
	case k == isMarkdown:
		return setMarkdown(s)
	}
	return setText(s)
}

// setApart is [set] in a process of its own.
func setApart(ctx context.Context, k kind, b []byte) ([]byte, error) {
	self, err := os.Executable()
	if err != nil {
		return nil, err
	}
	out, err := run(ctx, setterLimits, os.TempDir(), append(sparse(os.TempDir()), asSetter+"="+string(k)), bytes.NewReader(b), self)
	switch {
	case ctx.Err() != nil:
		return nil, ctx.Err()
	case errors.Is(err, errTooLong):
		return nil, object.ErrSlow
	case err != nil && strings.Contains(err.Error(), "out of memory"):
		return nil, object.ErrHeavy
	case err != nil || len(out) == 0:
		return nil, fmt.Errorf("this file cannot be made into pages: print it to PDF, and bring that in: %w", err)
	case out[0] != '+':
		return nil, errors.New(string(out[1:]))
	}
	return out[1:], nil
}
