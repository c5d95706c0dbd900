// Asking the server: every change goes one after the other, and the bench comes back as it is then.

import { $, bench, state } from "/static/bench/state.js";

export function context(extra) {
  const b = bench();
  return { base: b.rev, page: b.page, zoom: b.zoom, stage: b.stage, open: state.open, many: state.chosen.size > 1 ? [...state.chosen].join(",") : "", ...extra };
}

// post sends one change after the other, so that each sees what the last one did.
export function post(path, values) {
  state.busy = state.busy.then(() => window.htmx.ajax("POST", `/documents/${bench().doc}/${path}`, {
    target: "#bench", swap: "morph:outerHTML", values: context(values), source: $("bench"),
  })).catch(() => refresh());
  return state.busy;
}

export const edit = (todo, values = {}) => post("edits", { do: todo, ids: [...state.chosen].join(","), ...values });

export function refresh(values = {}) {
  const b = bench();
  const c = context(values);
  return window.htmx.ajax("GET", `/documents/${b.doc}/${b.stage}?page=${c.page}&zoom=${c.zoom}&open=${encodeURIComponent(c.open)}&many=${c.many}`, { target: "#bench", swap: "morph:outerHTML", source: $("bench") });
}

// ask says something that has several answers, and waits for one.
export function ask(text, answers) {
  const box = $("say");
  state.say(text + " ", false, true);
  for (const [words, then] of answers) {
    const b = document.createElement("button");
    b.className = "link";
    b.textContent = words;
    b.addEventListener("click", () => { box.hidden = true; then(); });
    box.append(b, " ");
  }
  box.querySelector("button").focus();
}

// clashed tells that somebody else changed the same field first. What was wanted is not
// lost: it can be done to the field as it is now, or left.
export function clashed(mine) {
  const { base, page, zoom, stage, open, many, ...wanted } = mine; // the context is made anew
  const typed = wanted.do === "set" ? ` You wrote “${wanted.value}”.` : "";
  ask(`Somebody else changed the same field in the meantime; it is shown as it is now.${typed}`, [
    [typed ? "Put mine in its place" : "Do mine all the same", () => post("edits", wanted)],
    ["Leave theirs", () => $("paper").focus({ preventScroll: true })],
  ]);
}

// watch asks every other second whether somebody else has changed the draft, and shows
// it; while a person drags or types, it waits.
export async function watch() {
  const b = bench(), typing = document.activeElement?.matches?.("input, textarea, select");
  if (document.hidden || state.drag || typing && document.activeElement.closest(".note")) return;
  const rev = b.rev;
  try {
    const res = await fetch(`/documents/${b.doc}/now`);
    if (!res.ok) return;
    const now = await res.json();
    if (String(now.rev) === bench().rev || bench().rev !== rev || state.drag) return;
    await state.busy;
    if (String(now.rev) === bench().rev) return;
    await refresh();
    if (!now.own) state.say(`${now.by}: ${now.title}`);
  } catch { /* the next time */ }
}

// sendPicture gives a button its picture.
export function sendPicture(id, file) {
  state.busy = state.busy.then(() => window.htmx.ajax("POST", `/documents/${bench().doc}/button-pictures`, {
    target: "#bench", swap: "morph:outerHTML", values: { ...context({ ids: id }), picture: file }, source: $("picture-form"),
  })).catch(() => refresh());
}
