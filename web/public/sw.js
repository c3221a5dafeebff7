// Keeps the page itself and what was last seen of a job, so that both open where the program cannot be reached: behind
// the bulkhead of a van there is no network. Changes wait in the page's own outbox. On a connection that is neither this
// machine nor encrypted no browser runs this, and the open page goes on by itself.
const FILES = ["filled in when it is built"];
// Names carry the hash of what is in them.
const SHELL = `shell ${FILES.join(" ")}`;
const SEEN = "seen";
const MOST_SEEN = 120;
const NOT_KEPT = /^\/api\/(keeping|jobs|devices|events)|\/(job|files)(\/|$)/;

self.addEventListener("install", (event) => {
  event.waitUntil(
    caches
      .open(SHELL)
      .then((cache) => cache.addAll(["/", ...FILES]))
      .then(() => self.skipWaiting()),
  );
});

self.addEventListener("activate", (event) => {
  event.waitUntil(
    caches
      .keys()
      .then((names) => Promise.all(names.filter((name) => name.startsWith("shell ") && name !== SHELL).map((name) => caches.delete(name))))
      .then(() => self.clients.claim()),
  );
});

async function keep(request, answer) {
  const cache = await caches.open(SEEN);
  await cache.delete(request);
  await cache.put(request, answer);
  const all = await cache.keys();
  await Promise.all(all.slice(0, Math.max(0, all.length - MOST_SEEN)).map((one) => cache.delete(one)));
}

// What was last seen says so: the page tells it to whoever reads.
async function seen(request) {
  const found = await (await caches.open(SEEN)).match(request);
  if (found === undefined) return Response.error();
  const headers = new Headers(found.headers);
  headers.set("x-last-seen", found.headers.get("date") ?? "");
  return new Response(found.body, { status: found.status, headers });
}

async function asked(event) {
  let answer;
  try {
    answer = await fetch(event.request);
  } catch {
    return seen(event.request);
  }
  if (answer.ok) event.waitUntil(keep(event.request, answer.clone()).catch(() => undefined));
  // A device that was shut out keeps nothing of what it saw.
  if (answer.status === 401) event.waitUntil(caches.delete(SEEN));
  return answer;
}

self.addEventListener("fetch", (event) => {
  const { request } = event;
  const url = new URL(request.url);
  if (request.method !== "GET" || url.origin !== self.location.origin || url.pathname === "/pair") return;
  if (url.pathname.startsWith("/assets/")) event.respondWith(caches.match(request).then((kept) => kept ?? fetch(request)));
  else if (url.pathname.startsWith("/api/")) {
    if (request.mode !== "navigate" && !NOT_KEPT.test(url.pathname)) event.respondWith(asked(event));
  } else if (request.mode === "navigate") event.respondWith(fetch(request).catch(() => caches.match("/").then((page) => page ?? Response.error())));
});
