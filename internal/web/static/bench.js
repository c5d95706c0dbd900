// The bench: what needs a pointer or a key. The server draws everything; this
// script chooses, drags, asks for changes, and lays the notes out beside the page.

const $ = (id) => document.getElementById(id);
const SVG = "http://www.w3.org/2000/svg";
const LEAST = 4; // points; the smallest side of a field

let say;
let chosen = new Set();
let open = "";         // the field whose note is open
let armed = { kind: "", keep: false };
let drag = null;
let unfolded = new Set(); // headings in notes that are unfolded
let sequence = null;   // fields pressed in order so far
let group = "";        // the radio group that is being placed
let busy = Promise.resolve();

const bench = () => $("bench").dataset;
const scale = () => Number(bench().width) / Number(bench().vw); // CSS pixels per point
const fieldOf = (id) => $("f-" + id);
const rectOf = (g) => ({ x: +g.dataset.x, y: +g.dataset.y, w: +g.dataset.w, h: +g.dataset.h });
const fields = () => [...document.querySelectorAll("#overlay .f")];

// ---- asking the server -----------------------------------------------------

function context(extra) {
  const b = bench();
  return { base: b.rev, page: b.page, zoom: b.zoom, stage: b.stage, open, many: chosen.size > 1 ? [...chosen].join(",") : "", ...extra };
}

// post sends one change after the other, so that each sees what the last one did.
function post(path, values) {
  busy = busy.then(() => window.htmx.ajax("POST", `/documents/${bench().doc}/${path}`, {
    target: "#bench", swap: "morph:outerHTML", values: context(values), source: $("bench"),
  })).catch(() => refresh());
  return busy;
}

const edit = (todo, values = {}) => post("edits", { do: todo, ids: [...chosen].join(","), ...values });

function refresh(values = {}) {
  const b = bench();
  const c = context(values);
  return window.htmx.ajax("GET", `/documents/${b.doc}/${b.stage}?page=${c.page}&zoom=${c.zoom}&open=${encodeURIComponent(c.open)}&many=${c.many}`, { target: "#bench", swap: "morph:outerHTML", source: $("bench") });
}

async function zoomTo(z) {
  if (!Number(z)) return;
  await refresh({ zoom: z });
  const b = bench();
  history.replaceState(null, "", `/documents/${b.doc}/${b.stage}?page=${b.page}&zoom=${b.zoom}`);
}

function goPage(n) {
  const b = bench();
  if (n >= 1 && n <= Number(b.pages)) location.href = `/documents/${b.doc}/${b.stage}?page=${n}&zoom=${b.zoom}`;
}

// zoomFor shows the page, its width, or what is chosen as large as there is room for.
async function zoomFor(what) {
  const b = bench(), desk = $("desk").getBoundingClientRect(), px = 96 / 72 / 100; // CSS pixels a point at 1 %
  const room = { w: desk.width - 78 - 60 - 330, h: desk.height - 90 };
  const zoom = (w, h) => Math.max(25, Math.min(400, Math.floor(Math.min(room.w / (w * px), h ? room.h / (h * px) : Infinity))));
  if (what === "page") await zoomTo(zoom(b.vw, b.vh));
  else if (what === "width") await zoomTo(zoom(b.vw, 0));
  else {
    const rs = [...chosen].map((id) => fieldOf(id)).filter(Boolean).map(rectOf);
    if (!rs.length) { say("Choose a field first."); return; }
    const x = Math.min(...rs.map((r) => r.x)), y = Math.min(...rs.map((r) => r.y));
    await zoomTo(zoom(Math.max(...rs.map((r) => r.x + r.w)) - x + 40, Math.max(...rs.map((r) => r.y + r.h)) - y + 40));
    fieldOf([...chosen][0])?.scrollIntoView({ block: "center", inline: "center" });
  }
}

// What the eye wants to see stays as it was chosen, in the browser.
const views = { tint: true, names: false, ...JSON.parse(localStorage.getItem("views") || "{}") };
function view(what) {
  if (what) { views[what] = !views[what]; localStorage.setItem("views", JSON.stringify(views)); }
  document.body.classList.toggle("bare", !views.tint);
  document.body.classList.toggle("named", views.names);
  $("view-tint")?.setAttribute("aria-pressed", views.tint);
  $("view-names")?.setAttribute("aria-pressed", views.names);
}

// nextBare goes to the next field without a tooltip, on whatever page.
async function nextBare() {
  const list = bench().bare ? bench().bare.split(",").map((e) => e.split(":")) : [];
  if (!list.length) { say("Every field has its tooltip."); return; }
  const at = list.findIndex(([id]) => chosen.has(id));
  const [id, page] = list[(at + 1) % list.length];
  if (page !== bench().page) await refresh({ page });
  choose([id], { scroll: true });
}

