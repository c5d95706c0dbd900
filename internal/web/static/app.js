// What every page needs: the token on every change, messages, and bringing files in.
import { isAway, resend, waiting, withoutAnswer } from "./outbox.js";
import { nextStage, startStrips } from "./strips.js";
import { startBench } from "./bench.js";
import { startFields } from "./fields.js";
import { startPages } from "./pages.js";
import { startRehearse } from "./rehearse.js";
import { startReturned } from "./returned.js";

const csrf = document.querySelector("meta[name=csrf-token]").content;

let quiet;
export function say(text, wrong = false, stays = false) {
  const box = document.getElementById("say");
  if (!box) return;
  box.textContent = text;
  box.className = wrong ? "wrong" : "";
  box.hidden = false;
  clearTimeout(quiet);
  if (!stays) quiet = setTimeout(() => { box.hidden = true; }, wrong ? 9000 : 5000);
}

document.addEventListener("htmx:configRequest", (e) => { e.detail.headers["X-CSRF-Token"] = csrf; });
document.addEventListener("htmx:responseError", (e) => {
  if (e.detail.xhr.status === 401) { location.href = "/sign-in"; return; }
  if (e.detail.elt.id === "sender" && withoutAnswer(e.detail.xhr.status)) { say(waits); return; }
  say(e.detail.xhr.responseText || "That did not work. Nothing was lost; try again.", true);
});
const waits = "The office's server does not answer. Your edits are kept here and sent as soon as it does.";
document.addEventListener("htmx:sendError", (e) => {
  const kept = e.detail.elt.id === "sender" || isAway();
  say(kept ? waits : "The office's server does not answer. What you did last was not saved: try again in a moment.", !kept);
});
document.addEventListener("zm:say", (e) => say(e.detail.text));

// The list of documents waits with its refresh while somebody types in it.
let stale = false;
const typing = (e) => {
  const list = document.getElementById("documents"), by = e.detail.requestConfig?.elt ?? e.detail.elt;
  return list !== null && by === list && list.contains(document.activeElement) && document.activeElement.matches("input:not([type=checkbox])");
};
document.addEventListener("htmx:beforeRequest", (e) => {
  if (!typing(e)) return;
  e.preventDefault();
  stale = true;
});
document.addEventListener("htmx:beforeSwap", (e) => { // one that was on its way when the typing began
  if (!typing(e)) return;
  e.detail.shouldSwap = false;
  stale = true;
});
document.addEventListener("focusout", () => {
  if (!stale) return;
  stale = false;
  setTimeout(() => window.htmx.trigger(document.body, "documents-changed"), 300);
});

// What is searched for stands in the address, so that it is there again.
document.addEventListener("htmx:afterSwap", (e) => {
  if (e.detail.requestConfig.elt?.id !== "seek") return;
  const query = document.getElementById("documents").dataset.query;
  history.replaceState(null, "", query ? "/?" + query : "/");
});
document.addEventListener("keydown", (e) => {
  const search = document.getElementById("search");
  if (!search || e.ctrlKey || e.metaKey || e.altKey) return;
  if (e.key === "Escape" && e.target === search && search.value) { e.preventDefault(); search.value = ""; search.dispatchEvent(new Event("input", { bubbles: true })); }
  if (e.target.closest?.("input, select, textarea")) return;
  if (e.key === "/") { e.preventDefault(); search.focus(); search.select(); }
  if (e.key === "b" || e.key === "B") {
    const choose = document.querySelector("#drop input[type=file]");
    if (!choose) return;
    e.preventDefault();
    choose.focus();
    choose.click();
  }
});

// ---- bringing files in ------------------------------------------------------

function row(list, name) {
  const div = document.createElement("div");
  div.className = "intake";
  const b = document.createElement("b");
  b.textContent = name;
  const p = document.createElement("p");
  p.textContent = "sending";
  const bar = document.createElement("progress");
  bar.max = 100;
  bar.value = 0;
  div.append(b, p, bar);
  list.prepend(div);
  return { div, p, bar };
}

function refuse(r, why) {
  r.div.classList.add("refused");
  r.bar.remove();
  r.p.className = "wrong";
  r.p.textContent = why;
}

// send uploads files in one request and shows how far it is; more is what else the
// server should know.
export function send(files, list, most, more = {}) {
  if (!files.length) return;
  const r = row(list, files.length > 1 ? `${files[0].name} and ${files.length - 1} more` : files[0].name);
  const zip = files.length === 1 && /\.zip$/i.test(files[0].name);
  if (!zip && files.some((f) => f.size > most * 1024 * 1024)) { refuse(r, `This file is too large: the limit is ${most} MB. Bring in a smaller one, or split it.`); return; }
  const form = new FormData();
  for (const f of files) form.append("file", f);
  for (const [k, v] of Object.entries(more)) form.append(k, v);
  const x = new XMLHttpRequest();
  x.open("POST", "/intakes");
  x.setRequestHeader("X-CSRF-Token", csrf);
  x.setRequestHeader("HX-Request", "true");
  x.upload.onprogress = (e) => { if (e.lengthComputable) r.bar.value = 100 * e.loaded / e.total; };
  x.onerror = () => refuse(r, "The file could not be sent: try again.");
  x.onload = () => {
    if (x.status !== 200) { refuse(r, x.responseText || "The file could not be sent: try again."); return; }
    const box = document.createElement("div");
    box.innerHTML = x.responseText;
    r.div.replaceWith(box);
    window.htmx.process(box);
  };
  x.send(form);
}

