// What waits on this device as a file, and such a file read in by a researcher: of a device that can't send, or of someone who is gone.
// Read in, it waits on the researcher's device like entries of their own and goes out as theirs; sent before, it is not written again.
"use strict";

(() => {
  const FORM = "orderly-bench outbox 1", LARGEST_MB = 200;
  // The only addresses that a file may ask for: those whose forms wait in the outbox.
  const WAITS = [/^\/checks\/\d+\/scores$/, /^\/trials\/\d+\/stick\/(tray|all|cutting|several)$/, /^\/trials\/\d+\/(photos|notes|incidents|readings|minutes)$/, /^\/jobs\/\d+$/];
  const box = window.outbox, path = (url) => new URL(url, location.origin).pathname;
  if (!box) return;

  const encoded = (file) => new Promise((done, failed) => {
    const reader = new FileReader();
    reader.onload = () => done({ name: file.name, type: file.type, base64: reader.result.slice(reader.result.indexOf(",") + 1) });
    reader.onerror = () => failed(reader.error);
    reader.readAsDataURL(file);
  });
  const decoded = ({ name, type, base64 }) => new File([Uint8Array.from(atob(base64), (one) => one.charCodeAt(0))], name, { type });
  const each = (entries, change) => Promise.all(entries.map(async ([name, value]) => [name, await change(value)]));

  async function save() {
    const entries = [];
    for (const { kind, url, code, words, fields, entries: sent, at } of await box.refresh()) {
      const own = { kind, url: path(url), code, words, fields, at };
      entries.push(sent ? { ...own, entries: await each(sent, (value) => (value instanceof File ? encoded(value) : value)) } : own);
    }
    const link = document.createElement("a"), text = JSON.stringify({ form: FORM, of: document.body.dataset.name, entries });
    link.href = URL.createObjectURL(new Blob([text], { type: "application/json" }));
    link.download = "waits-on-this-device.json";
    link.click();
  }

  // One entry as it waits here; throws where it is none.
  async function read(one, of) {
    const known = WAITS.some((allowed) => allowed.test(one.url));
    if (!known || (one.kind === "score") !== WAITS[0].test(one.url)) throw new Error();
    const told = of ? `, from the device of ${of}` : "";
    if (one.kind === "score") {
      const fields = Object.fromEntries(Object.entries(one.fields).map(([name, value]) => [name, String(value)]));
      return { kind: "score", url: one.url, code: String(one.code), fields: { ...fields, reason: fields.reason || (of ? `entered by ${of} on a device` : "") } };
    }
    const entries = await each(one.entries, (value) => (typeof value === "string" ? value : decoded(value)));
    return { kind: "form", url: one.url, words: `${one.words}${told}`, entries: entries.filter(([name]) => name !== "csrf_token") };
  }

  async function bring(file, say) {
    if (file.size > LARGEST_MB * 2 ** 20) { say(`A file of at most ${LARGEST_MB} MB is read here.`); return; }
    let found;
    try {
      const held = JSON.parse(await file.text());
      if (held.form !== FORM) throw new Error();
      found = await Promise.all(held.entries.map((one) => read(one, held.of)));
    } catch { say("This is no file that a device saved here, or it was changed. Nothing was taken from it."); return; }
    try { for (const item of found) await box.add(item); } catch { say("This device keeps nothing more. Take off what waits here, and read the file again."); return; }
    say(`${found.length} from the file. They go out as yours; what does not go stays here, with why.`);
    document.dispatchEvent(new Event("brought"));
  }

  document.addEventListener("click", (event) => { if (event.target.closest("[data-queue=all]")) save(); });
  document.addEventListener("change", (event) => {
    const field = event.target.closest("[data-queue-file]");
    if (!field || !field.files.length) return;
    bring(field.files[0], (text) => { document.querySelector("[data-brought]").textContent = text; });
    field.value = "";
  });
})();
