// A form that is filled in on the web. Every answer is kept on the device at once, and sent to the server, which works out what follows from
// it; while there is no connection nothing is lost, and what was typed is sent when it is back.

const form = document.getElementById("fill");
const $ = (id) => document.getElementById(id);
const at = form.dataset.at, place = "fill-" + at + (form.dataset.desk ? "-desk" : "");
const list = !document.body.classList.contains("onpages");
const controls = [...form.querySelectorAll(list ? "[data-q]" : ".live")];
const nameOf = (e) => e.dataset.q ?? e.dataset.name;
const of = (name) => controls.filter((e) => nameOf(e) === name);
let answers = JSON.parse(form.dataset.begin || "{}");
let state = { refused: {}, values: {}, shown: {}, hidden: [], must: [], missing: [], trouble: {} };
let code = form.dataset.code, told = {}; // told: what a send has refused, until it is changed
const touched = new Set(); // what somebody has been at: only that is told before it is sent

// What is kept on the device is newer than what the page came with.
try {
  const had = JSON.parse(localStorage.getItem(place) || "null");
  if (had && (!form.dataset.code || had.code === form.dataset.code)) { answers = { ...answers, ...had.answers }; code ||= had.code || ""; }
} catch { /* nothing is kept */ }

function keepHere() {
  try { localStorage.setItem(place, JSON.stringify({ answers, code })); } catch { /* the device keeps nothing: the server does */ }
}

// read gives the answer to a question by its controls.
function read(name) {
  const all = of(name), first = all[0];
  if (!first) return undefined;
  if (first.type === "radio") return all.find((e) => e.checked)?.value ?? "";
  if (first.type === "checkbox" && all.length > 1) return all.filter((e) => e.checked).map((e) => e.value).join("\n");
  if (first.type === "checkbox") return first.checked ? first.value : "";
  if (first.multiple) return [...first.selectedOptions].map((o) => o.value).join("\n");
  return first.value;
}

// put shows an answer in the controls of a question.
function put(name, value, shown) {
  for (const e of of(name)) {
    if (e.type === "radio") e.checked = e.value === value;
    else if (e.type === "checkbox") e.checked = value.split("\n").includes(e.value);
    else if (e.multiple) for (const o of e.options) o.selected = value.split("\n").includes(o.value);
    else if (e.matches("select, input, textarea") && e.type !== "file" && e !== document.activeElement) e.value = shown ?? value;
  }
}

const box = (name) => form.querySelector(`.question[data-name="${CSS.escape(name)}"]`);
const steps = [...form.querySelectorAll(".qstep")];
const hidden = (name) => state.hidden.includes(name);
const missing = () => state.missing.filter((n) => of(n).length);
let now = 0;

function show() {
  const names = new Set(controls.map(nameOf));
  for (const name of names) {
    const value = state.values[name] ?? answers[name] ?? "";
    put(name, value, state.refused[name] ? value : state.shown[name]);
    const why = told[name] || (touched.has(name) && state.refused[name]) || "";
    for (const e of of(name)) {
      e.toggleAttribute("aria-invalid", Boolean(why));
      if (!list) { e.hidden = hidden(name) || "away" in e.dataset; e.classList.toggle("amiss", Boolean(why)); e.classList.toggle("must", state.must.includes(name)); }
    }
    const q = list && box(name);
    if (!q) continue;
    q.hidden = hidden(name);
    q.classList.toggle("amiss", Boolean(why));
    const p = q.querySelector(".told");
    if (p.textContent !== why) p.textContent = why;
    p.hidden = !why;
  }
  for (const c of form.querySelectorAll(".rowcard")) c.hidden = ![...c.querySelectorAll(".question")].some((q) => !q.hidden);
  rows();
  const n = missing().length, wrong = Object.keys(state.refused).filter((r) => of(r).length).length;
  $("missing").textContent = n || wrong ? [n && `${n} ${n === 1 ? "answer" : "answers"} missing`, wrong && `${wrong} refused`].filter(Boolean).join(", ") : "Nothing is missing";
  $("next-missing").hidden = !n;
  if (!list) {
    const first = Object.entries({ ...state.refused, ...told }).find(([k]) => touched.has(k) || told[k]);
    $("told").hidden = !first;
    $("told").textContent = first ? first[1] : "";
  }
  segments();
}

