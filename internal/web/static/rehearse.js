// The rehearsal: the form as a recipient has it. Answers stay in the browser; the server works
// out what follows from them, and forgets them.

const $ = (id) => document.getElementById(id);
let say;
let answers = {};
let state = { raw: {}, shown: {}, hidden: [], must: [], missing: [], trouble: {}, pages: {} };

const set = {}; // what buttons have hidden, shown, locked and freed

const room = () => $("rehearse").dataset;
const store = () => "rehearsal-" + room().doc;
const live = () => [...document.querySelectorAll("#sheet .live")];
const csrf = () => document.querySelector("meta[name=csrf-token]").content;

function lay() {
  for (const e of live()) {
    const d = e.dataset;
    Object.assign(e.style, { left: d.x + "px", top: d.y + "px", width: d.w + "px", height: d.h + "px", fontSize: d.size + "px", textAlign: d.align === "centre" ? "center" : d.align || "" });
    if (Number(d.comb) > 0) {
      e.style.fontFamily = "monospace";
      e.style.letterSpacing = `calc(${Number(d.w) / Number(d.comb)}px - 1ch)`;
      e.style.paddingLeft = `calc(${Number(d.w) / Number(d.comb) / 2}px - 0.5ch)`;
    }
  }
}

// valueOf is the answer that a control gives.
function valueOf(e) {
  if (e.type === "checkbox") return e.checked ? e.value : "";
  if (e.type === "radio") return live().find((x) => x.type === "radio" && x.dataset.name === e.dataset.name && x.checked)?.value || "";
  if (e.multiple) return [...e.selectedOptions].map((o) => o.value).join("\n");
  return e.value;
}

function show() {
  for (const e of live()) {
    const name = e.dataset.name, raw = state.raw[name] ?? "";
    e.classList.toggle("must", state.must.includes(name));
    e.hidden = set[name]?.hidden ?? state.hidden.includes(name);
    const role = $("role")?.value;
    e.classList.toggle("others", Boolean(role && e.dataset.role && e.dataset.role !== role));
    e.inert = e.classList.contains("others");
    if (set[name]?.locked !== undefined) e.readOnly = set[name].locked;
    e.classList.toggle("amiss", false);
    if (e.type === "checkbox" || e.type === "radio") e.checked = raw === e.value;
    else if (e.matches("select")) for (const o of e.options) o.selected = e.multiple ? raw.split("\n").includes(o.value) : o.value === raw;
    else if (e.matches("input, textarea") && e.type !== "file" && e !== document.activeElement && !waiting.get(name)) e.value = state.shown[name] ?? "";
    e.title = state.trouble[name] ? `It stays empty: ${state.trouble[name]}` : e.getAttribute("aria-label");
  }
  const n = state.missing.length;
  $("missing").textContent = n ? `${n} to go: ${state.missing.slice(0, 4).join(", ")}${n > 4 ? " …" : ""}` : "Nothing is missing.";
}

async function ask(values) {
  const res = await fetch(`/documents/${room().doc}/answers`, { method: "POST", headers: { "X-CSRF-Token": csrf(), "Content-Type": "application/x-www-form-urlencoded" }, body: new URLSearchParams({ answers: JSON.stringify(answers), ...values }) });
  if (!res.ok) { say(await res.text() || "That did not work: load the page again.", true); return null; }
  state = await res.json();
  answers = Object.fromEntries(Object.entries(state.raw).filter(([, v]) => v !== ""));
  sessionStorage.setItem(store(), JSON.stringify(answers));
  const told = $("told");
  told.hidden = !state.refused;
  told.textContent = state.refused || "";
  show();
  return state;
}

let busy = Promise.resolve();
const waiting = new Map(); // answers that are on their way, by field
function leave(e) {
  const value = valueOf(e), name = e.dataset.name;
  waiting.set(name, (waiting.get(name) || 0) + 1);
  busy = busy.then(async () => {
    waiting.set(name, waiting.get(name) - 1);
    if (value === (state.shown[e.dataset.name] ?? "") && !["checkbox", "radio"].includes(e.type)) return;
    const s = await ask({ name: e.dataset.name, value });
    if (s?.refused) { e.classList.add("amiss"); if (e.matches("input, textarea")) e.value = state.raw[e.dataset.name] ?? ""; }
  });
}

