// Drag and arrow keys in the drawing, keys of the page. All figures come from the server.
(() => {
  "use strict";
  const STEP_M = 0.01,
    BIG_STEP_M = 0.1,
    PREVIEW_MS = 140,
    SETTLE_MS = 450;
  const workspace = () => document.getElementById("workspace");
  const token = () => JSON.parse(document.body.getAttribute("hx-headers"))["X-CSRFToken"];
  const LIFTED = ["fixtures", "stirrers", "devices"];
  const ways = {
    plan: (dx, dy) => ({ x: dx, y: -dy }),
    front: (dx, dy, kind) => (LIFTED.includes(kind) ? { x: dx, z: -dy } : { x: dx }),
    side: (dx, dy, kind) => (LIFTED.includes(kind) ? { y: dx, z: -dy } : { y: dx }),
  };
  // An opening slides on its face: the server says which of its measures a view shows across and up.
  function axesOf(part, view, dx, dy) {
    if (part.dataset.kind !== "openings") {
      return ways[view](dx, dy, part.dataset.kind);
    }
    const out = {};
    if (part.dataset.across) {
      out[part.dataset.across] = dx;
    }
    if (part.dataset.up) {
      out[part.dataset.up] = -dy;
    }
    return out;
  }
  const slides = (part, view) =>
    part.dataset.kind === "openings"
      ? [Boolean(part.dataset.across), Boolean(part.dataset.up)]
      : [true, view === "plan" || LIFTED.includes(part.dataset.kind)];

  let drag = null,
    frame = null;
  const moveUrl = (part) => `${workspace().dataset.base}part/${part.dataset.kind}/${part.dataset.id}/move/`;

  function place(part, shift) {
    const out = {};
    for (const [axis, delta] of Object.entries(shift)) {
      out[`${axis}_m`] = Math.max(0, Number(part.dataset[axis]) + delta).toFixed(4);
    }
    return out;
  }

  // Ask what would move, without storing: only the light, the margins and the title block are renewed.
  const picked = () => [...document.querySelectorAll("#schedule .pick:checked")].map((box) => box.value);
  const fellows = (part) => (part.dataset.kind === "plants" && picked().includes(part.dataset.id) ? picked() : []);
  function bodyOf(part, values) {
    const body = new URLSearchParams({ ...values, selected: part.dataset.id });
    fellows(part).forEach((id) => body.append("with", id));
    return body;
  }
  let asking = null,
    waiting = null;
  async function preview(part, values) {
    if (asking) {
      waiting = [part, values];
      return;
    }
    asking = new AbortController();
    const body = bodyOf(part, values);
    body.set("preview", "1");
    try {
      const answer = await fetch(moveUrl(part), {
        method: "POST",
        body,
        signal: asking.signal,
        headers: { "X-CSRFToken": token(), "HX-Request": "true", "HX-Current-URL": location.href },
      });
      if (answer.ok) {
        const page = new DOMParser().parseFromString(await answer.text(), "text/html");
        for (const id of ["field-plan", "margins", "title-block", "stations", "said"]) {
          const fresh = page.getElementById(id),
            old = document.getElementById(id);
          if (fresh && old && drag) {
            old.replaceWith(document.adoptNode(fresh));
          }
        }
      }
    } catch (error) {
      if (error.name !== "AbortError") {
        throw error;
      }
    }
    asking = null;
    if (waiting && drag) {
      const next = waiting;
      waiting = null;
      preview(...next);
    }
  }

  function settle(part, values, back) {
    waiting = null;
    if (asking) {
      asking.abort();
    }
    const view = part.closest("svg").id,
      kept = picked();
    htmx
      .ajax("POST", moveUrl(part), {
        target: "#workspace",
        swap: "outerHTML",
        values: { ...values, selected: part.dataset.id, with: fellows(part) },
      })
      .then(() => {
        pick(kept);
        const again = document.querySelector(back || `#${view} [data-id="${part.dataset.id}"]`);
        if (again) {
          again.focus({ preventScroll: true });
        }
      });
  }

  // In the plan a dragged plant falls in line with others, and on whole centimetres.
  const SNAP_M = 0.012;
  function snap(part, shift) {
    const svg = part.closest("svg"),
      out = { ...shift };
    svg.querySelectorAll(".guide").forEach((line) => line.remove());
    if (svg.dataset.view !== "plan" || part.dataset.kind !== "plants") {
      return out;
    }
    const others = [...svg.querySelectorAll(".plant")].filter(
      (item) => item !== part && !fellows(part).includes(item.dataset.id),
    );
    for (const axis of ["x", "y"]) {
      if (!(axis in out)) {
        continue;
      }
      const here = Number(part.dataset[axis]) + out[axis];
      const near = others.find((item) => Math.abs(Number(item.dataset[axis]) - here) < SNAP_M);
      const to = near ? Number(near.dataset[axis]) : Math.round(here * 100) / 100;
      out[axis] = to - Number(part.dataset[axis]);
      if (near) {
        guide(svg, axis, near);
      }
    }
    return out;
  }
  function guide(svg, axis, near) {
    const box = svg.querySelector(".wall").getBBox(),
      crown = near.querySelector(".crown").getBBox();
    const line = document.createElementNS("http://www.w3.org/2000/svg", "line");
    const x = crown.x + crown.width / 2,
      y = crown.y + crown.height / 2;
    const ends = axis === "x" ? [x, box.y, x, box.y + box.height] : [box.x, y, box.x + box.width, y];
    ["x1", "y1", "x2", "y2"].forEach((name, k) => line.setAttribute(name, ends[k]));
    line.classList.add("guide");
    svg.append(line);
  }

  let last = 0;
  document.addEventListener("pointerdown", (event) => {
    const part = event.target.closest(".view .part");
    if (!part || event.button) {
      return;
    }
    const svg = part.closest("svg");
    const perPx = svg.viewBox.baseVal.width / svg.getBoundingClientRect().width / Number(svg.dataset.scale);
    drag = { part, svg, perPx, x: event.clientX, y: event.clientY, moved: false, shift: {} };
    svg.setPointerCapture(event.pointerId);
    part.focus({ preventScroll: true });
    select(part.dataset.id);
    event.preventDefault();
  });
  document.addEventListener("pointermove", (event) => {
    if (!drag || drag.dimming) {
      return;
    }
    const dx = event.clientX - drag.x,
      dy = event.clientY - drag.y;
    if (!drag.moved && Math.hypot(dx, dy) < 4) {
      return;
    }
    drag.moved = true;
    const view = drag.svg.dataset.view,
      plant = drag.part.dataset.kind === "plants";
    drag.shift = snap(drag.part, axesOf(drag.part, view, dx * drag.perPx, dy * drag.perPx));
    const scale = drag.svg.viewBox.baseVal.width / drag.svg.getBoundingClientRect().width;
    const [across, up] = slides(drag.part, view),
      perM = Number(drag.svg.dataset.scale);
    const move =
      view === "plan" && plant
        ? `translate(${drag.shift.x * perM} ${-drag.shift.y * perM})`
        : `translate(${across ? dx * scale : 0} ${up ? dy * scale : 0})`;
    [drag.part, ...fellows(drag.part).map((id) => drag.svg.querySelector(`.part[data-id="${id}"]`))].forEach(
      (item) => item && item.setAttribute("transform", move),
    );
    drag.part.classList.add("dragging");
    if (event.timeStamp - last > PREVIEW_MS) {
      last = event.timeStamp;
      preview(drag.part, place(drag.part, drag.shift));
    }
  });
  function drop() {
    if (!drag || drag.dimming) {
      return;
    }
    const { part, moved, shift, svg } = drag;
    drag = null;
    svg.querySelectorAll(".guide").forEach((line) => line.remove());
    if (moved) {
      settle(part, place(part, shift));
    }
  }
  document.addEventListener("pointerup", drop);
  // A drag that is broken off stores nothing: what its previews showed gives way to what stands.
  document.addEventListener("pointercancel", () => {
    if (!drag || !drag.part) {
      return;
    }
    const { moved } = drag;
    drag.part.removeAttribute("transform");
    drag.part.classList.remove("dragging");
    drag = waiting = null;
    if (moved) {
      htmx.ajax("GET", workspace().dataset.base + location.search, { target: "#workspace", swap: "outerHTML" });
    }
  });
  // A finger on a part moves the part; elsewhere it scrolls the page.
  document.addEventListener(
    "touchstart",
    (event) => {
      if (event.target.closest && event.target.closest(".view .part, .view .airpart")) {
        event.preventDefault();
      }
    },
    { passive: false },
  );

  let dimming = 0;
  // A dimmer's slider shows what would come of it while it moves, and is stored when it is let go.
  document.addEventListener("input", (event) => {
    const id = event.target.dataset && event.target.dataset.dim;
    if (!id) {
      return;
    }
    const part = document.querySelector(`.part[data-kind="fixtures"][data-id="${id}"]`);
    const typed = document.querySelector(`[name="${id}-dim"]`);
    if (typed) {
      typed.value = `${Math.round(event.target.value * 100)} %`;
    }
    if (part) {
      drag = drag || { dimming: true };
      preview(part, { dim: event.target.value });
    }
  });
  document.addEventListener(
    "change",
    (event) => {
      const id = event.target.dataset && event.target.dataset.dim;
      if (!id) {
        return;
      }
      event.stopPropagation();
      // Keys change it step by step: wait for the last one.
      const value = event.target.value;
      clearTimeout(dimming);
      dimming = setTimeout(() => {
        drag = null;
        const part = document.querySelector(`.part[data-kind="fixtures"][data-id="${id}"]`);
        if (part) {
          settle(part, { dim: value }, `[data-dim="${id}"]`);
        }
      }, SETTLE_MS);
    },
    true,
  );

  // Pointing at the plan or the front view reads the light there: in all, from each lamp, by way of the walls.
  let reading = 0,
    readingBusy = false;
  async function read(at) {
    const out = document.getElementById("probe");
    if (!out || readingBusy) {
      return;
    }
    readingBusy = true;
    try {
      const answer = await fetch(`${out.dataset.url}?${new URLSearchParams(at)}`, {
        headers: { "HX-Request": "true", "HX-Current-URL": location.href },
      });
      if (answer.ok) {
        out.replaceChildren(...new DOMParser().parseFromString(await answer.text(), "text/html").body.childNodes);
      }
    } finally {
      readingBusy = false;
    }
  }
  const mapHeight = () => {
    const level = document.getElementById("level");
    return level ? level.value : 0.1;
  };
  document.addEventListener("pointermove", (event) => {
    if (event.timeStamp - reading >= 90) {
      readAt(event);
    }
  });
  // A finger has no pointer to hover with: a tap reads.
  document.addEventListener("pointerup", (event) => event.pointerType === "touch" && readAt(event));
  function readAt(event) {
    const svg = event.target.closest && event.target.closest("#view-plan, #view-front");
    if (!svg || (drag && drag.moved) || frame) {
      return;
    }
    const edge = svg.getBoundingClientRect(),
      scale = svg.viewBox.baseVal.width / edge.width,
      perM = Number(svg.dataset.scale);
    const wall = svg.querySelector(".wall").getBBox(),
      cut = document.getElementById("cut");
    const a = ((event.clientX - edge.left) * scale - wall.x) / perM,
      up = (wall.y + wall.height - (event.clientY - edge.top) * scale) / perM;
    if (a < 0 || up < 0 || a > wall.width / perM || up > wall.height / perM) {
      return;
    }
    reading = event.timeStamp;
    read(svg.dataset.view === "plan" ? { x: a, y: up, z: mapHeight() } : { x: a, y: cut ? cut.value : 0.1, z: up });
  }
  // With the keys: a plant or lamp that has the focus in the plan is read where it stands.
  document.addEventListener("focusin", (event) => {
    const part = event.target.closest && event.target.closest("#view-plan .part");
    if (part && !drag) {
      read({ x: part.dataset.x, y: part.dataset.y, z: mapHeight() });
    }
  });
  // On the survey's tab a click on the plan begins the next reading there: its place is written, the figure is typed.
  document.addEventListener("click", (event) => {
    const svg = event.target.closest && event.target.closest("#view-plan"),
      lines = document.getElementById("readings-lines");
    if (!svg || !lines) {
      return;
    }
    const edge = svg.getBoundingClientRect(),
      scale = svg.viewBox.baseVal.width / edge.width,
      perM = Number(svg.dataset.scale);
    const wall = svg.querySelector(".wall").getBBox(),
      level = Number(document.getElementById("level").value);
    const x = ((event.clientX - edge.left) * scale - wall.x) / perM,
      y = (wall.y + wall.height - (event.clientY - edge.top) * scale) / perM;
    if (x < 0 || y < 0 || x > wall.width / perM || y > wall.height / perM) {
      return;
    }
    const unit = Number(lines.dataset.perM);
    const words = [x, y, level].map((value) => String(Math.round(value * unit * 10) / 10)).join(" ");
    lines.value = `${lines.value.trim() ? `${lines.value.trimEnd()}\n` : ""}${words} `;
    lines.focus();
    lines.setSelectionRange(lines.value.length, lines.value.length);
  });
  document.addEventListener("click", (event) => {
    if (event.target.closest("[data-cancel]")) {
      event.target.closest(".proposal").remove();
    }
  });

  // Plants that are picked: ticked in the schedule, or framed in the plan.
  function pick(ids) {
    const wanted = new Set(ids);
    document.querySelectorAll("#schedule .pick").forEach((box) => {
      box.checked = wanted.has(box.value);
    });
    showPicked();
  }
  function showPicked() {
    const ids = new Set(picked()),
      words = document.getElementById("picked-count"),
      form = document.getElementById("many");
    document
      .querySelectorAll(".plant.part")
      .forEach((item) => item.classList.toggle("picked", ids.has(item.dataset.id)));
    document
      .querySelectorAll("tr[data-row]")
      .forEach((row) => row.classList.toggle("picked", ids.has(row.dataset.row)));
    if (words) {
      words.textContent = ids.size ? `${ids.size} picked` : "Tick plants to change many at once";
    }
    if (form) {
      form.hidden = !ids.size;
    }
  }
  document.addEventListener(
    "change",
    (event) => {
      if (event.target.classList.contains("pick")) {
        event.stopPropagation();
        showPicked();
      }
    },
    true,
  );
  document.addEventListener("click", (event) => {
    const quick = event.target.closest("[data-pick]");
    if (!quick) {
      return;
    }
    const boxes = [...document.querySelectorAll("#schedule .pick")],
      what = quick.dataset.pick;
    pick(
      boxes
        .filter((box) => what === "all" || (what !== "none" && box.closest("tr").dataset.crop === what))
        .map((box) => box.value),
    );
  });
  document.addEventListener("pointerdown", (event) => {
    const svg = event.target.closest && event.target.closest("#view-plan");
    if (
      !svg ||
      event.target.closest(".part") ||
      event.pointerType === "touch" ||
      event.button ||
      !document.querySelector("#schedule .pick")
    ) {
      return;
    }
    const box = document.createElementNS("http://www.w3.org/2000/svg", "rect");
    box.classList.add("frame");
    svg.append(box);
    frame = { svg, box, x: event.clientX, y: event.clientY };
    svg.setPointerCapture(event.pointerId);
    event.preventDefault();
  });
  document.addEventListener("pointermove", (event) => {
    if (!frame) {
      return;
    }
    const edge = frame.svg.getBoundingClientRect(),
      scale = frame.svg.viewBox.baseVal.width / edge.width;
    const set = (name, value) => frame.box.setAttribute(name, value);
    set("x", (Math.min(frame.x, event.clientX) - edge.left) * scale);
    set("y", (Math.min(frame.y, event.clientY) - edge.top) * scale);
    set("width", Math.abs(event.clientX - frame.x) * scale);
    set("height", Math.abs(event.clientY - frame.y) * scale);
  });
  document.addEventListener("pointerup", () => {
    if (!frame) {
      return;
    }
    const area = frame.box.getBoundingClientRect(),
      found = [];
    frame.svg.querySelectorAll(".plant.part").forEach((item) => {
      const crown = item.querySelector(".crown").getBoundingClientRect();
      const x = crown.left + crown.width / 2,
        y = crown.top + crown.height / 2;
      if (x >= area.left && x <= area.right && y >= area.top && y <= area.bottom) {
        found.push(item.dataset.id);
      }
    });
    frame.box.remove();
    frame = null;
    pick(found);
  });

  // The season's slider says its day while it is moved; months stand under their ticks.
  document.addEventListener("input", (event) => {
    if (event.target.id !== "ahead") {
      return;
    }
    const day = new Date(`${event.target.dataset.first}T12:00:00Z`);
    day.setUTCDate(day.getUTCDate() + Number(event.target.value));
    document.getElementById("day").value = day.toISOString().slice(0, 10);
    const line = document.querySelector(".today"),
      x = (820 * event.target.value) / event.target.max;
    if (line) {
      line.setAttribute("x1", x);
      line.setAttribute("x2", x);
    }
  });
  const placeMonths = () =>
    document.querySelectorAll(".months li").forEach((item) => {
      item.style.left = `${(100 * item.dataset.x) / 820}%`;
    });
  document.addEventListener("DOMContentLoaded", () => {
    placeMonths();
    showPicked();
  });
  document.addEventListener("htmx:afterSettle", () => {
    placeMonths();
    showPicked();
  });

  // What is selected in the drawing is selected in the schedule, and the other way round.
  function select(id) {
    document
      .querySelectorAll(".part.selected, .airpart.selected, .furniture.selected, [data-row].selected")
      .forEach((item) => item.classList.remove("selected"));
    if (id) {
      document
        .querySelectorAll(
          `.part[data-id="${id}"], .airpart[data-id="${id}"], .furniture[data-id="${id}"], [data-row="${id}"]`,
        )
        .forEach((item) => item.classList.add("selected"));
    }
  }
  // A part of a way of air is dragged onto another one's place; keys move it along, or take it out.
  let carried = null,
    again = null;
  const partUrl = (id, what) => {
    const [way, part] = id.split("/");
    return `${workspace().dataset.base}way/${way}/part/${part}/${what}/`;
  };
  function rearrange(item, what, values = {}) {
    again = item.dataset.id;
    htmx
      .ajax("POST", partUrl(item.dataset.id, what), {
        target: "#workspace",
        swap: "outerHTML",
        values,
      })
      .then(() => {
        const fresh = document.querySelector(`.airpart[data-id="${again}"]`);
        if (fresh) {
          fresh.focus({ preventScroll: true });
        }
      });
  }
  const under = (event, item) => {
    const found = document.elementFromPoint(event.clientX, event.clientY);
    const other = found && found.closest(".view .airpart");
    return other && other !== item && other.dataset.id.split("/")[0] === item.dataset.id.split("/")[0] ? other : null;
  };
  document.addEventListener("pointerdown", (event) => {
    const item = event.target.closest && event.target.closest(".view .airpart");
    if (item && !event.button) {
      carried = { item, x: event.clientX, y: event.clientY, moved: false };
    }
  });
  document.addEventListener("pointermove", (event) => {
    if (!carried) {
      return;
    }
    const { item } = carried,
      dx = event.clientX - carried.x,
      dy = event.clientY - carried.y;
    if (!carried.moved && Math.hypot(dx, dy) < 5) {
      return;
    }
    carried.moved = true;
    const svg = item.closest("svg"),
      scale = svg.viewBox.baseVal.width / svg.getBoundingClientRect().width;
    item.setAttribute("transform", `translate(${dx * scale} ${dy * scale})`);
    item.classList.add("dragging");
    document.querySelectorAll(".airpart.onto").forEach((other) => other.classList.remove("onto"));
    const onto = under(event, item);
    if (onto) {
      onto.classList.add("onto");
    }
  });
  const putDown = (event) => {
    if (!carried) {
      return;
    }
    const { item, moved } = carried,
      onto = moved && event.type === "pointerup" ? under(event, item) : null;
    carried = null;
    item.removeAttribute("transform");
    item.classList.remove("dragging");
    document.querySelectorAll(".airpart.onto").forEach((other) => other.classList.remove("onto"));
    if (onto) {
      rearrange(item, "to", { onto: onto.dataset.id.split("/")[1] });
    }
    if (!moved && event.pointerType === "touch") {
      item.focus({ preventScroll: true });
      show(item);
    }
  };
  function show(item) {
    const row = document.querySelector(`[data-row="${item.dataset.id}"]`);
    if (row) {
      select(item.dataset.id);
      row.scrollIntoView({ block: "nearest" });
    }
  }
  document.addEventListener("pointerup", putDown);
  document.addEventListener("pointercancel", putDown);
  document.addEventListener("keydown", (event) => {
    const item = event.target.closest && event.target.closest(".view .airpart");
    const what = { ArrowLeft: "sooner", ArrowUp: "sooner", ArrowRight: "later", ArrowDown: "later", Delete: "remove" }[
      event.key
    ];
    if (item && what) {
      event.preventDefault();
      rearrange(item, what);
    }
  });

  // A part of a way of air has its measures in its row: a click brings them up.
  document.addEventListener("click", (event) => {
    const item = event.target.closest && event.target.closest(".view .airpart, .view .furniture[data-id]");
    if (item) {
      show(item);
    }
  });
  document.addEventListener("focusin", (event) => {
    const row = event.target.closest("[data-row]"),
      part = event.target.closest(".view .part, .view .airpart");
    if (row) {
      select(row.dataset.row);
    } else if (part) {
      select(part.dataset.id);
    }
  });

  let pending = null;
  function nudge(part, event) {
    const step = event.shiftKey ? BIG_STEP_M : STEP_M;
    const [dx, dy] = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, -step], ArrowDown: [0, step] }[
      event.key
    ];
    const shift = axesOf(part, part.closest("svg").dataset.view, dx, dy);
    const values = place(part, shift);
    for (const [key, value] of Object.entries(values)) {
      part.dataset[key[0]] = value;
    }
    const svg = part.closest("svg"),
      scale = Number(svg.dataset.scale);
    const seen = part.transform.baseVal.consolidate(),
      base = seen ? seen.matrix : { e: 0, f: 0 };
    const [across, up] = slides(part, svg.dataset.view);
    part.setAttribute(
      "transform",
      `translate(${base.e + (across ? dx * scale : 0)} ${base.f + (up ? dy * scale : 0)})`,
    );
    clearTimeout(pending && pending.timer);
    const merged = pending && pending.part === part ? { ...pending.values, ...values } : values;
    pending = {
      part,
      values: merged,
      timer: setTimeout(() => {
        const done = pending;
        pending = null;
        settle(done.part, done.values);
      }, SETTLE_MS),
    };
  }

  document.addEventListener("keydown", (event) => {
    const part = event.target.closest && event.target.closest(".view .part");
    if (part && event.key.startsWith("Arrow")) {
      event.preventDefault();
      nudge(part, event);
      return;
    }
    const thing = part || (event.target.closest && event.target.closest(".view .airpart"));
    if (thing && (event.key === "Enter" || event.key === " ")) {
      const row = document.querySelector(
        `tr[data-row="${thing.dataset.id}"] .form-control, tr[data-row="${thing.dataset.id}"] select`,
      );
      if (row) {
        event.preventDefault();
        row.focus();
      }
      return;
    }
    if (event.target.closest("input, select, textarea, dialog") || event.altKey || !workspace()) {
      return;
    }
    const key = event.key.toLowerCase(),
      held = event.ctrlKey || event.metaKey;
    if (key === "y" || (held && event.shiftKey && key === "z")) {
      press("redo", event);
    } else if (key === "z" && !event.shiftKey) {
      press("undo", event);
    }
    if (held) {
      return;
    }
    if (event.key === "?") {
      keys();
    }
    if (/^[0-9]$/.test(event.key)) {
      // 0 is the tenth.
      const link = document.querySelectorAll(".stations a")[(Number(event.key) || 10) - 1];
      if (link) {
        link.click();
      }
    }
  });
  function press(id, event) {
    const button = document.getElementById(id);
    if (button && !button.disabled) {
      event.preventDefault();
      button.click();
    }
  }
  function keys() {
    const box = document.getElementById("keys");
    if (box && !box.open) {
      box.showModal();
    }
  }
  document.addEventListener("click", (event) => {
    if (event.target.closest("#show-keys")) {
      keys();
    }
  });

  // A figure that was changed meanwhile: the row is sent again with one's own, or the page shows what is there.
  document.addEventListener("click", (event) => {
    const keep = event.target.closest("[data-keep]");
    if (keep) {
      htmx.trigger(keep.closest("[hx-post]"), "change");
    }
    if (event.target.closest("[data-reload]")) {
      location.reload();
    }
  });

  // Forms of the door say in which time zone the browser is.
  document.addEventListener("DOMContentLoaded", () =>
    document.querySelectorAll("[data-time-zone]").forEach((input) => {
      input.value = Intl.DateTimeFormat().resolvedOptions().timeZone || "";
    }),
  );

  // Work that takes a second or two says so, and is not sent twice.
  document.addEventListener("submit", (event) => {
    const button = event.target.querySelector("[data-busy]");
    if (!button) {
      return;
    }
    if (event.target.dataset.sent) {
      event.preventDefault();
      return;
    }
    event.target.dataset.sent = "1";
    button.setAttribute("aria-busy", "true");
    button.textContent = button.dataset.busy;
  });
  window.addEventListener("pageshow", () =>
    document.querySelectorAll("[data-sent]").forEach((form) => delete form.dataset.sent),
  );

  // Margins that were open stay open when their figures are renewed.
  let open = [],
    calm = false;
  document.addEventListener("htmx:beforeSwap", () => {
    calm = Boolean(document.querySelector(".calm[open]"));
    open = [...document.querySelectorAll(".margin[open]")].map((item) => item.dataset.margin);
  });
  document.addEventListener("htmx:afterSwap", (event) => {
    if (event.target.id !== "workspace" && !event.target.closest?.("body")) {
      return;
    }
    const good = document.querySelector(".calm");
    if (good && calm) {
      good.open = true;
    }
    for (const name of open) {
      const item = document.querySelector(`.margin[data-margin="${CSS.escape(name)}"]`);
      if (item && !item.open) {
        item.open = true;
      }
    }
  });
  const REFUSED = {
    403: "This page has grown too old. Reload it; nothing was changed.",
    507: "The disk of the server is full: nothing was stored. What was stored before is whole; make room, then try again.",
  };
  document.addEventListener("htmx:responseError", (event) =>
    tell(
      REFUSED[event.detail.xhr.status] || "That did not work; nothing was changed. Reload the page and try again.",
    ),
  );
  document.addEventListener("htmx:sendError", () =>
    tell("The application does not answer. What you typed is still here; nothing was changed."),
  );
  function tell(words) {
    const said = document.getElementById("said");
    if (said) {
      said.textContent = words;
    }
  }
})();