// rows keeps the empty rows of a table away, but for the next one.
function rows() {
  for (const s of form.querySelectorAll(".qstep.rows")) {
    const cards = [...s.querySelectorAll(".rowcard")];
    const filled = (c) => [...c.querySelectorAll(".question")].some((q) => (answers[q.dataset.name] ?? "") !== "" && !q.classList.contains("settled"));
    let last = cards.findLastIndex(filled);
    last = Math.max(last, Number(s.dataset.open ?? 0), cards.findLastIndex((c) => c.querySelector(".must")));
    cards.forEach((c, i) => { c.classList.toggle("unopened", i > last); });
    let more = s.querySelector(".another");
    if (!more) {
      more = Object.assign(document.createElement("button"), { type: "button", className: "link strong another", textContent: "one more row" });
      more.addEventListener("click", () => {
        const next = cards.find((c) => c.classList.contains("unopened"));
        s.dataset.open = cards.indexOf(next);
        rows();
        next?.querySelector("input, select, textarea")?.focus();
      });
      s.append(more);
    }
    more.hidden = last >= cards.length - 1;
  }
}

function segments() {
  [...$("segments").children].forEach((li, i) => {
    const s = steps[i], names = s ? [...s.querySelectorAll(".question[data-name]")].map((q) => q.dataset.name) : [];
    li.className = i === now && list ? "now" : names.some((n) => state.missing.includes(n) || state.refused[n]) ? "" : i < now || names.some((n) => answers[n]) ? "done" : "";
  });
}

// usable are the steps that have something to ask just now.
const usable = (i) => "last" in steps[i].dataset || [...steps[i].querySelectorAll(".question")].some((q) => !q.hidden);

function go(to, focus) {
  now = Math.max(0, Math.min(steps.length - 1, to));
  steps.forEach((s, i) => { s.hidden = i !== now; });
  const last = !steps.some((_, i) => i > now && usable(i));
  $("back").hidden = !steps.some((_, i) => i < now && usable(i));
  $("next").hidden = last;
  $("send").hidden = !last;
  segments();
  if (focus) { (focus === true ? steps[now].querySelector("h2") : focus).focus({ preventScroll: true }); window.scrollTo(0, 0); if (focus !== true) focus.scrollIntoView({ block: "center" }); }
}

function move(by) {
  let to = now + by;
  while (to > 0 && to < steps.length - 1 && !usable(to)) to += by;
  go(to, true);
}

function goTo(name) {
  const e = of(name)[0];
  if (!e) return;
  if (list) { const card = e.closest(".rowcard.unopened"); if (card) { const s = card.closest(".qstep"); s.dataset.open = [...s.querySelectorAll(".rowcard")].indexOf(card); rows(); } go(steps.indexOf(e.closest(".qstep")), e); } else e.focus();
}

let line = Promise.resolve(), waiting = false, timer = 0, asked = 0;

// ask has the server work out what follows, one time after the other; what comes while it does is asked in one.
function ask(keep = false) {
  keepHere();
  const turn = ++asked;
  form.ariaBusy = "true";
  line = line.then(async () => {
    if (turn !== asked && !keep) return;
    try {
      const res = await fetch(at + "/answers" + (form.dataset.query ? "?" + form.dataset.query : ""), { method: "POST", headers: { "Content-Type": "application/json", Accept: "application/json" }, body: JSON.stringify({ answers, pass: form.elements.pass.value, code, keep }) });
      if (!res.ok) { trouble(await res.text()); $("problem").dataset.passing = "yes"; if (res.status >= 500 || res.status === 429) later(); return; }
      state = await res.json();
      if ($("problem").dataset.passing) { $("problem").hidden = true; delete $("problem").dataset.passing; }
      if (state.code) { code = state.code; $("code").value = code; keepHere(); }
      back(state.kept);
      show();
    } catch { away(); }
  }).finally(() => { if (turn === asked) { form.ariaBusy = "false"; document.documentElement.dataset.live = "yes"; } });
  return line;
}

function later() { clearTimeout(timer); timer = setTimeout(() => ask(), 3000); }

function away() {
  waiting = true;
  $("kept").textContent = "No connection: kept here, sent when you are back";
  document.body.classList.add("away");
  later();
}

function back(kept) {
  waiting = false;
  document.body.classList.remove("away");
  const p = $("kept");
  if (code) { p.replaceChildren("Kept under the code ", Object.assign(document.createElement("b"), { textContent: code })); } else p.textContent = kept ? "Saved with the office, not sent yet" : "Saved on this device";
}

function trouble(words) {
  $("problem").textContent = words || "That did not work: load the page again.";
  $("problem").hidden = false;
}

