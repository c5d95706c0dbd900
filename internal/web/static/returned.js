// The table of returns: one is stepped to the next by keys, and its answers are found on its page.

const typing = (e) => e.target.closest?.("input, select, textarea") || e.ctrlKey || e.altKey || e.metaKey;

export function startReturned() {
  document.documentElement.dataset.live = "yes";
  const first = document.querySelector(".retpages rect.wrong, .retpages rect.unsure"), pages = document.querySelector(".retpages");
  if (first) pages.scrollTop += first.getBoundingClientRect().top - pages.getBoundingClientRect().top - pages.clientHeight / 2;
  const doubtful = location.hash === "#return" && document.querySelector(".retnote > .entry.unsure :is(input:not([type=hidden]), select, textarea:not([hidden]))");
  if (doubtful) { doubtful.focus(); doubtful.select?.(); } // confirmed by the enter key, one after the other
  document.addEventListener("keydown", (e) => {
    if (typing(e)) return;
    const to = { k: "k-next", p: "p-back", c: "checked", n: "next-one" }[e.key.toLowerCase()];
    const button = to && document.getElementById(to);
    if (button) { e.preventDefault(); button.click(); }
    if (e.key === "e") { // the first answer that is in doubt
      const first = document.querySelector(".retnote > .entry :is(input:not([type=hidden]), select, textarea:not([hidden]))");
      if (first) { e.preventDefault(); first.focus(); first.select?.(); }
    }
  });
  document.addEventListener("change", (e) => { if (e.target.id === "chart") e.target.form.requestSubmit(); });
  document.addEventListener("focusin", (e) => {
    const entry = e.target.closest?.(".entry");
    for (const r of document.querySelectorAll(".retpage rect")) r.classList.toggle("here", Boolean(entry && r.dataset.key === entry.dataset.key));
  });
  document.addEventListener("click", (e) => {
    const row = e.target.closest?.(".rets tbody tr"), rect = e.target.closest?.(".retpage rect[data-key]");
    if (row && !e.target.closest("a")) row.querySelector("a").click();
    if (rect) {
      const all = document.getElementById("all-answers"), own = (in_) => in_?.querySelector(`.entry[data-key="${CSS.escape(rect.dataset.key)}"] :is(input:not([type=hidden]), select, textarea:not([hidden]))`);
      const first = own(document.querySelector(".retnote"));
      if (first && all.contains(first)) all.open = true;
      first?.focus();
    }
  });
}
