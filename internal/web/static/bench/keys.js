// Keys.

import { $, LEAST, bench, fieldOf, rectOf, state } from "/static/bench/state.js";
import { edit } from "/static/bench/ask.js";
import { goPage, zoomTo } from "/static/bench/view.js";
import { choose } from "/static/bench/notes.js";
import { ghost } from "/static/bench/snap.js";
import { arm, endSequence } from "/static/bench/pointer.js";
import { nextSweep, startSweep, sweepKey } from "/static/bench/sweep.js";
import { deeds } from "/static/bench/deeds.js";

// The keys of those deeds, without and with Alt and Shift. A code stands for the key where it
// lies: Alt changes what it types.
export const plainKeys = { r: "required", z: "chosen", j: "steps", k: "keep", x: "drop", 0: "page", h: "tint", m: "names", w: "bare", "/": "list" };

export const altKeys = { KeyL: "left", KeyT: "top", KeyA: "spread-across", KeyD: "spread-down", KeyW: "same-width", KeyH: "same-height", KeyC: "page-across", KeyO: "structure" };

export function key(e) {
  const typing = e.target.closest?.("input, select, textarea, dialog");
  const mod = e.ctrlKey || e.metaKey;
  const k = e.key;
  if (e.target.closest?.("dialog")) return;
  if (state.sweep && typing && k === "Enter" && e.target.dataset.key === "name") { // named: on to the next
    e.preventDefault();
    e.target.blur();
    state.busy.then(nextSweep);
    return;
  }
  if (typing) {
    if (k === "Escape") { e.target.blur(); $("paper").focus({ preventScroll: true }); }
    return;
  }
  const done = () => e.preventDefault();
  if (state.sweep && !mod && k === "Enter" && state.sweep.at) {
    done();
    state.busy.then(() => setTimeout(() => { const n = $(`b-${state.sweep.at}-name`); n?.focus(); n?.select(); }, 120));
    return;
  }
  if (state.sweep && !mod && !e.altKey && sweepKey(k.length === 1 ? k.toLowerCase() : k)) { done(); return; }
  if (mod && k.toLowerCase() === "c" && (!state.chosen.size || String(getSelection()))) return;
  const modKeys = { z: e.shiftKey ? "redo" : "undo", y: "redo", a: "all", c: "copy", v: "paste", l: e.shiftKey ? "like-everywhere" : "like", d: "duplicate" };
  if (mod && modKeys[k.toLowerCase()]) { done(); deeds[modKeys[k.toLowerCase()]](); return; }
  if (e.altKey && e.shiftKey && altKeys[e.code]) { done(); deeds[altKeys[e.code]](); return; }
  if (e.altKey && e.code === "Digit9") { done(); deeds.width(); return; }
  if (state.sequence && (k === "Enter" || k === "Escape")) { done(); endSequence(k === "Enter"); return; }
  if (mod) return;
  const steps = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
  if (steps[k] && e.target.closest?.(".bead")) {
    done();
    const g = e.target.closest(".bead"), n = Number(g.dataset.n) - 1 + (k === "ArrowUp" || k === "ArrowLeft" ? -1 : 1);
    if (n >= 0) edit("order", { ids: g.dataset.id, to: n }).then(() => $("bead-" + g.dataset.id)?.focus());
    return;
  }
  if (steps[k] && state.chosen.size) {
    done();
    const [dx, dy] = steps[k].map((v) => v * (e.shiftKey ? 10 : 1));
    if (e.altKey && state.chosen.size === 1) {
      const id = [...state.chosen][0], r = rectOf(fieldOf(id));
      edit("resize", { ids: id, ...corners({ ...r, w: Math.max(LEAST, r.w + dx), h: Math.max(LEAST, r.h + dy) }) });
    } else edit("move", { dx, dy });
    return;
  }
  if ((k === "Delete" || k === "Backspace") && state.chosen.size) { done(); edit("remove"); return; }
  if (k === "Escape") { $("history").hidden = true; $("handy-all").hidden = true; ghost(null); state.armed = { kind: "", keep: false }; choose([]); return; }
  if (k === "Enter" && e.target.closest?.(".f")) {
    done();
    const id = e.target.closest(".f").dataset.id;
    choose([id]);
    state.busy.then(() => setTimeout(() => $(`b-${id}-name`)?.focus(), 120));
    return;
  }
  if ((k === "s" || k === "S") && bench().stage === "find" && !$("sweep").disabled) { done(); startSweep(); return; }
  if (!e.altKey && plainKeys[k.toLowerCase()] && !e.shiftKey) { done(); deeds[plainKeys[k.toLowerCase()]](); return; }
  if (k === "?") { done(); $("keys").showModal(); return; }
  if (k === "+" || k === "=") { done(); zoomTo(bench().in); return; }
  if (k === "-") { done(); zoomTo(bench().out); return; }
  if (k === "PageDown") { done(); goPage(Number(bench().page) + 1); return; }
  if (k === "PageUp") { done(); goPage(Number(bench().page) - 1); return; }
  const n = Number(k), kinds = document.querySelectorAll("#kit .kind");
  if (n >= 1 && n <= kinds.length) { done(); arm(kinds[n - 1].dataset.kind); }
}
