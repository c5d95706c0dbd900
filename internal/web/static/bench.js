// The bench: what needs a pointer or a key. The server draws everything; the modules in bench/
// choose, drag, ask for changes, and lay the notes out beside the page. Each uses those before it:
// state, ask, view, notes, snap, pointer, sweep, deeds, keys, presses. This one listens.

import { $, bench, fieldOf, fields, state } from "./bench/state.js";
import { ask, clashed, context, post, refresh, showUnsent, unsent, watch } from "./bench/ask.js";
import { onChange } from "./outbox.js";
import { choose, layNotes, manyNote, show } from "./bench/notes.js";
import { down, move, up } from "./bench/pointer.js";
import { key, unentered } from "./bench/keys.js";
import { change, click, formulaFields, markFormula, sameAs } from "./bench/presses.js";

export function startBench(tell) {
  state.say = tell;
  document.addEventListener("pointerdown", down);
  document.addEventListener("pointermove", move);
  document.addEventListener("pointerup", up);
  document.addEventListener("pointercancel", () => { state.drag = null; refresh(); });
  document.addEventListener("keydown", key);
  document.addEventListener("click", click);
  document.addEventListener("input", (e) => { if (e.target.matches?.(".note input, .note textarea")) unentered.add(e.target); });
  document.addEventListener("change", (e) => { unentered.delete(e.target); change(e); });
  document.addEventListener("toggle", (e) => {
    if (e.target.closest?.("details.more")?.isConnected) layNotes();
  }, true);
  document.addEventListener("click", (e) => { // what a person opens or folds stays so for the next field
    const d = e.target.closest?.("details.more > summary")?.parentElement;
    if (!d) return;
    state.folds[d.dataset.more] = !d.open;
    sessionStorage.setItem("folds", JSON.stringify(state.folds));
  });
  document.addEventListener("focusin", (e) => {
    if (e.target.hasAttribute?.("data-formula")) formulaFields();
    if (e.target.hasAttribute?.("data-link")) sameAs(e.target.closest(".note").dataset.id);
    const g = e.target.closest?.("#overlay .f");
    if (g && !state.drag && g.matches(":focus-visible") && !(state.chosen.size === 1 && state.chosen.has(g.dataset.id))) choose([g.dataset.id]);
  });
  document.addEventListener("htmx:configRequest", (e) => {
    const p = e.detail.path;
    if (/\/(find|undo|redo)$/.test(p)) Object.assign(e.detail.parameters, context({}));
  });
  // Requests that buttons make by themselves swap the bench too.
  document.addEventListener("htmx:beforeRequest", (e) => {
    if (e.detail.elt.closest?.("#bench") && e.detail.elt.id !== "bench" && e.detail.elt.hasAttribute("hx-post")) e.detail.elt.classList.add("busy");
  });
  document.addEventListener("htmx:afterSwap", (e) => {
    if (e.detail.target.id !== "bench") return;
    const here = new Set(fields().map((g) => g.dataset.id));
    state.chosen = new Set([...state.chosen].filter((id) => here.has(id)));
    if (state.open && !here.has(state.open)) state.open = "";
    show(); // at once, so that notes are never seen unlaid
    showUnsent();
  });
  document.addEventListener("htmx:afterSettle", () => { for (const b of document.querySelectorAll(".busy")) b.classList.remove("busy"); show(); });
  document.addEventListener("htmx:responseError", (e) => {
    if (e.detail.target?.id !== "bench") return;
    const wrong = e.detail.xhr.getResponseHeader("X-ZM-At"); // a formula: what is wrong in it is chosen, and nothing of it lost
    if (wrong) { markFormula(wrong.split(",")); return; }
    const mine = e.detail.requestConfig.formData, todo = e.detail.xhr.status === 409 && mine?.get("do");
    const theirs = decodeURIComponent(e.detail.xhr.getResponseHeader("X-ZM-Theirs") || "");
    refresh().then(() => { if (todo) clashed(Object.fromEntries(mine), theirs); });
  });
  // A name that another field has: the same answer on purpose, or a free name.
  document.addEventListener("zm:taken", (e) => setTimeout(() => {
    const { id, name, free } = e.detail;
    ask(`Another field is already called ${name}.`, [
      ["Give both the same answer", () => post("edits", { do: "link", ids: id, to: name })],
      [`Call this one ${free}`, () => post("edits", { do: "set", ids: id, key: "name", value: free })],
    ]);
  }, 60));
  document.addEventListener("finds-changed", () => refresh());
  document.addEventListener("zm:added", (e) => {
    const ids = e.detail.ids;
    state.chosen = new Set(ids);
    state.open = ids.length === 1 ? ids[0] : "";
    if (state.open && fieldOf(state.open)?.classList.contains("k-radio")) state.group = fieldOf(state.open).dataset.name;
    manyNote();
    show();
    const g = fieldOf(ids[0]);
    if (state.open) g?.scrollIntoView({ block: "nearest" });
    if (g && !document.activeElement?.matches("input, select, textarea")) setTimeout(() => fieldOf(ids[0])?.focus({ preventScroll: true })); // the work goes on with it
  });
  window.addEventListener("resize", layNotes);
  onChange(unsent);
  setInterval(watch, 2000);
  const shown = document.querySelector(".note.open:not(.many)");
  if (shown) { // the address names a field
    state.open = shown.dataset.id;
    choose([state.open], { note: false, scroll: true });
  }
  const here = document.querySelector(".thumb.on");
  if (here) $("thumbs").scrollTop = here.offsetTop - ($("thumbs").clientHeight - here.offsetHeight) / 2;
  document.fonts.ready.then(show);
  show();
}