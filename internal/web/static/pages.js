// The pages room: choosing, moving, cropping. The server lays the pages; this script
// asks for it and shows what is chosen.

import { goAway, isAway, keep, onChange, showWaiting, swap } from "./outbox.js";

const $ = (id) => document.getElementById(id);


let say, send;
let chosen = [];       // ids, in the order of choosing
let anchor = "";
let drag = null;
let busy = Promise.resolve();
let crop = null;       // {id, from, to, scale}

const room = () => $("pagesroom").dataset;
const cards = () => [...document.querySelectorAll(".sheetcard")];
const card = (id) => $("p-" + id);

function post(path, values = {}) {
  const all = { base: room().rev, ids: chosen.join(","), stage: "pages", ...values };
  const one = path === "pages" ? keep(room().doc, path, all) : null;
  if (isAway()) {
    if (!one) say("The office's server does not answer: this can be done when it is back. Your edits are kept here.", true);
    goAway();
    return busy;
  }
  busy = busy.then(() => swap(one, `/documents/${room().doc}/${path}`, { target: "#pagesroom", values: { ...all, base: one ? all.base : room().rev } }));
  return busy;
}

// unsent says that edits wait, and shows the room anew when they are through.
function unsent({ left, answers }) {
  showWaiting(room().doc);
  if (!answers.length) return;
  const bad = answers.find((a) => a.status >= 400);
  window.htmx.trigger(document.body, "pages-changed");
  if (bad) say(`One edit could not be done: ${bad.text}`, true);
  else if (!left) say("What waited is saved.");
}

const edit = (what, values = {}) => post("pages", { do: what, ...values });

function showKeys() {
  $("keys").showModal();
  $("keys").scrollTop = 0;
}

// ---- choosing --------------------------------------------------------------

function choose(ids, focus = true) {
  chosen = ids;
  anchor = ids[ids.length - 1] || anchor;
  show();
  if (focus && ids.length) card(ids[ids.length - 1])?.focus({ preventScroll: false });
}

function pick(id, e) {
  if (e.ctrlKey || e.metaKey) { choose(chosen.includes(id) ? chosen.filter((c) => c !== id) : [...chosen, id]); return; }
  if (e.shiftKey && anchor && card(anchor)) {
    const a = Number(card(anchor).dataset.n), b = Number(card(id).dataset.n);
    const keep = anchor;
    choose(cards().filter((c) => { const n = Number(c.dataset.n); return n >= Math.min(a, b) && n <= Math.max(a, b); }).map((c) => c.dataset.id));
    anchor = keep;
    return;
  }
  choose([id]);
}

function show() {
  chosen = chosen.filter((id) => card(id));
  const all = cards();
  all.forEach((c, i) => {
    c.setAttribute("aria-selected", chosen.includes(c.dataset.id));
    c.tabIndex = (chosen.length ? c.dataset.id === chosen[chosen.length - 1] : i === 0) ? 0 : -1;
  });
  for (const b of document.querySelectorAll("#kit button")) b.disabled = chosen.length === 0;
  $("crop").disabled = chosen.length !== 1;
  const note = $("page-note");
  note.hidden = chosen.length === 0;
  for (const p of document.querySelectorAll(".about")) p.hidden = !(chosen.length === 1 && p.dataset.for === chosen[0]);
  if (chosen.length) {
    const n = Math.min(...chosen.map((id) => Number(card(id).dataset.n)));
    $("page-called").textContent = chosen.length === 1 ? `Page ${n}` : `${chosen.length} pages`;
    if (document.activeElement !== $("move-to")) $("move-to").value = n;
    if (document.activeElement !== $("shows")) $("shows").value = card(chosen[0]).dataset.shows;
    const one = $("one-text");
    one.hidden = chosen.length !== 1;
    one.querySelector("a").href = `/documents/${room().doc}/text?page=${n}`;
  } else $("one-text").hidden = true;
}

// ---- dragging a page to another place --------------------------------------

function down(e) {
  const c = e.target.closest?.(".sheetcard");
  if (crop && e.target.closest?.("#crop-overlay")) { startFrame(e); return; }
  if (!c || e.button !== 0) return;
  drag = { id: c.dataset.id, x: e.clientX, y: e.clientY, moved: false, event: { ctrlKey: e.ctrlKey, metaKey: e.metaKey, shiftKey: e.shiftKey } };
  try { c.setPointerCapture(e.pointerId); } catch { /* a pointer that is gone already */ }
}

