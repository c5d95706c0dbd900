// What the parts of the bench share: what is chosen, open, armed and dragged, and how the page
// lies on the screen.

export const state = {
  say: () => {},
  chosen: new Set(),
  open: "",                          // the field whose note is open
  armed: { kind: "", keep: false },  // taken from the kit
  drag: null,
  folds: JSON.parse(sessionStorage.getItem("folds") || "{}"), // headings in notes that a person opened (true) or closed
  sequence: null,                    // fields pressed in order so far
  pointing: null,                    // {blank, names}: whose fields are pointed at
  group: "",                         // the radio group that is being placed
  busy: Promise.resolve(),           // the last change that was asked for
  asked: "",                         // the chosen fields whose note is on its way
  printed: { key: "", areas: [], x: [], y: [] }, // on the page that is shown
  sweep: null,                       // {seen: [ids], at: id}
};

export const $ = (id) => document.getElementById(id);

export const SVG = "http://www.w3.org/2000/svg";

export const LEAST = 4; // points; the smallest side of a field

export const bench = () => $("bench").dataset;

export const scale = () => Number(bench().width) / Number(bench().vw); // CSS pixels per point

export const fieldOf = (id) => $("f-" + id);

// rectOf is where a field is shown now: where the server drew it, or where it was moved to since.
export const rectOf = (g) => { const b = g.querySelector(".body"), v = (k) => Number(b.getAttribute(k)); return { x: v("x"), y: v("y"), w: v("width"), h: v("height") }; };

export const fields = () => [...document.querySelectorAll("#overlay .f")];

export const box = (a, b) => ({ x: Math.min(a.x, b.x), y: Math.min(a.y, b.y), w: Math.abs(a.x - b.x), h: Math.abs(a.y - b.y) });

export const corners = (r) => ({ x0: r.x.toFixed(2), y0: r.y.toFixed(2), x1: (r.x + r.w).toFixed(2), y1: (r.y + r.h).toFixed(2) });

export const inside = (p, [x, y, w, h]) => p.x >= x && p.x <= x + w && p.y >= y && p.y <= y + h;

// paint shows a field elsewhere until the server has drawn it there.
export function paint(id, r) {
  const g = fieldOf(id);
  if (!g) return;
  const b = g.querySelector(".body");
  for (const [k, v] of Object.entries({ x: r.x, y: r.y, width: r.w, height: r.h })) b.setAttribute(k, v);
  g.querySelector(".spine").setAttribute("transform", `translate(${r.x - g.dataset.x} ${r.y - g.dataset.y})`);
  $("grips").replaceChildren();
}
