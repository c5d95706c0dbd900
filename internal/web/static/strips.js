// Strips for the keyboard: each is one stop of the Tab key, and arrows go along it. A strip is what has
// data-strip, or the role of a toolbar.

const controls = (s) => [...s.querySelectorAll("a[href], button, input:not([type=hidden]), select, .bead, summary")].filter((e) => !e.disabled && e.getClientRects().length);

const strips = () => document.querySelectorAll("[data-strip], [role=toolbar]");

// rove leaves one stop in each strip: where the focus was last, or what is pressed or current, or the first.
export function rove() {
  for (const s of strips()) {
    const all = controls(s);
    const now = all.find((e) => e === document.activeElement) || all.find((e) => e.dataset.stop) || all.find((e) => e.matches("[aria-current], .on, .sel")) || all[0];
    for (const e of all) e.setAttribute("tabindex", e === now ? "0" : "-1");
  }
}

function key(e) {
  if (e.ctrlKey || e.metaKey || e.altKey || e.shiftKey) return;
  const s = e.target.closest?.("[data-strip], [role=toolbar]");
  if (!s || e.target.matches("select, input:not([type=checkbox])")) return;
  const way = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1, Home: -Infinity, End: Infinity }[e.key];
  if (!way) return;
  const all = controls(s), at = all.indexOf(e.target);
  if (at < 0) return;
  e.preventDefault();
  e.stopPropagation();
  const to = all[Math.max(0, Math.min(all.length - 1, at + way))];
  for (const o of all) delete o.dataset.stop;
  to.dataset.stop = "yes";
  to.focus();
  rove();
}

export function startStrips() {
  document.addEventListener("keydown", key, true); // before what arrows mean elsewhere
  document.addEventListener("focusin", (e) => { if (e.target.closest?.("[data-strip], [role=toolbar]")) rove(); });
  document.addEventListener("htmx:afterSettle", rove);
  rove();
}

// nextStage goes to the stage after the one that is shown, or before it.
export function nextStage(way) {
  const all = [...document.querySelectorAll(".stages a")], at = all.findIndex((a) => a.hasAttribute("aria-current"));
  const to = all[at + way];
  if (to) location.href = to.href;
}
