// Charts of what sensors showed: a panel a quantity, one cursor through all of them.
(() => {
  "use strict";
  const HEIGHT = 170;
  const css = (name) => getComputedStyle(document.documentElement).getPropertyValue(name).trim();
  // Lines are told apart by their strokes as well as by their colours.
  const STROKES = [[], [6, 3], [2, 3], [8, 3, 2, 3]];
  const inks = () => [css("--b7"), css("--air"), css("--ink"), css("--bad")];

  function veils(panel) {
    const found = [];
    let place = 1;
    panel.lines.forEach((line) => {
      place += 1;
      if (line.low) {
        found.push({ series: [place + 1, place], fill: css("--hair") });
        place += 2;
      }
    });
    return found;
  }

  function under(data, panel) {
    return (plot) => {
      const { ctx, bbox } = plot;
      ctx.save();
      ctx.beginPath();
      ctx.rect(bbox.left, bbox.top, bbox.width, bbox.height);
      ctx.clip();
      ctx.fillStyle = css("--hair");
      ctx.globalAlpha = 0.45;
      for (const [from, to] of data.dark) {
        const left = plot.valToPos(from, "x", true),
          right = plot.valToPos(to, "x", true);
        ctx.fillRect(left, bbox.top, right - left, bbox.height);
      }
      if (panel.band) {
        ctx.globalAlpha = 0.5;
        ctx.fillStyle = css("--line");
        for (let at = 0; at + 1 < panel.at.length; at += 1) {
          const low = panel.band.low[at],
            high = panel.band.high[at];
          if (low === null || high === null) continue;
          const left = Math.round(plot.valToPos(panel.at[at], "x", true)),
            right = Math.round(plot.valToPos(panel.at[at + 1], "x", true)),
            top = plot.valToPos(high, "y", true);
          ctx.globalAlpha = 0.22;
          ctx.fillRect(left, top, right - left, plot.valToPos(low, "y", true) - top);
        }
      }
      ctx.globalAlpha = 1;
      ctx.strokeStyle = css("--ink");
      for (const event of data.events) {
        const x = Math.round(plot.valToPos(event.at, "x", true));
        ctx.beginPath();
        ctx.moveTo(x, bbox.top);
        ctx.lineTo(x, bbox.top + 10);
        ctx.lineWidth = 3;
        ctx.stroke();
      }
      ctx.restore();
    };
  }

  function drawn(place, data, panel) {
    const series = [{}],
      columns = [panel.at],
      ink = inks();
    const say = (plot, value) => (value === null || value === undefined ? "–" : value.toFixed(panel.decimals));
    panel.lines.forEach((line, number) => {
      const stroke = ink[number % ink.length];
      series.push({ label: line.name, stroke, width: 1.6, dash: STROKES[number % STROKES.length], spanGaps: false, value: say });
      columns.push(line.mean);
      if (line.low) {
        series.push({ label: "lowest", stroke, width: 0.4, points: { show: false }, value: say });
        series.push({ label: "highest", stroke, width: 0.4, points: { show: false }, value: say });
        columns.push(line.low, line.high);
      }
    });
    if (panel.plan) {
      series.push({ label: "simulated", stroke: css("--ink-2"), width: 1.2, dash: [4, 4], points: { show: false }, value: say });
      columns.push(panel.plan);
    }
    const day = new Intl.DateTimeFormat("en-GB", { timeZone: data.zone, day: "numeric", month: "short" }),
      clock = new Intl.DateTimeFormat("en-GB", { timeZone: data.zone, hour: "2-digit", minute: "2-digit", hourCycle: "h23" }),
      at = (second, step) => {
        const moment = new Date(second * 1000),
          hour = clock.format(moment);
        return step >= 86400 || hour === "00:00" ? day.format(moment) : hour;
      };
    series[0] = { label: "At", value: (plot, second) => (second === null ? "–" : `${day.format(new Date(second * 1000))} ${clock.format(new Date(second * 1000))}`) };
    const axis = { stroke: css("--ink-2"), grid: { stroke: css("--hair"), width: 1 }, ticks: { stroke: css("--hair") }, font: "12px sans-serif" };
    return new uPlot(
      {
        width: place.clientWidth,
        height: HEIGHT,
        cursor: { sync: { key: "log" }, drag: { x: true, y: false } },
        scales: { x: { min: data.begin, max: data.end } },
        tzDate: (second) => uPlot.tzDate(new Date(second * 1000), data.zone),
        axes: [{ ...axis, values: (plot, splits, _, __, step) => splits.map((second) => at(second, step)) }, { ...axis, size: 52 }],
        series,
        bands: veils(panel),
        hooks: { drawClear: [under(data, panel)] },
      },
      columns,
      place,
    );
  }

  // What ran when: a lane each, on the charts' own time.
  function lanes(home, data) {
    const TALL = 22,
      box = document.createElement("div"),
      head = document.createElement("h3"),
      list = document.createElement("ul");
    box.className = "panel";
    head.textContent = "What ran";
    list.className = "visually-hidden";
    for (const lane of data.runs) {
      const item = document.createElement("li");
      item.textContent = `${lane.name}: ${lane.spans.length} times`;
      list.append(item);
    }
    box.append(head, list);
    home.append(box);
    const paint = (plot) => {
      const { ctx, bbox } = plot,
        tall = bbox.height / data.runs.length;
      ctx.save();
      data.runs.forEach((lane, number) => {
        const top = bbox.top + number * tall;
        ctx.fillStyle = css(lane.name.endsWith("by plan") ? "--b4" : "--air");
        ctx.globalAlpha = 0.75;
        for (const [from, to] of lane.spans) {
          const left = Math.max(bbox.left, plot.valToPos(from, "x", true)),
            right = Math.min(bbox.left + bbox.width, plot.valToPos(to, "x", true));
          ctx.fillRect(left, top + tall * 0.58, Math.max(1, right - left), tall * 0.34);
        }
        ctx.globalAlpha = 1;
        ctx.fillStyle = css("--ink");
        ctx.font = `${Math.round(11.5 * devicePixelRatio)}px sans-serif`;
        ctx.textAlign = "left";
        ctx.textBaseline = "bottom";
        ctx.fillText(lane.name, bbox.left + 4, top + tall * 0.56);
      });
      ctx.restore();
    };
    const height = TALL * data.runs.length + 10,
      plot = new uPlot(
        {
          width: box.clientWidth,
          height,
          cursor: { sync: { key: "log" }, drag: { x: true, y: false } },
          legend: { show: false },
          padding: [0, 25, 0, null],
          scales: { x: { min: data.begin, max: data.end }, y: { range: [0, 1] } },
          axes: [{ show: false }, { show: true, size: 52, values: () => [], grid: { show: false }, ticks: { show: false } }],
          series: [{}, {}],
          hooks: { draw: [paint] },
        },
        [
          [data.begin, data.end],
          [null, null],
        ],
        box,
      );
    new ResizeObserver(() => box.clientWidth && plot.setSize({ width: box.clientWidth, height })).observe(box);
  }

  // The year at a glance: a row a day, an hour a column.
  const WIDE = 11,
    TALLEST = 160;

  function glanced(home, grid) {
    const box = document.createElement("figure"),
      name = document.createElement("figcaption"),
      canvas = document.createElement("canvas"),
      words = document.createElement("p"),
      shades = [1, 2, 3, 4, 5, 6, 7, 8].map((number) => css(`--b${number}`)),
      ratio = Math.max(1, Math.round(devicePixelRatio)),
      unit = grid.unit ? ` ${grid.unit}` : "",
      high = Math.min(12, Math.max(2, Math.floor(TALLEST / grid.rows.length)));
    let at = [grid.rows.length - 1, 12];
    name.textContent = `${grid.name}: ${grid.low} to ${grid.high}${unit}`;
    words.className = "hint";
    words.setAttribute("role", "status");
    canvas.tabIndex = 0;
    canvas.setAttribute("role", "img");
    canvas.setAttribute("aria-label", `${grid.name}, hour by hour; arrow keys tell the hours`);
    canvas.width = 24 * WIDE * ratio;
    canvas.height = grid.rows.length * high * ratio;
    canvas.style.width = `${24 * WIDE}px`;
    canvas.style.height = `${grid.rows.length * high}px`;
    const ctx = canvas.getContext("2d");
    ctx.scale(ratio, ratio);
    grid.rows.forEach((row, day) =>
      row.forEach((value, hour) => {
        if (value !== null) {
          const share = (value - grid.low) / Math.max(1e-9, grid.high - grid.low);
          ctx.fillStyle = shades[Math.min(7, Math.max(0, Math.floor(8 * share)))];
          ctx.fillRect(hour * WIDE, day * high, WIDE, high);
        }
      }),
    );
    const tell = () => {
      const [day, hour] = at,
        value = grid.rows[day][hour],
        moment = new Date(`${grid.first}T00:00:00Z`);
      moment.setUTCDate(moment.getUTCDate() + day);
      const date = new Intl.DateTimeFormat("en-GB", { timeZone: "UTC", day: "numeric", month: "short", year: "numeric" }).format(moment);
      words.textContent = `${date}, ${String(hour).padStart(2, "0")}:00: ${value === null ? "nothing read" : value.toFixed(grid.decimals) + unit}`;
    };
    canvas.addEventListener("pointermove", (event) => {
      const place = canvas.getBoundingClientRect();
      at = [
        Math.min(grid.rows.length - 1, Math.max(0, Math.floor((event.clientY - place.top) / high))),
        Math.min(23, Math.max(0, Math.floor((event.clientX - place.left) / WIDE))),
      ];
      tell();
    });
    canvas.addEventListener("keydown", (event) => {
      const step = { ArrowUp: [-1, 0], ArrowDown: [1, 0], ArrowLeft: [0, -1], ArrowRight: [0, 1] }[event.key];
      if (step) {
        event.preventDefault();
        at = [Math.min(grid.rows.length - 1, Math.max(0, at[0] + step[0])), (at[1] + step[1] + 24) % 24];
        tell();
      }
    });
    box.append(name, canvas, words);
    home.append(box);
    tell();
  }

  async function glance(home) {
    home.dataset.begun = "1";
    const answer = await fetch(home.dataset.glance, { headers: { "HX-Current-URL": location.href } });
    if (answer.ok && home.isConnected) {
      const data = await answer.json();
      data.grids.forEach((grid) => glanced(home, grid));
    }
  }
  const glances = () => {
    const home = document.querySelector("#glance[open] .glances:not([data-begun])");
    if (home) {
      glance(home);
    }
  };
  document.addEventListener("toggle", glances, true);
  document.addEventListener("htmx:afterSettle", glances);

  // A slider beside a limit: what it is dragged to stands in the field, and is told as if it were typed.
  document.addEventListener("input", (event) => {
    const slider = event.target.closest?.("[data-drags]"),
      field = slider && document.getElementById(slider.dataset.drags);
    if (field) {
      field.value = slider.value;
    }
  });

  // It is kept once the hand rests or leaves it: a page drawn anew between two presses of a key would swallow the next.
  const REST_MS = 1200;
  let resting = 0,
    settle = null;
  const settled = () => {
    clearTimeout(resting);
    settle?.();
    settle = null;
  };
  document.addEventListener(
    "change",
    (event) => {
      const slider = event.target.closest?.("[data-drags]"),
        field = slider && document.getElementById(slider.dataset.drags);
      if (field) {
        event.stopPropagation();
        clearTimeout(resting);
        settle = () => field.isConnected && field.dispatchEvent(new Event("change", { bubbles: true }));
        resting = setTimeout(settled, REST_MS);
      }
    },
    true,
  );
  document.addEventListener("focusout", (event) => {
    if (event.target.closest?.("[data-drags]")) {
      settled();
    }
  });

  // The chart's library comes only where a chart is shown.
  let library = null;
  const fetched = (home) =>
    (library ||= new Promise((done, failed) => {
      const style = document.createElement("link");
      style.rel = "stylesheet";
      style.href = home.dataset.style;
      const script = document.createElement("script");
      script.src = home.dataset.script;
      script.onload = done;
      script.onerror = failed;
      document.head.append(style, script);
    }));

  async function begin() {
    const home = document.querySelector(".log-charts[data-series]:not([data-begun])");
    if (!home) {
      return;
    }
    home.dataset.begun = "1";
    const [answer] = await Promise.all([
      fetch(home.dataset.series, { headers: { "HX-Current-URL": location.href } }),
      fetched(home),
    ]);
    if (!answer.ok || !home.isConnected) {
      return;
    }
    const data = await answer.json();
    if (data.runs.length) {
      lanes(home, data);
    }
    for (const panel of data.panels) {
      const box = document.createElement("div");
      box.className = "panel";
      const head = document.createElement("h3");
      head.textContent = panel.unit ? `${panel.name}, ${panel.unit}` : panel.name;
      box.append(head);
      home.append(box);
      const plot = drawn(box, data, panel);
      new ResizeObserver(() => box.clientWidth && plot.setSize({ width: box.clientWidth, height: HEIGHT })).observe(box);
    }
  }
  // A large table goes in pieces, with a bar, and from where it stood when the way was broken.
  const LARGE = 8_000_000,
    AGAIN_MS = 2000;
  const pause = (ms) => new Promise((done) => setTimeout(done, ms));

  async function sent(form, file) {
    const home = document.getElementById(form.dataset.home || "table-in"),
      key = [...crypto.getRandomValues(new Uint8Array(16))].map((byte) => byte.toString(16).padStart(2, "0")).join(""),
      headers = { "X-CSRFToken": JSON.parse(document.body.getAttribute("hx-headers"))["X-CSRFToken"] };
    home.innerHTML =
      '<p role="status"></p><progress max="100" value="0" aria-label="Sent"></progress> <button type="button" class="btn btn-line">Stop</button>';
    const [words, bar, stop] = home.children;
    let at = 0,
      going = true,
      tries = 0;
    stop.addEventListener("click", () => {
      going = false;
    });
    while (going) {
      words.textContent = `${file.name}: ${Math.round((100 * at) / file.size)} % sent`;
      bar.value = (100 * at) / file.size;
      const body = new FormData();
      for (const [name, value] of Object.entries({ upload: key, name: file.name, at, size: file.size })) {
        body.set(name, value);
      }
      body.set("piece", file.slice(at, at + LARGE));
      let answer;
      try {
        answer = await fetch(form.dataset.pieces, { method: "POST", body, headers: { ...headers, "HX-Current-URL": location.href } });
      } catch {
        tries += 1;
        words.textContent = `${file.name}: the server does not answer; tried again (${tries})`;
        await pause(AGAIN_MS);
        continue;
      }
      const text = await answer.text();
      if (!answer.ok) {
        words.className = "wrong";
        words.textContent = answer.status === 400 ? text : "That did not work; nothing was taken in.";
        bar.remove();
        stop.remove();
        return;
      }
      if (!/^\d+$/.test(text)) {
        home.innerHTML = text;
        htmx.process(home);
        return;
      }
      at = Number(text);
    }
    if (document.getElementById("workspace")) {
      htmx.ajax("GET", location.href, { target: "#workspace", swap: "outerHTML" });
    } else {
      location.reload();
    }
  }
  document.addEventListener("htmx:confirm", (event) => {
    const form = event.target.closest?.("form[data-pieces]"),
      file = form?.querySelector("[type=file]").files[0];
    if (file && file.size > LARGE) {
      event.preventDefault();
      sent(form, file);
    }
  });
  document.addEventListener("DOMContentLoaded", begin);
  document.addEventListener("htmx:afterSettle", begin);
  if (document.readyState !== "loading") {
    begin();
  }
})();
