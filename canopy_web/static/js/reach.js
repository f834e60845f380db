// Registers the worker that keeps a page open without reach, each page for itself; says so where one is seen that way.
(() => {
  "use strict";
  const OLD_S = 20;
  const signedIn = () => Boolean(document.getElementById("top-tools"));

  // What was laid by for one person is not left to the next.
  async function forget() {
    for (const name of await caches.keys()) {
      if (name.startsWith("mild-canopy-")) await caches.delete(name);
    }
    for (const each of await navigator.serviceWorker.getRegistrations()) await each.unregister();
  }

  async function register() {
    const places = [...document.querySelectorAll("[data-reach]")].map((item) => item.dataset.reach);
    for (const scope of new Set(places)) {
      await navigator.serviceWorker.register("/reach.js", { scope });
    }
    if (!places.length) return;
    const own = await navigator.serviceWorker.getRegistration(location.href),
      worker = own && (own.active || own.waiting || own.installing);
    const files = [...document.querySelectorAll("link[rel=stylesheet], script[src], link[rel=preload]")].map((item) =>
      new URL(item.href || item.src).pathname,
    );
    worker?.postMessage({ keep: [...new Set([...places, location.pathname + location.search, ...files])] });
  }

  async function tell() {
    const age = Date.now() / 1000 - Number(document.body.dataset.made || 0);
    if (!navigator.serviceWorker.controller || age < OLD_S) return;
    try {
      await fetch("/reach.js", { method: "HEAD", cache: "no-store" });
    } catch {
      const made = new Date(Number(document.body.dataset.made) * 1000);
      const note = document.createElement("p");
      note.className = "outbox on-screen";
      note.setAttribute("role", "status");
      note.textContent = `Without reach: this page is as it was at ${made.toLocaleTimeString([], { hour: "2-digit", minute: "2-digit" })}. What you enter waits on this device.`;
      document.getElementById("main")?.prepend(note);
    }
  }

  async function begin() {
    // Browsers have workers only over HTTPS and on the machine itself.
    if (!("serviceWorker" in navigator) || !("caches" in window)) return;
    if (signedIn()) {
      await register();
      await tell();
    } else {
      await forget();
    }
  }
  // An entry's kind that an address names is open, whatever page was laid by.
  function open() {
    const named = location.hash && document.querySelector(`details${CSS.escape(location.hash).replace("\\#", "#")}`);
    if (named) named.open = true;
  }
  document.addEventListener("DOMContentLoaded", () => {
    open();
    begin().catch(() => undefined);
  });
})();