const drop = document.getElementById("drop");
if (drop) {
  const list = document.getElementById("intakes");
  const input = drop.querySelector("input[type=file]");
  const together = document.getElementById("together");
  const most = Number(drop.dataset.max);
  const take = (files) => {
    if (together.checked && files.length > 1) send(files, list, most, { together: "1" });
    else for (const f of files) send([f], list, most);
  };
  input.addEventListener("change", () => { take([...input.files]); input.value = ""; });
  drop.addEventListener("submit", (e) => e.preventDefault());
  const over = (on) => (e) => { e.preventDefault(); drop.classList.toggle("over", on); };
  for (const t of [drop, document.body]) {
    t.addEventListener("dragover", over(true));
    t.addEventListener("dragleave", over(false));
  }
  document.body.addEventListener("drop", (e) => {
    e.preventDefault();
    drop.classList.remove("over");
    take([...e.dataTransfer.files]);
  });
}

// A doubtful word: the field has the focus, Escape passes it over.
document.addEventListener("keydown", (e) => {
  if (e.key === "Escape" && e.target.id === "word-text") { e.preventDefault(); document.getElementById("word-skip").click(); }
});
document.addEventListener("htmx:afterSettle", () => {
  const field = document.getElementById("word-text");
  if (field && document.activeElement !== field) { field.focus(); field.select(); }
});

startStrips();
document.addEventListener("keydown", (e) => {
  if (e.ctrlKey || e.metaKey || e.altKey || e.target.closest?.("input:not([type=checkbox]), select, textarea, dialog")) return;
  if (e.key === "]" || e.key === "[") { e.preventDefault(); nextStage(e.key === "]" ? 1 : -1); }
});

if (document.getElementById("bench")) startBench(say);
if (document.getElementById("pagesroom")) startPages(say, send);
if (document.getElementById("fieldlist")) startFields(say);
if (document.getElementById("rehearse")) startRehearse(say);
if (document.getElementById("returns")) startReturned();
if (waiting()) resend(); // from before this page was loaded
document.documentElement.dataset.ready = "yes";

// ---- names of fields, chosen from a list -------------------------------------------

document.addEventListener("focusin", async (e) => {
  const list = e.target;
  if (!list.dataset?.moreOf || list.options.length > 1) return;
  const doc = list.closest("#events")?.dataset.doc || document.getElementById("bench")?.dataset.doc;
  const res = await fetch(`/documents/${doc}/formula-help`);
  if (!res.ok || list.options.length > 1) return;
  list.append(...(await res.json()).names.map((name) => new Option(name, name)));
});
document.addEventListener("change", (e) => {
  const of = e.target.dataset?.moreOf;
  if (!of || !e.target.value) return;
  const blank = document.getElementById(of), names = blank.value.split(",").map((n) => n.trim()).filter(Boolean);
  if (!names.includes(e.target.value)) names.push(e.target.value);
  e.target.value = "";
  blank.value = names.join(", ");
  blank.dispatchEvent(new Event("change", { bubbles: true }));
});

// ---- the house style: every property is kept as it is changed ------------------

document.addEventListener("change", (e) => {
  const kind = e.target.closest("[data-housekind]");
  if (!kind) return;
  const from = e.target.dataset.for ? document.getElementById(e.target.dataset.for) : e.target;
  const open = kind.querySelector("details")?.open;
  window.htmx.ajax("POST", "/house-style/" + kind.dataset.housekind, { target: "#" + kind.id, swap: "outerHTML", values: { key: from.dataset.key, value: e.target.value } })
    .then(() => {
      const rest = document.querySelector(`#${kind.id} details`);
      if (rest && open) rest.open = true;
      document.getElementById(from.id)?.focus();
    });
});

// ---- what a document does --------------------------------------------------------

function setEvent(key, value) {
  const box = document.getElementById("events");
  window.htmx.ajax("POST", `/documents/${box.dataset.doc}/events`, { target: "#events", swap: "outerHTML", values: { key, value } })
    .then(() => document.querySelector(`#events [data-key="${key}"]`)?.focus());
}
document.addEventListener("change", (e) => { if (e.target.closest("#events") && e.target.dataset.key) setEvent(e.target.dataset.key, e.target.value); });
document.addEventListener("click", (e) => {
  const b = e.target.closest?.("#events button[data-set]");
  if (b) setEvent(b.dataset.set, "");
});
