// Reads a simulated day where somebody points, drags the slider or moves it by keys.
(() => {
  "use strict";

  const known = new WeakMap();

  function valuesOf(figure) {
    if (!known.has(figure)) known.set(figure, JSON.parse(figure.dataset.traces));
    return known.get(figure);
  }

  function read(figure) {
    const values = valuesOf(figure);
    const slider = figure.querySelector(".hour");
    const at = Math.min(Number(slider.value), values.x.length - 1);
    const parts = Object.keys(values)
      .filter((key) => key !== "x" && key !== "clock")
      .map((key) => `${key} ${values[key][at]}`);
    const text = `${values.clock[at]}: ${parts.join(", ")}`;
    figure.querySelector(".reading").textContent = text;
    slider.setAttribute("aria-valuetext", text);
    const cursor = figure.querySelector(".cursor");
    cursor.setAttribute("x1", values.x[at]);
    cursor.setAttribute("x2", values.x[at]);
  }

  function pointed(event) {
    const figure = event.target.closest && event.target.closest(".traces");
    const drawing = figure && event.target.closest("svg");
    if (!drawing) return;
    const values = valuesOf(figure);
    const box = drawing.getBoundingClientRect();
    const x = ((event.clientX - box.left) / box.width) * drawing.viewBox.baseVal.width;
    let best = 0;
    values.x.forEach((place, k) => {
      if (Math.abs(place - x) < Math.abs(values.x[best] - x)) best = k;
    });
    figure.querySelector(".hour").value = best;
    read(figure);
  }

  function begin(root) {
    root.querySelectorAll(".traces").forEach((figure) => {
      const slider = figure.querySelector(".hour");
      slider.max = valuesOf(figure).x.length - 1;
      read(figure);
    });
  }

  // The hour that is read goes into the address: the drawing shows it, and it can be kept and sent.
  document.addEventListener("click", (event) => {
    const button = event.target.closest && event.target.closest(".pin-hour");
    if (!button) return;
    const figure = button.closest(".traces");
    const slider = figure.querySelector(".hour");
    const address = new URL(window.location.href);
    address.searchParams.set("hour", valuesOf(figure).clock[Number(slider.value)].slice(0, 2).replace(/^0/, ""));
    address.searchParams.set("tab", "day");
    window.location.assign(address);
  });
  document.addEventListener("pointermove", pointed);
  document.addEventListener("pointerdown", pointed);
  document.addEventListener("input", (event) => {
    if (event.target.classList && event.target.classList.contains("hour")) read(event.target.closest(".traces"));
  });
  document.addEventListener("htmx:afterSettle", () => begin(document));
  document.addEventListener("DOMContentLoaded", () => begin(document));
})();
