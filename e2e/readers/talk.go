package readers

import (
	"bufio"
	"encoding/json"
	"errors"
	"fmt"
	"image"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"strings"

	"zealousmargin.example/internal/form"
)

// talker is a reader that runs as a process of its own and is asked line by line, in JSON.
type talker struct {
	unable
	cmd   *exec.Cmd
	in    io.WriteCloser
	out   *bufio.Reader
	dir   string
	draft *form.Template
	draw  func([]byte) (image.Image, error)
}

// question is one thing that a process is asked; answer is what it says.
type question struct {
	Do    string   `json:"do"`
	Field string   `json:"field,omitempty"` // by its tooltip
	Nth   int      `json:"nth,omitempty"`
	Text  string   `json:"text,omitempty"`
	List  []string `json:"list,omitempty"`
	What  []string `json:"what,omitempty"` // events, one after the other
	File  string   `json:"file,omitempty"`
}

type answer struct {
	Cannot, Error string
	Text          string
	Yes           bool
	List          []string
	Told          map[string]Told
}

func start(b []byte, draft *form.Template, draw func([]byte) (image.Image, error), program, script string, args ...string,
) (*talker, error) {
	dir, err := os.MkdirTemp("", "readers")
	if err != nil {
		return nil, err
	}
	t := &talker{dir: dir, draft: draft, draw: draw}
	file, in := filepath.Join(dir, "script"), filepath.Join(dir, "in.pdf")
	for _, w := range []struct {
		name string
		b    []byte
	}{{file, []byte(script)}, {in, b}} {
		if err := os.WriteFile(w.name, w.b, 0o600); err != nil {
			return nil, err
		}
	}
	t.cmd = exec.Command(program, append(args, file, in)...)
	t.cmd.Stderr = os.Stderr
	if t.in, err = t.cmd.StdinPipe(); err != nil {
		return nil, err
	}
	out, err := t.cmd.StdoutPipe()
	if err != nil {
		return nil, err
	}
	t.out = bufio.NewReader(out)
	return t, t.cmd.Start()
}

func (t *talker) ask(q question) (answer, error) {
	line, err := json.Marshal(q)
	if err != nil {
		return answer{}, err
	}
	if _, err := fmt.Fprintln(t.in, string(line)); err != nil {
		return answer{}, err
	}
	for {
		s, err := t.out.ReadString('\n')
		if err != nil {
			return answer{}, fmt.Errorf("%s said no more after %s: %w", t.cmd.Path, line, err)
		}
		_, said, ok := strings.Cut(s, "= ")
		if !ok {
			continue
		}
		var a answer
		if err := json.Unmarshal([]byte(said), &a); err != nil {
			return a, fmt.Errorf("%s: %w", said, err)
		}
		switch {
		case a.Cannot != "":
			return a, ErrCannot
		case a.Error != "":
			return a, errors.New(a.Error)
		}
		return a, nil
	}
}

func (t *talker) tell(q question) error { _, err := t.ask(q); return err }

func (t *talker) Close() {
	_ = t.in.Close()
	_ = t.cmd.Wait()
	_ = os.RemoveAll(t.dir)
}

func (t *talker) Told() (map[string]Told, error) {
	a, err := t.ask(question{Do: "told"})
	return a.Told, err
}

func (t *talker) Write(name, text string) error {
	return t.tell(question{Do: "write", Field: name, Text: text})
}

func (t *talker) Press(name string, nth int) error {
	return t.tell(question{Do: "press", Field: name, Nth: nth})
}

func (t *talker) Choose(name string, labels ...string) error {
	return t.tell(question{Do: "choose", Field: name, List: labels})
}

func (t *talker) Messages() ([]string, error) {
	a, err := t.ask(question{Do: "messages"})
	return a.List, err
}

// moves are what happens in a reader when a field is entered, and so on.
var moves = map[form.Trigger][]string{
	form.FieldEntered: {"Enter", "Focus"}, form.FieldLeft: {"Enter", "Focus", "Blur", "Exit"}, form.PointerIn: {"Enter"},
	form.PointerOut: {"Enter", "Exit"}, form.WhenDown: {"Enter", "Down"},
}

func (t *talker) Do(name string, what form.Trigger) error {
	return t.tell(question{Do: "events", Field: name, What: moves[what]})
}

func (t *talker) Save() ([]byte, error) {
	out := filepath.Join(t.dir, "out.pdf")
	if err := t.tell(question{Do: "save", File: out}); err != nil {
		return nil, err
	}
	return os.ReadFile(out)
}

func (t *talker) Shown(name string) (string, error) {
	b, err := t.Save()
	if err != nil {
		return "", err
	}
	f, err := nth(t.draft, name, 0)
	if err != nil {
		return "", err
	}
	return textAt(b, f.Rect)
}

func (t *talker) Seen(name string) (bool, error) {
	b, err := t.Save()
	if err != nil {
		return false, err
	}
	img, err := t.draw(b)
	if err != nil {
		return false, err
	}
	f, err := nth(t.draft, name, 0)
	return filledIn(img, f.Rect, onPage), err
}
