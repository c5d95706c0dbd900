// The list of all fields: searched, sorted and renamed in place.

import { deliver, onChange, showWaiting } from "./outbox.js";

export function startFields(say) {
  const room = document.getElementById("fieldlist");
  const body = room.querySelector("tbody"), rows = [...body.rows];
  const search = document.getElementById("field-search"), problems = document.getElementById("field-problems");
  let sorted = "order", down = false;

  function filter() {
    const words = search.value.trim().toLowerCase().split(/\s+/).filter(Boolean);
    let n = 0;
    for (const r of rows) {
      const text = `${r.dataset.name} ${r.dataset.tooltip} ${r.dataset.kind}`.toLowerCase();
      r.hidden = !(words.every((w) => text.includes(w)) && (!problems.checked || r.dataset.wrong));
      if (!r.hidden) n++;
    }
    document.getElementById("field-count").textContent = n === rows.length ? "" : `${n} shown`;
  }

  function sort(by) {
    down = by === sorted && !down;
    sorted = by;
    const key = (r) => (by === "order" ? Number(r.dataset.order) : r.dataset[by].toLowerCase());
    const order = [...rows].sort((a, b) => {
      const x = key(a), y = key(b);
      return (x < y ? -1 : x > y ? 1 : Number(a.dataset.order) - Number(b.dataset.order)) * (down ? -1 : 1);
    });
    body.append(...order);
  }

  search.addEventListener("input", filter);
  problems.addEventListener("change", filter);
  room.addEventListener("click", (e) => { const b = e.target.closest("[data-sort]"); if (b) sort(b.dataset.sort); });
  room.addEventListener("change", async (e) => {
    const el = e.target;
    if (!el.dataset.field) return;
    const res = await deliver(room.dataset.doc, `fields/${el.dataset.field}`, { key: el.dataset.key, value: el.value });
    if (!res) { say("The office's server does not answer. Your edits are kept here and sent as soon as it does."); return; }
    if (!res.ok) { say(await res.text(), true); el.focus(); return; }
    const r = el.closest("tr");
    r.dataset[el.dataset.key] = el.value;
    if (el.dataset.key === "tooltip" && el.value && r.dataset.wrong === "no tooltip") { r.dataset.wrong = ""; r.querySelector(".wrongcell").textContent = ""; }
    say(`${el.value} is kept.`);
  });

  onChange(({ left, answers }) => {
    showWaiting(room.dataset.doc);
    const bad = answers.find((a) => a.status >= 400);
    if (bad) say(`One edit could not be done: ${bad.text} You wrote “${bad.values.value}”.`, true);
    else if (answers.length && !left) say("What waited is saved.");
  });
}
