// Presses and entries outside the page: in notes, strips and lists.

import { $, bench, state } from "./state.js";
import { edit, post, refresh, sendPicture } from "./ask.js";
import { showKeys, zoomTo } from "./view.js";
import { choose, show } from "./notes.js";
import { arm, endSequence } from "./pointer.js";
import { startPointing } from "./pointing.js";
import { startSweep } from "./sweep.js";
import { chooseBy, chooseHandy, closeAlike, deeds, keepHandy, showSteps } from "./deeds.js";

export function click(e) {
  const b = e.target.closest?.("button");
  if (!b || b.disabled) return;
  const note = b.closest(".note");
  if (b.dataset.open) { choose([b.dataset.open], { scroll: true }); return; }
  if (b.dataset.kind) { arm(b.dataset.kind); return; }
  if (b.dataset.format) { edit("set", { key: "format", value: b.dataset.format === "anything" ? "" : b.dataset.format }); return; }
  if (b.dataset.set) { edit("set", { ids: note.dataset.id, key: b.dataset.set, value: b.dataset.value }); return; }
  if (b.dataset.do === "drop-below") { post("edits", { do: "drop-below", scope: b.dataset.scope, confidence: $("confidence").value }); return; }
  if (b.dataset.do) {
    const ids = b.dataset.field || (note ? note.dataset.id : [...state.chosen].join(","));
    post("edits", { do: b.dataset.do, ids, scope: b.dataset.scope || "" });
    return;
  }
  if (b.dataset.choose) { closeAlike(); choose(b.dataset.choose.split(",")); return; }
  if (b.dataset.deed) { deeds[b.dataset.deed](); return; }
  if (b.dataset.dress) { edit("dress", { ids: note.dataset.id, favourite: b.dataset.dress }); return; }
  if (b.dataset.style) { post("styles", { field: note.dataset.id, as: b.dataset.style, name: $("style-name").value }); return; }
  if (b.dataset.jump) { $("history").hidden = true; post("jump", { step: b.dataset.jump }); return; }
  if (b.dataset.point) { startPointing(b.dataset.point); return; }
  if (b.dataset.again) { state.armed = { kind: "again:" + b.dataset.again, keep: false }; state.say("Press where the same answer is to show, or draw a frame there. Escape leaves it."); show(); return; }
  if (b.dataset.lineup) { edit("line-up", { how: b.dataset.lineup }); return; }
  if (b.dataset.copies) {
    const box = b.closest("details"), v = (id) => box.querySelector("#" + id).value;
    if (b.dataset.copies === "pages") edit("copy-to", { pages: v("copies-pages") });
    else edit("repeat", { n: v("copies-n"), dx: v("copies-dx"), dy: v("copies-dy") });
    return;
  }
  switch (b.id) {
    case "sequence":
      if (state.sequence) endSequence(true);
      else { state.sequence = []; choose([]); state.say("Press the fields in the order that they should have. Enter keeps the order, Escape leaves it."); show(); }
      break;
    case "zoom-page": deeds.page(); break;
    case "zoom-width": deeds.width(); break;
    case "zoom-chosen": deeds.chosen(); break;
    case "steps": showSteps(); break;
    case "handy-choose": chooseHandy($("handy-all").hidden); break;
    case "handy-keep": keepHandy(); break;
    case "handy-leave": chooseHandy(false); break;
    case "zoom-in": zoomTo(bench().in); break;
    case "zoom-out": zoomTo(bench().out); break;
    case "help": showKeys(); break;
    case "sweep": startSweep(); break;
  }
}

export function change(e) {
  const el = e.target;
  const note = el.closest?.(".note");
  if (el.id === "datum") {
    if (!el.value) { state.armed = { kind: "", keep: false }; show(); return; }
    if (state.armed.kind !== el.value) arm(el.value);
    state.say("Press on the cell, the rule or the empty place where it is to stand. Escape leaves it.");
    el.blur();
    return;
  }
  if (el.id === "choose-named") { if (el.value) chooseBy("name", el.value); return; }
  if (el.id === "view-tint") { deeds.tint(); return; }
  if (el.id === "view-names") { deeds.names(); return; }
  if (note && el.dataset.for) { const to = $(el.dataset.for); to.value = el.value; post("edits", { do: "set", ids: note.dataset.id, key: to.dataset.key, value: el.value }); return; }
  if (note && el.hasAttribute("data-link")) { if (el.value) post("edits", { do: "link", ids: note.dataset.id, to: el.value }); return; }
  if (note && el.hasAttribute("data-unit")) { document.cookie = `zm_unit=${el.value}; path=/; max-age=31536000; samesite=lax`; refresh(); return; }
  if (note && el.hasAttribute("data-picture")) { if (el.files.length) sendPicture(note.dataset.id, el.files[0]); return; }
  if (!note || !el.dataset.key) return;
  // The tab order of the keyboard decides where the focus is after the answer.
  post("edits", { do: "set", ids: note.dataset.id, key: el.dataset.key, value: el.value });
}

// sameAs offers the names of the fields that one can share its answer with.
export async function sameAs(id) {
  const list = $("same-as");
  list.replaceChildren();
  const res = await fetch(`/documents/${bench().doc}/same-as/${id}`);
  if (!res.ok) return;
  list.replaceChildren(...(await res.json()).map((name) => Object.assign(document.createElement("option"), { value: name })));
}

// markFormula goes back into a formula and chooses what is wrong in it.
export function markFormula([at, end, key]) {
  const blank = document.querySelector(`.note.open [data-key="${key}"]`);
  if (!blank) return;
  const chars = (bytes) => new TextDecoder().decode(new TextEncoder().encode(blank.value).slice(0, bytes)).length;
  blank.focus();
  blank.setSelectionRange(chars(Number(at)), chars(Number(end)));
  blank.classList.add("amiss");
  blank.addEventListener("input", () => blank.classList.remove("amiss"), { once: true });
}

// formulaFields offers the names of fields, once for the note that is open.
export async function formulaFields() {
  const res = await fetch(`/documents/${bench().doc}/formula-help`);
  if (!res.ok) return;
  const help = await res.json();
  $("formula-fields").replaceChildren(...help.fields.map((name) => Object.assign(document.createElement("option"), { value: name })));
}
