// Lengths are clicked on a photo: two points of the scale, then those along the root. Keys do the same with a cross.
"use strict";

(() => {
  const photo = document.querySelector("svg[data-ruler-photo]"), form = document.getElementById("lengths");
  if (!photo || !form) return;
  const { points: sent, scale: scaled, scale_mm: known } = form.elements, told = form.querySelector("[data-told]");
  const read = (field) => { try { return JSON.parse(field.value) || []; } catch { return []; } };
  const box = photo.viewBox.baseVal, cross = photo.querySelector("[data-cross]");
  let scale = read(scaled), root = read(sent), at = [box.width / 2, box.height / 2];
  const along = (points) => points.slice(1).reduce((sum, [x, y], i) => sum + Math.hypot(x - points[i][0], y - points[i][1]), 0);
  const drawn = (name, points) => photo.querySelector(`[data-${name}]`).setAttribute("points", points.map((point) => point.join(",")).join(" "));

  function show() {
    scaled.value = JSON.stringify(scale);
    sent.value = JSON.stringify(root);
    drawn("scale", scale);
    drawn("root", root);
    cross.setAttribute("transform", `translate(${at[0]} ${at[1]})`);
    const mm = Number(known.value.replace(",", "."));
    if (scale.length < 2) told.textContent = scale.length ? "The other end of the scale." : "Two clicks for the scale come first.";
    else if (root.length < 2) told.textContent = root.length ? "On along the root, to its tip." : "Now the root, from its base.";
    else told.textContent = mm > 0 ? `${(along(root) * mm / along(scale)).toFixed(1)} mm along ${root.length} points.` : "How long is the scale, in mm?";
  }

  function add(point) {
    at = point.map((value, i) => Math.round(Math.min(Math.max(value, 0), i ? box.height : box.width) * 10) / 10);
    if (scale.length < 2) scale.push(at); else root.push(at);
    show();
  }

  photo.addEventListener("click", (event) => {
    const place = new DOMPoint(event.clientX, event.clientY).matrixTransform(photo.getScreenCTM().inverse());
    add([place.x, place.y]);
  });
  photo.addEventListener("keydown", (event) => {
    const step = event.shiftKey ? 1 : 10, way = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, -step], ArrowDown: [0, step] }[event.key];
    if (way) at = [Math.min(Math.max(at[0] + way[0], 0), box.width), Math.min(Math.max(at[1] + way[1], 0), box.height)];
    else if (event.key === "Enter") add(at);
    else if (event.key === "Backspace") (root.length ? root : scale).pop();
    else return;
    event.preventDefault();
    event.stopPropagation();
    show();
  });
  form.addEventListener("click", (event) => {
    const act = event.target.dataset.act;
    if (act === "undo") (root.length ? root : scale).pop();
    if (act === "scale") { scale = []; root = []; }
    if (act) show();
  });
  known.addEventListener("input", show);
  show();
})();
