// Pointing at fields instead of typing their names: a blank of a step is armed, and every field
// that is pressed is taken into it or out of it.

import { $, fields, state } from "./state.js";

const split = (text) => text.split(",").map((n) => n.trim()).filter(Boolean);

export function startPointing(blank) {
  state.pointing = { blank, names: split($(blank).value) };
  mark();
}

export function pointAt(g) {
  const { names } = state.pointing, name = g.dataset.name, at = names.indexOf(name);
  at < 0 ? names.push(name) : names.splice(at, 1);
  mark();
}

// endPointing keeps the fields that were pointed at, or forgets them.
export function endPointing(keep) {
  const { blank, names } = state.pointing;
  state.pointing = null;
  mark();
  $("say").hidden = true;
  const el = $(blank);
  if (!el) return;
  if (keep && names.join(", ") !== el.value) {
    el.value = names.join(", ");
    el.dispatchEvent(new Event("change", { bubbles: true }));
  }
  el.focus();
}

function mark() {
  const names = state.pointing?.names || [];
  for (const g of fields()) g.classList.toggle("pointed", names.includes(g.dataset.name));
  $("paper").classList.toggle("placing", Boolean(state.pointing));
  if (state.pointing) state.say(`${names.length ? `Pointed at: ${names.join(", ")}.` : "Press the fields."} Pressed again, one is taken out. Enter keeps them, Escape leaves it.`, false, true);
}
