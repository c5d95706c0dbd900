// Keys.

import { $, LEAST, bench, fieldOf, rectOf, state } from "./state.js";
import { edit } from "./ask.js";
import { goPage, showKeys, zoomTo } from "./view.js";
import { choose } from "./notes.js";
import { endPointing } from "./pointing.js";
import { ghost } from "./snap.js";
import { arm, endSequence } from "./pointer.js";
import { startWalk, walkKey } from "./walk.js";
import { nextSweep, startSweep, sweepKey } from "./sweep.js";
import { closeAlike, deeds } from "./deeds.js";

// The keys of those deeds, without and with Alt and Shift. A code stands for the key where it
// lies: Alt changes what it types.
export const plainKeys = { r: "required", z: "chosen", j: "steps", k: "keep", x: "drop", 0: "page", h: "tint", m: "names", w: "bare", "/": "list", c: "choose" };

export const shiftKeys = { C: "column", R: "row" };

export const altKeys = { KeyL: "left", KeyT: "top", KeyA: "spread-across", KeyD: "spread-down", KeyW: "same-width", KeyH: "same-height", KeyC: "page-across", KeyO: "structure" };

// unentered are the blanks in which somebody has typed and not entered it yet.
export const unentered = new WeakSet();

// putBack gives a blank what stood in it before somebody typed.
function putBack(el) {
  if (!unentered.has(el)) return;
  unentered.delete(el);
  if (el.matches("input, textarea")) el.value = el.defaultValue;
}

export function key(e) {
  const typing = e.target.closest?.("input:not([type=checkbox]), select, textarea, dialog");
  const mod = e.ctrlKey || e.metaKey;
  const k = e.key;
  if (e.target.closest?.("dialog")) return;
  if (state.sweep && typing && k === "Enter" && e.target.dataset.key === "name") { // named: on to the next
    e.preventDefault();
    e.target.blur();
    state.busy.then(nextSweep);
    return;
  }
  if (k === "Escape" && !$("alike").hidden) { e.preventDefault(); closeAlike(); return; }
  if (typing) {
    if (k === "Escape") { // what stood there stands there again
      putBack(e.target);
      e.target.blur();
      const g = fieldOf(e.target.closest(".note")?.dataset.id);
      (g || $("paper")).focus({ preventScroll: true });
    }
    const undoes = mod && !e.altKey && { z: e.shiftKey ? "redo" : "undo", y: "redo" }[k.toLowerCase()];
    if (undoes && !unentered.has(e.target) && e.target.closest(".note")) { e.preventDefault(); deeds[undoes](); } // else it is the browser's
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
  if (state.pointing && (k === "Enter" || k === "Escape")) { done(); endPointing(k === "Enter"); return; }
  if (state.sequence && (k === "Enter" || k === "Escape")) { done(); endSequence(k === "Enter"); return; }
  if (mod) return;
  const steps = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
  if (steps[k] && e.shiftKey && e.target.closest?.(".bead")) { // without Shift they go along the strip
    done();
    const g = e.target.closest(".bead"), n = Number(g.dataset.n) - 1 + (k === "ArrowUp" || k === "ArrowLeft" ? -1 : 1);
    if (n >= 0) edit("order", { ids: g.dataset.id, to: n }).then(() => $("bead-" + g.dataset.id)?.focus());
    return;
  }
  if (state.armed.kind && walkKey(k, e.shiftKey)) { done(); return; }
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
  if (k === "Escape") { $("history").hidden = true; if ($("handy-all")) $("handy-all").hidden = true; ghost(null); state.armed = { kind: "", keep: false }; choose([]); return; }
  if (k === "Enter" && e.target.closest?.(".f")) {
    done();
    const id = e.target.closest(".f").dataset.id;
    choose([id]).then(() => $(`b-${id}-name`)?.focus());
    return;
  }
  if ((k === "f" || k === "F") && bench().stage === "find") { done(); (e.shiftKey && $("find-all") || $("find-page")).click(); return; }
  if (k === "K" && e.shiftKey) { done(); edit("keep-all", { scope: "all" }); return; }
  if (e.target.closest?.(".bead") && k === "Enter") { done(); choose([e.target.closest(".bead").dataset.id], { scroll: true }); return; }
  if ((k === "s" || k === "S") && bench().stage === "find" && !$("sweep").disabled) { done(); startSweep(); return; }
  if (!e.altKey && plainKeys[k.toLowerCase()] && !e.shiftKey) { done(); deeds[plainKeys[k.toLowerCase()]](); return; }
  if (!e.altKey && e.shiftKey && shiftKeys[k]) { done(); deeds[shiftKeys[k]](); return; }
  if (k === "?") { done(); showKeys(); return; }
  if (k === "+" || k === "=") { done(); zoomTo(bench().in); return; }
  if (k === "-") { done(); zoomTo(bench().out); return; }
  if (k === "PageDown") { done(); goPage(Number(bench().page) + 1); return; }
  if (k === "PageUp") { done(); goPage(Number(bench().page) - 1); return; }
  const n = Number(k), kinds = document.querySelectorAll("#kit .kind");
  if (n >= 1 && n <= kinds.length) { done(); arm(kinds[n - 1].dataset.kind); startWalk(); }
}
