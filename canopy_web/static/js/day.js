// The band of the day: edges are dragged by mouse or finger, or moved by arrow keys; the server says what would fight.
(() => {
  "use strict";
  const STEP = 5,
    KEY_STEP = 15,
    WAIT_MS = 700,
    DAY = 1440,
    TRY_MS = 90;
  let held = null,
    tried = 0,
    due = 0,
    asked = 0;
  const box = () => document.querySelector("[data-band]");
  const clock = (minute) => {
    const at = ((minute % DAY) + DAY) % DAY;
    return `${String(Math.floor(at / 60)).padStart(2, "0")}:${String(at % 60).padStart(2, "0")}`;
  };
  const snapped = (minute) => Math.round(minute / STEP) * STEP;

  function minuteAt(svg, event) {
    const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
    return snapped((DAY * point.x) / 960);
  }

  function values(group) {
    return { start: Number(group.dataset.start), end: Number(group.dataset.end) };
  }

  // A lane keeps its length when its beginning is moved with nothing to hold its end.
  function moved(group, edge, minute) {
    const now = values(group);
    const alone = !group.querySelector('[data-edge="end"]');
    const length = (now.end - now.start + DAY) % DAY;
    if (edge === "start") {
      return alone ? { start: minute, end: minute + length } : { start: minute, end: now.end };
    }
    return { start: now.start, end: minute };
  }

  function say(group, next) {
    const out = document.getElementById("band-said");
    const hours = (((next.end - next.start) % DAY) + DAY) % DAY || DAY;
    if (out) {
      out.textContent = `${clock(next.start)} to ${clock(next.end)}, ${(hours / 60).toFixed(2).replace(/\.?0+$/, "")} h`;
    }
  }

  function body(group, next) {
    return { lane: group.dataset.lane, space: group.dataset.space, start: next.start, end: next.end };
  }

  function headers() {
    const given = document.querySelector("[hx-headers]");
    return { ...(given ? JSON.parse(given.getAttribute("hx-headers")) : {}), "HX-Request": "true", "HX-Current-URL": location.href };
  }

  async function tryOut(lane, space, edge, next) {
    const mine = (asked += 1);
    const answer = await fetch(box().dataset.try, {
      method: "POST",
      headers: headers(),
      body: new URLSearchParams({ lane, space, start: next.start, end: next.end }),
    });
    // A newer question is on its way, or it was let go.
    if (mine !== asked || !answer.ok || !box()) {
      return;
    }
    const focused = document.activeElement?.matches?.(".edge");
    box().innerHTML = await answer.text();
    const group = find(lane, space);
    if (group) {
      say(group, next);
      if (focused) {
        group.querySelector(`.edge[data-edge="${edge}"]`)?.focus({ preventScroll: true });
      }
    }
  }

  const find = (lane, space) =>
    box()?.querySelector(`.handles[data-lane="${CSS.escape(lane)}"][data-space="${CSS.escape(space)}"]`);

  function store(group, next) {
    asked += 1;
    htmx.ajax("POST", box().dataset.move, {
      source: box(),
      target: "#workspace",
      swap: "outerHTML",
      values: body(group, next),
    });
  }

  document.addEventListener("pointerdown", (event) => {
    const grip = event.target.closest?.("[data-band] .grip, [data-band] .edge");
    if (!grip || event.button) {
      return;
    }
    event.preventDefault();
    const group = grip.closest(".handles");
    held = { lane: group.dataset.lane, space: group.dataset.space, edge: grip.dataset.edge, next: null, base: values(group) };
    box().classList.add("dragging");
  });
  document.addEventListener("pointermove", (event) => {
    const svg = held && box()?.querySelector("svg");
    if (!svg) {
      return;
    }
    const group = find(held.lane, held.space);
    if (!group) {
      return;
    }
    group.dataset.start = held.base.start;
    group.dataset.end = held.base.end;
    held.next = moved(group, held.edge, minuteAt(svg, event));
    say(group, held.next);
    clearTimeout(due);
    const wait = Math.max(0, tried + TRY_MS - performance.now());
    due = setTimeout(() => {
      if (held?.next) {
        tried = performance.now();
        tryOut(held.lane, held.space, held.edge, held.next);
      }
    }, wait);
  });
  function drop() {
    if (!held) {
      return;
    }
    clearTimeout(due);
    const { lane, space, next } = held;
    held = null;
    box()?.classList.remove("dragging");
    const group = find(lane, space);
    if (next && group) {
      store(group, next);
    }
  }
  document.addEventListener("pointerup", drop);
  document.addEventListener("pointercancel", () => {
    if (held) {
      held = null;
      asked += 1;
      htmx.ajax("GET", location.href, { target: "#workspace", swap: "outerHTML" });
    }
  });
  document.addEventListener(
    "touchstart",
    (event) => event.target.closest?.("[data-band] .grip, [data-band] .edge") && event.preventDefault(),
    { passive: false },
  );

  let keyed = null,
    waiting = 0;
  document.addEventListener("keydown", (event) => {
    const edge = event.target.closest?.("[data-band] .edge");
    const by = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1, PageUp: 4, PageDown: -4 }[event.key];
    if (!edge) {
      return;
    }
    if (event.key === "Enter" && keyed) {
      event.preventDefault();
      settle();
      return;
    }
    if (by === undefined) {
      return;
    }
    event.preventDefault();
    const group = edge.closest(".handles");
    const { lane, space } = group.dataset;
    if (!keyed || keyed.lane !== lane || keyed.space !== space || keyed.edge !== edge.dataset.edge) {
      const now = values(group);
      keyed = { lane, space, edge: edge.dataset.edge, base: now, minute: now[edge.dataset.edge] };
    }
    keyed.minute += by * (event.shiftKey ? STEP : KEY_STEP);
    group.dataset.start = keyed.base.start;
    group.dataset.end = keyed.base.end;
    keyed.next = moved(group, keyed.edge, keyed.minute);
    tryOut(lane, space, keyed.edge, keyed.next);
    clearTimeout(waiting);
    waiting = setTimeout(settle, WAIT_MS);
  });
  function settle() {
    clearTimeout(waiting);
    const done = keyed;
    keyed = null;
    const group = done?.next && find(done.lane, done.space);
    if (group) {
      again = { ...done, gone: box() };
      store(group, done.next);
    }
  }
  // The edge that was moved keeps the focus.
  let again = null;
  document.addEventListener("htmx:afterSettle", () => {
    const edge = again && find(again.lane, again.space)?.querySelector(`.edge[data-edge="${again.edge}"]`);
    // The page that shows the new hours is the answer; what comes before it is not.
    if (edge && Number(edge.getAttribute("aria-valuenow")) === ((again.minute % DAY) + DAY) % DAY && !again.gone?.isConnected) {
      edge.focus({ preventScroll: true });
      again = null;
    }
  });
})();
