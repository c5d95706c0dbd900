package api

import (
	"encoding/json"
	"strings"

	"zealousmargin.example/internal/form"
)

// shape is a JSON Schema of an object; encoding/json writes its keys in order.
type shape = map[string]any

// Schema is the JSON Schema of a template (draft 2020-12), made from the registry of properties.
func Schema() ([]byte, error) {
	field := described(form.FieldProperties)
	field["required"] = []string{"type", "name", "rect"}
	members, _ := field["properties"].(shape)
	members["rect"] = shape{
		"type": "array", "items": shape{"type": "number"}, "minItems": 4, "maxItems": 4,
		"description": "left, bottom, right and top in points of the unrotated page, from its lower left corner",
	}
	members["options"] = listOf(form.OptionProperties)
	members["checks"] = listOf(form.CheckProperties)
	members["steps"] = listOf(form.StepProperties)
	for _, own := range []string{"find", "origin"} { // what the application keeps for itself
		delete(members, own)
	}
	details := described(form.DetailProperties)
	if m, ok := details["properties"].(shape); ok {
		m["events"] = listOf(form.StepProperties)
	}
	page := shape{
		"type": "object", "properties": shape{
			"page": shape{"type": "integer", "minimum": 1}, "width": shape{"type": "number"}, "height": shape{"type": "number"},
			"rotate": shape{"enum": []int{0, 90, 180, 270}}, "fields": shape{"type": "array", "items": shape{"$ref": "#/$defs/field"}},
		},
	}
	schema := shape{
		"$schema": "https://json-schema.org/draft/2020-12/schema", "title": "A template of Zealous Margin", "type": "object",
		"properties": shape{
			"title": shape{"type": "string"}, "details": details, "pages": shape{"type": "array", "items": page},
			"fields":   shape{"type": "array", "items": shape{"$ref": "#/$defs/field"}},
			"pictures": shape{"type": "object", "description": "pictures of buttons in Base64, by the SHA-256 of their bytes"},
		},
		"$defs": shape{"field": field},
	}
	return json.MarshalIndent(schema, "", "  ")
}

func listOf[T any](rows []form.Property[T]) shape {
	return shape{"type": "array", "items": described(rows)}
}

// described is the schema of what rows say; members with a dot are those of a part.
func described[T any](rows []form.Property[T]) shape {
	out := shape{}
	for i := range rows {
		p := &rows[i]
		if p.Member == "" {
			continue
		}
		at, name := out, p.Member
		if part, rest, ok := strings.Cut(name, "."); ok {
			inner, there := out[part].(shape)
			if !there {
				inner = shape{"type": "object", "properties": shape{}}
				out[part] = inner
			}
			at, _ = inner["properties"].(shape)
			name = rest
		}
		at[name] = typeOf(p)
	}
	return shape{"type": "object", "properties": out}
}

func typeOf[T any](p *form.Property[T]) shape {
	out := shape{}
	switch p.Type {
	case form.AsFlag:
		out["type"] = "boolean"
	case form.AsCount:
		out["type"] = "integer"
	case form.AsLength:
		out["type"] = "number"
	case form.AsWord, form.AsText, form.AsColour:
		out["type"] = "string"
	}
	var values []string
	for _, c := range p.Choices {
		values = append(values, c.Value)
	}
	if p.Type == form.AsWord && p.Member != "format.comma" && len(values) > 0 {
		out["enum"] = values
	}
	if p.Member == "format.comma" {
		out["type"] = "boolean"
	}
	if p.Type == form.AsColour {
		out["pattern"] = "^(#[0-9a-f]{6})?$"
	}
	var said []string
	if words := strings.TrimSpace(p.Before + " … " + p.After); words != "…" {
		said = append(said, words)
	}
	if p.Plainly != "" && p.Type != form.AsColour {
		said = append(said, "0 is "+p.Plainly)
	}
	if p.Kinds != nil {
		var kinds []string
		for _, k := range p.Kinds {
			kinds = append(kinds, string(k))
		}
		said = append(said, "of "+strings.Join(kinds, ", "))
	}
	if p.Draft != "" {
		said = append(said, "not in the file: "+p.Draft)
	}
	if len(said) > 0 {
		out["description"] = strings.Join(said, "; ")
	}
	return out
}