// placeAt is the number of the page before which something dropped here comes.
function placeAt(x, y) {
  let best = null, least = Infinity;
  for (const c of cards()) {
    const r = c.getBoundingClientRect();
    const d = Math.hypot(Math.max(r.left - x, 0, x - r.right), Math.max(r.top - y, 0, y - r.bottom) * 3);
    if (d < least) { least = d; best = { c, behind: x > r.left + r.width / 2 }; }
  }
  return best && { card: best.c, behind: best.behind, to: Number(best.c.dataset.n) + (best.behind ? 1 : 0) };
}

function move(e) {
  if (crop?.drawing) { moveFrame(e); return; }
  if (!drag) return;
  if (!drag.moved && Math.hypot(e.clientX - drag.x, e.clientY - drag.y) < 6) return;
  if (!drag.moved && !chosen.includes(drag.id)) choose([drag.id], false);
  drag.moved = true;
  drag.at = placeAt(e.clientX, e.clientY);
  for (const c of cards()) {
    c.classList.toggle("moving", chosen.includes(c.dataset.id));
    c.classList.toggle("before", drag.at?.card === c && !drag.at.behind);
    c.classList.toggle("behind", drag.at?.card === c && drag.at.behind);
  }
}

function up() {
  if (crop?.drawing) { crop.drawing = false; return; }
  const d = drag;
  drag = null;
  if (!d) return;
  for (const c of cards()) c.classList.remove("moving", "before", "behind");
  if (!d.moved) { pick(d.id, d.event); return; }
  if (d.at) edit("move", { to: d.at.to });
}

// ---- cropping --------------------------------------------------------------

function openCrop() {
  const c = card(chosen[0]);
  if (!c) return;
  crop = { id: chosen[0], w: Number(c.dataset.lw), h: Number(c.dataset.lh) };
  const img = $("crop-picture");
  img.src = c.dataset.large;
  img.width = crop.w;
  img.height = crop.h;
  const o = $("crop-overlay");
  o.setAttribute("width", crop.w);
  o.setAttribute("height", crop.h);
  $("crop-frame").setAttribute("hidden", "");
  $("crop-shade").setAttribute("d", "");
  $("crop-do").disabled = true;
  $("sheets").hidden = true;
  $("cropper").hidden = false;
}

function leaveCrop() {
  crop = null;
  $("cropper").hidden = true;
  $("sheets").hidden = false;
}

const spot = (e) => {
  const r = $("crop-overlay").getBoundingClientRect();
  return { x: Math.max(0, Math.min(crop.w, e.clientX - r.left)), y: Math.max(0, Math.min(crop.h, e.clientY - r.top)) };
};

function startFrame(e) {
  e.preventDefault();
  crop.drawing = true;
  crop.from = crop.to = spot(e);
  try { $("crop-overlay").setPointerCapture(e.pointerId); } catch { /* gone already */ }
}

function moveFrame(e) {
  crop.to = spot(e);
  const x = Math.min(crop.from.x, crop.to.x), y = Math.min(crop.from.y, crop.to.y), w = Math.abs(crop.from.x - crop.to.x), h = Math.abs(crop.from.y - crop.to.y);
  const f = $("crop-frame");
  f.removeAttribute("hidden");
  for (const [k, v] of Object.entries({ x, y, width: w, height: h })) f.setAttribute(k, v);
  $("crop-shade").setAttribute("d", `M0 0H${crop.w}V${crop.h}H0zM${x} ${y}h${w}v${h}h${-w}z`);
  $("crop-do").disabled = w < 20 || h < 20;
}

function doCrop() {
  const c = card(crop.id), k = Number(c.dataset.vw) / crop.w;
  const c2 = crop;
  leaveCrop();
  edit("crop", { ids: c2.id, x0: Math.min(c2.from.x, c2.to.x) * k, y0: Math.min(c2.from.y, c2.to.y) * k, x1: Math.max(c2.from.x, c2.to.x) * k, y1: Math.max(c2.from.y, c2.to.y) * k });
}

// ---- presses and keys ------------------------------------------------------

