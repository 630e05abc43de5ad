// Keeps the application's own files, so that it opens where there is no network. Data is never kept here: the queue and
// the last look are the page's own.
const FILES = self.WANTED;
const NAME = `files-${FILES.join().length}-${FILES.at(-1)}-${hash(FILES.join())}`;
const PATIENCE_MS = 2500;

function hash(text) {
  let sum = 0;
  for (const letter of text) sum = (sum * 31 + letter.charCodeAt(0)) >>> 0;
  return sum.toString(36);
}

self.addEventListener("install", (event) => {
  event.waitUntil(
    caches
      .open(NAME)
      .then((cache) => cache.addAll(FILES))
      .then(() => self.skipWaiting()),
  );
});

self.addEventListener("activate", (event) => {
  const others = (names) => names.filter((name) => name.startsWith("files-") && name !== NAME);
  event.waitUntil(
    caches
      .keys()
      .then((names) => Promise.all(others(names).map((name) => caches.delete(name))))
      .then(() => self.clients.claim()),
  );
});

/** The page from the server, or the kept one where the server is slow or away. */
async function page(request) {
  const late = new Promise((_, away) => setTimeout(() => away(new Error("late")), PATIENCE_MS));
  try {
    return await Promise.race([fetch(request), late]);
  } catch {
    return (await caches.match("/")) ?? Response.error();
  }
}

self.addEventListener("fetch", (event) => {
  const { request } = event;
  const url = new URL(request.url);
  if (request.method !== "GET" || url.origin !== location.origin || url.pathname.startsWith("/api/")) return;
  if (request.mode === "navigate") event.respondWith(page(request));
  else if (FILES.includes(url.pathname) && url.pathname !== "/")
    event.respondWith(caches.match(request).then((kept) => kept ?? fetch(request)));
});
