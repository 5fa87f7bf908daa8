// The service worker: what a check on the bench needs is kept in this browser, and answers where Waldhorn does not.
// Nothing else is kept, and nothing that changes anything passes through here.

const KEPT = "waldhorn";
const STATIC = /^\/static\/[0-9a-f]{12}\//; // under an address that changes with them
const CHECK = /^\/checks\/[^/]+(\/steps)?$/;
const AWAY = `<!doctype html><html lang="en"><meta name="viewport" content="width=device-width, initial-scale=1">
<title>Waldhorn does not answer</title><h1>Waldhorn does not answer.</h1>
<p>What you took waits in this browser and is sent once it does.</p>`;

self.addEventListener("install", () => self.skipWaiting());
self.addEventListener("activate", (event) => event.waitUntil(self.clients.claim()));

self.addEventListener("fetch", (event) => {
  const { request } = event;
  const url = new URL(request.url);
  if (request.method !== "GET" || url.origin !== location.origin) return;
  if (STATIC.test(url.pathname)) event.respondWith(keptFirst(request));
  else if (CHECK.test(url.pathname)) event.respondWith(newestFirst(request, url.pathname));
  else if (request.mode === "navigate") event.respondWith(newestFirst(request));
});

// Static files: those of another edition go.
async function keptFirst(request) {
  const cache = await caches.open(KEPT);
  const known = await cache.match(request);
  if (known) return known;
  const answer = await fetch(request);
  if (answer.ok) await cache.put(request, answer.clone());
  const [edition] = new URL(request.url).pathname.match(STATIC);
  const keys = await cache.keys();
  const isOther = ({ url }) => STATIC.test(new URL(url).pathname) && !new URL(url).pathname.startsWith(edition);
  await Promise.all(keys.filter(isOther).map((key) => cache.delete(key)));
  return answer;
}

async function newestFirst(request, place) {
  const cache = await caches.open(KEPT);
  try {
    const answer = await fetch(request);
    if (place && answer.ok && !answer.redirected) await cache.put(place, answer.clone());
    if (new URL(answer.url || request.url).pathname === "/join") await caches.delete(KEPT); // nobody sits here
    return answer;
  } catch (error) {
    const known = place && (await cache.match(place));
    if (known) return known;
    if (request.mode !== "navigate") throw error;
    return new Response(await elsewhere(cache), { headers: { "Content-Type": "text/html; charset=utf-8" } });
  }
}

async function elsewhere(cache) {
  const places = (await cache.keys()).map(({ url }) => new URL(url).pathname);
  const checks = places.filter((path) => CHECK.test(path) && !path.endsWith("/steps"));
  return checks.length ? `${AWAY}<p><a href="${checks.at(-1)}">To the check on the bench</a></p>` : AWAY;
}
