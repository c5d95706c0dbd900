// Edits on their way. Each is kept in the browser until the server has answered it; while the
// server is away they wait, and are sent again in order. Each has a key, so that one whose answer
// was lost is not carried out twice.

const account = document.querySelector("meta[name=account]")?.content || "";
const csrf = document.querySelector("meta[name=csrf-token]").content;
const prefix = `unsent:${account}:`;

// The window that sends: a reload keeps its name, a second tab has another.
const desk = sessionStorage.getItem("desk") || crypto.getRandomValues(new Uint32Array(3)).join("-");
sessionStorage.setItem("desk", desk);

let count = Number(sessionStorage.getItem("sent") || 0);
let away = false, trying = null;
const watchers = [];

const slot = (doc) => `${prefix}${doc}:${desk}`;
const read = (key) => JSON.parse(localStorage.getItem(key) || "[]");

function write(key, list) {
  if (list.length) localStorage.setItem(key, JSON.stringify(list));
  else localStorage.removeItem(key);
}

// slots are where edits wait, those of windows that were closed included.
const slots = () => Object.keys(localStorage).filter((k) => k.startsWith(prefix));

// waiting is how many edits are not saved, of one document or of all.
export const waiting = (doc = "") => slots().filter((k) => !doc || k.startsWith(`${prefix}${doc}:`)).reduce((n, k) => n + read(k).length, 0);

export const isAway = () => away;

// keep puts an edit into the browser's keeping: path leads to what takes it, values are what it says.
export function keep(doc, path, values) {
  count++;
  sessionStorage.setItem("sent", count);
  const one = { key: `${desk}:${count}`, doc: String(doc), path, values };
  write(slot(doc), [...read(slot(doc)), one]);
  return one;
}

// settled takes out what was answered.
export function settled(one) {
  for (const k of slots()) write(k, read(k).filter((e) => e.key !== one.key));
}

// takeBack forgets the edit that was made last and waits, and gives it: what undo does to it.
export function takeBack(doc) {
  const list = read(slot(doc)), one = list.pop();
  write(slot(doc), list);
  tell();
  return one;
}

// withoutAnswer tells whether a status means that the edit may not have arrived, or cannot be taken now.
export const withoutAnswer = (status) => status === 0 || status === 401 || status === 502 || status === 503 || status === 504;

// onChange calls f when edits begin or cease to wait: f({left, answers, late}) with what the server
// said to those that were sent again; late tells that it was away.
export function onChange(f) { watchers.push(f); }

function tell(answers = [], late = false) { for (const f of watchers) f({ left: waiting(), answers, late }); }

export function goAway() {
  away = true;
  tell();
  trying ||= setInterval(resend, 1500);
}

let running = false;

// resend sends what waits, in order, until the server is away again.
export async function resend() {
  if (running) return;
  running = true;
  const answers = [], late = away;
  let back = true;
  for (let one; back && (one = slots().flatMap(read)[0]);) {
    let res;
    try {
      res = await fetch(`/documents/${one.doc}/${one.path}`, {
        method: "POST", headers: { "X-CSRF-Token": csrf, "X-ZM-Edit": one.key, "HX-Request": "true" }, body: new URLSearchParams(one.values),
      });
    } catch { res = { status: 0 }; }
    if (withoutAnswer(res.status)) { back = false; break; }
    settled(one);
    answers.push({ ...one, status: res.status, text: res.status >= 400 ? await res.text() : "", theirs: decodeURIComponent(res.headers.get("X-ZM-Theirs") || "") });
  }
  running = false;
  if (back) {
    away = false;
    clearInterval(trying);
    trying = null;
  } else if (!trying) goAway();
  if (answers.length) tell(answers, late);
}

// swap sends an edit, or something that is none, and swaps what comes back into a room; an edit waits while the
// server is away.
export async function swap(one, path, options) {
  if (one && away) return; // it went away since; what waits is sent in order
  const source = document.getElementById("sender");
  let status = 0;
  const heard = (e) => { if (e.detail.elt === source) status = e.detail.xhr.status; };
  document.addEventListener("htmx:afterRequest", heard);
  try {
    await window.htmx.ajax("POST", path, { swap: "morph:outerHTML", source, headers: one ? { "X-ZM-Edit": one.key } : {}, ...options });
  } catch { /* no answer: status stays 0 */ } finally { document.removeEventListener("htmx:afterRequest", heard); }
  if (!one) return;
  if (withoutAnswer(status)) goAway();
  else settled(one);
}

// deliver sends an edit by fetch, or lets it wait while the server is away. It gives the answer, or null when the
// edit waits.
export async function deliver(doc, path, values) {
  const one = keep(doc, path, values);
  if (away) { tell(); return null; }
  let res;
  try {
    res = await fetch(`/documents/${doc}/${path}`, { method: "POST", headers: { "X-CSRF-Token": csrf, "X-ZM-Edit": one.key, "HX-Request": "true" }, body: new URLSearchParams(values) });
  } catch { res = { status: 0 }; }
  if (withoutAnswer(res.status)) { goAway(); return null; }
  settled(one);
  return res;
}

// showWaiting says in the head of a document that edits wait.
export function showWaiting(doc) {
  const n = waiting(doc), head = document.getElementById("saved");
  if (!head) return;
  if (away && n) {
    head.dataset.was ??= head.textContent;
    head.textContent = `not saved yet: ${n === 1 ? "1 edit" : `${n} edits`}`;
    head.classList.add("waits");
    head.title = "The office's server does not answer. What you did is kept in this browser and sent as soon as it does.";
  } else if (head.dataset.was) {
    head.textContent = "saved just now";
    head.classList.remove("waits");
    head.title = "";
    delete head.dataset.was;
  }
}

addEventListener("beforeunload", (e) => {
  if (away && waiting()) e.preventDefault();
});
