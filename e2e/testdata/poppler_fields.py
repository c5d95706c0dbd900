"""Prints the form fields of a PDF as poppler reads them, one JSON object a line.

Run with Debian's own Python: /usr/bin/python3 poppler_fields.py FILE.pdf
Rectangles are in PDF points, origin lower left.
"""
import json
import pathlib
import sys

import gi

gi.require_version("Poppler", "0.18")
from gi.repository import Poppler  # noqa: E402

document = Poppler.Document.new_from_file(pathlib.Path(sys.argv[1]).resolve().as_uri(), None)
for number in range(document.get_n_pages()):
    for mapping in document.get_page(number).get_form_field_mapping():
        field, area = mapping.field, mapping.area
        kind = field.get_field_type()
        value = ""
        if kind == Poppler.FormFieldType.TEXT:
            value = field.text_get_text() or ""
        elif kind == Poppler.FormFieldType.BUTTON:
            value = "on" if field.button_get_state() else "off"
        elif kind == Poppler.FormFieldType.CHOICE:
            picked = [i for i in range(field.choice_get_n_items()) if field.choice_is_item_selected(i)]
            value = "\n".join(field.choice_get_item(i) for i in picked)
        print(json.dumps({
            "page": number + 1,
            "name": field.get_name() or "",
            "tooltip": field.get_alternate_ui_name() or "",
            "kind": kind.value_nick,
            "button": field.button_get_button_type().value_nick if kind == Poppler.FormFieldType.BUTTON else "",
            "rect": [area.x1, area.y1, area.x2, area.y2],
            "value": value,
        }))
