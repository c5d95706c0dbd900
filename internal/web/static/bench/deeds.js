// What can be done, by name: for keys, and for the strip that is at hand.

import { $, bench, fieldOf, fields, rectOf, state } from "./state.js";
import { edit, post, refresh } from "./ask.js";
import { view, zoomFor } from "./view.js";
import { choose } from "./notes.js";

// nextBare goes to the next field without a tooltip, on whatever page.
export async function nextBare() {
  const list = bench().bare ? bench().bare.split(",").map((e) => e.split(":")) : [];
  if (!list.length) { state.say("Every field has its tooltip."); return; }
  const at = list.findIndex(([id]) => state.chosen.has(id));
  const [id, page] = list[(at + 1) % list.length];
  if (page !== bench().page) await refresh({ page });
  choose([id], { scroll: true });
}

export async function showSteps() {
  const box = $("history");
  if (!box.hidden) { box.hidden = true; return; }
  await window.htmx.ajax("GET", `/documents/${bench().doc}/history`, { target: "#history", swap: "innerHTML", source: $("bench") });
  box.hidden = false;
  box.querySelector("button:not(:disabled)")?.focus();
}

export const some = (f) => () => (state.chosen.size ? f() : state.say("Choose a field first."));

export const lined = (how) => () => (state.chosen.size ? edit("line-up", { how }) : state.say("Choose the fields to line up first."));

export const deeds = {
  undo: () => post("undo", {}), redo: () => post("redo", {}), duplicate: some(() => edit("duplicate")), remove: some(() => edit("remove")),
  copy: some(() => copy()), paste: () => paste(), like: some(() => likeThis()), "like-everywhere": some(() => likeThis(true)), all: () => choose(fields().map((g) => g.dataset.id)),
  choose: openAlike, column: some(() => chooseBy("column")), row: some(() => chooseBy("row")),
  keep: some(() => edit("keep")), drop: some(() => edit("drop")), bare: nextBare,
  required: some(() => edit("set", { key: "required", value: fieldOf([...state.chosen][0])?.dataset.required === "yes" ? "no" : "yes" })),
  left: lined("left"), top: lined("top"), "spread-across": lined("spread-across"), "spread-down": lined("spread-down"), "same-width": lined("same-width"), "same-height": lined("same-height"), "page-across": lined("page-across"),
  structure: () => post("edits", { do: "structure" }), page: () => zoomFor("page"), width: () => zoomFor("width"), chosen: () => zoomFor("chosen"),
  tint: () => view("tint"), names: () => view("names"), steps: showSteps, list: () => { location.href = `/documents/${bench().doc}/fields`; },
};

// openAlike shows what fields of the page can be chosen by, or takes that away again.
export async function openAlike() {
  const box = $("alike");
  if (!box.hidden) { closeAlike(); return; }
  await window.htmx.ajax("GET", `/documents/${bench().doc}/alike?page=${bench().page}&ids=${[...state.chosen].join(",")}`, { target: "#alike", swap: "innerHTML", source: box });
  box.hidden = false;
  box.querySelector("button, input")?.focus();
}

export function closeAlike() {
  if ($("alike").hidden) return;
  $("alike").hidden = true;
  $("paper").focus({ preventScroll: true });
}

// chooseBy chooses the column or the row of the chosen field, or the fields of a name.
export async function chooseBy(by, pattern = "") {
  const res = await fetch(`/documents/${bench().doc}/chosen-by?page=${bench().page}&by=${by}&ids=${[...state.chosen][0] || ""}&pattern=${encodeURIComponent(pattern)}`);
  if (!res.ok) { state.say(await res.text(), true); return; }
  const ids = await res.json();
  if (!ids.length) { state.say(`No field on this page is called ${pattern}.`); return; }
  closeAlike();
  choose(ids);
  state.say(ids.length === 1 ? "1 field chosen." : `${ids.length} fields chosen.`);
}

// chooseHandy shows all that can be at hand, or takes that away again.
export function chooseHandy(on) {
  $("handy-all").hidden = !on;
  $("handy-choose").setAttribute("aria-expanded", on);
  (on ? $("handy-all").querySelector("input") : $("handy-choose"))?.focus();
}

export async function keepHandy() {
  const actions = [...$("handy-all").querySelectorAll("input:checked")].map((i) => i.value).join(",");
  await window.htmx.ajax("POST", "/handy", { target: "#handy", swap: "outerHTML", values: { actions }, source: $("bench"), select: "#handy" });
  chooseHandy(false);
}

// likeThis chooses all fields of the page of the kind of the chosen one, and about its
// size where that matters.
export function likeThis(anySize = false) {
  const g = state.chosen.size && fieldOf([...state.chosen][0]);
  if (!g) return;
  const kind = [...g.classList].find((c) => c.startsWith("k-")), r = rectOf(g);
  choose(fields().filter((f) => f.classList.contains(kind) && (anySize || Math.abs(rectOf(f).w - r.w) <= 0.1 * r.w + 1 && Math.abs(rectOf(f).h - r.h) <= 0.1 * r.h + 1)).map((f) => f.dataset.id));
}

// Copied fields wait in the browser, so that they can be pasted into another document.
export async function copy() {
  const res = await fetch(`/documents/${bench().doc}/copied?ids=${[...state.chosen].join(",")}`);
  if (!res.ok) { state.say("The fields could not be copied: load the page again.", true); return; }
  const text = await res.text();
  localStorage.setItem("copied", text);
  state.say(`Copied ${JSON.parse(text).length === 1 ? "1 field" : JSON.parse(text).length + " fields"}. Ctrl V pastes, here or in another document.`);
}

export const paste = () => post("edits", { do: "paste", fields: localStorage.getItem("copied") || "" });