// ---- steps, and what others do ------------------------------------------------

async function showSteps() {
  const box = $("history");
  if (!box.hidden) { box.hidden = true; return; }
  await window.htmx.ajax("GET", `/documents/${bench().doc}/history`, { target: "#history", swap: "innerHTML", source: $("bench") });
  box.hidden = false;
  box.querySelector("button:not(:disabled)")?.focus();
}

// watch asks every other second whether somebody else has changed the draft, and shows
// it; while a person drags or types, it waits.
async function watch() {
  const b = bench(), typing = document.activeElement?.matches?.("input, textarea, select");
  if (document.hidden || drag || typing && document.activeElement.closest(".note")) return;
  const rev = b.rev;
  try {
    const res = await fetch(`/documents/${b.doc}/now`);
    if (!res.ok) return;
    const now = await res.json();
    if (String(now.rev) === bench().rev || bench().rev !== rev || drag) return;
    await busy;
    if (String(now.rev) === bench().rev) return;
    await refresh();
    if (!now.own) say(`${now.by}: ${now.title}`);
  } catch { /* the next time */ }
}

// ask says something that has several answers, and waits for one.
function ask(text, answers) {
  const box = $("say");
  say(text + " ", false, true);
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
function clashed(mine) {
  const { base, page, zoom, stage, open, many, ...wanted } = mine; // the context is made anew
  const typed = wanted.do === "set" ? ` You wrote “${wanted.value}”.` : "";
  ask(`Somebody else changed the same field in the meantime; it is shown as it is now.${typed}`, [
    [typed ? "Put mine in its place" : "Do mine all the same", () => post("edits", wanted)],
    ["Leave theirs", () => $("paper").focus({ preventScroll: true })],
  ]);
}

// ---- choosing --------------------------------------------------------------

function choose(ids, { note = true, scroll = false } = {}) {
  chosen = new Set(ids);
  const one = chosen.size === 1 ? [...chosen][0] : "";
  if (note && one !== open) openNote(one);
  manyNote();
  show();
  if (scroll && one) fieldOf(one)?.scrollIntoView({ block: "nearest", behavior: "auto" });
}

// manyNote asks for the note of several chosen fields, or takes it away.
let asked = "";
async function manyNote() {
  const ids = chosen.size > 1 ? [...chosen].join(",") : "";
  const there = $("n-many");
  if (there && there.dataset.id !== ids) there.remove();
  if (!ids || ids === asked || ($("n-many") && $("n-many").dataset.id === ids)) return;
  asked = ids;
  await window.htmx.ajax("GET", `/documents/${bench().doc}/chosen?ids=${ids}`, { target: "#notes", swap: "afterbegin", source: $("bench") });
  asked = "";
  if (chosen.size < 2 || [...chosen].join(",") !== ids) { $("n-many")?.remove(); manyNote(); }
  show();
}

async function openNote(id) {
  const before = open;
  open = id;
  const b = bench();
  const load = (which, closed) => $("n-" + which) && window.htmx.ajax("GET", `/documents/${b.doc}/notes/${which}?stage=${b.stage}${closed ? "&closed=1" : ""}`, { target: "#n-" + which, swap: "morph:outerHTML", source: $("bench") });
  if (before && before !== id) await load(before, true);
  if (id && open === id) await load(id, false);
  show();
}

// show marks what is chosen and lays the notes out.
function show() {
  for (const g of fields()) {
    const on = chosen.has(g.dataset.id);
    g.classList.toggle("sel", on);
    g.setAttribute("aria-pressed", on);
    $("n-" + g.dataset.id)?.classList.toggle("sel", on);
    $("bead-" + g.dataset.id)?.classList.toggle("sel", on);
  }
  for (const b of document.querySelectorAll("#kit .kind")) {
    b.setAttribute("aria-pressed", b.dataset.kind === armed.kind);
    b.classList.toggle("kept", b.dataset.kind === armed.kind && armed.keep);
  }
  for (const b of document.querySelectorAll("#kit [data-format]")) b.disabled = chosen.size === 0;
  for (const d of document.querySelectorAll(".note details.more")) d.open = unfolded.has(d.dataset.more) || d.dataset.more === "rules" && bench().stage === "rules";
  $("sequence")?.setAttribute("aria-pressed", sequence !== null);
  view();
  $("paper")?.classList.toggle("placing", armed.kind !== "");
  grips();
  layNotes();
}

function grips() {
  const box = $("grips");
  if (!box) return;
  box.replaceChildren();
  if (chosen.size !== 1) return;
  const g = fieldOf([...chosen][0]);
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

// ---- the notes margin ------------------------------------------------------

// layNotes puts every note at the height of its field, moving notes apart by as
// little as possible, so that none covers another (pool adjacent violators). When
// they do not fit, closed notes are set closer. When they are far too many even so, the one in
// focus stays open at its field, those next to it stay lines, and the others
// become slivers, which show their words under the pointer.
function layNotes() {
  const list = $("notes"), paper = $("paper");
  if (!list || !paper) return;
  const notes = [...list.children];
  const k = scale(), tall = Math.max(paper.offsetHeight, $("desk").clientHeight - 90);
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
    return { n, h, want, weight: n.classList.contains("open") ? 30 : 1 }; // the open one keeps its place
  }).sort((a, b) => a.want - b.want);
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
  $("strip").style.minHeight = `${Math.ceil(end) + 70}px`;
  drawLink();
}

