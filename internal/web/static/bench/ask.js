// Asking the server: every change goes one after the other, and the bench comes back as it is then.

import { $, bench, fieldOf, paint, rectOf, state } from "./state.js";
import { goAway, isAway, keep, showWaiting, swap, takeBack, waiting } from "../outbox.js";

export function context(extra) {
  const b = bench();
  return { base: b.rev, page: b.page, zoom: b.zoom, stage: b.stage, open: state.open, many: state.chosen.size > 1 ? [...state.chosen].join(",") : "", ...extra };
}

// post sends one change after the other, so that each sees what the last one did. Edits are kept
// until they are answered; while the server is away they wait.
export function post(path, values) {
  const one = path === "edits" ? keep(bench().doc, path, context(values)) : null;
  if (isAway() && !one) {
    if (path === "undo" && waiting(bench().doc)) { unmake(takeBack(bench().doc)); state.say("The last edit that waited is taken back."); } else state.say("The office's server does not answer: this can be done when it is back. Your edits are kept here.", true);
    return state.busy;
  }
  if (isAway()) { goAway(); return state.busy; }
  state.busy = state.busy.then(() => send(path, values, one)).catch(() => refresh());
  return state.busy;
}

// unmake shows again what stood there before an edit that was never sent.
function unmake(one) {
  const v = one?.values;
  if (v?.do === "set") { const blank = $(`b-${v.ids}-${v.key}`); if (blank?.defaultValue !== undefined) blank.value = blank.defaultValue; }
  if (v?.do === "move") for (const g of v.ids.split(",").map(fieldOf)) if (g) { const r = rectOf(g); paint(g.dataset.id, { ...r, x: r.x - v.dx, y: r.y - v.dy }); }
}

const send = (path, values, one) => swap(one, `/documents/${bench().doc}/${path}`, {
  target: "#bench", values: { ...context(values), ...(one ? { base: one.values.base, page: one.values.page } : {}) },
});

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

// clashed tells that somebody else changed the same field first, and shows both values. What was
// wanted is not lost: it can be done to the field as it is now, or left.
export function clashed(mine, theirs = "", then = () => {}) {
  const { base, page, zoom, stage, open, many, ...wanted } = mine; // the context is made anew
  const typed = wanted.do === "set" ? ` There it says “${theirs || "nothing"}”; you wrote “${wanted.value}”.` : "";
  ask(`Somebody else changed the same field in the meantime; it is shown as it is now.${typed}`, [
    [typed ? "Put mine in its place" : "Do mine all the same", () => post("edits", wanted).then(then)],
    ["Leave theirs", () => { $("paper").focus({ preventScroll: true }); then(); }],
  ]);
}

// unsent says in the head that edits wait, and when they are through; what was refused is told.
export function unsent({ left, answers, late }) {
  showUnsent();
  if (!answers.length) return;
  state.busy = state.busy.then(() => refresh()).then(() => {
    showUnsent();
    const here = answers.filter((a) => a.doc === bench().doc);
    const bad = here.filter((a) => a.status >= 400), good = here.length - bad.length;
    const next = () => {
      const one = bad.shift();
      if (!one) return;
      if (one.status === 409) { clashed(one.values, one.theirs, next); return; }
      const typed = one.values.do === "set" ? ` You wrote “${one.values.value}”.` : "";
      ask(`One edit could not be done: ${one.text}${typed}`, [["Leave it", next]]);
    };
    if (late && good && !left) state.say(good === 1 ? "The edit that waited is saved." : `The ${good} edits that waited are saved.`);
    next();
  });
}

export const showUnsent = () => showWaiting(bench().doc);

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
