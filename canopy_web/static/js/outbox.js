// Ticks and notes outlive a place without reach: what could not be sent waits in this browser, in its order, and goes
// when the server answers again. Each carries when it was said, so that nothing said later elsewhere is undone by it.
(() => {
  "use strict";
  const KEY = "mild-canopy-outbox",
    TRY_MS = 10_000,
    MOST = 500;
  let sending = false;
  const read = () => {
    try {
      return JSON.parse(localStorage.getItem(KEY)) || [];
    } catch {
      return [];
    }
  };
  const write = (items) => {
    try {
      localStorage.setItem(KEY, JSON.stringify(items.slice(-MOST)));
    } catch {
      // Without room in the browser the page still shows what was typed.
    }
  };
  // Only what belongs to the household that is shown is sent from its pages.
  const household = () => (location.pathname.match(/^\/plans\/\d+\//) || [""])[0];
  const mine = () => {
    const begins = location.pathname === "/today/" ? "/plans/" : household();
    return read().filter((item) => begins && item.url.startsWith(begins));
  };
  const token = () => JSON.parse(document.body.getAttribute("hx-headers"))["X-CSRFToken"];

  // Every act of this kind says when it was said, whether it gets through at once or not.
  document.addEventListener("htmx:configRequest", (event) => {
    if (event.detail.elt?.matches?.("[data-outbox]")) {
      event.detail.parameters.at = new Date().toISOString();
      // An entry that is sent twice counts once; two entries of one page are two.
      const key = event.detail.elt.querySelector?.("[name$=entry_key]");
      if (key && !event.detail.elt.dataset.sent) {
        event.detail.parameters[key.name] = freshKey();
      }
    }
  });

  const freshKey = () =>
    crypto.randomUUID?.() ||
    [...crypto.getRandomValues(new Uint8Array(16))].map((byte) => byte.toString(16).padStart(2, "0")).join("");

  function keep(event) {
    const { elt, requestConfig } = event.detail;
    if (!elt?.matches?.("[data-outbox]")) {
      return;
    }
    const values = Object.fromEntries([...requestConfig.formData.entries()].filter(([, value]) => typeof value === "string"));
    write([...read(), { url: new URL(requestConfig.path, location.href).pathname, values, page: location.href }]);
    elt.closest("li")?.classList.add("is-waiting");
    if (elt.matches("form")) {
      elt.reset();
      elt.closest("details")?.removeAttribute("open");
    }
    if (elt.type === "checkbox") {
      // A second tap says the opposite; the page cannot be drawn anew for it.
      const next = JSON.parse(elt.getAttribute("hx-vals"));
      const name = "done" in next ? "done" : "have";
      next[name] = elt.checked ? "no" : "yes";
      elt.setAttribute("hx-vals", JSON.stringify(next));
      elt.closest("li")?.classList.toggle("is-had", elt.checked);
    }
    show();
  }
  document.addEventListener("htmx:sendError", keep);
  document.addEventListener("htmx:timeout", keep);

  function show(words = "") {
    let note = document.getElementById("outbox");
    const count = mine().length;
    if (!count && !words) {
      note?.remove();
      return;
    }
    if (!note) {
      note = document.createElement("p");
      note.id = "outbox";
      note.className = "outbox on-screen";
      note.setAttribute("role", "status");
      document.getElementById("main")?.append(note);
    }
    note.textContent = words || `${count} ${count === 1 ? "entry waits" : "entries wait"} on this device until the server answers.`;
  }

  async function send() {
    const waiting = mine();
    if (sending || !waiting.length) {
      show();
      return;
    }
    sending = true;
    let went = 0,
      refused = false;
    try {
      for (const item of waiting) {
        const answer = await fetch(item.url, {
          method: "POST",
          body: new URLSearchParams(item.values),
          headers: { "X-CSRFToken": token(), "HX-Request": "true", "HX-Current-URL": item.page },
          redirect: "manual",
        });
        if (!answer.ok) {
          refused = true;
          break;
        }
        const left = read(),
          at = left.findIndex((other) => JSON.stringify(other) === JSON.stringify(item));
        write(left.filter((_, place) => place !== at));
        went += 1;
      }
    } catch {
      // Still out of reach: it goes on waiting.
    }
    sending = false;
    if (refused) {
      show(`${mine().length} on this device could not be stored: reload the page, sign in if it asks, and they are tried again.`);
    } else if (went && !mine().length) {
      show();
      const shown = document.getElementById("workspace");
      if (shown) {
        htmx.ajax("GET", location.href, { target: "#workspace", swap: "outerHTML" });
      }
    } else {
      show();
    }
  }
  window.addEventListener("online", send);
  document.addEventListener("DOMContentLoaded", send);
  document.addEventListener("htmx:afterSettle", () => mine().length && show());
  setInterval(send, TRY_MS);
  if (document.readyState !== "loading") {
    send();
  }
})();
