// In the tree of plugs a lamp or device is dragged onto what it is plugged into; the chooser beside it does the same.
(() => {
  "use strict";

  let carried = "";
  const nodeOf = (event) => (event.target.closest ? event.target.closest(".plug-node[data-takes]") : null);

  document.addEventListener("dragstart", (event) => {
    const load = event.target.closest && event.target.closest(".plug-load[data-part]");
    carried = load ? load.dataset.part : "";
  });
  document.addEventListener("dragover", (event) => {
    if (!carried || !nodeOf(event)) return;
    event.preventDefault();
    document.querySelectorAll(".plug-node.onto").forEach((node) => node.classList.remove("onto"));
    nodeOf(event).classList.add("onto");
  });
  document.addEventListener("dragend", () => {
    carried = "";
    document.querySelectorAll(".plug-node.onto").forEach((node) => node.classList.remove("onto"));
  });
  document.addEventListener("drop", (event) => {
    const node = nodeOf(event);
    const load = carried && document.querySelector(`.plug-load[data-part="${carried}"] select`);
    if (!node || !load) return;
    event.preventDefault();
    // A circuit itself stands for the space's own plug.
    const wanted = node.classList.contains("circuit") ? "" : node.dataset.node;
    if (load.value !== wanted) {
      load.value = wanted;
      load.dispatchEvent(new Event("change", { bubbles: true }));
    }
  });
})();
// A sheet to hang up.
document.addEventListener("click", (event) => {
  if (event.target.closest && event.target.closest("[data-print]")) window.print();
});
// Along the day on a circuit: what is on at a minute.
(() => {
  "use strict";

  document.addEventListener("input", (event) => {
    if (!event.target.matches || !event.target.matches("[data-scrub]")) return;
    const minute = Number(event.target.value),
      at = Math.floor(minute / 5);
    const time = `${String(Math.floor(minute / 60)).padStart(2, "0")}:${String(minute % 60).padStart(2, "0")}`;
    const days = JSON.parse(document.getElementById("scrub-data").textContent);
    const words = days.map((day) => {
      const on = day.loads.filter((load) => load.watts[at] > 0);
      const total = on.reduce((sum, load) => sum + load.watts[at], 0);
      return `${day.name}: up to ${day.may[at]} W, by the clock ${total} W${on.length ? ` (${on.map((load) => `${load.name} ${load.watts[at]} W`).join(", ")})` : ""}`;
    });
    document.getElementById("scrubbed").textContent = `${time}  ${words.join(" · ")}`;
    document.querySelectorAll("[data-now]").forEach((line) => {
      const left = 58,
        right = 710,
        x = left + ((right - left) * minute) / 1440;
      line.removeAttribute("hidden");
      line.setAttribute("x1", x);
      line.setAttribute("x2", x);
    });
  });
})();
