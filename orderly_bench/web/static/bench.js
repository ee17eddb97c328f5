// Small helpers for every page: keys, their list, the score pad, picking jobs. No inline script anywhere.
"use strict";

const typing = (el) => el && (el.tagName === "TEXTAREA" || (el.tagName === "INPUT" && /^(text|password|search|date|email)$/.test(el.type) && !("number" in el.dataset)) || el.tagName === "SELECT");
// A field for decimals is text that takes digits, comma, point and minus: letters there are keys, as in a field of whole numbers.
const numeric = (el) => el && el.tagName === "INPUT" && (el.type === "number" || "number" in el.dataset);
const all = (selector) => Array.from(document.querySelectorAll(selector));

function press(el) {
  const fold = el.closest("details");
  if (fold) fold.open = true;
  if (el.dataset.focus !== undefined) { el.focus(); if (el.select) el.select(); return; }
  el.click();
  if (el.type === "radio" || el.type === "checkbox") el.focus({ preventScroll: true });
}

function keyName(event) {
  return event.key === "Enter" ? "Enter" : event.key.toLowerCase();
}

document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || document.querySelector("dialog[open]")) return;
  const active = document.activeElement;
  if (typing(active)) return;
  if (event.key === "?") { event.preventDefault(); showKeys(); return; }
  const graded = /^[0-9]$/.test(event.key) && active && active.type === "radio" && active.closest("[data-graded]");
  if (graded) {
    const grades = Array.from(graded.querySelectorAll("input")).filter((el) => el.value !== "");
    const chosen = graded.dataset.graded === "order" ? grades[Number(event.key) - 1] : grades.find((el) => el.value === event.key);
    event.preventDefault();
    if (chosen) { chosen.click(); active.blur(); }
    return;
  }
  if (/^[0-9]$/.test(event.key) && !numeric(active)) {
    const field = document.querySelector("[data-digits]");
    if (field) { field.value = ""; field.focus(); }
    return;
  }
  if (numeric(active) && event.key.length > 1 && event.key !== "Enter") return;
  if (event.key === "Enter" && active && /^(A|BUTTON|SUMMARY)$/.test(active.tagName)) return;
  const name = keyName(event);
  const scope = document.querySelector("[data-picked]");
  const found = (scope && scope.querySelector(`[data-key="${CSS.escape(name)}"]`)) || document.querySelector(`[data-key="${CSS.escape(name)}"]`);
  if (found) { event.preventDefault(); press(found); return; }
  if (name === "arrowdown" || name === "arrowup" || name === "j" || name === "k") pick(name === "arrowdown" || name === "j" ? 1 : -1, event);
});

function showKeys() {
  const dialog = document.getElementById("keys-help");
  const list = dialog.querySelector("dl");
  list.textContent = "";
  const seen = new Set();
  const add = (key, words) => {
    if (seen.has(key)) return;
    seen.add(key);
    const dt = document.createElement("dt"), kbd = document.createElement("kbd"), dd = document.createElement("dd");
    kbd.textContent = key; dt.append(kbd); dd.textContent = words; list.append(dt, dd);
  };
  all("[data-key]").forEach((el) => add(el.dataset.key, el.dataset.say || el.textContent.trim()));
  if (document.querySelector("[data-digits]")) add("0-9", "type the number of roots");
  if (document.querySelector("[data-job]")) add("j k", "next, previous job");
  add("?", "this list");
  dialog.showModal();
}

function pick(step, event) {
  const jobs = all("[data-job]");
  if (!jobs.length) return;
  event.preventDefault();
  const now = jobs.findIndex((job) => job.hasAttribute("data-picked"));
  const next = jobs[Math.min(jobs.length - 1, Math.max(0, now + step))];
  jobs.forEach((job) => job.removeAttribute("data-picked"));
  next.setAttribute("data-picked", "");
  next.scrollIntoView({ block: "nearest" });
}

