// A scanner types the code on a label and Enter within a few milliseconds. That opens the unit, on every page and whatever its own keys
// do: keys that follow each other so quickly are held back until it is clear that they are no code, and then count as pressed.
// From a slow scanner or on a busy machine they come slower than that. Their Enter still belongs to the code: it confirms no tray and
// keeps no score. A key that would leave the page, or send something, is held back long enough for the next one of a code.
"use strict";

(() => {
  const QUICK = 45, SLOW = 300, CODE = /^[34679acdefghjkmnpqrtwxy]{5}(-[0-9]{1,3})?$/i;
  const writes = (el) => el && (el.tagName === "TEXTAREA" || el.tagName === "SELECT" || (el.tagName === "INPUT" && /^(text|password|search|date|email|url|tel)$/.test(el.type) && !("number" in el.dataset)));
  const leaves = (key) => { const keyed = document.querySelector(`[data-key="${CSS.escape(key.toLowerCase())}"]`); return keyed && keyed.matches("a, button"); };
  const counts = (el) => el && el.tagName === "INPUT" && (el.type === "number" || "number" in el.dataset);
  let held = [], timer = 0, run = { keys: "", at: 0 };

  function pressed({ key, native }) {
    if (native) return;
    const event = new KeyboardEvent("keydown", { key, bubbles: true, cancelable: true });
    const untouched = (document.activeElement || document.body).dispatchEvent(event);
    const field = document.activeElement;
    if (untouched && counts(field) && /^[0-9]$/.test(key)) {
      field.value += key;
      field.dispatchEvent(new Event("input", { bubbles: true }));
    }
  }

  window.pressKey = (key) => pressed({ key, native: false });

  function release() {
    const keys = held;
    held = [];
    clearTimeout(timer);
    keys.forEach(pressed);
  }

  function open(code) {
    const spaced = code.includes("-") ? "" : `${code.slice(0, 3)} ${code.slice(3)}`;
    const cell = spaced && Array.from(document.querySelectorAll("a[aria-label]")).find((link) => link.getAttribute("aria-label").startsWith(spaced));
    if (cell) cell.dispatchEvent(new MouseEvent("click", { bubbles: true, cancelable: true }));
    else location.assign(`/find?code=${encodeURIComponent(code)}`);
  }

  window.addEventListener("keydown", (event) => {
    if (!event.isTrusted || event.ctrlKey || event.metaKey || event.altKey || event.key === "Shift") return;
    const active = document.activeElement, quick = held.length && event.timeStamp - held.at(-1).at <= held.at(-1).until;
    const slow = event.timeStamp - run.at <= SLOW ? run.keys : "";
    run = { keys: event.key.length === 1 && !writes(active) ? slow + event.key : "", at: event.timeStamp };
    const codes = [quick ? held.map((one) => one.key).join("") : "", /[a-z]/i.test(slow) ? slow : ""];
    const code = event.key === "Enter" && !document.querySelector("dialog[open]") && codes.find((one) => CODE.test(one));
    if (code) {
      event.preventDefault();
      event.stopImmediatePropagation();
      if (held.length && held[0].native) held[0].field.value = held[0].before;
      held = [];
      clearTimeout(timer);
      open(code.toUpperCase());
      return;
    }
    if (!quick) release();
    if (writes(active) || document.querySelector("dialog[open]") || !/^[a-z0-9-]$/i.test(event.key)) { release(); return; }
    // A digit or a minus in a field of numbers goes in at once, as long as nothing is held back before it.
    const native = counts(active) && /^[0-9-]$/.test(event.key) && held.every((one) => one.native);
    const until = leaves(event.key) || held.some((one) => one.until === SLOW) ? SLOW : QUICK;
    held.push({ key: event.key, at: event.timeStamp, until, native, field: active, before: counts(active) ? active.value : "" });
    if (!native) { event.preventDefault(); event.stopImmediatePropagation(); }
    clearTimeout(timer);
    timer = setTimeout(release, until);
  }, true);
})();
