// The trainer's clock: plays a simulated course forward, asks for a new one at each turn of a knob.
(() => {
  "use strict";

  const root = document.getElementById("trainer");
  if (!root) return;
  const settings = JSON.parse(root.dataset.settings);
  const byId = (id) => document.getElementById(id);
  const [go, faster, again] = [byId("go"), byId("faster"), byId("again")];
  // As wide as the screen gives, so that figures stay legible on a phone.
  const WIDE = root.clientWidth < 600 ? 400 : 720;
  const HIGH = 110, LEFT = 46, BOTTOM = 92, TOP = 6;
  root.querySelectorAll(".course svg").forEach((svg) => svg.setAttribute("viewBox", `0 0 ${WIDE} ${HIGH}`));
  const state = { now: 0, moves: [], course: null, running: false, fast: false, ended: false, last: 0, asked: 0 };

  function token() {
    return JSON.parse(document.body.getAttribute("hx-headers"))["X-CSRFToken"];
  }

  async function send(address) {
    const answer = await fetch(address, {
      method: "POST",
      headers: { "Content-Type": "application/json", "X-CSRFToken": token() },
      body: JSON.stringify({ moves: state.moves }),
    });
    if (!answer.ok) throw new Error(await answer.text());
    return answer;
  }

  function say(words) {
    byId("news").textContent = words;
  }

  // Asks for the course by the moves so far; a late answer to an earlier question is dropped.
  async function ask() {
    const mine = ++state.asked;
    try {
      const course = await (await send(root.dataset.run)).json();
      if (mine === state.asked) {
        state.course = course;
        draw();
      }
    } catch {
      say("The server did not answer; the clock is stopped. Try the knob again.");
      stop();
    }
  }

  function clock(hours) {
    const minutes = Math.floor((settings.starts + hours) * 60 + 0.5);
    const two = (n) => String(n).padStart(2, "0");
    return `${two(Math.floor(minutes / 60) % 24)}:${two(minutes % 60)}`;
  }

  function upTo() {
    const hours = state.course.hours;
    let count = 0;
    while (count < hours.length && hours[count] <= state.now) count += 1;
    return count;
  }

  function node(kind, attributes) {
    const made = document.createElementNS("http://www.w3.org/2000/svg", kind);
    Object.entries(attributes).forEach(([key, value]) => made.setAttribute(key, value));
    return made;
  }

  function text(at, y, words, anchor) {
    const made = node("text", { x: at, y, "text-anchor": anchor });
    made.textContent = words;
    return made;
  }

  // One scale for each course, wide enough for its band and all that will come; it never shrinks meanwhile.
  function scaleOf(figure, values) {
    const low = Number(figure.dataset.low), high = Number(figure.dataset.high);
    const pad = Math.max((high - low) * 0.5, 1e-6);
    const least = Math.min(low - pad, ...values), most = Math.max(high + pad, ...values);
    figure.least = Math.min(figure.least ?? least, least);
    figure.most = Math.max(figure.most ?? most, most);
    return (value) => BOTTOM - ((value - figure.least) / (figure.most - figure.least)) * (BOTTOM - TOP);
  }

  function x(hour) {
    return LEFT + (hour / settings.hours) * (WIDE - LEFT - 8);
  }

  // Hours with lamps off, shaded; the whole course knows them, and the person may.
  function nights(course) {
    const found = [];
    let begins = null;
    course.hours.forEach((hour, k) => {
      const dark = course.lit[k] < 0.5;
      if (dark && begins === null) begins = hour;
      if (begins !== null && (!dark || k === course.hours.length - 1)) {
        found.push(node("rect", { class: "night", x: x(begins), y: TOP, width: x(hour) - x(begins), height: BOTTOM - TOP }));
        begins = null;
      }
    });
    return found;
  }

  function draw() {
    const course = state.course;
    byId("clock").textContent = clock(state.now);
    if (!course) return;
    const count = upTo();
    let credits = 0, counted = 0;
    document.querySelectorAll(".course").forEach((figure) => {
      const goal = course.goals[Number(figure.dataset.goal)];
      const so_far = goal.values.slice(0, Math.max(count, 1));
      const y = scaleOf(figure, so_far);
      const svg = figure.querySelector("svg");
      const from = x(Number(figure.dataset.from)), to = x(Number(figure.dataset.to));
      const low = Number(figure.dataset.low), high = Number(figure.dataset.high);
      const parts = [
        node("rect", { class: "band", x: from, width: Math.max(to - from, 0), y: y(high), height: y(low) - y(high) }),
        text(LEFT - 5, y(high) + 4, high, "end"), text(LEFT - 5, y(low) + 4, low, "end"),
        node("line", { class: "grid", x1: LEFT, x2: WIDE - 8, y1: BOTTOM, y2: BOTTOM }),
      ];
      const every = (settings.hours > 15 ? 4 : 2) * (WIDE < 600 ? 2 : 1);
      for (let hour = 0; hour <= settings.hours; hour += every) {
        parts.push(text(x(hour), HIGH - 4, clock(hour), hour + 0.5 > settings.hours ? "end" : "middle"));
      }
      parts.unshift(...nights(course));
      const points = so_far.map((value, k) => `${x(course.hours[k]).toFixed(1)},${y(value).toFixed(1)}`);
      parts.push(node("polyline", { class: "air", points: points.join(" ") }));
      state.moves.forEach((move) => {
        parts.push(node("line", { class: "turned", x1: x(move.at_h), x2: x(move.at_h), y1: TOP, y2: BOTTOM }));
      });
      parts.push(node("line", { class: "cursor", x1: x(state.now), x2: x(state.now), y1: TOP, y2: BOTTOM }));
      svg.replaceChildren(...parts);
      const value = so_far[so_far.length - 1];
      const counts = goal.credit[Math.max(count - 1, 0)];
      const word = counts === null ? "" : counts >= 1 ? ", inside" : value > high ? ", too much" : ", too little";
      figure.querySelector(".now").textContent = `${value} ${figure.dataset.unit}${word}`;
      figure.classList.toggle("outside", counts !== null && counts < 1);
      const mine = goal.credit.slice(0, count).filter((credit) => credit !== null);
      if (mine.length) {
        credits += mine.reduce((sum, credit) => sum + credit, 0) / mine.length;
        counted += 1;
      }
    });
    byId("held").textContent = counted ? `held so far: ${Math.round((100 * credits) / counted)}` : "";
  }

  function stop() {
    state.running = false;
    go.textContent = state.ended ? "Ended" : state.now > 0 ? "Go on" : "Begin";
  }

  async function end() {
    state.ended = true;
    stop();
    go.disabled = true;
    say("Ended: what you did is being worked out.");
    try {
      byId("told").innerHTML = await (await send(root.dataset.finish)).text();
      say("");
      byId("told").scrollIntoView({ block: "start" });
    } catch {
      say("The server did not answer; begin once more.");
    }
  }

  function tick(at) {
    if (!state.running) return;
    const passed = Math.min((at - state.last) / 1000, 0.25);
    state.last = at;
    const before = state.now;
    state.now = Math.min(
      settings.hours, state.now + (passed * (state.fast ? 3 : 1) * settings.hours) / (settings.minutes * 60)
    );
    settings.events.forEach((event) => {
      if (before < event.at && state.now >= event.at) say(`${clock(event.at)}: ${event.said}`);
    });
    draw();
    if (state.now >= settings.hours) end();
    else requestAnimationFrame(tick);
  }

  function start() {
    if (state.ended || !state.course) return;
    state.running = true;
    state.last = performance.now();
    go.textContent = "Pause";
    requestAnimationFrame(tick);
  }

  function toggle() {
    if (state.running) stop();
    else start();
  }

  function fresh() {
    Object.assign(state, { now: 0, moves: [], running: false, ended: false });
    go.disabled = false;
    stop();
    say("");
    byId("told").replaceChildren();
    document.querySelectorAll(".course").forEach((figure) => { figure.least = figure.most = undefined; });
    document.querySelectorAll("[data-begins]").forEach((input) => { input.checked = true; });
    ask();
  }

  go.addEventListener("click", toggle);
  again.addEventListener("click", fresh);
  faster.addEventListener("click", () => {
    state.fast = !state.fast;
    faster.setAttribute("aria-pressed", String(state.fast));
  });
  root.querySelectorAll(".knob input").forEach((input) => {
    input.addEventListener("change", () => {
      if (state.ended) return;
      const knob = input.closest(".knob").dataset.knob;
      const at_h = Math.round(state.now * 1000) / 1000;
      // Turned twice at the same minute, only where it ends up counts.
      state.moves = state.moves.filter((move) => move.knob !== knob || Math.abs(move.at_h - at_h) > 0.05);
      state.moves.push({ at_h, knob, value: Number(input.value) });
      ask();
    });
  });
  document.addEventListener("keydown", (event) => {
    const busy = event.target.closest && event.target.closest("button, summary, a, input:not([type=radio])");
    if (event.key === " " && !busy) {
      event.preventDefault();
      toggle();
    }
  });
  document.addEventListener("visibilitychange", () => { if (document.hidden) stop(); });
  ask();
})();