document.addEventListener("click", (event) => {
  const el = event.target.closest("[data-help], [data-set], [data-add], [data-ruler]");
  if (!el) return;
  if (el.dataset.help !== undefined) showKeys();
  if (el.dataset.set) {
    const field = document.querySelector(`[name="${el.dataset.set}"]`);
    field.value = el.dataset.value;
    field.dispatchEvent(new Event("input", { bubbles: true }));
  }
  if (el.dataset.add) {
    const field = document.querySelector(`[name="${el.dataset.add}"]`);
    field.value = `${field.value.trim()} ${el.dataset.value}`.trim();
    field.dispatchEvent(new Event("input", { bubbles: true }));
    field.focus();
  }
  if (el.dataset.ruler !== undefined) {
    const box = el.getBoundingClientRect();
    const mm = Math.round(((event.clientX - box.left) / box.width) * 110 - 5);
    const field = document.querySelector('[name="longest_root_mm"]');
    if (mm > 0) { field.value = Math.min(100, mm); field.dispatchEvent(new Event("input", { bubbles: true })); }
  }
});

// A typed number, or a class, means "counted" and empties the other; any other choice of roots empties both.
document.addEventListener("input", (event) => {
  const el = event.target;
  if ((el.name === "root_number" || el.name === "root_class") && el.value !== "") {
    const counted = document.querySelector('input[name="roots"][value="counted"]');
    if (counted) counted.checked = true;
  }
  if (el.name === "roots" && el.value !== "counted") {
    const number = document.querySelector('[name="root_number"]');
    if (number) number.value = "";
    const noClass = document.querySelector('input[name="root_class"][value=""]');
    if (noClass) noClass.checked = true;
  }
  if (el.name === "root_class" && el.value !== "") document.querySelector('[name="root_number"]').value = "";
  if (el.name === "root_number" && el.value !== "") {
    const noClass = document.querySelector('input[name="root_class"][value=""]');
    if (noClass) noClass.checked = true;
  }
  if (el.name === "roots" && (el.value === "none" || el.value === "not looked")) {
    const longest = document.querySelector('[name="longest_root_mm"]');
    if (longest) longest.value = "";
  }
});

// A form half typed is not lost to a closed tab or a flat battery: it waits in this browser.
const keepable = () => all("form[data-keep]");
const keepKey = (form) => `kept:${location.pathname}:${form.dataset.keep}`;
const fieldsOf = (form) => Array.from(form.elements).filter((el) => el.name && el.type !== "hidden" && el.type !== "submit" && el.type !== "password");

document.addEventListener("input", (event) => {
  const form = event.target.closest && event.target.closest("form[data-keep]");
  if (!form) return;
  const values = fieldsOf(form).map((el) => [el.name, el.type === "radio" || el.type === "checkbox" ? el.checked : el.value]);
  try { localStorage.setItem(keepKey(form), JSON.stringify(values)); } catch { /* private mode: nothing to keep it in */ }
});

function offerKept() {
  keepable().forEach((form) => {
    let kept = null;
    try { kept = JSON.parse(localStorage.getItem(keepKey(form))); } catch { return; }
    const fields = fieldsOf(form);
    if (!kept || kept.length !== fields.length) return;
    const differs = fields.some((el, i) => (el.type === "radio" || el.type === "checkbox" ? el.checked : el.value) !== kept[i][1]);
    if (!differs || form.dataset.fresh !== undefined) { localStorage.removeItem(keepKey(form)); return; }
    const line = document.createElement("p");
    line.className = "doubt";
    line.textContent = "An entry typed here earlier was not saved. ";
    const button = document.createElement("button");
    button.type = "button"; button.className = "button"; button.textContent = "Put it back";
    button.addEventListener("click", () => {
      fields.forEach((el, i) => { if (el.type === "radio" || el.type === "checkbox") el.checked = kept[i][1]; else el.value = kept[i][1]; });
      line.remove();
    });
    line.append(button);
    form.prepend(line);
  });
}

document.addEventListener("submit", (event) => {
  if (event.target.matches("form[data-keep]")) sessionStorage.setItem("sent", keepKey(event.target));
});

