// What was followed through three days comes after the rest: only into the page it was asked from, and never into a drag.
(() => {
  "use strict";

  const AGAIN_MS = 400;

  function arrived(event) {
    const asked = event.target;
    if (!asked.isConnected) {
      event.preventDefault();
    } else if (document.querySelector(".dragging")) {
      event.preventDefault();
      setTimeout(() => asked.isConnected && asked.dispatchEvent(new Event("again")), AGAIN_MS);
    }
  }

  // Listened for at the element itself: once it has left the page, its events reach nobody else.
  document.addEventListener("htmx:beforeRequest", (event) => {
    if (event.target.id === "follow") event.target.addEventListener("htmx:beforeOnLoad", arrived);
  });
})();
