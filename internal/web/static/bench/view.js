// What the eye wants: zoom, the page in hand, tint and names.

import { $, bench, fieldOf, rectOf, state } from "./state.js";
import { refresh } from "./ask.js";

export async function zoomTo(z) {
  if (!Number(z)) return;
  await refresh({ zoom: z });
  const b = bench();
  history.replaceState(null, "", `/documents/${b.doc}/${b.stage}?page=${b.page}&zoom=${b.zoom}`);
}

export function goPage(n) {
  const b = bench();
  if (n >= 1 && n <= Number(b.pages)) location.href = `/documents/${b.doc}/${b.stage}?page=${n}&zoom=${b.zoom}`;
}

// zoomFor shows the page, its width, or what is chosen as large as there is room for.
export async function zoomFor(what) {
  const b = bench(), desk = $("desk").getBoundingClientRect(), px = 96 / 72 / 100; // CSS pixels a point at 1 %
  const room = { w: desk.width - 78 - 60 - 330, h: desk.height - 40 };
  const zoom = (w, h) => Math.max(25, Math.min(400, Math.floor(Math.min(room.w / (w * px), h ? room.h / (h * px) : Infinity))));
  if (what === "page") await zoomTo(zoom(b.vw, b.vh));
  else if (what === "width") await zoomTo(zoom(b.vw, 0));
  else {
    const rs = [...state.chosen].map((id) => fieldOf(id)).filter(Boolean).map(rectOf);
    if (!rs.length) { state.say("Choose a field first."); return; }
    const x = Math.min(...rs.map((r) => r.x)), y = Math.min(...rs.map((r) => r.y));
    await zoomTo(zoom(Math.max(...rs.map((r) => r.x + r.w)) - x + 40, Math.max(...rs.map((r) => r.y + r.h)) - y + 40));
    fieldOf([...state.chosen][0])?.scrollIntoView({ block: "center", inline: "center" });
  }
}

// What the eye wants to see stays as it was chosen, in the browser.
export const views = { tint: true, names: false, ...JSON.parse(localStorage.getItem("views") || "{}") };

export function view(what) {
  if (what) { views[what] = !views[what]; localStorage.setItem("views", JSON.stringify(views)); }
  document.body.classList.toggle("bare", !views.tint);
  document.body.classList.toggle("named", views.names);
  if ($("view-tint")) $("view-tint").checked = views.tint;
  if ($("view-names")) $("view-names").checked = views.names;
}

// showKeys opens the list of keys, at its top.
export function showKeys() {
  $("keys").showModal();
  $("keys").scrollTop = 0;
}