// step goes to the next field that a recipient can fill in, on this page or the next.
function step(missing) {
  const all = live().filter((e) => !e.hidden && !e.readOnly && !e.disabled && (!missing || state.missing.includes(e.dataset.name)));
  const at = all.indexOf(document.activeElement);
  const here = document.activeElement?.closest?.("#sheet") ? all.find((e) => e.compareDocumentPosition(document.activeElement) & Node.DOCUMENT_POSITION_PRECEDING) : null;
  const next = missing ? here || all[0] : all[at + 1];
  if (next) { next.focus(); return; }
  if (missing) {
    const far = state.missing.find((n) => state.pages[n] && String(state.pages[n]) !== room().page);
    if (far) location.href = `/documents/${room().doc}/rehearse?page=${state.pages[far]}&zoom=${room().zoom}`;
    else say("Nothing is missing.");
  } else if (Number(room().page) < Number(room().pages)) location.href = `/documents/${room().doc}/rehearse?page=${Number(room().page) + 1}&zoom=${room().zoom}`;
}

function press(b) {
  const sent = $("sent");
  const tell = (head, lines) => {
    sent.replaceChildren(Object.assign(document.createElement("b"), { textContent: head }));
    const list = document.createElement("dl");
    for (const [k, v] of lines) list.append(Object.assign(document.createElement("dt"), { textContent: k }), Object.assign(document.createElement("dd"), { textContent: v }));
    sent.append(list);
    sent.hidden = false;
  };
  const steps = JSON.parse(b.dataset.press || "[]").filter((s) => !s.when);
  const each = (s) => (s.fields || "").split(",").map((n) => n.trim()).filter(Boolean);
  if (!steps.length) tell("Nothing happens: the button has no action.", []);
  for (const s of steps) {
    switch (s.do) {
      case "clear": busy = busy.then(() => ask({ clear: s.fields || "*", except: s.except ? "yes" : "" })); tell("The form is cleared.", []); break;
      case "print": tell("The form is printed.", []); window.print(); break;
      case "save": tell("The reader asks where to save the filled form.", []); break;
      case "submit":
        if (state.missing.length) tell(`Not sent: ${state.missing.length} to go.`, state.missing.map((n) => [n, "is missing"]));
        else tell(`This would be sent to ${s.url}:`, Object.entries(answers).filter(([n]) => !s.fields || each(s).includes(n) !== Boolean(s.except)));
        break;
      case "page": location.href = `/documents/${room().doc}/rehearse?page=${s.page}&zoom=${room().zoom}`; break;
      case "link": case "pdf": case "bring": tell({ link: "The reader opens", pdf: "The reader opens the file", bring: "The reader takes the answers from" }[s.do] + " " + s.url + ".", []); break;
      case "show": case "hide": for (const n of each(s)) set[n] = { ...set[n], hidden: s.do === "hide" }; show(); break;
      case "lock": case "free": for (const n of each(s)) set[n] = { ...set[n], locked: s.do === "lock" }; show(); break;
      case "set": for (const n of each(s)) busy = busy.then(() => ask({ name: n, value: s.value || "" })); break;
      case "script": tell("A script of your own runs in the reader; it is not run here.", []); break;
      case "picture": tell("The reader asks for a picture, where it runs scripts.", []); break;
    }
  }
}

export function startRehearse(tell) {
  say = tell;
  lay();
  try { answers = JSON.parse(sessionStorage.getItem(store()) || "{}"); } catch { answers = {}; }
  busy = busy.then(() => ask({})).then(() => { document.documentElement.dataset.live = "yes"; });
  document.addEventListener("change", (e) => {
    if (e.target.id === "role") show();
    if (e.target.matches?.("#sheet .live")) leave(e.target);
  });
  document.addEventListener("focusin", (e) => {
    const f = e.target;
    if (f.matches?.("#sheet input.live, #sheet textarea.live") && f.type !== "file" && !f.readOnly && !["checkbox", "radio"].includes(f.type)) { f.value = state.raw[f.dataset.name] ?? ""; f.select(); }
  });
  document.addEventListener("focusout", (e) => { if (e.target.matches?.("#sheet .live")) busy.then(show); });
  document.addEventListener("click", (e) => {
    const b = e.target.closest?.("button");
    if (!b) return;
    if (b.dataset.press !== undefined) { busy.then(() => press(b)); return; }
    if ("sign" in b.dataset) { b.textContent = b.textContent === "sign here" ? "signed (rehearsal)" : "sign here"; return; }
    if (b.id === "next") step(false);
    else if (b.id === "next-missing") step(true);
    else if (b.id === "afresh") { answers = {}; busy = busy.then(() => ask({ clear: "*" })); }
    else if (b.id === "lit") b.setAttribute("aria-pressed", $("sheet").classList.toggle("lit"));
  });
  document.addEventListener("keydown", (e) => {
    if (!e.altKey) return;
    if (e.code === "KeyN") { e.preventDefault(); step(false); }
    if (e.code === "KeyM") { e.preventDefault(); step(true); }
    if (e.code === "KeyH") { e.preventDefault(); $("lit").click(); }
  });
}
