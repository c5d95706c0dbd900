// Choosing fields, and the notes margin: what is chosen is marked, and every note stands at the height
// of its field.

import { $, SVG, bench, fieldOf, fields, rectOf, scale, state } from "./state.js";
import { view } from "./view.js";

// choose marks fields, and opens the note of a single one; it is done when that is open.
export function choose(ids, { note = true, scroll = false } = {}) {
  state.chosen = new Set(ids);
  const one = state.chosen.size === 1 ? [...state.chosen][0] : "";
  const opened = note && one !== state.open ? openNote(one) : settling;
  manyNote();
  show();
  if (scroll && one) fieldOf(one)?.scrollIntoView({ block: "nearest", behavior: "auto" });
  return Promise.resolve(opened);
}

// manyNote shows the note of several chosen fields, if it is still they when it comes.
export async function manyNote() {
  const chosen = () => (state.chosen.size > 1 ? [...state.chosen].join(",") : "");
  const ids = chosen();
  if ($("n-many") && $("n-many").dataset.id !== ids) $("n-many").remove();
  if (!ids || ids === state.asked || $("n-many")) return;
  state.asked = ids;
  let html = "";
  try {
    const res = await fetch(`/documents/${bench().doc}/chosen?ids=${ids}`, { headers: { "HX-Request": "true" } });
    if (res.ok) html = await res.text();
  } catch { /* without an answer there is no note */ }
  if (state.asked === ids) state.asked = "";
  if (html && chosen() === ids && !$("n-many")) $("notes").insertAdjacentHTML("afterbegin", html);
  show();
}

// openNote opens the note of a field, or none. However fast fields are gone through, one note is open
// in the end: that of the last.
export async function openNote(id) {
  state.open = id;
  if (settling) return settling;
  settling = settle();
  await settling;
  settling = null;
  show();
}

let settling = null;

async function settle() {
  const load = (id, closed) => window.htmx.ajax("GET", `/documents/${bench().doc}/notes/${id}?stage=${bench().stage}${closed ? "&closed=1" : ""}`, { target: "#n-" + id, swap: "morph:outerHTML", source: $("n-" + id) }).catch(() => {});
  for (let tries = 0; tries < 40; tries++) {
    const open = [...document.querySelectorAll(".note.open:not(.many)")], stray = open.find((n) => n.dataset.id !== state.open);
    const id = stray ? stray.dataset.id : state.open;
    if (!stray && (!id || !$("n-" + id) || open.length)) return;
    await load(id, Boolean(stray));
    if ($("n-" + id)?.classList.contains("open") === Boolean(stray)) return; // no answer
  }
}

// show marks what is chosen and lays the notes out.
export function show() {
  for (const g of fields()) {
    const on = state.chosen.has(g.dataset.id);
    g.classList.toggle("sel", on);
    g.setAttribute("aria-pressed", on);
    $("n-" + g.dataset.id)?.classList.toggle("sel", on);
    $("bead-" + g.dataset.id)?.classList.toggle("sel", on);
  }
  for (const b of document.querySelectorAll("#kit .kind")) {
    b.setAttribute("aria-pressed", b.dataset.kind === state.armed.kind);
    b.classList.toggle("kept", b.dataset.kind === state.armed.kind && state.armed.keep);
  }
  if ($("datum")) $("datum").value = state.armed.kind.startsWith("datum:") ? state.armed.kind : "";
  for (const b of document.querySelectorAll("#kit button[data-format]")) b.disabled = state.chosen.size === 0;
  for (const d of document.querySelectorAll(".note details.more")) d.open = state.folds[d.dataset.more] ?? d.hasAttribute("data-first");
  $("sequence")?.setAttribute("aria-pressed", state.sequence !== null);
  view();
  $("paper")?.classList.toggle("placing", state.armed.kind !== "");
  grips();
  layNotes();
}

export function grips() {
  const box = $("grips");
  if (!box) return;
  box.replaceChildren();
  if (state.chosen.size !== 1) return;
  const g = fieldOf([...state.chosen][0]);
  if (!g) return;
  const r = rectOf(g), s = 7 / scale();
  for (const [fx, fy, name] of [[0, 0, "nw"], [.5, 0, "n"], [1, 0, "ne"], [1, .5, "e"], [1, 1, "se"], [.5, 1, "s"], [0, 1, "sw"], [0, .5, "w"]]) {
    const e = document.createElementNS(SVG, "rect");
    e.setAttribute("class", "grip g-" + name);
    e.dataset.grip = name;
    e.setAttribute("x", r.x + r.w * fx - s / 2);
    e.setAttribute("y", r.y + r.h * fy - s / 2);
    e.setAttribute("width", s);
    e.setAttribute("height", s);
    box.append(e);
  }
}

// stacked is a window so narrow that the notes stand below the page.
const stacked = matchMedia("(max-width: 800px)");

