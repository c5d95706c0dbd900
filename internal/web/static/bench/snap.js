// What is printed under the pointer: what a press would place, and the lines that edges snap to.

import { $, LEAST, SVG, bench, fields, inside, rectOf, scale, state } from "./state.js";

// learn asks once for every page what is printed on it: places to write, and lines.
export function learn() {
  const b = bench(), key = `${b.doc}/${b.page}/${$("picture")?.getAttribute("src")}`;
  if (state.printed.key === key) return state.printed.learnt;
  const printed = state.printed = { key, areas: [], x: [], y: [] };
  printed.learnt = fetch(`/documents/${b.doc}/areas?page=${b.page}`).then((res) => (res.ok ? res.json() : {})).then((all) => Object.assign(printed, all))
    .catch(() => {}); // without it nothing snaps
  return printed.learnt;
}

// foresee shows what a press would place.
export function foresee(p) {
  const ticks = state.armed.kind === "checkbox" || state.armed.kind === "radio";
  if (state.armed.kind === "area" || state.armed.kind === "button" || ["clear", "print", "save", "submit", "trio"].includes(state.armed.kind)) return;
  const a = state.printed.areas.find((a) => inside(p, a.hit) && (ticks || !a.tick));
  if (!a) { ghost(null); return; }
  let [x, y, w, h] = a.rect;
  if (ticks && !a.tick) { const s = Math.min(10, h); x = p.x - s / 2; y = y + h / 2 - s / 2; w = s; h = s; }
  ghost({ x, y, w, h }, "place");
}

// snapped moves edges onto printed lines and onto the edges of other fields, where they
// are within 4 pixels; Alt leaves them where they are. It shows the lines that they found.
export function snapped(r, edges, e) {
  guides([]);
  if (e.altKey) return r;
  const near = 4 / scale(), moving = new Set(state.drag?.was?.map?.(([id]) => id) || (state.drag?.id ? [state.drag.id] : []));
  const xs = [...state.printed.x], ys = [...state.printed.y];
  for (const g of fields()) {
    if (moving.has(g.dataset.id)) continue;
    const o = rectOf(g);
    xs.push(o.x, o.x + o.w);
    ys.push(o.y, o.y + o.h);
  }
  const best = (at, lines) => lines.reduce((b, l) => (Math.abs(l - at) < Math.abs(b - at) ? l : b), Infinity);
  let out = { ...r };
  const found = [];
  const try1 = (axis, ats, lines, apply) => {
    let least = near, to = null;
    for (const at of ats) {
      const l = best(at, lines);
      if (Math.abs(l - at) < least) { least = Math.abs(l - at); to = [at, l]; }
    }
    if (to) { apply(to[1] - to[0], to[0]); found.push([axis, to[1]]); }
  };
  if (edges === "all") {
    try1("x", [r.x, r.x + r.w], xs, (d) => { out.x += d; });
    try1("y", [r.y, r.y + r.h], ys, (d) => { out.y += d; });
  } else {
    if (edges.includes("w")) try1("x", [r.x], xs, (d) => { out.x += d; out.w -= d; });
    if (edges.includes("e")) try1("x", [r.x + r.w], xs, (d) => { out.w += d; });
    if (edges.includes("n")) try1("y", [r.y], ys, (d) => { out.y += d; out.h -= d; });
    if (edges.includes("s")) try1("y", [r.y + r.h], ys, (d) => { out.h += d; });
  }
  if (out.w < LEAST || out.h < LEAST) return r;
  guides(found);
  return out;
}

export function guides(lines) {
  const g = $("guides");
  if (!g) return;
  g.replaceChildren(...lines.map(([axis, at]) => {
    const l = document.createElementNS(SVG, "path");
    l.setAttribute("d", axis === "x" ? `M${at} 0V${bench().vh}` : `M0 ${at}H${bench().vw}`);
    return l;
  }));
}

export function ghost(r, what) {
  const e = $("ghost");
  if (!e) return;
  if (!r) { e.setAttribute("hidden", ""); return; }
  e.removeAttribute("hidden");
  e.setAttribute("class", what);
  for (const [k, v] of Object.entries({ x: r.x, y: r.y, width: r.w, height: r.h })) e.setAttribute(k, v);
}
