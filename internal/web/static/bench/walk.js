// Placing by keys: with a kind armed, arrows go from one place where something is to be written to the
// next, and Enter places the field there. On a page that offers none, arrows move an empty frame.

import { $, bench, fields, inside, rectOf, state } from "./state.js";
import { post } from "./ask.js";
import { asked } from "./pointer.js";
import { ghost, learn } from "./snap.js";

let places = [], at = -1, free = null;

// offered are the places that have no field yet, from the top and from the left.
function offered() {
  const ticks = ["checkbox", "radio"].includes(state.armed.kind);
  const taken = (r) => fields().some((g) => { const o = rectOf(g); return inside({ x: r[0] + r[2] / 2, y: r[1] + r[3] / 2 }, [o.x, o.y, o.w, o.h]); });
  const all = state.printed.areas.filter((a) => Boolean(a.tick) === ticks && !taken(a.rect));
  return all.sort((a, b) => (Math.abs(a.rect[1] - b.rect[1]) > 4 ? a.rect[1] - b.rect[1] : a.rect[0] - b.rect[0]));
}

// startWalk learns what the page offers and shows the first place.
export async function startWalk() {
  at = -1;
  free = null;
  if (!state.armed.kind || state.armed.kind === "area") return;
  await learn();
  places = offered();
  if (state.armed.kind) step(1);
}

function step(way, far = 1) {
  if (!places.length) {
    const b = bench();
    free ||= { x: b.vw / 2 - 60, y: b.vh / 2 - 9, w: 120, h: 18 };
    ghost(free, "place");
    state.say("The page offers no place: arrows move the frame, Enter places the field.", false, true);
    return;
  }
  at = Math.max(0, Math.min(places.length - 1, at + way * far));
  const [x, y, w, h] = places[at].rect;
  ghost({ x, y, w, h }, "place");
  $("ghost").scrollIntoView?.({ block: "nearest" });
  state.say(`Place ${at + 1} of ${places.length}${places[at].name ? `: ${places[at].name}` : ""}. Arrows go on, Enter places the field, Escape leaves it.`, false, true);
}

// walkKey does what a key means while a kind is armed.
export function walkKey(k, shift) {
  const ways = { ArrowRight: [1, 0], ArrowDown: [0, 1], ArrowLeft: [-1, 0], ArrowUp: [0, -1] };
  if (ways[k]) {
    if (free) { const d = shift ? 1 : 10; free.x += ways[k][0] * d; free.y += ways[k][1] * d; }
    step(ways[k][0] + ways[k][1], shift && !free ? 5 : 1);
    return true;
  }
  if (k !== "Enter" || (at < 0 && !free)) return false;
  const kind = state.armed.kind;
  if (!state.armed.keep) state.armed = { kind: "", keep: false };
  const a = free || { x: places[at].hit[0], y: places[at].hit[1], w: places[at].hit[2], h: places[at].hit[3] };
  const mid = { x0: (a.x + a.w / 2).toFixed(2), y0: (a.y + a.h / 2).toFixed(2) };
  const frame = { x0: a.x.toFixed(2), y0: a.y.toFixed(2), x1: (a.x + a.w).toFixed(2), y1: (a.y + a.h).toFixed(2) };
  ghost(null);
  $("say").hidden = true;
  free = null;
  post("edits", { do: "place", ...asked(kind), ...(places.length ? mid : frame) }).then(() => { if (state.armed.kind) startWalk(); });
  return true;
}
