// What was followed through three days comes after the rest: only into the page it was asked from, never into a drag,
// and never over an answer that somebody asked for in the schedule meanwhile.
(() => {
  "use strict";

  const AGAIN_MS = 400;
  // Places in the schedule that are filled when somebody asks, by their ids.
  const FILLED = "#sized, #proposal";
  const asked = new Set();
  let shown = [];

  function arrived(event) {
    const follow = event.target;
    if (!follow.isConnected) {
      event.preventDefault();
    } else if (document.querySelector(".dragging") || waits()) {
      event.preventDefault();
      setTimeout(() => follow.isConnected && follow.dispatchEvent(new Event("again")), AGAIN_MS);
    }
  }

  // Whether an answer is on its way into the schedule.
  const waits = () => [...asked].some((target) => target.isConnected && target.closest("#schedule"));

  document.addEventListener("htmx:beforeRequest", (event) => {
    // Listened for at the element itself: once it has left the page, its events reach nobody else.
    if (event.target.id === "follow") event.target.addEventListener("htmx:beforeOnLoad", arrived);
    else if (event.detail.target?.matches?.(FILLED)) asked.add(event.detail.target);
  });
  for (const name of ["htmx:afterRequest", "htmx:sendAbort"]) {
    document.addEventListener(name, (event) => asked.delete(event.detail.target));
  }
  // What was answered already moves over into the schedule that takes its place.
  document.addEventListener("htmx:oobBeforeSwap", (event) => {
    if (event.detail.target?.id !== "schedule") return;
    shown = [...event.detail.target.querySelectorAll(FILLED)]
      .filter((place) => place.children.length)
      .map((place) => [place.id, [...place.childNodes]]);
  });
  document.addEventListener("htmx:oobAfterSwap", (event) => {
    if (event.detail.target?.id !== "schedule") return;
    for (const [id, nodes] of shown) {
      const place = document.getElementById(id);
      if (place && !place.children.length) place.replaceChildren(...nodes);
    }
    shown = [];
  });
})();