// layNotes puts every note at the height of its field, moving notes apart by as
// little as possible, so that none covers another (pool adjacent violators). When
// they do not fit, closed notes are set closer. When they are far too many even so, the one in
// focus stays open at its field, those next to it stay lines, and the others
// become slivers, which show their words under the pointer.
export function layNotes() {
  const list = $("notes"), paper = $("paper");
  if (!list || !paper) return;
  const notes = [...list.children];
  if (stacked.matches) { // below the page they are a list
    for (const n of notes) n.style.top = "";
    list.classList.remove("close", "closer");
    $("strip").style.minHeight = "";
    return;
  }
  const k = scale(), tall = Math.max(paper.offsetHeight, $("desk").clientHeight - 36);
  list.classList.remove("close", "closer");
  for (const n of list.querySelectorAll(".sliver")) { n.classList.remove("sliver"); n.style.height = ""; }
  const total = () => notes.reduce((sum, n) => sum + n.offsetHeight + 1, 0);
  if (total() > tall) list.classList.add("close");
  if (total() > tall) list.classList.add("closer");
  if (total() > 1.7 * tall) sliver(notes, tall);
  const items = notes.map((n) => {
    const h = n.offsetHeight + (n.classList.contains("sliver") ? 0 : 1);
    const mid = (Number(n.dataset.y) + Number(n.dataset.h) / 2) * k;
    const want = n.classList.contains("open") ? Math.max(0, mid - 34) : Math.max(0, mid - h / 2);
    return { n, h, want, mid, weight: n.classList.contains("open") ? 30 : 1 }; // the open one keeps its place
  }).sort((a, b) => a.mid - b.mid); // by their fields: a note that opens keeps its place in the list
  const blocks = [];
  for (const it of items) {
    let b = { items: [it], h: it.h, sum: it.want * it.weight, count: it.weight };
    b.top = Math.max(0, it.want);
    while (blocks.length && blocks[blocks.length - 1].top + blocks[blocks.length - 1].h > b.top) {
      const a = blocks.pop();
      // each item's wish, less what stands before it in the block, is a wish for the block's top
      const m = { items: [...a.items, ...b.items], h: a.h + b.h, sum: a.sum + b.sum - b.count * a.h, count: a.count + b.count };
      m.top = Math.max(0, m.sum / m.count);
      b = m;
    }
    blocks.push(b);
  }
  // what would hang over the lower edge moves up as far as it can
  let low = Math.max(tall, items.reduce((s, i) => s + i.h, 0));
  for (const b of [...blocks].reverse()) {
    if (b.top + b.h > low) b.top = Math.max(0, low - b.h);
    low = b.top;
  }
  let end = 0;
  for (const b of blocks) {
    let y = Math.max(b.top, end);
    for (const it of b.items) {
      it.n.style.top = `${Math.round(y)}px`;
      y += it.h;
    }
    end = y;
  }
  $("strip").style.minHeight = `${Math.ceil(end) + 24}px`;
  drawLink();
}

// sliver makes slivers of the closed notes that are farthest from the open one, until all
// fit into the height.
export function sliver(notes, tall) {
  const focus = notes.find((n) => n.classList.contains("open"));
  if (!focus) return;
  const rest = notes.filter((n) => n !== focus);
  const room = tall - focus.offsetHeight, line = rest[0].offsetHeight + 1, least = Math.max(2, Math.min(line, Math.floor(room / rest.length)));
  const lines = Math.max(0, Math.floor((room - least * rest.length) / (line - least)));
  const far = (n) => Math.abs(Number(n.dataset.y) - Number(focus.dataset.y));
  for (const n of rest.sort((a, b) => far(a) - far(b)).slice(lines)) {
    n.classList.add("sliver");
    n.style.height = `${least}px`;
  }
}

// drawLink joins the chosen field with its note.
export function drawLink() {
  const svg = $("link");
  if (!svg) return;
  const path = svg.firstElementChild;
  const id = state.open && state.chosen.has(state.open) ? state.open : "";
  const g = id && fieldOf(id), n = id && $("n-" + id);
  if (!g || !n) { path.setAttribute("d", ""); return; }
  const s = $("strip").getBoundingClientRect(), p = $("paper").getBoundingClientRect();
  const r = rectOf(g), k = scale();
  const x0 = p.right - s.left, y0 = p.top - s.top + (r.y + r.h / 2) * k - $("paper").scrollTop;
  const b = n.getBoundingClientRect();
  const x1 = b.left - s.left, y1 = b.top - s.top + 30;
  svg.setAttribute("width", s.width);
  svg.setAttribute("height", Math.max(s.height, 10));
  path.setAttribute("d", `M${x0} ${y0}C${x0 + 14} ${y0} ${x1 - 14} ${y1} ${x1} ${y1}`);
}
