// Checks and pages that were taken along open without a network: they and what they load are kept in caches that the pages fill and
// empty. Nothing else is kept, and nothing kept is shown while the server answers.
"use strict";

const START = "/along";

self.addEventListener("install", () => self.skipWaiting());
self.addEventListener("activate", (event) => event.waitUntil(self.clients.claim()));

async function answer(request) {
  try {
    return await fetch(request);
  } catch (error) {
    const kept = await caches.match(request, { ignoreVary: true }) || await caches.match(request, { ignoreSearch: true, ignoreVary: true });
    const start = request.mode === "navigate" ? await caches.match(START, { ignoreVary: true }) : undefined;
    if (kept || start) return kept || start;
    throw error;
  }
}

self.addEventListener("fetch", (event) => {
  const { request } = event, url = new URL(request.url);
  const ours = request.method === "GET" && url.origin === self.location.origin;
  if (ours && (request.mode === "navigate" || url.pathname.startsWith("/static/"))) event.respondWith(answer(request));
});
