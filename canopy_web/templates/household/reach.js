// Keeps pages of Today and the log open without reach: the network first, what was seen last where it does not answer.
// It stores nothing that is sent, and answers nothing but pages, their parts and the files that belong to them.
"use strict";
const CACHE = "mild-canopy-{{ version }}",
  PATIENCE_MS = 6000;
const isPart = (url) => /^\/plans\/\d+\/today\//.test(url.pathname);
const isFile = (url) => url.pathname.startsWith("/static/");

self.addEventListener("install", () => self.skipWaiting());
self.addEventListener("activate", (event) => {
  const old = caches.keys().then((names) => Promise.all(names.filter((name) => name !== CACHE).map((name) => caches.delete(name))));
  event.waitUntil(old.then(() => self.clients.claim()));
});

async function fresh(request) {
  const answer = await fetch(request);
  // A page that led elsewhere, such as to the door, is another one.
  if (answer.ok && !answer.redirected) {
    const cache = await caches.open(CACHE);
    await cache.put(request.url, answer.clone());
  }
  return answer;
}

// What is laid by stands in for a server that does not answer or takes too long; without it one waits.
async function page(request) {
  const asked = fresh(request),
    cache = await caches.open(CACHE),
    kept = (await cache.match(request.url)) || (await cache.match(request.url, { ignoreSearch: true }));
  if (kept) {
    const late = new Promise((done) => setTimeout(done, PATIENCE_MS, kept));
    return Promise.race([asked.catch(() => kept), late]);
  }
  return asked.catch(
    () =>
      new Response("Without reach, and this page was not open here before.", {
        status: 503,
        headers: { "Content-Type": "text/plain; charset=utf-8" },
      }),
  );
}

async function file(request) {
  const cache = await caches.open(CACHE);
  return (await cache.match(request.url)) || fresh(request);
}

self.addEventListener("fetch", (event) => {
  const { request } = event,
    url = new URL(request.url);
  if (request.method !== "GET" || url.origin !== self.location.origin) {
    return;
  }
  if (isFile(url)) {
    event.respondWith(file(request));
  } else if (request.mode === "navigate" || isPart(url)) {
    event.respondWith(page(request));
  }
});

// Pages that Today leads to are laid by while there is reach.
self.addEventListener("message", (event) => {
  const urls = (event.data && event.data.keep) || [];
  const keep = async (url) => {
    const answer = await fetch(url, { credentials: "same-origin" });
    if (answer.ok && !answer.redirected) {
      const cache = await caches.open(CACHE);
      await cache.put(new URL(url, self.location.origin).href, answer);
    }
  };
  event.waitUntil(Promise.allSettled(urls.filter((url) => url.startsWith("/")).map(keep)));
});
