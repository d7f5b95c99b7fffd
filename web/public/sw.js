/*
 * Lets the screen open while the server is away, so that a reload loses nothing: keeps the page, its scripts, styles and
 * fonts, and the reference. Designs are kept by the page itself. The server comes first wherever it answers.
 */
const CACHE = "kegcart-screen";
const PAGE = "/";
const MANIFEST = "/static/manifest.json";
const REFERENCE = "/api/reference";

/** Keep every file of the screen as it was built, and drop those of builds before. */
async function refresh() {
  const cache = await caches.open(CACHE);
  const manifest = await fetch(MANIFEST, { cache: "no-cache" });
  if (!manifest.ok) return;
  const text = await manifest.clone().text();
  const known = await cache.match(MANIFEST);
  if (known && (await known.text()) === text) return;
  const files = Object.values(JSON.parse(text)).flatMap((entry) => [entry.file, ...(entry.css ?? []), ...(entry.assets ?? [])]);
  const wanted = [...new Set(files)].map((file) => `/static/${file}`);
  await cache.addAll([PAGE, REFERENCE, ...wanted]);
  const kept = new Set([PAGE, REFERENCE, MANIFEST, ...wanted]);
  for (const request of await cache.keys()) if (!kept.has(new URL(request.url).pathname)) await cache.delete(request);
  await cache.put(MANIFEST, manifest);
}

/** The server's answer, which is kept; where it is away, what was kept. */
async function serverFirst(request, as) {
  const cache = await caches.open(CACHE);
  try {
    const answer = await fetch(request);
    if (answer.ok) await cache.put(as, answer.clone());
    return answer;
  } catch (error) {
    const kept = await cache.match(as);
    if (kept) return kept;
    throw error;
  }
}

/** What never changes under its name comes from what is kept. */
async function keptFirst(request) {
  return (await (await caches.open(CACHE)).match(request)) ?? fetch(request);
}

self.addEventListener("install", (event) => event.waitUntil(refresh().then(() => self.skipWaiting())));
self.addEventListener("activate", (event) => event.waitUntil(self.clients.claim()));
self.addEventListener("fetch", (event) => {
  const { request } = event;
  const url = new URL(request.url);
  if (request.method !== "GET" || url.origin !== self.location.origin) return;
  if (request.mode === "navigate" && !url.pathname.startsWith("/api/")) {
    event.respondWith(serverFirst(request, PAGE));
    event.waitUntil(refresh().catch(() => {}));
  } else if (url.pathname === REFERENCE) event.respondWith(serverFirst(request, REFERENCE));
  else if (url.pathname.startsWith("/static/assets/")) event.respondWith(keptFirst(request));
});
