// The rehearsal: the form as a recipient has it. Answers stay in the browser; the server works
// out what follows from them, and forgets them.

const $ = (id) => document.getElementById(id);
let say;
let answers = {};
let state = { raw: {}, shown: {}, hidden: [], must: [], missing: [], trouble: {}, pages: {} };

let set = {}; // what steps have hidden, shown, locked and freed

const room = () => $("rehearse").dataset;
const store = () => "rehearsal-" + room().doc;
const live = () => [...document.querySelectorAll("#sheet .live")];
const csrf = () => document.querySelector("meta[name=csrf-token]").content;

function lay() {
  for (const e of live()) {
    const d = e.dataset;
    Object.assign(e.style, { left: d.x + "px", top: d.y + "px", width: d.w + "px", height: d.h + "px", fontSize: d.size + "px", textAlign: d.align === "centre" ? "center" : d.align || "" });
    dress(e);
    if (Number(d.comb) > 0) {
      e.style.fontFamily = "monospace";
      e.style.letterSpacing = `calc(${Number(d.w) / Number(d.comb)}px - 1ch)`;
      e.style.paddingLeft = `calc(${Number(d.w) / Number(d.comb) / 2}px - 0.5ch)`;
    }
  }
}

// dress gives a control the look of its field.
function dress(e) {
  const d = e.dataset, s = e.style, line = { dashed: "dashed", bevelled: "outset", inset: "inset" }[d.borderstyle] || "solid";
  if (d.colour) s.color = d.colour;
  if (d.fill) s.background = d.fill;
  if (d.border) s[d.borderstyle === "underline" ? "borderBottom" : "border"] = `${d.borderwidth}px ${line} ${d.border}`;
  if (d.font) {
    s.fontFamily = /^(Times|Liberation)/.test(d.font) ? "Times New Roman, Liberation Serif, serif" : /^Courier/.test(d.font) ? "Courier New, Liberation Mono, monospace" : "";
    if (/Bold/.test(d.font)) s.fontWeight = "700";
    if (/Italic|Oblique/.test(d.font)) s.fontStyle = "italic";
  }
  if (d.turn) { // it is read along another side
    if (d.turn !== "180") Object.assign(s, { width: d.h + "px", height: d.w + "px", left: `${Number(d.x) + (d.w - d.h) / 2}px`, top: `${Number(d.y) + (d.h - d.w) / 2}px` });
    s.transform = `rotate(-${d.turn}deg)`;
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
    e.hidden = set[name]?.hidden ?? ("away" in e.dataset || state.hidden.includes(name));
    const role = $("role")?.value;
    e.classList.toggle("others", Boolean(role && e.dataset.role && e.dataset.role !== role));
    e.inert = e.classList.contains("others");
    const locked = set[name]?.locked ?? "fixed" in e.dataset;
    if (e.matches("select, [type=checkbox], [type=radio]")) e.disabled = locked;
    else e.readOnly = locked;
    e.classList.toggle("amiss", false);
    if (e.type === "checkbox" || e.type === "radio") e.checked = raw === e.value;
    else if (e.matches("select")) for (const o of e.options) o.selected = e.multiple ? raw.split("\n").includes(o.value) : o.value === raw;
    else if (e.matches("input, textarea") && e.type !== "file" && e !== typing && !waiting.get(name)) e.value = (e === document.activeElement && !e.readOnly ? state.raw : state.shown)[name] ?? "";
    last.set(e, e.value);
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

// soon does one thing after the other; while there is something to do, the room says so.
let busy = Promise.resolve(), todo = 0;
function soon(f) {
  $("rehearse").ariaBusy = "true";
  todo++;
  busy = busy.then(f).finally(() => { if (--todo === 0) $("rehearse").ariaBusy = "false"; });
  return busy;
}
const waiting = new Map(); // answers that are on their way, by field
function leave(e) {
  const value = valueOf(e), name = e.dataset.name;
  waiting.set(name, (waiting.get(name) || 0) + 1);
  soon(async () => {
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

// tell says what a step comes to, where the rehearsal cannot do it itself.
function tell(head, lines = []) {
  const sent = $("sent"), list = document.createElement("dl");
  sent.replaceChildren(Object.assign(document.createElement("b"), { textContent: head }));
  for (const [k, v] of lines) list.append(Object.assign(document.createElement("dt"), { textContent: k }), Object.assign(document.createElement("dd"), { textContent: v }));
  sent.append(list);
  sent.hidden = false;
}

const sendings = { "": "as FDF", fdf: "as FDF", xfdf: "as XFDF", html: "as form data", pdf: "as the whole PDF" };

// run does steps one after the other, as a reader does.
function run(steps) {
  for (const s of steps) {
    const named = (s.fields || "").split(",").map((n) => n.trim()).filter(Boolean), list = named.join(", ");
    switch (s.do) {
      case "clear":
        soon(() => ask({ clear: s.fields || "*", except: s.except ? "yes" : "" }));
        tell(!named.length ? "The form is cleared." : s.except ? `All but ${list} is cleared.` : `Cleared: ${list}.`);
        break;
      case "print": tell("The form is printed."); window.print(); break;
      case "save": tell("The reader asks where to save the filled form."); break;
      case "submit":
        if (state.missing.length) tell(`Not sent: ${state.missing.length} to go.`, state.missing.map((n) => [n, "is missing"]));
        else tell(`This would be sent to ${s.url} ${sendings[s.as || ""]}:`, Object.entries(answers).filter(([n]) => !named.length || named.includes(n) !== Boolean(s.except)));
        break;
      case "page": goPage(s.page); break;
      case "link": case "pdf": case "bring": tell({ link: "The reader opens", pdf: "The reader opens the file", bring: "The reader takes the answers from" }[s.do] + " " + s.url + "."); break;
      case "show": case "hide": for (const n of named) set[n] = { ...set[n], hidden: s.do === "hide" }; keep(); show(); break;
      case "lock": case "free": for (const n of named) set[n] = { ...set[n], locked: s.do === "lock" }; keep(); show(); break;
      case "set": for (const n of named) soon(() => ask({ name: n, value: s.value || "" })); break;
      case "script": tell("A script of your own runs in the reader; it is not run here."); break;
      case "picture": tell("The reader asks for a picture, where it runs scripts."); break;
    }
  }
}

// happens does what a field does when something happens to it.
function happens(e, when) {
  const all = JSON.parse(e.dataset.steps || "[]"), steps = all.filter((s) => (s.when || "") === when);
  if (steps.length) soon(() => run(steps));
  else if (when === "" && e.matches(".press") && !all.length) tell("Nothing happens: the button has no action.");
}

const keep = () => sessionStorage.setItem(store() + "-set", JSON.stringify(set));

function goPage(n) {
  if (String(n) !== room().page) location.href = `/documents/${room().doc}/rehearse?page=${n}&zoom=${room().zoom}`;
}

// opened does what the document does when it and its pages are opened; the page that was left before
// has been closed by that.
function opened() {
  const events = JSON.parse(room().events || "[]"), before = sessionStorage.getItem(store() + "-page");
  const now = (when, page) => events.filter((s) => s.when === when && (!page || String(s.onpage) === page));
  const steps = [];
  if (!before) steps.push(...now("opened"));
  if (before !== room().page) steps.push(...(before ? now("page-closed", before) : []), ...now("page-opened", room().page));
  sessionStorage.setItem(store() + "-page", room().page);
  if (steps.length) run(steps);
}

let typing = null; // the control that somebody types into
const last = new WeakMap(); // what a control held before the last key

// full keeps a field that takes no more than it shows from taking more.
function full(e) {
  const over = e.matches("textarea") ? e.scrollHeight > e.clientHeight + 1 : e.scrollWidth > e.clientWidth;
  if (over && e.value.length > (last.get(e) ?? "").length) e.value = last.get(e) ?? "";
  last.set(e, e.value);
}

function zoomTo(z) {
  if (Number(z)) location.href = `/documents/${room().doc}/rehearse?page=${room().page}&zoom=${z}`;
}

// zoomFor shows the whole page, or its width, as large as there is room for.
function zoomFor(whole) {
  const desk = $("desk").getBoundingClientRect(), img = $("sheet").querySelector("img");
  const wide = (desk.width - 78 - 340) / img.width, high = (desk.height - 30) / img.height;
  zoomTo(Math.max(25, Math.min(400, Math.floor(Number(room().zoom) * (whole ? Math.min(wide, high) : wide)))));
}

export function startRehearse(tell) {
  say = tell;
  lay();
  try { answers = JSON.parse(sessionStorage.getItem(store()) || "{}"); } catch { answers = {}; }
  try { set = JSON.parse(sessionStorage.getItem(store() + "-set") || "{}"); } catch { set = {}; }
  if (room().as && sessionStorage.getItem(store() + "-as") !== location.search) { // somebody of the roster: what the office knows comes first
    answers = JSON.parse(room().given);
    set = {};
    keep();
    sessionStorage.removeItem(store() + "-page");
    sessionStorage.setItem(store() + "-as", location.search);
  }
  soon(() => ask({}).then(opened));
  busy.then(() => busy).then(() => { document.documentElement.dataset.live = "yes"; });
  document.addEventListener("change", (e) => {
    if (e.target.id === "role") show();
    if (e.target.matches?.("#sheet .live")) leave(e.target);
  });
  document.addEventListener("input", (e) => { if (e.target.matches?.("#sheet .live")) typing = e.target; });
  document.addEventListener("focusin", () => { typing = null; });
  document.addEventListener("input", (e) => { if (e.target.dataset?.noscroll !== undefined) full(e.target); });
  for (const [event, when] of [["pointerover", "pointer-in"], ["pointerout", "pointer-out"]]) {
    document.addEventListener(event, (e) => {
      const f = e.target.closest?.("#sheet .live");
      if (f && !f.contains(e.relatedTarget)) happens(f, when);
    });
  }
  document.addEventListener("pointerdown", (e) => { const f = e.target.closest?.("#sheet .live"); if (f) happens(f, "down"); });
  document.addEventListener("focusin", (e) => {
    const f = e.target;
    if (f.matches?.("#sheet .live")) happens(f, "entered");
    if (f.matches?.("#sheet input.live, #sheet textarea.live") && f.type !== "file" && !f.readOnly && !["checkbox", "radio"].includes(f.type)) { f.value = state.raw[f.dataset.name] ?? ""; f.select(); }
  });
  document.addEventListener("focusout", (e) => { if (e.target.matches?.("#sheet .live")) { happens(e.target, "left"); soon(show); } });
  document.addEventListener("click", (e) => {
    const f = e.target.closest?.("#sheet .live"), b = e.target.closest?.("button");
    if (f) happens(f, "");
    if (!b) return;
    if ("sign" in b.dataset) { b.textContent = b.textContent === "sign here" ? "signed (rehearsal)" : "sign here"; return; }
    if (b.id === "next") step(false);
    else if (b.id === "next-missing") step(true);
    else if (b.id === "afresh") {
      answers = {};
      set = {};
      keep();
      sessionStorage.removeItem(store() + "-page");
      soon(() => ask({ clear: "*" }).then(opened));
    } else if (b.id === "zoom-in") zoomTo(room().in);
    else if (b.id === "zoom-out") zoomTo(room().out);
    else if (b.id === "zoom-page" || b.id === "zoom-width") zoomFor(b.id === "zoom-page");
    else if (b.id === "lit") b.setAttribute("aria-pressed", $("sheet").classList.toggle("lit"));
  });
  document.addEventListener("keydown", (e) => {
    if (!e.altKey && !e.ctrlKey && !e.target.closest?.("input, select, textarea")) {
      if (e.key === "+" || e.key === "=") zoomTo(room().in);
      else if (e.key === "-") zoomTo(room().out);
      else if (e.key === "0") zoomFor(true);
    }
    if (!e.altKey) return;
    if (e.code === "Digit9") { e.preventDefault(); zoomFor(false); }
    if (e.code === "KeyN") { e.preventDefault(); step(false); }
    if (e.code === "KeyM") { e.preventDefault(); step(true); }
    if (e.code === "KeyH") { e.preventDefault(); $("lit").click(); }
  });
}
