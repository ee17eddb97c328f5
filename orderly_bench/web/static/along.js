// Taking an open check along: registered with the lab while there is a network, its page kept on the device, brought back when nothing
// waits any more. What was scored since is passed over when the page is opened without a network.
"use strict";

(() => {
  const person = document.body.dataset.person, KEPT = "along", KEY = `along:${person}`;
  // Pages that show arms lie apart: they go when their person signs out, and before anyone else is here.
  const ARMS = `arms:${person || ""}`, PAGES = `pages:${person}`;
  if (window.caches) caches.keys().then((names) => names.filter((name) => name.startsWith("arms:") && name !== ARMS).forEach((name) => caches.delete(name)));
  if (!person) return;
  if (window.caches) caches.has(ARMS).then((here) => { if (!here) localStorage.removeItem(PAGES); });
  const all = () => { try { return JSON.parse(localStorage.getItem(KEY)) || []; } catch { return []; } };
  const write = (items) => { if (items.length) localStorage.setItem(KEY, JSON.stringify(items)); else localStorage.removeItem(KEY); };
  const token = () => document.querySelector("input[name=csrf_token]").value;
  const place = document.querySelector("[data-along]");
  const say = (text) => { const line = place.querySelector("[data-said]"); line.textContent = text; };
  const post = (path, fields) => fetch(path, { method: "POST", body: new URLSearchParams({ ...fields, csrf_token: token() }), headers: { "HX-Request": "true" }, redirect: "error" });
  const bare = /^\d+(\.\d+){3}$|:/.test(location.hostname) && location.hostname !== "127.0.0.1";

  function cannot() {
    if (!window.isSecureContext || !navigator.serviceWorker) return "This browser keeps pages only of an address it trusts: install the lab's certificate, then come back.";
    if (bare) return "This address may change, and what is kept belongs to it. Open the lab by its name, then take the check along.";
    return "";
  }

  // What is to be had without a network, in the cache of that name: pages, the list of them, and what this one loaded.
  async function keepHere(name, pages) {
    await navigator.serviceWorker.register("/worker.js");
    await navigator.serviceWorker.ready;
    const cache = await caches.open(name);
    const loaded = performance.getEntriesByType("resource").map((one) => new URL(one.name)).filter((url) => url.origin === location.origin && url.pathname.startsWith("/static/"));
    await cache.addAll([...pages, "/along", ...new Set(loaded.map((url) => url.pathname))]);
    return cache;
  }

  async function lasts() {
    const held = navigator.storage && navigator.storage.persist ? await navigator.storage.persist() : false;
    return held ? "" : " This browser may empty what it keeps when room runs short: send what waits each day.";
  }

  const pagesHere = () => { try { return JSON.parse(localStorage.getItem(PAGES)) || []; } catch { return []; } };

  async function takePages() {
    const why = cannot(), pages = JSON.parse(place.dataset.pages), title = place.dataset.title;
    if (why) { say(why); return; }
    say("Taking it along ...");
    try {
      await keepHere(ARMS, pages);
      localStorage.setItem(PAGES, JSON.stringify([...pagesHere().filter((one) => one.title !== title), { title, page: pages[0] }]));
      say(`On this device until you sign out, as it stands now.${await lasts()}`);
    } catch { say("It could not be taken along: no network, or no room on this device."); }
  }

  async function take() {
    const why = cannot(), check = place.dataset.check;
    if (why) { say(why); return; }
    say("Taking it along ...");
    try {
      const mine = all().find((one) => one.check === check), key = mine ? mine.key : `${Date.now()}-${Math.floor(Math.random() * 1e12)}`;
      const page = `/checks/${check}/along`, cache = await keepHere(KEPT, [page]);
      const answered = await post(page, { key, device: navigator.userAgent });
      if (!answered.ok) { await cache.delete(page); say("The lab did not register this device. Load the page again, and see how the check stands."); return; }
      write([...all().filter((one) => one.check !== check), { check, key, title: place.dataset.title }]);
      say(`On this device. Open it there, with or without a network.${await lasts()}`);
      show();
    } catch { say("It could not be taken along: no network, or no room on this device. Nothing was registered that is not here."); }
  }

  async function back() {
    const check = place.dataset.check, mine = all().find((one) => one.check === check);
    const waiting = window.outbox ? await window.outbox.refresh() : [];
    if (waiting.length) { say(`${waiting.length} on this device are not sent. They go out first.`); return; }
    try {
      const answered = mine ? await post(`/checks/${check}/along/back`, { key: mine.key }) : { ok: true };
      if (!answered.ok) { say("The lab did not take it back. Sign in again, then bring it back."); return; }
      write(all().filter((one) => one.check !== check));
      localStorage.removeItem(`scored:${person}`);
      await (await caches.open(KEPT)).delete(`/checks/${check}/along`);
      say("Brought back: nothing of this check waits here.");
      show();
    } catch { say("No network: it is brought back when there is one."); }
  }

  function show() {
    const here = all().find((one) => one.check === place.dataset.check), list = place.querySelector("[data-list]");
    for (const button of place.querySelectorAll("[data-act]:not([data-act=pages])")) button.hidden = (button.dataset.act === "take") === Boolean(here) || (button.dataset.act === "open" && Boolean(document.querySelector("[data-along-page]")));
    if (!list) return;
    list.textContent = "";
    for (const one of [...all().map((one) => ({ title: one.title, page: `/checks/${one.check}/along` })), ...pagesHere()]) {
      const line = document.createElement("p"), link = document.createElement("a");
      link.href = one.page; link.textContent = one.title; link.className = "button";
      line.append(link);
      list.append(line);
    }
    if (!list.children.length) list.textContent = "Nothing is taken along on this device.";
  }

  document.addEventListener("click", (event) => {
    const button = event.target.closest("[data-along] [data-act]");
    if (button) { if (button.dataset.act === "take") take(); else if (button.dataset.act === "pages") takePages(); else if (button.dataset.act === "back") back(); else location.href = `/checks/${place.dataset.check}/along`; }
  });
  document.addEventListener("submit", (event) => {
    if (!event.target.action.endsWith("/sign-out") || event.defaultPrevented || !window.caches) return;
    caches.delete(KEPT);
    caches.delete(ARMS);
    localStorage.removeItem(PAGES);
  });
  if (place) show();
})();