// sliver makes slivers of the closed notes that are farthest from the open one, until all
// fit into the height.
function sliver(notes, tall) {
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
function drawLink() {
  const svg = $("link");
  if (!svg) return;
  const path = svg.firstElementChild;
  const id = open && chosen.has(open) ? open : "";
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

// ---- what is printed under the pointer ---------------------------------------

let printed = { key: "", areas: [], x: [], y: [] }; // of the page that is shown

// learn asks once for every page what is printed on it: places to write, and lines.
async function learn() {
  const b = bench(), key = `${b.doc}/${b.page}/${$("picture")?.getAttribute("src")}`;
  if (printed.key === key) return;
  printed = { key, areas: [], x: [], y: [] };
  try {
    const res = await fetch(`/documents/${b.doc}/areas?page=${b.page}`);
    if (res.ok && printed.key === key) Object.assign(printed, await res.json());
  } catch { /* without it nothing snaps */ }
}

const inside = (p, [x, y, w, h]) => p.x >= x && p.x <= x + w && p.y >= y && p.y <= y + h;

// foresee shows what a press would place.
function foresee(p) {
  const ticks = armed.kind === "checkbox" || armed.kind === "radio";
  if (armed.kind === "area" || armed.kind === "button" || ["clear", "print", "save", "submit", "trio"].includes(armed.kind)) return;
  const a = printed.areas.find((a) => inside(p, a.hit) && (ticks || !a.tick));
  if (!a) { ghost(null); return; }
  let [x, y, w, h] = a.rect;
  if (ticks && !a.tick) { const s = Math.min(10, h); x = p.x - s / 2; y = y + h / 2 - s / 2; w = s; h = s; }
  ghost({ x, y, w, h }, "place");
}

// snapped moves edges onto printed lines and onto the edges of other fields, where they
// are within 4 pixels; Alt leaves them where they are. It shows the lines that they found.
function snapped(r, edges, e) {
  guides([]);
  if (e.altKey) return r;
  const near = 4 / scale(), moving = new Set(drag?.was?.map?.(([id]) => id) || (drag?.id ? [drag.id] : []));
  const xs = [...printed.x], ys = [...printed.y];
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

function guides(lines) {
  const g = $("guides");
  if (!g) return;
  g.replaceChildren(...lines.map(([axis, at]) => {
    const l = document.createElementNS(SVG, "path");
    l.setAttribute("d", axis === "x" ? `M${at} 0V${bench().vh}` : `M0 ${at}H${bench().vw}`);
    return l;
  }));
}

// ---- the pointer on the page -----------------------------------------------

function at(e) {
  const r = $("overlay").getBoundingClientRect();
  return { x: (e.clientX - r.left) / scale(), y: (e.clientY - r.top) / scale() };
}

function down(e) {
  if (e.button !== 0) return;
  const bead = e.target.closest?.(".bead");
  if (bead) { startBead(e, bead); return; }
  if (!e.target.closest?.("#overlay") && !e.target.closest?.("#picture")) return;
  const p = at(e);
  const grip = e.target.dataset?.grip;
  const g = e.target.closest(".f");
  e.preventDefault();
  $("paper").focus({ preventScroll: true });
  if (sequence && g) {
    if (!sequence.includes(g.dataset.id)) sequence.push(g.dataset.id);
    choose([g.dataset.id], { note: false });
    for (const [i, id] of sequence.entries()) { const t = $("bead-" + id)?.querySelector("text"); if (t) t.textContent = i + 1; }
    say(`${sequence.length} of ${fields().length} pressed. Enter keeps this order, Escape leaves it.`);
    if (sequence.length === fields().length) endSequence(true);
    return;
  }
  if (armed.kind) {
    drag = { what: "place", from: p, to: p };
  } else if (grip) {
    const id = [...chosen][0];
    learn();
    drag = { what: "resize", grip, id, from: p, was: rectOf(fieldOf(id)), to: null };
  } else if (g) {
    const id = g.dataset.id;
    if (e.shiftKey) {
      const next = new Set(chosen);
      next.has(id) ? next.delete(id) : next.add(id);
      choose(next);
      return;
    }
    if (!chosen.has(id)) choose([id]);
    learn();
    drag = { what: "move", from: p, dx: 0, dy: 0, was: [...chosen].map((i) => [i, rectOf(fieldOf(i))]) };
  } else {
    drag = { what: "marquee", from: p, to: p };
  }
  try { $("overlay").setPointerCapture(e.pointerId); } catch { /* a pointer that is gone already */ }
}

function move(e) {
  if (!drag) {
    if (armed.kind && e.target.closest?.("#paper")) foresee(at(e));
    return;
  }
  if (drag.what === "bead") { moveBead(e); return; }
  const p = at(e);
  const dx = p.x - drag.from.x, dy = p.y - drag.from.y;
  if (drag.what === "place" || drag.what === "marquee") {
    drag.to = p;
    ghost(box(drag.from, p), drag.what);
  } else if (drag.what === "move") {
    drag.dx = dx;
    drag.dy = dy;
    if (Math.hypot(dx, dy) * scale() > 2) { // all of them as one
      const rs = drag.was.map(([, r]) => r);
      const x = Math.min(...rs.map((r) => r.x)), y = Math.min(...rs.map((r) => r.y));
      const whole = { x: x + dx, y: y + dy, w: Math.max(...rs.map((r) => r.x + r.w)) - x, h: Math.max(...rs.map((r) => r.y + r.h)) - y };
      const to = snapped(whole, "all", e);
      drag.dx += to.x - whole.x;
      drag.dy += to.y - whole.y;
    }
    for (const [id, r] of drag.was) paint(id, { ...r, x: r.x + drag.dx, y: r.y + drag.dy });
  } else if (drag.what === "resize") {
    const was = drag.was;
    drag.to = snapped(resized(was, drag.grip, dx, dy), drag.grip, e);
    paint(drag.id, drag.to);
  }
}

function up() {
  const d = drag;
  drag = null;
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
      else for (const [id, r] of d.was) paint(id, r);
      break;
    case "resize":
      if (d.to) edit("resize", { ids: d.id, ...corners(d.to) });
      break;
  }
}

const box = (a, b) => ({ x: Math.min(a.x, b.x), y: Math.min(a.y, b.y), w: Math.abs(a.x - b.x), h: Math.abs(a.y - b.y) });
const corners = (r) => ({ x0: r.x.toFixed(2), y0: r.y.toFixed(2), x1: (r.x + r.w).toFixed(2), y1: (r.y + r.h).toFixed(2) });

function place(d, far) {
  const kind = armed.kind;
  if (!armed.keep) armed = { kind: "", keep: false };
  const b = box(d.from, d.to);
  if (kind.startsWith("again:")) { post("edits", { do: "again", ids: kind.slice(6), ...(far ? corners(b) : { x0: d.from.x.toFixed(2), y0: d.from.y.toFixed(2) }) }); return; }
  if (kind === "area") { if (far) post("find", { scope: "area", ...corners(b) }); return; }
  post("edits", { do: "place", kind, group: kind === "radio" ? group : "", ...(far && b.w >= LEAST && b.h >= LEAST ? corners(b) : { x0: d.from.x.toFixed(2), y0: d.from.y.toFixed(2) }) });
}

function resized(r, grip, dx, dy) {
  let { x, y, w, h } = r;
  if (grip.includes("e")) w = Math.max(LEAST, w + dx);
  if (grip.includes("s")) h = Math.max(LEAST, h + dy);
  if (grip.includes("w")) { const v = Math.min(dx, w - LEAST); x += v; w -= v; }
  if (grip.includes("n")) { const v = Math.min(dy, h - LEAST); y += v; h -= v; }
  return { x, y, w, h };
}

// paint shows a field elsewhere until the server has drawn it there.
function paint(id, r) {
  const g = fieldOf(id);
  if (!g) return;
  const b = g.querySelector(".body");
  for (const [k, v] of Object.entries({ x: r.x, y: r.y, width: r.w, height: r.h })) b.setAttribute(k, v);
  g.querySelector(".spine").setAttribute("transform", `translate(${r.x - g.dataset.x} ${r.y - g.dataset.y})`);
  $("grips").replaceChildren();
}

function ghost(r, what) {
  const e = $("ghost");
  if (!e) return;
  if (!r) { e.setAttribute("hidden", ""); return; }
  e.removeAttribute("hidden");
  e.setAttribute("class", what);
  for (const [k, v] of Object.entries({ x: r.x, y: r.y, width: r.w, height: r.h })) e.setAttribute(k, v);
}

// ---- beads -----------------------------------------------------------------

function startBead(e, g) {
  e.preventDefault();
  drag = { what: "bead", g, id: g.dataset.id, y: e.clientY, x: e.clientX, moved: false };
  g.setPointerCapture(e.pointerId);
}

function moveBead(e) {
  drag.moved = drag.moved || Math.hypot(e.clientX - drag.x, e.clientY - drag.y) > 4;
  const r = $("beads").getBoundingClientRect();
  drag.at = { x: e.clientX - r.left, y: e.clientY - r.top };
  drag.g.setAttribute("transform", `translate(${drag.at.x} ${drag.at.y})`);
  const over = nearestBead(drag.at, drag.id);
  for (const b of document.querySelectorAll(".bead")) b.classList.toggle("over", b === over);
}

function nearestBead(p, but) {
  let best = null, least = 40;
  for (const b of document.querySelectorAll(".bead")) {
    if (b.dataset.id === but) continue;
    const m = b.transform.baseVal.consolidate().matrix;
    const d = Math.hypot(m.e - p.x, m.f - p.y);
    if (d < least) { best = b; least = d; }
  }
  return best;
}

function dropBead(d) {
  const over = d.moved && d.at ? nearestBead(d.at, d.id) : null;
  if (over) edit("order", { ids: d.id, to: Number(over.dataset.n) - 1 });
  else if (d.moved) refresh();
  else choose([d.id], { scroll: true });
}

// ---- the sweep: finds one after the other, the most doubtful first ----------

let sweep = null; // {seen: [ids], at: id, left: n}

const sweepList = () => (bench().sweep ? bench().sweep.split(",").map((e) => { const [id, page] = e.split(":"); return { id, page }; }) : []);

async function goSweep(id, page) {
  sweep.at = id;
  if (!sweep.seen.includes(id)) sweep.seen.push(id);
  if (page && page !== bench().page) await refresh({ page });
  choose([id], { scroll: true });
  const left = sweepList().filter((e) => !sweep.seen.includes(e.id)).length;
  const bar = $("sweepbar");
  bar.hidden = false;
  bar.textContent = `Sweep · ${left} more · K keep · X drop · N next · P back · T L B G kind · 2–9 split · J join · R radio · E extend · Enter name · Escape end`;
}

async function nextSweep() {
  const next = sweepList().find((e) => !sweep.seen.includes(e.id));
  if (!next) { endSweep(); say("The sweep is through: every find has been looked at."); return; }
  await goSweep(next.id, next.page);
}

function endSweep() {
  sweep = null;
  $("sweepbar").hidden = true;
}

function startSweep() {
  sweep = { seen: [], at: "" };
  return busy.then(nextSweep);
}

// sweepKey does what a key means in the sweep, and goes on where the find is settled.
function sweepKey(k) {
  const one = { ids: sweep.at };
  const then = (p) => p.then(() => nextSweep());
  const kinds = { t: "text", l: "lines", b: "checkbox", g: "signature" };
  if (k === "Escape") endSweep();
  else if (k === "k") then(edit("keep", one));
  else if (k === "x") then(edit("drop", one));
  else if (k === "n" || k === " ") busy.then(nextSweep);
  else if (k === "p") { sweep.seen.pop(); const back = sweep.seen.pop(); if (back) busy.then(() => goSweep(back, sweepList().find((e) => e.id === back)?.page)); }
  else if (kinds[k]) then(edit("set", { ...one, key: "kind", value: kinds[k] }));
  else if (k >= "2" && k <= "9") then(edit("split", { ...one, n: k }));
  else if (k === "j") then(edit("join", one));
  else if (k === "r") then(edit("radio-group", one));
  else if (k === "e") then(edit("extend", one));
  else return false;
  return true;
}

// ---- what can be done, by name: for keys and for the strip that is at hand ------

const some = (f) => () => (chosen.size ? f() : say("Choose a field first."));
const lined = (how) => () => (chosen.size ? edit("line-up", { how }) : say("Choose the fields to line up first."));
const deeds = {
  undo: () => post("undo", {}), redo: () => post("redo", {}), duplicate: some(() => edit("duplicate")), remove: some(() => edit("remove")),
  copy: some(() => copy()), paste: () => paste(), like: some(() => likeThis()), "like-everywhere": some(() => likeThis(true)), all: () => choose(fields().map((g) => g.dataset.id)),
  keep: some(() => edit("keep")), drop: some(() => edit("drop")), bare: nextBare,
  required: some(() => edit("set", { key: "required", value: fieldOf([...chosen][0])?.dataset.required === "yes" ? "no" : "yes" })),
  left: lined("left"), top: lined("top"), "spread-across": lined("spread-across"), "spread-down": lined("spread-down"), "same-width": lined("same-width"), "same-height": lined("same-height"), "page-across": lined("page-across"),
  structure: () => post("edits", { do: "structure" }), page: () => zoomFor("page"), width: () => zoomFor("width"), chosen: () => zoomFor("chosen"),
  tint: () => view("tint"), names: () => view("names"), steps: showSteps, list: () => { location.href = `/documents/${bench().doc}/fields`; },
};

// The keys of those deeds, without and with Alt and Shift. A code stands for the key where it
// lies: Alt changes what it types.
const plainKeys = { r: "required", z: "chosen", j: "steps", k: "keep", x: "drop", 0: "page", h: "tint", m: "names", w: "bare", "/": "list" };
const altKeys = { KeyL: "left", KeyT: "top", KeyA: "spread-across", KeyD: "spread-down", KeyW: "same-width", KeyH: "same-height", KeyC: "page-across", KeyO: "structure" };

// chooseHandy shows all that can be at hand, or takes that away again.
function chooseHandy(on) {
  $("handy-all").hidden = !on;
  $("handy-choose").setAttribute("aria-expanded", on);
  (on ? $("handy-all").querySelector("input") : $("handy-choose"))?.focus();
}

async function keepHandy() {
  const actions = [...$("handy-all").querySelectorAll("input:checked")].map((i) => i.value).join(",");
  await window.htmx.ajax("POST", "/handy", { target: "#handy", swap: "outerHTML", values: { actions }, source: $("bench"), select: "#handy" });
  chooseHandy(false);
}

// ---- keys ------------------------------------------------------------------

function key(e) {
  const typing = e.target.closest?.("input, select, textarea, dialog");
  const mod = e.ctrlKey || e.metaKey;
  const k = e.key;
  if (e.target.closest?.("dialog")) return;
  if (sweep && typing && k === "Enter" && e.target.dataset.key === "name") { // named: on to the next
    e.preventDefault();
    e.target.blur();
    busy.then(nextSweep);
    return;
  }
  if (typing) {
    if (k === "Escape") { e.target.blur(); $("paper").focus({ preventScroll: true }); }
    return;
  }
  const done = () => e.preventDefault();
  if (sweep && !mod && k === "Enter" && sweep.at) {
    done();
    busy.then(() => setTimeout(() => { const n = $(`b-${sweep.at}-name`); n?.focus(); n?.select(); }, 120));
    return;
  }
  if (sweep && !mod && !e.altKey && sweepKey(k.length === 1 ? k.toLowerCase() : k)) { done(); return; }
  if (mod && k.toLowerCase() === "c" && (!chosen.size || String(getSelection()))) return;
  const modKeys = { z: e.shiftKey ? "redo" : "undo", y: "redo", a: "all", c: "copy", v: "paste", l: e.shiftKey ? "like-everywhere" : "like", d: "duplicate" };
  if (mod && modKeys[k.toLowerCase()]) { done(); deeds[modKeys[k.toLowerCase()]](); return; }
  if (e.altKey && e.shiftKey && altKeys[e.code]) { done(); deeds[altKeys[e.code]](); return; }
  if (e.altKey && e.code === "Digit9") { done(); deeds.width(); return; }
  if (sequence && (k === "Enter" || k === "Escape")) { done(); endSequence(k === "Enter"); return; }
  if (mod) return;
  const steps = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
  if (steps[k] && e.target.closest?.(".bead")) {
    done();
    const g = e.target.closest(".bead"), n = Number(g.dataset.n) - 1 + (k === "ArrowUp" || k === "ArrowLeft" ? -1 : 1);
    if (n >= 0) edit("order", { ids: g.dataset.id, to: n }).then(() => $("bead-" + g.dataset.id)?.focus());
    return;
  }
  if (steps[k] && chosen.size) {
    done();
    const [dx, dy] = steps[k].map((v) => v * (e.shiftKey ? 10 : 1));
    if (e.altKey && chosen.size === 1) {
      const id = [...chosen][0], r = rectOf(fieldOf(id));
      edit("resize", { ids: id, ...corners({ ...r, w: Math.max(LEAST, r.w + dx), h: Math.max(LEAST, r.h + dy) }) });
    } else edit("move", { dx, dy });
    return;
  }
  if ((k === "Delete" || k === "Backspace") && chosen.size) { done(); edit("remove"); return; }
  if (k === "Escape") { $("history").hidden = true; $("handy-all").hidden = true; ghost(null); armed = { kind: "", keep: false }; choose([]); return; }
  if (k === "Enter" && e.target.closest?.(".f")) {
    done();
    const id = e.target.closest(".f").dataset.id;
    choose([id]);
    busy.then(() => setTimeout(() => $(`b-${id}-name`)?.focus(), 120));
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

// endSequence keeps the order in which fields were pressed, or forgets it.
function endSequence(keep) {
  const ids = (sequence || []).join(",");
  sequence = null;
  show();
  if (keep && ids) edit("sequence", { ids });
  else refresh();
}

// likeThis chooses all fields of the page of the kind of the chosen one, and about its
// size where that matters.
function likeThis(anySize = false) {
  const g = chosen.size && fieldOf([...chosen][0]);
  if (!g) return;
  const kind = [...g.classList].find((c) => c.startsWith("k-")), r = rectOf(g);
  choose(fields().filter((f) => f.classList.contains(kind) && (anySize || Math.abs(rectOf(f).w - r.w) <= 0.1 * r.w + 1 && Math.abs(rectOf(f).h - r.h) <= 0.1 * r.h + 1)).map((f) => f.dataset.id));
}

// Copied fields wait in the browser, so that they can be pasted into another document.
async function copy() {
  const res = await fetch(`/documents/${bench().doc}/copied?ids=${[...chosen].join(",")}`);
  if (!res.ok) { say("The fields could not be copied: load the page again.", true); return; }
  const text = await res.text();
  localStorage.setItem("copied", text);
  say(`Copied ${JSON.parse(text).length === 1 ? "1 field" : JSON.parse(text).length + " fields"}. Ctrl V pastes, here or in another document.`);
}

const paste = () => post("edits", { do: "paste", fields: localStorage.getItem("copied") || "" });

// arm takes a kind from the kit for one field; taken twice it stays, and a third
// time it is put down.
function arm(kind) {
  if (armed.kind !== kind && kind !== "radio") group = ""; // another kind ends a radio group
  if (armed.kind !== kind) armed = { kind, keep: false };
  else if (!armed.keep) armed.keep = true;
  else armed = { kind: "", keep: false };
  if (armed.kind) { chosen = new Set(); learn(); }
  ghost(null);
  show();
}

// ---- presses outside the page ----------------------------------------------

function click(e) {
  const b = e.target.closest?.("button");
  if (!b || b.disabled) return;
  const note = b.closest(".note");
  if (b.dataset.open) { choose([b.dataset.open], { scroll: true }); return; }
  if (b.dataset.kind) { arm(b.dataset.kind); return; }
  if (b.dataset.format) { edit("set", { key: "format", value: b.dataset.format === "anything" ? "" : b.dataset.format }); return; }
  if (b.dataset.set) { edit("set", { ids: note.dataset.id, key: b.dataset.set, value: b.dataset.value }); return; }
  if (b.dataset.do === "drop-below") { post("edits", { do: "drop-below", scope: b.dataset.scope, confidence: $("confidence").value }); return; }
  if (b.dataset.do) {
    const ids = b.dataset.field || (note ? note.dataset.id : [...chosen].join(","));
    post("edits", { do: b.dataset.do, ids, scope: b.dataset.scope || "" });
    return;
  }
  if (b.dataset.deed) { deeds[b.dataset.deed](); return; }
  if (b.dataset.dress) { edit("dress", { ids: note.dataset.id, favourite: b.dataset.dress }); return; }
  if (b.dataset.style) { post("styles", { field: note.dataset.id, as: b.dataset.style, name: $("style-name").value }); return; }
  if (b.dataset.jump) { $("history").hidden = true; post("jump", { step: b.dataset.jump }); return; }
  if (b.dataset.again) { armed = { kind: "again:" + b.dataset.again, keep: false }; say("Press where the same answer is to show, or draw a frame there. Escape leaves it."); show(); return; }
  if (b.dataset.lineup) { edit("line-up", { how: b.dataset.lineup }); return; }
  if (b.dataset.copies) {
    const box = b.closest("details"), v = (id) => box.querySelector("#" + id).value;
    if (b.dataset.copies === "pages") edit("copy-to", { pages: v("copies-pages") });
    else edit("repeat", { n: v("copies-n"), dx: v("copies-dx"), dy: v("copies-dy") });
    return;
  }
  switch (b.id) {
    case "sequence":
      if (sequence) endSequence(true);
      else { sequence = []; choose([]); say("Press the fields in the order that they should have. Enter keeps the order, Escape leaves it."); show(); }
      break;
    case "zoom-page": deeds.page(); break;
    case "zoom-width": deeds.width(); break;
    case "zoom-chosen": deeds.chosen(); break;
    case "view-tint": deeds.tint(); break;
    case "view-names": deeds.names(); break;
    case "steps": showSteps(); break;
    case "handy-choose": chooseHandy($("handy-all").hidden); break;
    case "handy-keep": keepHandy(); break;
    case "handy-leave": chooseHandy(false); break;
    case "zoom-in": zoomTo(bench().in); break;
    case "zoom-out": zoomTo(bench().out); break;
    case "help": $("keys").showModal(); break;
    case "sweep": startSweep(); break;
  }
}

function change(e) {
  const el = e.target;
  const note = el.closest?.(".note");
  if (note && el.dataset.for) { const to = $(el.dataset.for); to.value = el.value; post("edits", { do: "set", ids: note.dataset.id, key: to.dataset.key, value: el.value }); return; }
  if (note && el.hasAttribute("data-link")) { if (el.value) post("edits", { do: "link", ids: note.dataset.id, to: el.value }); return; }
  if (note && el.hasAttribute("data-unit")) { document.cookie = `zm_unit=${el.value}; path=/; max-age=31536000; samesite=lax`; refresh(); return; }
  if (note && el.hasAttribute("data-picture")) { if (el.files.length) sendPicture(note.dataset.id, el.files[0]); return; }
  if (!note || !el.dataset.key) return;
  // The tab order of the keyboard decides where the focus is after the answer.
  post("edits", { do: "set", ids: note.dataset.id, key: el.dataset.key, value: el.value });
}

// sameAs offers the names of the fields that one can share its answer with.
async function sameAs(id) {
  const list = $("same-as");
  list.replaceChildren();
  const res = await fetch(`/documents/${bench().doc}/same-as/${id}`);
  if (!res.ok) return;
  list.replaceChildren(...(await res.json()).map((name) => Object.assign(document.createElement("option"), { value: name })));
}

// markFormula goes back into a formula and chooses what is wrong in it.
function markFormula([at, end, key]) {
  const blank = document.querySelector(`.note.open [data-key="${key}"]`);
  if (!blank) return;
  const chars = (bytes) => new TextDecoder().decode(new TextEncoder().encode(blank.value).slice(0, bytes)).length;
  blank.focus();
  blank.setSelectionRange(chars(Number(at)), chars(Number(end)));
  blank.classList.add("amiss");
  blank.addEventListener("input", () => blank.classList.remove("amiss"), { once: true });
}

// formulaFields offers the names of fields, once for the note that is open.
async function formulaFields() {
  const res = await fetch(`/documents/${bench().doc}/formula-help`);
  if (!res.ok) return;
  const help = await res.json();
  $("formula-fields").replaceChildren(...help.fields.map((name) => Object.assign(document.createElement("option"), { value: name })));
}

// sendPicture gives a button its picture.
function sendPicture(id, file) {
  busy = busy.then(() => window.htmx.ajax("POST", `/documents/${bench().doc}/button-pictures`, {
    target: "#bench", swap: "morph:outerHTML", values: { ...context({ ids: id }), picture: file }, source: $("picture-form"),
  })).catch(() => refresh());
}

export function startBench(tell) {
  say = tell;
  document.addEventListener("pointerdown", down);
  document.addEventListener("pointermove", move);
  document.addEventListener("pointerup", up);
  document.addEventListener("pointercancel", () => { drag = null; refresh(); });
  document.addEventListener("keydown", key);
  document.addEventListener("click", click);
  document.addEventListener("change", change);
  document.addEventListener("toggle", (e) => {
    const d = e.target.closest?.("details.more");
    if (!d || !d.isConnected) return;
    unfolded[d.open ? "add" : "delete"](d.dataset.more);
    layNotes();
  }, true);
  document.addEventListener("focusin", (e) => {
    if (e.target.hasAttribute?.("data-formula")) formulaFields();
    if (e.target.hasAttribute?.("data-link")) sameAs(e.target.closest(".note").dataset.id);
    const g = e.target.closest?.("#overlay .f");
    if (g && !drag && g.matches(":focus-visible") && !(chosen.size === 1 && chosen.has(g.dataset.id))) choose([g.dataset.id]);
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
    chosen = new Set([...chosen].filter((id) => here.has(id)));
    if (open && !here.has(open)) open = "";
    show(); // at once, so that notes are never seen unlaid
  });
  document.addEventListener("htmx:afterSettle", () => { for (const b of document.querySelectorAll(".busy")) b.classList.remove("busy"); show(); });
  document.addEventListener("htmx:responseError", (e) => {
    if (e.detail.target?.id !== "bench") return;
    const wrong = e.detail.xhr.getResponseHeader("X-ZM-At"); // a formula: what is wrong in it is chosen, and nothing of it lost
    if (wrong) { markFormula(wrong.split(",")); return; }
    const mine = e.detail.requestConfig.formData, todo = e.detail.xhr.status === 409 && mine?.get("do");
    refresh().then(() => { if (todo) clashed(Object.fromEntries(mine)); });
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
    chosen = new Set(ids);
    open = ids.length === 1 ? ids[0] : "";
    if (open && fieldOf(open)?.classList.contains("k-radio")) group = fieldOf(open).dataset.name;
    manyNote();
    show();
    if (open) fieldOf(open)?.scrollIntoView({ block: "nearest" });
  });
  window.addEventListener("resize", layNotes);
  setInterval(watch, 2000);
  const shown = document.querySelector(".note.open:not(.many)");
  if (shown) { // the address names a field
    open = shown.dataset.id;
    choose([open], { note: false, scroll: true });
  }
  const here = document.querySelector(".thumb.on");
  if (here) $("thumbs").scrollTop = here.offsetTop - ($("thumbs").clientHeight - here.offsetHeight) / 2;
  document.fonts.ready.then(show);
  show();
}
