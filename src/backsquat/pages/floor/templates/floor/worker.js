// The floor without a line. Shipped files and the pocket page are kept; whatever is somebody's is not: that stands in the
// device's own store. A newer worker takes over at once: an open page has all its scripts already, and what waits keeps.
"use strict";
const FILES = {{ files | safe }};
const SHELL = "{{ shell }}", ELSEWHERE = "{{ elsewhere }}";
const PATIENCE_MS = 6000;
const digest = async () => Array.from(new Uint8Array(await crypto.subtle.digest("SHA-256", new TextEncoder().encode(FILES.join()))).slice(0, 8), (one) => one.toString(16).padStart(2, "0")).join("");
const name = digest().then((text) => `backsquat ${text}`);

self.addEventListener("install", (event) => {
  event.waitUntil((async () => {
    const cache = await caches.open(await name);
    await cache.addAll(FILES);
    for (const page of [SHELL, ELSEWHERE]) await cache.put(page, await fetch(page, { credentials: "omit", cache: "no-store" })); // nobody's name is in them
    await self.skipWaiting();
  })());
});

self.addEventListener("activate", (event) => {
  event.waitUntil((async () => {
    for (const other of await caches.keys()) if (other.startsWith("backsquat ") && other !== await name) await caches.delete(other);
    await self.clients.claim();
  })());
});

async function page(request) {
  const floor = new URL(request.url).pathname.startsWith("/floor/"); // elsewhere a page may take its time
  const shell = () => caches.match(floor ? SHELL : ELSEWHERE); // the floor answers for the floor only
  const late = new Promise((done) => setTimeout(done, PATIENCE_MS, null));
  try {
    const answer = await (floor ? Promise.race([fetch(request), late]) : fetch(request));
    if (answer && ![502, 503, 504].includes(answer.status)) return answer;
    return (await shell()) || answer || Response.error();
  } catch { return (await shell()) || Response.error(); }
}

async function file(request) { return (await caches.match(request)) || fetch(request); }

self.addEventListener("fetch", (event) => {
  const { request } = event, address = new URL(request.url);
  if (request.method !== "GET" || address.origin !== location.origin) return;
  if (request.mode === "navigate") event.respondWith(page(request));
  else if (address.pathname.startsWith("/static/")) event.respondWith(file(request));
});