function changed(name) {
  const v = read(name);
  if (v === undefined || v === (answers[name] ?? "")) return false;
  answers[name] = v;
  delete told[name];
  keepHere();
  return true;
}

form.addEventListener("input", (e) => { if (nameOf(e.target)) changed(nameOf(e.target)); });
form.addEventListener("change", (e) => {
  const name = nameOf(e.target);
  if (!name) return;
  changed(name);
  touched.add(name);
  ask();
});
form.addEventListener("focusin", (e) => { // what is typed is shown as it was typed
  const name = nameOf(e.target);
  if (name && state.shown[name] && !e.target.readOnly && e.target.matches("input:not([type=radio], [type=checkbox]), textarea")) { e.target.value = answers[name] ?? ""; }
});
form.addEventListener("focusout", (e) => { if (nameOf(e.target)) setTimeout(show); });

async function send() {
  $("answers").value = JSON.stringify(answers);
  $("send").disabled = true;
  try {
    const res = await fetch(form.action, { method: "POST", headers: { Accept: "application/json" }, body: new FormData(form) });
    const type = res.headers.get("Content-Type") || "";
    if (res.ok && type.includes("json")) {
      try { localStorage.removeItem(place); } catch { /* it keeps nothing */ }
      location.href = (await res.json()).to;
      return;
    }
    if (!type.includes("json")) { trouble(res.status === 429 || res.status >= 500 ? "The office does not answer just now. Nothing is lost: send it again in a moment." : await res.text().then((t) => t.startsWith("<") ? "It was not taken: load the page again." : t)); $("send").disabled = false; return; }
    const said = await res.json();
    told = said.refused || {};
    trouble(said.problem);
    show();
    const first = Object.keys(told).map((n) => of(n)[0]).filter(Boolean).sort((a, b) => a.compareDocumentPosition(b) & Node.DOCUMENT_POSITION_FOLLOWING ? -1 : 1)[0];
    if (first) goTo(nameOf(first));
  } catch { away(); trouble("There is no connection. Everything is kept here: send it when you are back."); }
  $("send").disabled = false;
}

form.addEventListener("submit", (e) => {
  e.preventDefault();
  $("problem").hidden = true;
  line.then(() => setTimeout(send)); // when the signature has been taken down
});
$("next-missing").addEventListener("click", () => {
  const names = missing(), here = document.activeElement, all = names.map((n) => of(n)[0]);
  const next = all.findIndex((e) => e !== here && here?.compareDocumentPosition(e) & Node.DOCUMENT_POSITION_FOLLOWING && here.closest?.("#fill main"));
  goTo(names[Math.max(0, next)]);
});
$("later")?.addEventListener("click", async () => {
  await ask(true);
  if (code) { trouble(`Your answers are kept with the office. Come back with this link and the code ${code}: write it down.`); $("problem").className = "fine"; }
});
addEventListener("online", () => ask());
addEventListener("pagehide", keepHere);
document.addEventListener("keydown", (e) => {
  if (!e.altKey) return;
  if (e.code === "KeyM" && !$("next-missing").hidden) { e.preventDefault(); $("next-missing").click(); }
  if (e.code === "KeyN" && list) { e.preventDefault(); move(1); }
});
form.addEventListener("keydown", (e) => { // the enter key goes on, and never sends by chance
  if (e.key === "Enter" && e.target.matches("input:not([type=file], [type=checkbox], [type=radio])")) {
    e.preventDefault();
    e.target.blur();
    if (list && !$("next").hidden) move(1);
  }
});

if (list) {
  $("back").addEventListener("click", () => move(-1));
  $("next").addEventListener("click", () => move(1));
  go(0);
} else {
  const lay = () => {
    for (const sheet of form.querySelectorAll(".websheet")) {
      const img = sheet.querySelector("img"), k = img.clientWidth / Number(sheet.dataset.w);
      for (const e of sheet.querySelectorAll(".live")) {
        const d = e.dataset;
        Object.assign(e.style, { left: d.x * k + "px", top: d.y * k + "px", width: d.w * k + "px", height: d.h * k + "px", fontSize: d.size * k + "px", textAlign: d.align === "centre" ? "center" : d.align || "" });
        if (e.matches(".press")) e.type = "button";
        if ("fixed" in d) e.tabIndex = -1;
      }
    }
  };
  lay();
  addEventListener("resize", lay);
}
for (const name of new Set(controls.map(nameOf))) put(name, answers[name] ?? "");
for (const a of form.querySelectorAll("[data-other]")) a.addEventListener("click", keepHere);
if (Object.keys(answers).length) keepHere();
ask();
