"""Fills a form in with poppler: one question a line, in JSON, one answer a line. Run with Debian's own Python."""
import json
import pathlib
import sys

import gi

gi.require_version("Poppler", "0.18")
from gi.repository import Poppler  # noqa: E402

doc = Poppler.Document.new_from_file(pathlib.Path(sys.argv[1]).resolve().as_uri(), None)
page = doc.get_page(0)
T, B = Poppler.FormFieldType, Poppler.FormButtonType


def fields():
    return list(reversed([(m.field, m.area) for m in page.get_form_field_mapping()]))


def find(q):
    found = [f for f, _ in fields() if f.get_alternate_ui_name() == q["field"]]
    return found[q.get("nth", 0)]


def told():
    out = {}
    for f, a in fields():
        kind = f.get_field_type()
        t = {"Name": f.get_name(), "Tooltip": f.get_alternate_ui_name(), "ReadOnly": f.is_read_only(), "Rect": [a.x1, a.y1, a.x2, a.y2]}
        t["Kind"] = {T.TEXT: "text", T.CHOICE: "choice", T.SIGNATURE: "signature", T.BUTTON: "button"}[kind]
        if kind == T.TEXT:
            t.update(Value=f.text_get_text() or "", MaxLen=f.text_get_max_len(), Password=f.text_is_password(), NoSpell=not f.text_do_spell_check())
            t["Multiline"] = f.text_get_text_type() == Poppler.FormTextType.MULTILINE
        elif kind == T.BUTTON:
            t["Kind"] = {B.CHECK: "checkbox", B.RADIO: "radio", B.PUSH: "button"}[f.button_get_button_type()]
        elif kind == T.CHOICE:
            t["Options"] = [f.choice_get_item(i) for i in range(f.choice_get_n_items())]
        out[t["Tooltip"]] = t
    return {"Told": out}


def write(q):
    f = find(q)
    if f.is_read_only():
        return {}
    if f.get_field_type() == T.CHOICE:
        f.choice_set_text(q["text"])
        return {}
    text, most = q["text"], f.text_get_max_len()
    f.text_set_text(text[:most] if most else text)
    return {}


def press(q):
    f = find(q)
    if f.get_field_type() != T.BUTTON or f.button_get_button_type() == B.PUSH:
        return {"Cannot": "press"}
    f.button_set_state(True)
    return {}


def choose(q):
    f = find(q)
    for i in range(f.choice_get_n_items()):
        if f.choice_get_item(i) in q["list"]:
            (f.choice_toggle_item if len(q["list"]) > 1 else f.choice_select_item)(i)
    return {}


def save(q):
    doc.save(pathlib.Path(q["file"]).resolve().as_uri())
    return {}


can = {"told": lambda q: told(), "write": write, "press": press, "choose": choose, "save": save}
for line in sys.stdin:
    q = json.loads(line)
    try:
        a = can[q["do"]](q) if q["do"] in can else {"Cannot": q["do"]}
    except Exception as e:  # noqa: BLE001
        a = {"Error": f"{q}: {e}"}
    print("= " + json.dumps(a), flush=True)
