package intake

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"time"

	"zealousmargin.example/internal/form"
	"zealousmargin.example/internal/pdf/write"
)

// Limits of one conversion. LibreOffice reserves much more address space than it uses.
var officeLimits = limits{wall: 2 * time.Minute, cpu: 2 * time.Minute, memory: 6 << 30}

// locked is the throw-away profile: no macros, no links followed, nothing fetched.
const locked = `<?xml version="1.0" encoding="UTF-8"?>
<oor:items xmlns:oor="http://openoffice.org/2001/registry" xmlns:xs="http://www.w3.org/2001/XMLSchema" xmlns:xsi="http://www.w3.org/2001/XMLSchema-instance">
<item oor:path="/org.openoffice.Office.Common/Security/Scripting"><prop oor:name="MacroSecurityLevel" oor:op="fuse"><value>3</value></prop></item>
<item oor:path="/org.openoffice.Office.Common/Security/Scripting"><prop oor:name="DisableMacrosExecution" oor:op="fuse"><value>true</value></prop></item>
<item oor:path="/org.openoffice.Office.Common/Security/Scripting"><prop oor:name="BlockUntrustedRefererLinks" oor:op="fuse"><value>true</value></prop></item>
<item oor:path="/org.openoffice.Office.Writer/Content/Update"><prop oor:name="Link" oor:op="fuse"><value>2</value></prop></item>
</oor:items>`

// convert has LibreOffice write a file in another format: "pdf" or "docx".
func convert(ctx context.Context, name string, b []byte, to string) ([]byte, error) {
	dir, err := os.MkdirTemp("", "zealous-margin-office-")
	if err != nil {
		return nil, err
	}
	defer os.RemoveAll(dir)
	profile := filepath.Join(dir, "profile", "user")
	if err := os.MkdirAll(profile, 0o700); err != nil {
		return nil, err
	}
	if err := os.WriteFile(filepath.Join(profile, "registrymodifications.xcu"), []byte(locked), 0o600); err != nil {
		return nil, err
	}
	in := filepath.Join(dir, "in"+name)
	if err := os.WriteFile(in, b, 0o600); err != nil {
		return nil, err
	}
	filter := to
	if to == "pdf" {
		filter = `pdf:writer_pdf_Export:{"ExportFormFields":{"type":"boolean","value":"true"},"ExportBookmarks":{"type":"boolean","value":"false"},"UseTaggedPDF":{"type":"boolean","value":"false"}}`
	}
	out := filepath.Join(dir, "out")
	_, err = run(ctx, officeLimits, dir, sparse(dir), nil, "soffice", "--headless", "--norestore", "--nolockcheck", "--nodefault",
		"--nologo",
		"-env:UserInstallation=file://"+filepath.Join(dir, "profile"), "--convert-to", filter, "--outdir", out, in)
	switch {
	case ctx.Err() != nil:
		return nil, ctx.Err()
	case errors.Is(err, errMissing):
		return nil, errors.New("word-processor files need LibreOffice, which is not installed: install the package " +
			"libreoffice-writer-nogui, or save the file as PDF and bring that in")
	case errors.Is(err, errTooLong):
		return nil, fmt.Errorf("this file took longer than %s to convert: split it, or save it as PDF and bring that in",
			officeLimits.wall)
	}
	made, rerr := os.ReadFile(filepath.Join(out, "in."+to))
	if err != nil || rerr != nil || len(made) == 0 {
		return nil, errors.New("this word-processor file could not be converted: open it in a word processor, save it as PDF, and " +
			"bring that in")
	}
	return made, nil
}

// office turns a word-processor file into pages. Its content controls and form
// fields arrive as fields with their names, lists and defaults.
func office(ctx context.Context, k kind, b []byte, say func(string)) ([]byte, []form.Field, error) {
	say("converting the word-processor file")
	ext := map[kind]string{isDOCX: ".docx", isODT: ".odt", isDOC: ".doc", isRTF: ".rtf"}[k]
	if (k == isDOC || k == isRTF) && hasOldFields(b) {
		// The fields of these formats are read from the newer one.
		if newer, err := convert(ctx, ext, b, "docx"); err == nil {
			k, ext, b = isDOCX, ".docx", newer
		} else if ctx.Err() != nil {
			return nil, nil, err
		}
	}
	marked, controls := b, []control(nil)
	var err error
	switch k {
	case isDOCX:
		marked, controls, err = markDOCX(b)
	case isODT:
		marked, controls, err = markODT(b)
	}
	if err != nil || len(controls) == 0 {
		marked, controls = b, nil
	}
	made, err := convert(ctx, ext, marked, "pdf")
	if err != nil {
		return nil, nil, err
	}
	if len(controls) == 0 {
		return made, nil, nil
	}
	fields, err := placeControls(ctx, made, controls)
	if err != nil {
		return nil, nil, err
	}
	made, err = write.WithoutLinks(made, controlLink)
	return made, fields, err
}
