// Checks that were taken along open without a network: their pages and what these load are kept in one cache, which the page fills and
// empties. Nothing else is kept, and nothing kept is shown while the server answers.
"use strict";

const KEPT = "along", START = "/along";

self.addEventListener("install", () => self.skipWaiting());
self.addEventListener("activate", (event) => event.waitUntil(self.clients.claim()));

async function answer(request) {
  try {
    return await fetch(request);
  } catch (error) {
    const cache = await caches.open(KEPT);
    const kept = await cache.match(request, { ignoreSearch: true, ignoreVary: true });
    const start = request.mode === "navigate" ? await cache.match(START, { ignoreVary: true }) : undefined;
    if (kept || start) return kept || start;
    throw error;
  }
}

self.addEventListener("fetch", (event) => {
  const { request } = event, url = new URL(request.url);
  const ours = request.method === "GET" && url.origin === self.location.origin;
  if (ours && (request.mode === "navigate" || url.pathname.startsWith("/static/"))) event.respondWith(answer(request));
});