document.addEventListener("DOMContentLoaded", () => {
  const sent = sessionStorage.getItem("sent");
  if (sent && !document.querySelector(".problem")) localStorage.removeItem(sent);
  sessionStorage.removeItem("sent");
  offerKept();
  const first = document.querySelector("[data-job]");
  if (first) first.setAttribute("data-picked", "");
});

// After a part of the page was exchanged: an old problem goes, the pad is ready for the next key.
document.addEventListener("htmx:beforeRequest", (event) => {
  const cause = event.detail.requestConfig && event.detail.requestConfig.triggeringEvent;
  const p = document.getElementById("problem");
  if (p && cause && (cause.type === "submit" || cause.type === "click")) p.textContent = "";
});
document.addEventListener("htmx:sendError", (event) => {
  if (event.detail.elt.id === "suggest-slot" || event.detail.elt.matches("form[data-pad]")) return; // a score waits in the queue
  const elt = event.detail.elt, asked = event.detail.requestConfig && event.detail.requestConfig.triggeringEvent, p = document.getElementById("problem");
  const told = document.createElement(asked ? "div" : "p");
  if (!asked) { // A part that comes by itself says so where it stands: nobody did anything that failed, and nothing moves under the hand.
    told.className = "quiet small"; told.textContent = "The server can't be reached: this part did not come. Open the page again once it can."; elt.append(told);
    return;
  }
  if (p) { p.innerHTML = ""; told.className = "problem"; told.setAttribute("role", "alert"); told.textContent = "The server can't be reached. Nothing was lost: what you entered is still here. Try again."; p.append(told); }
});
document.addEventListener("htmx:afterSwap", (event) => {
  if (event.target.id === "problem") event.target.scrollIntoView({ block: "nearest" });
});

