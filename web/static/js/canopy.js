// Drag and arrow keys in the drawing, keys of the page. All figures come from the server.
(() => {
  "use strict";
  const STEP_M = 0.01, BIG_STEP_M = 0.1, PREVIEW_MS = 140, SETTLE_MS = 450;
  const workspace = () => document.getElementById("workspace");
  const token = () => JSON.parse(document.body.getAttribute("hx-headers"))["X-CSRFToken"];
  const axesOf = {
    plan: (dx, dy) => ({ x: dx, y: -dy }),
    front: (dx, dy, kind) => (kind === "fixtures" ? { x: dx, z: -dy } : { x: dx }),
    side: (dx, dy, kind) => (kind === "fixtures" ? { y: dx, z: -dy } : { y: dx }),
  };

  const moveUrl = (part) => workspace().dataset.base.replace(/light\/$/, `part/${part.dataset.kind}/${part.dataset.id}/move/`);

  function place(part, shift) {
    const out = {};
    for (const [axis, delta] of Object.entries(shift)) {
      out[`${axis}_m`] = Math.max(0, Number(part.dataset[axis]) + delta).toFixed(4);
    }
    return out;
  }

  // Ask what would move, without storing: only the light, the margins and the title block are renewed.
  let asking = null, waiting = null;
  async function preview(part, values) {
    if (asking) { waiting = [part, values]; return; }
    asking = new AbortController();
    const body = new URLSearchParams({ ...values, preview: "1", station: workspace().dataset.station });
    try {
      const answer = await fetch(moveUrl(part), {
        method: "POST", body, signal: asking.signal, headers: { "X-CSRFToken": token(), "HX-Request": "true" },
      });
      if (answer.ok) {
        const page = new DOMParser().parseFromString(await answer.text(), "text/html");
        for (const id of ["field-plan", "margins", "title-block", "stations", "said"]) {
          const fresh = page.getElementById(id), old = document.getElementById(id);
          if (fresh && old && drag) { old.replaceWith(document.adoptNode(fresh)); }
        }
      }
    } catch (error) { if (error.name !== "AbortError") { throw error; } }
    asking = null;
    if (waiting && drag) { const next = waiting; waiting = null; preview(...next); }
  }

  function settle(part, values) {
    waiting = null;
    if (asking) { asking.abort(); }
    const view = part.closest("svg").id;
    htmx.ajax("POST", moveUrl(part), {
      target: "#workspace", swap: "outerHTML",
      values: { ...values, station: workspace().dataset.station, selected: part.dataset.id },
    }).then(() => {
      const again = document.querySelector(`#${view} [data-id="${part.dataset.id}"]`);
      if (again) { again.focus({ preventScroll: true }); }
    });
  }

  let drag = null, last = 0;
  document.addEventListener("pointerdown", (event) => {
    const part = event.target.closest(".view .part");
    if (!part || event.button) { return; }
    const svg = part.closest("svg");
    const perPx = svg.viewBox.baseVal.width / svg.getBoundingClientRect().width / Number(svg.dataset.scale);
    drag = { part, svg, perPx, x: event.clientX, y: event.clientY, moved: false, shift: {} };
    svg.setPointerCapture(event.pointerId);
    part.focus({ preventScroll: true });
    select(part.dataset.id);
    event.preventDefault();
  });
  document.addEventListener("pointermove", (event) => {
    if (!drag) { return; }
    const dx = event.clientX - drag.x, dy = event.clientY - drag.y;
    if (!drag.moved && Math.hypot(dx, dy) < 4) { return; }
    drag.moved = true;
    const view = drag.svg.dataset.view, kind = drag.part.dataset.kind;
    drag.shift = axesOf[view](dx * drag.perPx, dy * drag.perPx, kind);
    const scale = drag.svg.viewBox.baseVal.width / drag.svg.getBoundingClientRect().width;
    const vertical = view === "plan" || kind === "fixtures";
    drag.part.setAttribute("transform", `translate(${dx * scale} ${vertical ? dy * scale : 0})`);
    drag.part.classList.add("dragging");
    if (event.timeStamp - last > PREVIEW_MS) { last = event.timeStamp; preview(drag.part, place(drag.part, drag.shift)); }
  });
  function drop() {
    if (!drag) { return; }
    const { part, moved, shift } = drag;
    drag = null;
    if (moved) { settle(part, place(part, shift)); }
  }
  document.addEventListener("pointerup", drop);
  document.addEventListener("pointercancel", () => {
    if (drag) { drag.part.removeAttribute("transform"); drag.part.classList.remove("dragging"); drag = null; }
  });
  // A finger on a part moves the part; elsewhere it scrolls the page.
  document.addEventListener("touchstart", (event) => {
    if (event.target.closest && event.target.closest(".view .part")) { event.preventDefault(); }
  }, { passive: false });

  // What is selected in the drawing is selected in the schedule, and the other way round.
  function select(id) {
    document.querySelectorAll(".part.selected, tr.selected").forEach((item) => item.classList.remove("selected"));
    if (id) { document.querySelectorAll(`.part[data-id="${id}"], tr[data-row="${id}"]`).forEach((item) => item.classList.add("selected")); }
  }
  document.addEventListener("focusin", (event) => {
    const row = event.target.closest("tr[data-row]"), part = event.target.closest(".view .part");
    if (row) { select(row.dataset.row); } else if (part) { select(part.dataset.id); }
  });

  let pending = null;
  function nudge(part, event) {
    const step = event.shiftKey ? BIG_STEP_M : STEP_M;
    const [dx, dy] = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, -step], ArrowDown: [0, step] }[event.key];
    const shift = axesOf[part.closest("svg").dataset.view](dx, dy, part.dataset.kind);
    const values = place(part, shift);
    for (const [key, value] of Object.entries(values)) { part.dataset[key[0]] = value; }
    const svg = part.closest("svg"), scale = Number(svg.dataset.scale);
    const seen = part.transform.baseVal.consolidate(), base = seen ? seen.matrix : { e: 0, f: 0 };
    const upright = svg.dataset.view === "plan" || part.dataset.kind === "fixtures";
    part.setAttribute("transform", `translate(${base.e + dx * scale} ${upright ? base.f + dy * scale : 0})`);
    clearTimeout(pending && pending.timer);
    const merged = pending && pending.part === part ? { ...pending.values, ...values } : values;
    pending = { part, values: merged, timer: setTimeout(() => { const done = pending; pending = null; settle(done.part, done.values); }, SETTLE_MS) };
  }

  document.addEventListener("keydown", (event) => {
    const part = event.target.closest && event.target.closest(".view .part");
    if (part && event.key.startsWith("Arrow")) { event.preventDefault(); nudge(part, event); return; }
    if (part && (event.key === "Enter" || event.key === " ")) {
      const row = document.querySelector(`tr[data-row="${part.dataset.id}"] input, tr[data-row="${part.dataset.id}"] select`);
      if (row) { event.preventDefault(); row.focus(); }
      return;
    }
    if (event.target.closest("input, select, textarea, dialog") || event.metaKey || event.altKey || !workspace()) { return; }
    if (event.ctrlKey && event.key !== "z" && event.key !== "y") { return; }
    if (event.key === "z") { press("undo", event); }
    if (event.key === "y") { press("redo", event); }
    if (event.key === "?") { keys(); }
    if (/^[1-5]$/.test(event.key)) {
      const link = document.querySelectorAll(".stations a")[Number(event.key) - 1];
      if (link) { link.click(); }
    }
  });
  function press(id, event) { const button = document.getElementById(id); if (button && !button.disabled) { event.preventDefault(); button.click(); } }
  function keys() { const box = document.getElementById("keys"); if (box && !box.open) { box.showModal(); } }
  document.addEventListener("click", (event) => { if (event.target.closest("#show-keys")) { keys(); } });

  // Work that takes a second or two says so, and is not sent twice.
  document.addEventListener("submit", (event) => {
    const button = event.target.querySelector("[data-busy]");
    if (!button) { return; }
    if (event.target.dataset.sent) { event.preventDefault(); return; }
    event.target.dataset.sent = "1";
    button.setAttribute("aria-busy", "true");
    button.textContent = button.dataset.busy;
  });
  window.addEventListener("pageshow", () => document.querySelectorAll("[data-sent]").forEach((form) => delete form.dataset.sent));

  // Margins that were open stay open when their figures are renewed.
  let open = [], calm = false;
  document.addEventListener("htmx:beforeSwap", () => {
    calm = Boolean(document.querySelector(".calm[open]"));
    open = [...document.querySelectorAll(".margin[open]")].map((item) => item.dataset.margin);
  });
  document.addEventListener("htmx:afterSwap", (event) => {
    if (event.target.id !== "workspace" && !event.target.closest?.("body")) { return; }
    const good = document.querySelector(".calm");
    if (good && calm) { good.open = true; }
    for (const name of open) {
      const item = document.querySelector(`.margin[data-margin="${CSS.escape(name)}"]`);
      if (item && !item.open) { item.open = true; }
    }
  });
  document.addEventListener("htmx:responseError", (event) => tell(event.detail.xhr.status === 403
    ? "This page has grown too old. Reload it; nothing was changed." : "That did not work; nothing was changed. Reload the page and try again."));
  document.addEventListener("htmx:sendError", () => tell("The application does not answer. What you typed is still here; nothing was changed."));
  function tell(words) { const said = document.getElementById("said"); if (said) { said.textContent = words; } }
})();
