// The pointer on the page and on the beads: placing, moving, resizing, framing, re-ordering.

import { $, LEAST, box, corners, fieldOf, fields, paint, rectOf, scale, state } from "./state.js";
import { edit, post, refresh } from "./ask.js";
import { choose, show } from "./notes.js";
import { pointAt } from "./pointing.js";
import { foresee, ghost, guides, learn, snapped } from "./snap.js";

export function at(e) {
  const r = $("overlay").getBoundingClientRect();
  return { x: (e.clientX - r.left) / scale(), y: (e.clientY - r.top) / scale() };
}

export function down(e) {
  if (e.button !== 0) return;
  const bead = e.target.closest?.(".bead");
  if (bead) { startBead(e, bead); return; }
  if (!e.target.closest?.("#overlay") && !e.target.closest?.("#picture")) return;
  const p = at(e);
  const grip = e.target.dataset?.grip;
  const g = e.target.closest(".f");
  e.preventDefault();
  $("paper").focus({ preventScroll: true });
  if (state.pointing) {
    if (g) pointAt(g);
    return;
  }
  if (state.sequence && g) {
    if (!state.sequence.includes(g.dataset.id)) state.sequence.push(g.dataset.id);
    choose([g.dataset.id], { note: false });
    for (const [i, id] of state.sequence.entries()) { const t = $("bead-" + id)?.querySelector("text"); if (t) t.textContent = i + 1; }
    state.say(`${state.sequence.length} of ${fields().length} pressed. Enter keeps this order, Escape leaves it.`);
    if (state.sequence.length === fields().length) endSequence(true);
    return;
  }
  if (state.armed.kind) {
    state.drag = { what: "place", from: p, to: p };
  } else if (grip) {
    const id = [...state.chosen][0];
    learn();
    state.drag = { what: "resize", grip, id, from: p, was: rectOf(fieldOf(id)), to: null };
  } else if (g) {
    const id = g.dataset.id;
    if (e.shiftKey || e.ctrlKey || e.metaKey) {
      const next = new Set(state.chosen);
      next.has(id) ? next.delete(id) : next.add(id);
      choose(next);
      return;
    }
    if (!state.chosen.has(id)) choose([id]);
    learn();
    state.drag = { what: "move", id, from: p, dx: 0, dy: 0, was: [...state.chosen].map((i) => [i, rectOf(fieldOf(i))]) };
  } else {
    state.drag = { what: "marquee", from: p, to: p };
  }
  try { $("overlay").setPointerCapture(e.pointerId); } catch { /* a pointer that is gone already */ }
}

export function move(e) {
  if (!state.drag) {
    if (state.armed.kind && e.target.closest?.("#paper")) foresee(at(e));
    return;
  }
  if (state.drag.what === "bead") { moveBead(e); return; }
  const p = at(e);
  const dx = p.x - state.drag.from.x, dy = p.y - state.drag.from.y;
  if (state.drag.what === "place" || state.drag.what === "marquee") {
    state.drag.to = p;
    ghost(box(state.drag.from, p), state.drag.what);
  } else if (state.drag.what === "move") {
    state.drag.dx = dx;
    state.drag.dy = dy;
    if (Math.hypot(dx, dy) * scale() > 2) { // all of them as one
      const rs = state.drag.was.map(([, r]) => r);
      const x = Math.min(...rs.map((r) => r.x)), y = Math.min(...rs.map((r) => r.y));
      const whole = { x: x + dx, y: y + dy, w: Math.max(...rs.map((r) => r.x + r.w)) - x, h: Math.max(...rs.map((r) => r.y + r.h)) - y };
      const to = snapped(whole, "all", e);
      state.drag.dx += to.x - whole.x;
      state.drag.dy += to.y - whole.y;
    }
    for (const [id, r] of state.drag.was) paint(id, { ...r, x: r.x + state.drag.dx, y: r.y + state.drag.dy });
  } else if (state.drag.what === "resize") {
    const was = state.drag.was;
    state.drag.to = snapped(resized(was, state.drag.grip, dx, dy), state.drag.grip, e);
    paint(state.drag.id, state.drag.to);
  }
}