function click(e) {
  const b = e.target.closest?.("button");
  if (!b || b.disabled) return;
  switch (b.id) {
    case "undo": case "redo": post(b.id); return;
    case "help": showKeys(); return;
    case "crop": openCrop(); return;
    case "crop-do": doCrop(); return;
    case "crop-leave": leaveCrop(); return;
    case "move-go": movePlace(); return;
    case "recognise": post("recognise", { language: $("language").value, range: $("range").value }); return;
    case "again": post("recognise", { language: "eng" }); return;
    case "insert-scan": location.href = `/scan-tray?into=${room().doc}&ids=${chosen.join(",")}&where=${$("where").value}`; return;
  }
  const what = b.dataset.do;
  if (!what) return;
  const values = { where: $("where").value };
  if (what === "turn") values.quarters = b.dataset.quarters;
  if (what === "straighten" && b.closest("#page-note")) values.angle = $("angle").value;
  if (what === "resize") Object.assign(values, { size: $("size").value, lying: $("lying").value, fit: $("fit").value });
  if (what === "shows") values.shows = $("shows").value;
  edit(what, values);
}

// movePlace puts the chosen pages so that the first of them gets the number asked for.
function movePlace() {
  const to = Number($("move-to").value);
  const before = cards().filter((c) => !chosen.includes(c.dataset.id));
  const next = before[to - 1];
  edit("move", { to: next ? Number(next.dataset.n) : Number(room().pages) + 1 });
}

function key(e) {
  const mod = e.ctrlKey || e.metaKey, k = e.key;
  if (e.target.closest?.("dialog")) return;
  if (k === "Escape" && crop) { leaveCrop(); return; }
  if (e.target.closest?.("input, select, textarea")) {
    if (k === "Escape") e.target.blur();
    if (k === "Enter" && e.target.id === "move-to") movePlace();
    if (k === "Enter" && e.target.id === "angle") edit("straighten", { angle: e.target.value });
    return;
  }
  const done = () => e.preventDefault();
  if (mod && k.toLowerCase() === "z") { done(); post(e.shiftKey ? "redo" : "undo"); return; }
  if (mod && k.toLowerCase() === "y") { done(); post("redo"); return; }
  if (mod && k.toLowerCase() === "a") { done(); choose(cards().map((c) => c.dataset.id)); return; }
  if (mod && k.toLowerCase() === "d") { done(); if (chosen.length) edit("duplicate"); return; }
  const c = e.target.closest?.(".sheetcard");
  const way = { ArrowRight: 1, ArrowLeft: -1, ArrowDown: 0, ArrowUp: 0 }[k];
  if (way !== undefined && c) {
    done();
    const all = cards(), at = all.indexOf(c);
    if (e.altKey && chosen.length && way) {
      const ns = chosen.map((id) => Number(card(id).dataset.n));
      edit("move", { to: way > 0 ? Math.max(...ns) + 2 : Math.max(1, Math.min(...ns) - 1) });
      return;
    }
    const perRow = Math.max(1, all.filter((o) => o.offsetTop === all[0].offsetTop).length);
    const next = all[at + (way || (k === "ArrowDown" ? perRow : -perRow))];
    if (next) pick(next.dataset.id, { shiftKey: e.shiftKey });
    return;
  }
  if ((k === " " || k === "Enter") && c) { done(); pick(c.dataset.id, e); return; }
  if (k === "Escape") { choose([], false); return; }
  if (k === "?") { done(); showKeys(); return; }
  if (mod || !chosen.length) return;
  if (k === "Delete" || k === "Backspace") { done(); edit("remove"); }
  if (k === "r" || k === "R") edit("turn", { quarters: 1 });
  if (k === "l" || k === "L") edit("turn", { quarters: -1 });
  if (k === "s" || k === "S") edit("straighten");
}

export function startPages(tell, upload) {
  say = tell;
  send = upload;
  document.addEventListener("pointerdown", down);
  document.addEventListener("pointermove", move);
  document.addEventListener("pointerup", up);
  document.addEventListener("pointercancel", () => { drag = null; show(); });
  document.addEventListener("click", click);
  document.addEventListener("keydown", key);
  document.addEventListener("change", (e) => {
    if (e.target.id !== "insert-file") return;
    const t = placeNumber();
    send([...e.target.files], $("intakes"), 64, { into: room().doc, at: t });
    e.target.value = "";
  });
  document.addEventListener("htmx:afterSettle", show);
  document.addEventListener("htmx:afterSwap", () => showWaiting(room().doc));
  onChange(unsent);
  show();
}

// placeNumber is the number of the page before which a file is put in.
function placeNumber() {
  const ns = chosen.map((id) => Number(card(id).dataset.n));
  if ($("where").value === "before" && ns.length) return Math.min(...ns);
  if ($("where").value === "after" && ns.length) return Math.max(...ns) + 1;
  return Number(room().pages) + 1;
}
