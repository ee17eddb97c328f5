// Scores, and forms that say so with data-waits, wait in the outbox while there is no network, and go out in order when it is back.
// Nothing is shown as kept before it is either on this device or confirmed by the server.
"use strict";

(() => {
  const person = document.body.dataset.person, box = window.outbox, EVERY = 5000, PATIENCE = 4000;
  if (!person) return;
  const pad = () => document.querySelector("form[data-pad]");
  const waiting = () => (box ? box.all() : []);
  const ofScores = () => waiting().filter((item) => item.kind === "score");
  // What was sent from here, kept: a page that was taken along shows an older state.
  const SENT = `scored:${person}`, done = new Set((() => { try { return JSON.parse(localStorage.getItem(SENT)) || []; } catch { return []; } })());
  const sent = (name) => { done.add(name); try { localStorage.setItem(SENT, JSON.stringify([...done].slice(-2000))); } catch { /* it is asked for once more */ } };
  const named = (fields) => `${fields.cutting},${fields.site || 1}`;
  const FULL = "This device keeps nothing more. Write it down, and wait for the network; what you entered is still here.";
  let sending = false, storing = null;

  function say(text) {
    const place = document.getElementById("problem");
    if (!place) return;
    place.textContent = "";
    if (!text) return;
    const told = document.createElement("div");
    told.className = "problem"; told.setAttribute("role", "alert"); told.textContent = text;
    place.append(told);
  }

  function words(item) {
    if (item.kind !== "score") return item.words;
    const { roots, root_number: number, root_class: sort } = item.fields;
    return `${item.code}: ${roots === "counted" ? `${number || sort} roots` : roots}`;
  }

  function show() {
    const place = document.getElementById("queue"), items = waiting();
    if (!place || (items.length && document.activeElement && document.activeElement.matches("#queue input"))) return;
    place.hidden = !items.length;
    const [one, more] = ofScores().length === items.length ? ["score is", "scores are"] : ["entry is", "entries are"];
    place.querySelector("[data-count]").textContent = `${items.length} ${items.length === 1 ? one : more} on this device, not yet sent.`;
    place.querySelector("[data-queue=save]").hidden = !ofScores().length;
    const list = place.querySelector("[data-list]");
    list.textContent = "";
    for (const item of items.slice(0, 8)) {
      const line = document.createElement("p");
      line.className = item.trouble ? "doubt" : "small";
      line.textContent = words(item) + (item.trouble ? `. ${item.trouble}` : "");
      list.append(line);
      if (item.trouble) list.append(...settled(item));
    }
  }

  function button(words, act) {
    const made = document.createElement("button");
    made.type = "button"; made.className = "button"; made.textContent = words;
    made.addEventListener("click", act);
    return made;
  }

  // What was not taken is settled by who entered it: a score that clashes stands with a reason, or the other's does.
  function settled(item) {
    const acts = document.createElement("div");
    acts.className = "acts";
    if (item.standing === undefined) { acts.append(button("It is settled: take it off", () => box.remove(item))); return [acts]; }
    const both = document.createElement("p"), label = document.createElement("label"), why = document.createElement("input");
    both.className = "small"; both.textContent = `There: ${item.theirs || "nothing stands"}. Here: ${words(item)}.`;
    label.className = "field"; label.textContent = "Why yours stands"; why.maxLength = 300; label.append(why);
    acts.append(button("Mine stands", () => {
      if (!why.value.trim()) { why.focus(); return; }
      box.put({ ...item, trouble: "", fields: { ...item.fields, revision: String(item.standing), reason: why.value.trim(), request_key: String(Math.floor(Math.random() * 1e15)) } }).then(send);
    }), button("Theirs stands", () => box.remove(item)));
    return [both, label, acts];
  }

  function next() {
    const form = pad();
    const still = JSON.parse(form.dataset.still || "[]"), here = new Set(ofScores().map((item) => named(item.fields)));
    const at = still.findIndex(([cutting, site]) => `${cutting},${site}` === `${form.elements.cutting.value},${form.elements.site.value}`);
    const order = [...still.slice(at + 1), ...still.slice(0, Math.max(0, at))];
    const found = order.find(([cutting, site]) => !done.has(`${cutting},${site}`) && !here.has(`${cutting},${site}`));
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

  // Keys that are pressed while a score is being written to the device are of the next cutting: they count once it is up.
  document.addEventListener("keydown", (event) => {
    if (!storing || event.ctrlKey || event.metaKey || event.altKey) return;
    event.preventDefault();
    event.stopImmediatePropagation();
    storing.push(event.key);
  }, true);

  async function queue(form) {
    const fields = Object.fromEntries(new FormData(form));
    if (!fields.roots) { say("Say none, a number, seen, or not looked; a blank would be a guess."); return; }
    if (storing || ofScores().some((item) => item.fields.request_key === fields.request_key)) return;
    delete fields.csrf_token;
    fields.noted_on = dayOf(new Date());
    const code = document.querySelector("#pad-code .unit-code").textContent.trim();
    storing = [];
    let kept = Boolean(box);
    try { await box.add({ kind: "score", url: form.action, code, fields }); } catch { kept = false; }
    const pressed = storing;
    storing = null;
    if (!kept) { say(FULL); return; }
    say("");
    next();
    pressed.forEach((key) => window.pressKey(key));
    document.dispatchEvent(new Event("queued"));
  }

  const dayOf = (at) => `${at.getFullYear()}-${String(at.getMonth() + 1).padStart(2, "0")}-${String(at.getDate()).padStart(2, "0")}`;

  // A form waits as it stood; what keeps it from being written twice is new for the next.
  async function hold(form, submitter) {
    const entries = [...new FormData(form, submitter)].filter(([name]) => name !== "csrf_token");
    entries.push(["noted_on", dayOf(new Date())]);
    try { if (!box) throw new Error(); await box.add({ kind: "form", url: form.action, words: form.dataset.waits, entries }); } catch { say(FULL); return; }
    const told = document.createElement("p");
    told.className = "quiet"; told.setAttribute("role", "status"); told.textContent = `On this device: ${form.dataset.waits}. It goes out when the network is back.`;
    form.after(told);
    if (form.hasAttribute("hx-post")) { form.hidden = true; return; }
    form.reset();
    if (form.dataset.keep) localStorage.removeItem(`kept:${location.pathname}:${form.dataset.keep}`);
    for (const field of form.querySelectorAll("input[type=hidden][name$=_key]")) field.value = String(Math.floor(Math.random() * 1e15));
  }

  async function reachable() {
    const late = new AbortController(), timer = setTimeout(() => late.abort(), PATIENCE);
    try { return (await fetch("/health", { cache: "no-store", signal: late.signal })).ok; } catch { return false; } finally { clearTimeout(timer); }
  }

  const token = () => { const field = document.querySelector("input[name=csrf_token]"); return field ? field.value : ""; };
  const behind = () => waiting().some((item) => !item.trouble);

  function body(item) {
    if (item.kind === "score") return new URLSearchParams({ ...item.fields, csrf_token: token() });
    const made = new FormData();
    for (const [name, value] of item.entries) made.append(name, value);
    made.append("csrf_token", token());
    return made;
  }

  async function sendOne(item) {
    const answer = await fetch(item.url, { method: "POST", body: body(item), headers: { "HX-Request": "true" }, redirect: "manual" });
    if (answer.status === 401 || answer.status === 400) say("Sign in again: what waits here goes out then.");
    if (answer.status === 401 || answer.status >= 500 || answer.status === 400) return false;
    if (answer.ok || answer.type === "opaqueredirect") {
      if (item.kind === "score") sent(named(item.fields));
      await box.remove(item);
      return true;
    }
    const told = new DOMParser().parseFromString(await answer.text(), "text/html").querySelector(".problem"), trouble = told && told.querySelector("p");
    const clash = told && told.dataset.standing !== undefined ? { standing: Number(told.dataset.standing), theirs: [...told.querySelectorAll("[data-theirs] p")].map((one) => one.textContent.trim()).join(", ") } : {};
    await box.put({ ...item, ...clash, trouble: trouble ? trouble.textContent.trim() : "The server did not take it." });
    return true;
  }

  async function send() {
    if (sending || !behind() || !token()) return;
    sending = true;
    let all = false;
    try {
      for (const item of await box.refresh()) if (!item.trouble && !await sendOne(item)) break;
      all = !waiting().length;
    } catch { /* no network yet: what waits waits on */ }
    sending = false;
    const form = pad();
    if (all && form && !form.querySelector("input[name=roots]:checked") && !form.elements.root_number.value) location.reload();
  }

  document.addEventListener("htmx:beforeRequest", (event) => {
    const form = event.detail.elt;
    if (!behind()) return;
    if (form === pad()) { event.preventDefault(); queue(form); send(); }
    else if (form.dataset.waits) { event.preventDefault(); hold(form).then(send); }
  });
  document.addEventListener("htmx:sendError", (event) => {
    const form = event.detail.elt;
    if (form === pad()) queue(form); else if (form.dataset.waits) hold(form);
  });
  document.addEventListener("htmx:afterRequest", (event) => {
    const asked = event.detail.requestConfig && event.detail.requestConfig.parameters;
    if (event.detail.successful && event.detail.elt === pad() && asked) sent(named(asked));
  });
  document.addEventListener("submit", async (event) => {
    const form = event.target, submitter = event.submitter;
    if (!form.dataset.waits || form.hasAttribute("hx-post") || event.defaultPrevented) return;
    event.preventDefault();
    if (!behind() && await reachable()) {
      if (submitter && submitter.name) { const field = document.createElement("input"); field.type = "hidden"; field.name = submitter.name; field.value = submitter.value; form.append(field); }
      form.submit();
      return;
    }
    await hold(form, submitter);
    send();
  });

  // What rests on the scores the lab has is asked of it alone, once it has all of them.
  document.addEventListener("submit", async (event) => {
    const form = event.target;
    if (!("online" in form.dataset) || event.defaultPrevented) return;
    event.preventDefault();
    if (!behind() && await reachable()) form.submit(); else say("This needs the network, and what waits here to be sent first. Score on one by one until then.");
  });
  document.addEventListener("submit", (event) => {
    const form = event.target;
    if (!form.action.endsWith("/sign-out") || !waiting().length || form.dataset.sure) return;
    event.preventDefault();
    form.dataset.sure = "yes";
    const told = `${waiting().length} on this device are not sent. Open the check to send them; or sign out once more, and they wait here for you.`;
    if (document.getElementById("problem")) say(told); else window.alert(told);
  }, true);

  document.addEventListener("click", async (event) => {
    const act = event.target.closest("[data-queue]");
    if (!act) return;
    if (act.dataset.queue === "all") return;
    if (act.dataset.queue === "send") { for (const item of waiting()) if (item.trouble) await box.put({ ...item, trouble: "" }); send(); return; }
    const columns = ["cutting", "state", "roots", "root_number", "root_class", "longest_root_mm", "quality", "foliage", "callus", "top", "failure", "fit_to_pot_on", "known_by", "note", "thickness", "arise", "ball_percent", "colour", "torn", "washed", "shoot_below", "not_fit_why"];
    const cell = (value) => { const text = String(value ?? ""); return /[",\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text; };
    const yes = { yes: "1", no: "0" };
    const rows = ofScores().map(({ code, fields }) => columns.map((name) => cell({ cutting: code.replaceAll(" ", ""), fit_to_pot_on: fields.fit, callus: yes[fields.callus] }[name] ?? fields[name])).join(","));
    const link = document.createElement("a");
    link.href = URL.createObjectURL(new Blob([[columns.join(","), ...rows].join("\n") + "\n"], { type: "text/csv" }));
    link.download = "scores-on-this-device.csv";
    link.click();
  });

  document.addEventListener("outbox", show);
  document.addEventListener("brought", send);
  window.addEventListener("online", send);
  window.addEventListener("beforeunload", (event) => { if (waiting().length && !navigator.onLine) event.preventDefault(); });
  window.setInterval(send, EVERY);
  (async () => {
    if (box) await box.ready;
    show();
    const first = pad(), along = document.querySelector("[data-along-page]");
    const here = first && named(Object.fromEntries(new FormData(first)));
    if (first && along && (done.has(here) || ofScores().some((item) => named(item.fields) === here))) next();
    send();
  })();
})();
