// What every page needs: the token on every change, messages, and bringing files in.
import { startBench } from "/static/bench.js";

const csrf = document.querySelector("meta[name=csrf-token]").content;

let quiet;
export function say(text, wrong = false) {
  const box = document.getElementById("say");
  if (!box) return;
  box.textContent = text;
  box.className = wrong ? "wrong" : "";
  box.hidden = false;
  clearTimeout(quiet);
  quiet = setTimeout(() => { box.hidden = true; }, wrong ? 9000 : 5000);
}

document.addEventListener("htmx:configRequest", (e) => { e.detail.headers["X-CSRF-Token"] = csrf; });
document.addEventListener("htmx:responseError", (e) => {
  if (e.detail.xhr.status === 401) { location.href = "/sign-in"; return; }
  say(e.detail.xhr.responseText || "That did not work. Nothing was lost; try again.", true);
});
document.addEventListener("htmx:sendError", () => say("The office's server does not answer. What you did last was not saved: try again in a moment.", true));
document.addEventListener("zm:say", (e) => say(e.detail.text));

// The list of documents waits with its refresh while somebody types in it.
let stale = false;
document.addEventListener("htmx:beforeRequest", (e) => {
  const list = document.getElementById("documents");
  if (e.detail.elt !== list || !list.contains(document.activeElement) || !document.activeElement.matches("input")) return;
  e.preventDefault();
  stale = true;
});
document.addEventListener("focusout", () => {
  if (!stale) return;
  stale = false;
  setTimeout(() => window.htmx.trigger(document.body, "documents-changed"), 300);
});

const drop = document.getElementById("drop");
if (drop) {
  const list = document.getElementById("intakes");
  const input = drop.querySelector("input[type=file]");
  const most = Number(drop.dataset.max) * 1024 * 1024;

  const row = (name) => {
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
  };

  const refuse = (r, why) => {
    r.div.classList.add("refused");
    r.bar.remove();
    r.p.className = "wrong";
    r.p.textContent = why;
  };

  const send = (file) => {
    const r = row(file.name);
    if (file.size > most) { refuse(r, `This file is too large: the limit is ${drop.dataset.max} MB. Bring in a smaller one, or split it.`); return; }
    const form = new FormData();
    form.append("file", file);
    const x = new XMLHttpRequest();
    x.open("POST", "/intakes");
    x.setRequestHeader("X-CSRF-Token", csrf);
    x.setRequestHeader("HX-Request", "true");
    x.upload.onprogress = (e) => { if (e.lengthComputable) r.bar.value = 100 * e.loaded / e.total; };
    x.onerror = () => refuse(r, "The file could not be sent: try again.");
    x.onload = () => {
      if (x.status !== 200) { refuse(r, x.responseText || "The file could not be sent: try again."); return; }
      r.div.insertAdjacentHTML("afterend", x.responseText);
      const fresh = r.div.nextElementSibling;
      r.div.remove();
      window.htmx.process(fresh);
    };
    x.send(form);
  };

  input.addEventListener("change", () => { [...input.files].forEach(send); input.value = ""; });
  drop.addEventListener("submit", (e) => e.preventDefault());
  const over = (on) => (e) => { e.preventDefault(); drop.classList.toggle("over", on); };
  for (const t of [drop, document.body]) {
    t.addEventListener("dragover", over(true));
    t.addEventListener("dragleave", over(false));
  }
  document.body.addEventListener("drop", (e) => {
    e.preventDefault();
    drop.classList.remove("over");
    [...e.dataTransfer.files].forEach(send);
  });
}

if (document.getElementById("bench")) startBench(say);
document.documentElement.dataset.ready = "yes";
