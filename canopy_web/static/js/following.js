// What was followed through three days comes after the rest: only into the page it was asked from, and never into a drag.
(() => {
  "use strict";

  const AGAIN_MS = 400;

  document.addEventListener("htmx:beforeOnLoad", (event) => {
    const asked = event.detail.elt;
    if (!asked || asked.id !== "follow") return;
    if (!asked.isConnected) {
      event.preventDefault();
    } else if (document.querySelector(".dragging")) {
      event.preventDefault();
      setTimeout(() => asked.isConnected && asked.dispatchEvent(new Event("again")), AGAIN_MS);
    }
  });
})();
