// Pictures of a space through its days, and corners marked in one of them: by finger, mouse or arrow keys.
(() => {
  "use strict";
  const STEP = 0.002,
    FAST = 0.02,
    ZOOM = 3;
  const clip = (value) => Math.min(1, Math.max(0, value));

  // ------------------------------------------------------------------ the series
  function shots(series) {
    const of = series.querySelector("[data-of]")?.value || "";
    const all = [...series.querySelectorAll("[data-shot]")];
    for (const shot of all) shot.hidden = Boolean(of) && !shot.dataset.kinds.split(" ").includes(of);
    return all.filter((shot) => !shot.hidden);
  }

  function show(series, fresh = false) {
    const some = shots(series),
      slide = series.querySelector("[data-slide]"),
      how = series.querySelector("[data-how]").value,
      other = series.querySelector("[data-other]"),
      pick = (name) => series.querySelector(name);
    if (!some.length) return;
    slide.max = some.length - 1;
    if (fresh) slide.value = some.length - 1;
    const at = Math.min(Number(slide.value), some.length - 1),
      now = some[at];
    if (fresh || other.options.length !== some.length) {
      const was = other.value;
      other.replaceChildren(...some.map((shot) => new Option(shot.querySelector("b").textContent, shot.id)));
      other.value = some.some((shot) => shot.id === was) ? was : some[0].id;
    }
    const then = some.find((shot) => shot.id === other.value) || some[0],
      pair = how !== "one",
      // Laid flat, two pictures lie exactly over each other.
      flat = how === "ghost" && now.dataset.flat && then.dataset.flat,
      source = (shot) => (flat ? shot.dataset.flat : shot.dataset.src);
    const set = (name, shot) => {
      const image = pick(name);
      if (image.getAttribute("src") !== source(shot)) image.src = source(shot);
      image.alt = shot.dataset.words;
      pick(`${name.slice(0, -1)}-words]`).textContent = shot.dataset.words;
    };
    set("[data-now]", now);
    if (pair) set("[data-then]", then);
    pick("[data-with]").hidden = !pair;
    pick("[data-through]").hidden = how !== "ghost";
    pick("[data-second]").hidden = !pair;
    pick("[data-stage]").dataset.how = how;
    pick("[data-then]").style.opacity = how === "ghost" ? pick("[data-opacity]").value / 100 : 1;
    slide.setAttribute("aria-valuetext", now.dataset.words);
    for (const shot of some) shot.toggleAttribute("data-chosen", shot === now);
  }

  // ------------------------------------------------------------------ marks in a picture
  function settle(marker) {
    const at = (handle) => [Number(handle.dataset.x), Number(handle.dataset.y)];
    const corners = [...marker.querySelectorAll("[data-corner]")],
      card = marker.querySelector("[data-card]");
    for (const handle of [...corners, card]) {
      handle.style.left = `${100 * handle.dataset.x}%`;
      handle.style.top = `${100 * handle.dataset.y}%`;
    }
    marker.querySelector("polygon").setAttribute("points", corners.map((handle) => at(handle).join(",")).join(" "));
    marker.querySelector("[name=corners]").value = JSON.stringify(corners.map(at));
    card.hidden = !marker.closest("form").querySelector("[name$=card_kind]")?.value;
    marker.querySelector("[name=card]").value = card.hidden ? "" : JSON.stringify(at(card));
  }

  function look(marker, handle) {
    const loupe = marker.querySelector("[data-loupe]"),
      image = marker.querySelector("img"),
      wide = image.clientWidth,
      tall = image.clientHeight,
      half = loupe.clientWidth / 2 || 55;
    loupe.hidden = !handle;
    if (!handle) return;
    const x = Number(handle.dataset.x),
      y = Number(handle.dataset.y);
    loupe.style.backgroundImage = `url("${image.currentSrc || image.src}")`;
    loupe.style.backgroundSize = `${ZOOM * wide}px ${ZOOM * tall}px`;
    loupe.style.backgroundPosition = `${half - x * ZOOM * wide}px ${half - y * ZOOM * tall}px`;
    loupe.dataset.side = x < 0.5 && y < 0.5 ? "right" : "left";
  }

  function move(handle, x, y) {
    const marker = handle.closest("[data-floor]");
    handle.dataset.x = clip(x).toFixed(4);
    handle.dataset.y = clip(y).toFixed(4);
    settle(marker);
    look(marker, handle);
  }

  document.addEventListener("pointerdown", (event) => {
    const handle = event.target.closest?.(".marker .handle");
    if (!handle) return;
    event.preventDefault();
    handle.focus({ preventScroll: true });
    handle.setPointerCapture(event.pointerId);
    const box = handle.closest("[data-floor]").querySelector("img").getBoundingClientRect();
    // What was grabbed beside its middle stays so.
    const offX = event.clientX - box.left - handle.dataset.x * box.width,
      offY = event.clientY - box.top - handle.dataset.y * box.height;
    const drag = (to) => {
      const now = handle.closest("[data-floor]").querySelector("img").getBoundingClientRect();
      move(handle, (to.clientX - now.left - offX) / now.width, (to.clientY - now.top - offY) / now.height);
    };
    const stop = () => {
      handle.removeEventListener("pointermove", drag);
      look(handle.closest("[data-floor]"), null);
    };
    handle.addEventListener("pointermove", drag);
    handle.addEventListener("pointerup", stop, { once: true });
    handle.addEventListener("pointercancel", stop, { once: true });
    look(handle.closest("[data-floor]"), handle);
  });
  document.addEventListener("keydown", (event) => {
    const handle = event.target.closest?.(".marker .handle"),
      way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (!handle || !way) return;
    event.preventDefault();
    const step = event.shiftKey ? FAST : STEP;
    move(handle, Number(handle.dataset.x) + way[0] * step, Number(handle.dataset.y) + way[1] * step);
  });
  document.addEventListener("focusout", (event) => {
    const handle = event.target.closest?.(".marker .handle");
    if (handle) look(handle.closest("[data-floor]"), null);
  });

  // ------------------------------------------------------------------ a picture that was measured
  document.addEventListener("click", (event) => {
    const chosen = event.target.closest?.("[data-shot-pick]"),
      laid = event.target.closest?.("[data-laid]"),
      forget = event.target.closest?.("[data-unspot]");
    if (chosen) {
      const series = chosen.closest("[data-shots]"),
        slide = series.querySelector("[data-slide]");
      slide.value = shots(series).indexOf(chosen.closest("[data-shot]"));
      show(series);
    } else if (laid) {
      const form = laid.closest("form"),
        kind = form.querySelector("[data-tap]").value;
      if (!kind) return;
      const box = laid.getBoundingClientRect(),
        field = form.querySelector(`[name=${kind}]`),
        spots = JSON.parse(field.value || "[]");
      spots.push([clip((event.clientX - box.left) / box.width), clip((event.clientY - box.top) / box.height)]);
      field.value = JSON.stringify(spots);
      keepTap = kind;
      // One kind alone tells nothing apart: the other is asked for first.
      const both = ["leaf", "ground"].every((name) => JSON.parse(form.querySelector(`[name=${name}]`).value || "[]").length);
      if (both) htmx.trigger(form, "spot");
      else form.querySelector("[data-tap]").value = keepTap = kind === "leaf" ? "ground" : "leaf";
    } else if (forget) {
      const form = forget.closest("form");
      for (const name of ["leaf", "ground"]) form.querySelector(`[name=${name}]`).value = "[]";
      htmx.trigger(form, "spot");
    }
  });
  let keepTap = "";

  document.addEventListener("input", (event) => {
    const series = event.target.closest?.("[data-shots]");
    if (series) show(series);
  });
  document.addEventListener("change", (event) => {
    const series = event.target.closest?.("[data-shots]");
    if (series) show(series, event.target.matches("[data-of]"));
    if (event.target.matches?.("[data-show-mask]")) {
      event.target.closest("form").querySelector("[data-mask]").hidden = !event.target.checked;
    }
    const marker = event.target.closest?.("form")?.querySelector("[data-floor]");
    if (marker) settle(marker);
  });

  // ------------------------------------------------------------------ how far sending is
  document.addEventListener("htmx:xhr:progress", (event) => {
    const bar = event.target.querySelector?.("progress");
    if (!event.target.matches?.("[data-progress]") || !bar || !event.detail.lengthComputable) return;
    bar.hidden = false;
    bar.value = (100 * event.detail.loaded) / event.detail.total;
  });

  function begin(root) {
    for (const series of root.querySelectorAll("[data-shots]")) show(series, true);
    for (const marker of root.querySelectorAll("[data-floor]")) settle(marker);
    const tap = root.querySelector("[data-tap]");
    if (tap && keepTap) tap.value = keepTap;
  }
  document.addEventListener("DOMContentLoaded", () => begin(document));
  document.addEventListener("htmx:afterSwap", (event) => begin(event.detail.target.isConnected ? event.detail.target : document));
  document.addEventListener("htmx:oobAfterSwap", () => document.querySelectorAll("[data-shots]").forEach((series) => show(series)));
})();
