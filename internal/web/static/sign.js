// The pad on which a signature is drawn: each stroke is a line through the places where the pointer was.
const form = document.getElementById("signform");
if (form) {
  const pad = document.getElementById("pad"), by = document.getElementById("by");
  const name = document.getElementById("name"), typed = document.getElementById("typedname");
  const all = [];
  let line = null;
  const show = () => {
    typed.hidden = by.value !== "typed";
    document.getElementById("drawn").hidden = by.value !== "drawn";
    document.getElementById("picture").hidden = by.value !== "picture";
  };
  by.addEventListener("change", show);
  show();
  name.addEventListener("input", () => { typed.textContent = name.value; });
  const at = e => {
    const box = pad.getBoundingClientRect();
    return [Math.round((e.clientX - box.left) / box.width * 5600) / 10, Math.round((e.clientY - box.top) / box.height * 1600) / 10];
  };
  const draw = () => line.path.setAttribute("points", line.points.map(p => p.join(",")).join(" "));
  pad.addEventListener("pointerdown", e => {
    pad.setPointerCapture(e.pointerId);
    const path = document.createElementNS("http://www.w3.org/2000/svg", "polyline");
    pad.append(path);
    line = { path, points: [at(e)] };
    all.push(line.points);
    e.preventDefault();
  });
  pad.addEventListener("pointermove", e => {
    if (line) {
      line.points.push(at(e));
      draw();
    }
  });
  for (const end of ["pointerup", "pointercancel"]) {
    pad.addEventListener(end, () => { line = null; });
  }
  document.getElementById("wipe").addEventListener("click", () => {
    all.length = 0;
    pad.querySelectorAll("polyline").forEach(p => p.remove());
  });
  form.closest("form").addEventListener("submit", () => { document.getElementById("strokes").value = JSON.stringify(all); });
}
