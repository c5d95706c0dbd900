// The sweep: finds one after the other, the most doubtful first.

import { $, bench, state } from "./state.js";
import { edit, refresh } from "./ask.js";
import { choose } from "./notes.js";

export const sweepList = () => (bench().sweep ? bench().sweep.split(",").map((e) => { const [id, page] = e.split(":"); return { id, page }; }) : []);

export async function goSweep(id, page) {
  state.sweep.at = id;
  if (!state.sweep.seen.includes(id)) state.sweep.seen.push(id);
  if (page && page !== bench().page) await refresh({ page });
  choose([id], { scroll: true });
  const left = sweepList().filter((e) => !state.sweep.seen.includes(e.id)).length;
  const bar = $("sweepbar");
  bar.hidden = false;
  bar.textContent = `Sweep · ${left} more · K keep · X drop · N next · P back · T L B G kind · 2–9 split · J join · R radio · E extend · Enter name · Escape end`;
}

export async function nextSweep() {
  const next = sweepList().find((e) => !state.sweep.seen.includes(e.id));
  if (!next) { endSweep(); state.say("The sweep is through: every find has been looked at."); return; }
  await goSweep(next.id, next.page);
}

export function endSweep() {
  state.sweep = null;
  $("sweepbar").hidden = true;
}

export function startSweep() {
  state.sweep = { seen: [], at: "" };
  return state.busy.then(nextSweep);
}

// sweepKey does what a key means in the sweep, and goes on where the find is settled.
export function sweepKey(k) {
  const one = { ids: state.sweep.at };
  const then = (p) => p.then(() => nextSweep());
  const kinds = { t: "text", l: "lines", b: "checkbox", g: "signature" };
  if (k === "Escape") endSweep();
  else if (k === "k") then(edit("keep", one));
  else if (k === "x") then(edit("drop", one));
  else if (k === "n" || k === " ") state.busy.then(nextSweep);
  else if (k === "p") { state.sweep.seen.pop(); const back = state.sweep.seen.pop(); if (back) state.busy.then(() => goSweep(back, sweepList().find((e) => e.id === back)?.page)); }
  else if (kinds[k]) then(edit("set", { ...one, key: "kind", value: kinds[k] }));
  else if (k >= "2" && k <= "9") then(edit("split", { ...one, n: k }));
  else if (k === "j") then(edit("join", one));
  else if (k === "r") then(edit("radio-group", one));
  else if (k === "e") then(edit("extend", one));
  else return false;
  return true;
}
