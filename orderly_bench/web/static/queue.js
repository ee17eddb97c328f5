// Scores that could not be sent wait on this device, in order, and go out when the network is back. Nothing is shown as kept before it is
// either here or confirmed by the server. A queue belongs to a person; what another left stays until that person signs in again.
"use strict";

(() => {
  const person = document.body.dataset.person;
  if (!person) return;
  const KEY = `queue:${person}`, EVERY = 5000;
  const pad = () => document.querySelector("form[data-pad]");
  // What was sent from here, kept: a page that was taken along shows an older state.
  const SENT = `scored:${person}`, done = new Set((() => { try { return JSON.parse(localStorage.getItem(SENT)) || []; } catch { return []; } })());
  const sent = (name) => { done.add(name); try { localStorage.setItem(SENT, JSON.stringify([...done].slice(-2000))); } catch { /* it is asked for once more */ } };
  let sending = false;

  const read = () => { try { return JSON.parse(localStorage.getItem(KEY)) || []; } catch { return []; } };
  const write = (items) => {
    try {
      if (items.length) localStorage.setItem(KEY, JSON.stringify(items)); else localStorage.removeItem(KEY);
      return true;
    } catch { return false; }
  };
  const named = (fields) => `${fields.cutting},${fields.site || 1}`;

  function say(text) {
    const place = document.getElementById("problem");
    if (!place) return;
    place.textContent = "";
    if (!text) return;
    const box = document.createElement("div");
    box.className = "problem"; box.setAttribute("role", "alert"); box.textContent = text;
    place.append(box);
  }

  function show() {
    const place = document.getElementById("queue"), items = read();
    if (!place) return;
    place.hidden = !items.length;
    place.querySelector("[data-count]").textContent = `${items.length} ${items.length === 1 ? "score is" : "scores are"} on this device, not yet sent.`;
    const list = place.querySelector("[data-list]");
    list.textContent = "";
    for (const item of items.slice(0, 8)) {
      const line = document.createElement("p");
      line.className = item.trouble ? "doubt" : "small";
      line.textContent = `${item.code}: ${item.fields.roots === "counted" ? `${item.fields.root_number || item.fields.root_class} roots` : item.fields.roots}${item.trouble ? `. ${item.trouble}` : ""}`;
      list.append(line);
    }
  }

  function next() {
    const form = pad();
    const still = JSON.parse(form.dataset.still || "[]"), waiting = new Set(read().map((item) => named(item.fields)));
    const at = still.findIndex(([cutting, site]) => `${cutting},${site}` === `${form.elements.cutting.value},${form.elements.site.value}`);
    const order = [...still.slice(at + 1), ...still.slice(0, Math.max(0, at))];
    const found = order.find(([cutting, site]) => !done.has(`${cutting},${site}`) && !waiting.has(`${cutting},${site}`));
    form.reset();
    if (!found) { say("All that was left is on this device. Stay on this page until it is sent."); return; }
    const [cutting, site, code, where] = found;
    form.elements.cutting.value = cutting; form.elements.site.value = site; form.elements.revision.value = 0;
    form.elements.request_key.value = String(Math.floor(Math.random() * 1e15));
    const head = document.getElementById("pad-code"), title = document.createElement("p"), place = document.createElement("p");
    title.className = "unit-code"; title.textContent = code; place.className = "quiet small"; place.textContent = where;
    head.replaceChildren(title, place);
    if (document.activeElement) document.activeElement.blur();
  }

  function queue(form) {
    const fields = Object.fromEntries(new FormData(form));
    if (!fields.roots) { say("Say none, a number, seen, or not looked; a blank would be a guess."); return; }
    delete fields.csrf_token;
    const code = document.querySelector("#pad-code .unit-code").textContent.trim();
    const items = read().filter((item) => item.fields.request_key !== fields.request_key);
    if (!write([...items, { url: form.action, code, fields, at: new Date().toISOString(), trouble: "" }])) {
      say("This device keeps nothing more. Write it down, and wait for the network; what you entered is still here.");
      return;
    }
    say("");
    show();
    next();
    document.dispatchEvent(new Event("queued"));
  }

  const token = () => { const field = document.querySelector("input[name=csrf_token]"); return field ? field.value : ""; };

  async function send() {
    if (sending || !read().length || !token()) return;
    sending = true;
    try {
      for (const item of read()) {
        if (item.trouble) continue;
        const body = new URLSearchParams({ ...item.fields, csrf_token: token() });
        const answer = await fetch(item.url, { method: "POST", body, headers: { "HX-Request": "true" }, redirect: "error" });
        if (answer.status === 401) say("Sign in again: what waits here goes out then.");
        if (answer.status === 401 || answer.status >= 500 || answer.status === 400) break;
        const items = read(), at = items.findIndex((one) => one.fields.request_key === item.fields.request_key);
        if (answer.ok) { items.splice(at, 1); sent(named(item.fields)); }
        else {
          const told = new DOMParser().parseFromString(await answer.text(), "text/html").querySelector(".problem p");
          items[at].trouble = told ? told.textContent.trim() : "The server did not take it.";
        }
        write(items);
        show();
      }
    } catch { /* no network yet: the queue waits */ }
    sending = false;
    const form = pad();
    if (!read().length && form && !form.querySelector("input[name=roots]:checked") && !form.elements.root_number.value) location.reload();
  }

  document.addEventListener("htmx:beforeRequest", (event) => {
    if (event.detail.elt === pad() && read().some((item) => !item.trouble)) { event.preventDefault(); queue(pad()); send(); }
  });
  document.addEventListener("htmx:sendError", (event) => { if (event.detail.elt === pad()) queue(pad()); });
  document.addEventListener("htmx:afterRequest", (event) => {
    const asked = event.detail.requestConfig && event.detail.requestConfig.parameters;
    if (event.detail.successful && event.detail.elt === pad() && asked) sent(named(asked));
  });

  document.addEventListener("submit", (event) => {
    const form = event.target;
    if (!form.action.endsWith("/sign-out") || !read().length || form.dataset.sure) return;
    event.preventDefault();
    form.dataset.sure = "yes";
    const told = `${read().length} on this device are not sent. Open the check to send them; or sign out once more, and they wait here for you.`;
    if (document.getElementById("problem")) say(told); else window.alert(told);
  }, true);

  document.addEventListener("click", (event) => {
    const act = event.target.closest("[data-queue]");
    if (!act) return;
    if (act.dataset.queue === "send") { write(read().map((item) => ({ ...item, trouble: "" }))); show(); send(); return; }
    const columns = ["cutting", "state", "roots", "root_number", "root_class", "longest_root_mm", "quality", "foliage", "callus", "top", "failure", "fit_to_pot_on", "known_by", "note", "thickness", "arise", "ball_percent", "colour", "torn", "washed", "shoot_below", "not_fit_why"];
    const cell = (value) => { const text = String(value ?? ""); return /[",\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text; };
    const yes = { yes: "1", no: "0" };
    const rows = read().map(({ code, fields }) => columns.map((name) => cell({ cutting: code.replaceAll(" ", ""), fit_to_pot_on: fields.fit, callus: yes[fields.callus] }[name] ?? fields[name])).join(","));
    const link = document.createElement("a");
    link.href = URL.createObjectURL(new Blob([[columns.join(","), ...rows].join("\n") + "\n"], { type: "text/csv" }));
    link.download = "scores-on-this-device.csv";
    link.click();
  });

  window.addEventListener("online", send);
  window.addEventListener("beforeunload", (event) => { if (read().length && !navigator.onLine) event.preventDefault(); });
  window.setInterval(send, EVERY);
  show();
  const first = pad(), along = document.querySelector("[data-along-page]");
  if (first && along && (done.has(named(Object.fromEntries(new FormData(first)))) || read().some((item) => named(item.fields) === named(Object.fromEntries(new FormData(first)))))) next();
  send();
})();