// A note begun at the pad is of the cutting that is up.
document.addEventListener("click", (event) => {
  const link = event.target.closest("[data-note-of]"), code = document.querySelector("#pad-code .unit-code");
  if (link && code) link.href = link.href.replace(/(\?[^#]*)?#/, `?note_of=${encodeURIComponent(code.textContent.split("-")[0].trim())}#`);
});

// A short tone and a push tell the hand that a score was kept, here or on the device, where this device is asked for it.
const FELT = "felt-on-keep";
const felt = () => { try { return localStorage.getItem(FELT) === "yes"; } catch { return false; } };
document.addEventListener("change", (event) => {
  if (event.target.dataset.felt === undefined) return;
  try { if (event.target.checked) localStorage.setItem(FELT, "yes"); else localStorage.removeItem(FELT); } catch { /* not on this device */ }
});
function showFelt() { all("[data-felt]").forEach((box) => { box.checked = felt(); }); }
document.addEventListener("DOMContentLoaded", showFelt);
document.addEventListener("htmx:afterSwap", showFelt);
let tone = null;
function feel() {
  if (!felt()) return;
  if (navigator.vibrate) navigator.vibrate(40);
  if (!window.AudioContext) return;
  tone = tone || new AudioContext();
  const sound = tone.createOscillator(), volume = tone.createGain();
  sound.frequency.value = 660; volume.gain.value = 0.08;
  sound.connect(volume).connect(tone.destination);
  sound.start(); sound.stop(tone.currentTime + 0.07);
}
document.addEventListener("kept", feel);
document.addEventListener("queued", feel);

// A score was kept: the pad is empty again for the next cutting, whose place the answer brought.
document.addEventListener("kept", () => {
  const pad = document.querySelector("form[data-pad]");
  if (!pad) return;
  pad.reset();
  if (document.activeElement && document.activeElement !== document.body) document.activeElement.blur();
  const slot = document.getElementById("suggest-slot");
  if (slot) slot.textContent = "";
});

// One bar for every arm is split into a cell for each, with what the bar said in all of them; or the cells are one bar again.
function split(row) {
  if (row.hasAttribute("data-open")) return;
  const bar = row.querySelector(".spanning input"), own = Array.from(row.querySelectorAll(".own input"));
  own.forEach((field) => { field.value = bar.value; });
  bar.value = "";
  row.setAttribute("data-open", "");
}
document.addEventListener("click", (event) => {
  const act = event.target.closest("[data-split], [data-join]");
  if (!act) return;
  const row = act.closest("tr"), bar = row.querySelector(".spanning input"), own = Array.from(row.querySelectorAll(".own input"));
  if (act.dataset.join !== undefined) {
    bar.value = (own.find((field) => field.value) || { value: "" }).value;
    own.forEach((field) => { field.value = ""; });
    row.removeAttribute("data-open");
    bar.focus();
    bar.dispatchEvent(new Event("input", { bubbles: true }));
  } else { split(row); own[0].focus(); }
});
document.addEventListener("change", (event) => {
  if (!event.target.matches(".asks input")) return;
  const row = event.target.closest("tr");
  if (event.target.checked) { split(row); row.querySelector(".own input").focus(); }
});
// What is asked differs between the arms: its line has a cell for each.
document.addEventListener("change", (event) => {
  if (!event.target.matches("select[name='ask']")) return;
  const name = all("input[name^='name_']").find((field) => field.value === event.target.value), row = name && name.closest("tr");
  if (!row || !row.querySelector(".spanning input")) return;
  const fold = row.closest("details");
  if (fold) fold.open = true;
  split(row);
});

// A tray on the bench is dragged, or chosen and pushed with the arrow keys (1 cm, with Shift 10); the form keeps it with a reason.
function benchMoves() {
  const map = document.querySelector("svg[data-bench]"), form = document.getElementById("move");
  if (!map || !form) return;
  const { tray, x_cm: along, y_cm: across, why } = form.elements;
  const group = () => map.querySelector(`[data-tray="${tray.value}"]`);
  const home = () => tray.selectedOptions[0].dataset;
  const show = () => {
    all("[data-tray]").forEach((one) => { one.removeAttribute("transform"); one.classList.remove("chosen"); });
    group().classList.add("chosen");
    group().setAttribute("transform", `translate(${along.value - home().x} ${across.value - home().y})`);
  };
  const put = (x, y) => { along.value = Math.max(0, Math.round(x)); across.value = Math.max(0, Math.round(y)); show(); };
  const choose = (id) => { if (tray.value !== id) { tray.value = id; along.value = home().x; across.value = home().y; } show(); };
  let held = null;
  map.addEventListener("pointerdown", (event) => {
    const one = event.target.closest("[data-tray]");
    if (!one) return;
    choose(one.dataset.tray);
    held = { x: event.clientX, y: event.clientY, along: Number(along.value), across: Number(across.value), scale: map.viewBox.baseVal.width / map.getBoundingClientRect().width };
    map.setPointerCapture(event.pointerId);
  });
  map.addEventListener("pointermove", (event) => {
    if (held) put(held.along + (event.clientX - held.x) * held.scale, held.across + (event.clientY - held.y) * held.scale);
  });
  map.addEventListener("pointerup", () => { if (held) why.focus({ preventScroll: true }); held = null; });
  map.addEventListener("keydown", (event) => {
    const one = event.target.closest("[data-tray]"), step = event.shiftKey ? 10 : 1;
    const push = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, -step], ArrowDown: [0, step] }[event.key];
    if (!one || !push) return;
    event.preventDefault(); event.stopPropagation();
    choose(one.dataset.tray); put(Number(along.value) + push[0], Number(across.value) + push[1]);
  });
  tray.addEventListener("change", () => { along.value = home().x; across.value = home().y; show(); });
  [along, across].forEach((field) => field.addEventListener("input", show));
}
document.addEventListener("DOMContentLoaded", benchMoves);

// Days dragged over on the strip of a trial become the first and last day of an incident, which is then told below.
function daysDragged() {
  const strip = document.querySelector("[data-strip] svg"), form = document.querySelector("form[data-keep='incident']");
  if (!strip || !form) return;
  const { first, days, left, right } = strip.closest("[data-strip]").dataset;
  const scale = () => strip.viewBox.baseVal.width / strip.getBoundingClientRect().width;
  const along = (event) => (event.clientX - strip.getBoundingClientRect().left) * scale();
  const number = (x) => Math.max(0, Math.min(Number(days), Math.round(((x - left) / (right - left)) * days)));
  const dated = (n) => new Date(Date.parse(first) + n * 864e5).toISOString().slice(0, 10);
  let from = null, shade = null;
  strip.addEventListener("pointerdown", (event) => {
    if (event.pointerType === "touch" || event.button) return; // a thumb scrolls it
    from = along(event);
    strip.setPointerCapture(event.pointerId);
  });
  strip.addEventListener("pointermove", (event) => {
    if (from === null || (!shade && Math.abs(along(event) - from) < 4)) return;
    shade = shade || strip.appendChild(document.createElementNS(strip.namespaceURI, "rect"));
    const [a, b] = [from, along(event)].sort((p, q) => p - q);
    for (const [name, value] of Object.entries({ x: a, y: 20, width: b - a, height: strip.viewBox.baseVal.height - 40, class: "dragged" })) shade.setAttribute(name, value);
  });
  strip.addEventListener("pointerup", (event) => {
    const [a, b] = [from, along(event)].sort((p, q) => p - q), moved = shade;
    from = null; shade = null;
    if (!moved) return;
    moved.remove();
    form.elements.first_day.value = dated(number(a));
    form.elements.last_day.value = dated(number(b));
    form.scrollIntoView({ block: "center" });
    form.elements.kind.focus({ preventScroll: true });
  });
}
document.addEventListener("DOMContentLoaded", daysDragged);

// A region that scrolls sideways can be reached and scrolled by keys; one that has room is no stop on the way.
function reachable() {
  for (const one of document.querySelectorAll(".scroll:not([tabindex]), .slide:not([tabindex]), [data-reached]")) {
    if (one.scrollWidth > one.clientWidth) { one.tabIndex = 0; one.dataset.reached = ""; }
    else { one.removeAttribute("tabindex"); delete one.dataset.reached; }
  }
}
for (const when of ["DOMContentLoaded", "htmx:afterSettle", "change"]) document.addEventListener(when, reachable);
window.addEventListener("resize", reachable);

// A photo is made smaller before it is sent: a phone's is ten times what is kept, and the signal in a greenhouse is weak.
document.addEventListener("change", async (event) => {
  const field = event.target, file = field.matches && field.matches("input[data-photo]") && field.files[0];
  if (!file || !window.createImageBitmap) return;
  try {
    const image = await createImageBitmap(file, { imageOrientation: "from-image" });
    const scale = Math.min(1, 2000 / Math.max(image.width, image.height));
    const canvas = Object.assign(document.createElement("canvas"), { width: Math.round(image.width * scale), height: Math.round(image.height * scale) });
    canvas.getContext("2d").drawImage(image, 0, 0, canvas.width, canvas.height);
    const blob = await new Promise((done) => canvas.toBlob(done, "image/jpeg", 0.88));
    if (!blob || blob.size >= file.size || field.files[0] !== file) return;
    const smaller = new DataTransfer();
    smaller.items.add(new File([blob], "photo.jpg", { type: "image/jpeg" }));
    field.files = smaller.files;
  } catch { /* what the browser can't read is sent as it is; the server says what is wrong with it */ }
});

// What is chosen fills other fields of its form, as if it were typed.
document.addEventListener("change", (event) => {
  const chosen = event.target.matches && event.target.matches("select[data-fills]") && event.target.selectedOptions[0];
  if (!chosen || !chosen.dataset.values) return;
  for (const [name, value] of Object.entries(JSON.parse(chosen.dataset.values))) {
    const field = event.target.form.elements[name];
    if (field) { field.value = value; field.dispatchEvent(new Event("input", { bubbles: true })); }
  }
});
