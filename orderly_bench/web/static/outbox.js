// What could not be sent waits on this device, in order, until the lab has it. It counts as kept here only once the browser has written
// it to the disk. It belongs to a person: what another left waits until that person signs in again. Pages read it as `outbox`.
"use strict";

(() => {
  const person = document.body.dataset.person, STORE = "outbox";
  if (!person || !window.indexedDB) return;
  let items = [];
  const others = window.BroadcastChannel ? new BroadcastChannel(STORE) : null;
  const opened = new Promise((found, failed) => {
    const asked = indexedDB.open("orderly-bench", 1);
    asked.onupgradeneeded = () => asked.result.createObjectStore(STORE, { keyPath: "id", autoIncrement: true }).createIndex("person", "person");
    asked.onsuccess = () => found(asked.result);
    asked.onerror = () => failed(asked.error);
  });
  opened.catch(() => { /* who adds something is told */ });

  async function run(mode, work) {
    const store = await opened;
    return new Promise((done, failed) => {
      const step = store.transaction(STORE, mode, { durability: "strict" }), asked = work(step.objectStore(STORE));
      step.oncomplete = () => done(asked.result);
      step.onabort = () => failed(step.error);
      step.onerror = () => failed(step.error);
    });
  }

  async function refresh() {
    items = await run("readonly", (store) => store.index("person").getAll(person));
    document.dispatchEvent(new Event("outbox"));
    return items;
  }

  async function change(work) {
    await run("readwrite", work);
    await refresh();
    if (others) others.postMessage("changed");
  }

  // Scores that an earlier version left in the browser's other store come first.
  async function begin() {
    const key = `queue:${person}`;
    let left = [];
    try { left = JSON.parse(localStorage.getItem(key)) || []; } catch { /* nothing that can be read */ }
    for (const one of left) await run("readwrite", (store) => store.add({ ...one, kind: "score", person }));
    localStorage.removeItem(key);
    return refresh();
  }

  if (others) others.onmessage = refresh;
  window.outbox = {
    all: () => items,
    refresh,
    add: (item) => change((store) => store.add({ ...item, person, at: new Date().toISOString(), trouble: "" })),
    put: (item) => change((store) => store.put(item)),
    remove: (item) => change((store) => store.delete(item.id)),
    ready: begin().catch(() => items),
  };
})();