export function up() {
  const d = state.drag;
  state.drag = null;
  if (!d) return;
  ghost(null);
  guides([]);
  const far = d.to && d.from && Math.hypot(d.to.x - d.from.x, d.to.y - d.from.y) * scale() > 5;
  switch (d.what) {
    case "bead": dropBead(d); break;
    case "place": place(d, far); break;
    case "marquee":
      if (far) {
        const b = box(d.from, d.to);
        choose(fields().filter((g) => { const r = rectOf(g); return r.x < b.x + b.w && r.x + r.w > b.x && r.y < b.y + b.h && r.y + r.h > b.y; }).map((g) => g.dataset.id));
      } else choose([]);
      break;
    case "move":
      if (Math.hypot(d.dx, d.dy) * scale() > 2) edit("move", { dx: d.dx.toFixed(2), dy: d.dy.toFixed(2) });
      else { // only pressed
        for (const [id, r] of d.was) paint(id, r);
        choose([d.id]);
      }
      break;
    case "resize":
      if (d.to) edit("resize", { ids: d.id, ...corners(d.to) });
      break;
  }
}

export function place(d, far) {
  const kind = state.armed.kind;
  if (!state.armed.keep) state.armed = { kind: "", keep: false };
  const b = box(d.from, d.to);
  if (kind.startsWith("datum:")) $("say").hidden = true;
  if (kind.startsWith("again:")) { post("edits", { do: "again", ids: kind.slice(6), ...(far ? corners(b) : { x0: d.from.x.toFixed(2), y0: d.from.y.toFixed(2) }) }); return; }
  if (kind === "area") { if (far) post("find", { scope: "area", ...corners(b) }); return; }
  post("edits", { do: "place", ...asked(kind), ...(far && b.w >= LEAST && b.h >= LEAST ? corners(b) : { x0: d.from.x.toFixed(2), y0: d.from.y.toFixed(2) }) });
}

export function resized(r, grip, dx, dy) {
  let { x, y, w, h } = r;
  if (grip.includes("e")) w = Math.max(LEAST, w + dx);
  if (grip.includes("s")) h = Math.max(LEAST, h + dy);
  if (grip.includes("w")) { const v = Math.min(dx, w - LEAST); x += v; w -= v; }
  if (grip.includes("n")) { const v = Math.min(dy, h - LEAST); y += v; h -= v; }
  return { x, y, w, h };
}

export function startBead(e, g) {
  e.preventDefault();
  state.drag = { what: "bead", g, id: g.dataset.id, y: e.clientY, x: e.clientX, moved: false };
  g.setPointerCapture(e.pointerId);
}

export function moveBead(e) {
  state.drag.moved = state.drag.moved || Math.hypot(e.clientX - state.drag.x, e.clientY - state.drag.y) > 4;
  const r = $("beads").getBoundingClientRect();
  state.drag.at = { x: e.clientX - r.left, y: e.clientY - r.top };
  state.drag.g.setAttribute("transform", `translate(${state.drag.at.x} ${state.drag.at.y})`);
  const over = nearestBead(state.drag.at, state.drag.id);
  for (const b of document.querySelectorAll(".bead")) b.classList.toggle("over", b === over);
}

export function nearestBead(p, but) {
  let best = null, least = 40;
  for (const b of document.querySelectorAll(".bead")) {
    if (b.dataset.id === but) continue;
    const m = b.transform.baseVal.consolidate().matrix;
    const d = Math.hypot(m.e - p.x, m.f - p.y);
    if (d < least) { best = b; least = d; }
  }
  return best;
}

export function dropBead(d) {
  const over = d.moved && d.at ? nearestBead(d.at, d.id) : null;
  if (over) edit("order", { ids: d.id, to: Number(over.dataset.n) - 1 });
  else if (d.moved) refresh();
  else choose([d.id], { scroll: true });
}

// endSequence keeps the order in which fields were pressed, or forgets it.
export function endSequence(keep) {
  const ids = (state.sequence || []).join(",");
  state.sequence = null;
  show();
  if (keep && ids) edit("sequence", { ids });
  else refresh();
}

// asked is what is placed: a kind, or a field for a datum of the roster.
export function asked(kind) {
  if (!kind.startsWith("datum:")) return { kind, group: kind === "radio" ? state.group : "" };
  const d = [...$("datum").options].find((o) => o.value === kind)?.dataset;
  return { kind: "text", datum: kind.slice(6), called: d.called, format: d.format, signs: d.signs };
}

// arm takes a kind from the kit for one field; taken twice it stays, and a third
// time it is put down.
export function arm(kind) {
  if (state.armed.kind !== kind && kind !== "radio") state.group = ""; // another kind ends a radio group
  if (state.armed.kind !== kind) state.armed = { kind, keep: false };
  else if (!state.armed.keep) state.armed.keep = true;
  else state.armed = { kind: "", keep: false };
  if (state.armed.kind) { state.chosen = new Set(); learn(); }
  ghost(null);
  show();
}
