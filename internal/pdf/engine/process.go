package engine

import (
	"bufio"
	"crypto/sha256"
	"encoding/gob"
	"errors"
	"io"
	"os"
	"runtime"
	"runtime/debug"
	"strconv"
	"time"

	"zealousmargin.example/internal/pdf/engine/pdfium"
	"zealousmargin.example/internal/pdf/object"
)

// asEngine is the variable that makes a program an engine: it holds the number of the process that has started it.
const asEngine = "ZEALOUS_MARGIN_ENGINE"

// Limits of a process, in bytes.
const (
	// processMemory is all that it may write to: PDFium's memory, and what goes to and fro.
	processMemory = 1000 << 20
	// parsedMemory is how much the objects of one file may take.
	parsedMemory = 320 << 20
	// keptMemory is how much PDFium may have taken for the process to be kept for another file.
	keptMemory = 96 << 20
)

// A program that is started as an engine does nothing else.
func init() {
	parent := os.Getenv(asEngine)
	if parent == "" {
		return
	}
	_ = os.Unsetenv(asEngine)
	debug.SetMemoryLimit(processMemory / 3)
	debug.SetGCPercent(400) // it holds little for long
	runtime.GOMAXPROCS(min(2, runtime.NumCPU()))
	go func() { // whoever started it may be gone while it works
		for range time.Tick(time.Second) {
			if strconv.Itoa(os.Getppid()) != parent {
				os.Exit(0)
			}
		}
	}()
	serve(os.Stdin, os.Stdout)
	os.Exit(0)
}

// serve does what it is asked until there is no more to read.
func serve(in io.Reader, out io.Writer) {
	dec, w := gob.NewDecoder(bufio.NewReaderSize(in, 1<<16)), bufio.NewWriterSize(out, 1<<16)
	enc := gob.NewEncoder(w)
	var p process
	for {
		var q request
		if dec.Decode(&q) != nil {
			return
		}
		var a answer
		if err := p.do(q, &a); err != nil {
			if errors.Is(err, errBroken) {
				return
			}
			if pdfium.Refused() {
				err = object.ErrHeavy
			}
			a.refused(err)
		}
		a.Spent = pdfium.Refused() || pdfium.Held() > keptMemory
		if enc.Encode(&a) != nil || w.Flush() != nil {
			return
		}
	}
}

// errBroken is what PDFium says that can do no more.
var errBroken = errors.New("the engine is of no more use")

// process is what an engine has open.
type process struct {
	doc  *pdfium.Doc
	file []byte
}

func (p *process) do(q request, a *answer) (err error) {
	if q.Deed == "" || p.doc == nil && q.Deed != toOpen { // to see whether it is there
		return nil
	}
	switch q.Deed {
	case toOpen: // what was open before is closed only now: nobody waits for that
		if p.doc != nil {
			err = p.doc.Close()
			p.doc, p.file = nil, nil
			if err != nil {
				return errBroken
			}
		}
		p.file = q.File
		if p.doc, err = pdfium.Open(q.File, q.Password); err != nil {
			return err
		}
		change, fill := p.doc.May()
		a.About = about{p.doc.Pages(), p.doc.Title(), change, fill}
	case toParse:
		var before, after runtime.MemStats
		runtime.ReadMemStats(&before)
		f, err := object.Parse(p.file)
		if err != nil {
			return err
		}
		runtime.GC()
		if runtime.ReadMemStats(&after); after.HeapAlloc > before.HeapAlloc+parsedMemory {
			return object.ErrHeavy
		}
		runtime.KeepAlive(f)
	case toDraw:
		a.Picture, err = p.doc.Render(q.N, q.Scale)
	case toPrint:
		img, err := p.doc.Render(q.N, 0.5)
		if err != nil {
			return err
		}
		sum := sha256.Sum256(img.Pix)
		a.Bytes = sum[:]
	case toDrawAs:
		a.Picture, err = p.doc.RenderPage(q.As, q.Scale)
	case toRead:
		a.Evidence, err = p.doc.Evidence(q.N)
	case toReadAs:
		a.Evidence, err = p.doc.EvidenceOf(q.As, q.Text)
	case toWritten:
		a.Evidence, err = p.doc.Written(q.As, q.Text)
	case toSave:
		a.Bytes, err = p.doc.Save()
	case toText:
		a.Text, err = p.doc.Words(q.N)
	case toReadBack:
		a.Seen, err = p.doc.ReadBack()
	case toPress:
		a.Asked, err = p.doc.Press(q.At)
	case toPicture:
		a.Yes = p.doc.Pictured(q.N)
	}
	return err
}
