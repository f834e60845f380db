// The drawing stays in sight while one edits; jump links; what is pointed at or tapped is said; folds of a small screen.
(() => {
  "use strict";
  const root = document.documentElement;
  const css = (name) => Number.parseFloat(getComputedStyle(root).getPropertyValue(name)) || 0;
  const BESIDE = window.matchMedia("(min-width: 1700px)");
  const by = (id) => document.getElementById(id);

  // The sheet keeps its place and height; once only a strip of it would be left, what it shows shrinks into that strip.
  function measure() {
    const sheet = by("sheet");
    root.classList.remove("stripped");
    if (sheet) {
      root.style.setProperty("--full", `${sheet.getBoundingClientRect().height}px`);
      follow();
    }
  }
  function follow() {
    const sheet = by("sheet");
    if (!sheet) {
      return;
    }
    const least = css("--bar") + css("--strip");
    const left = sheet.getBoundingClientRect().bottom;
    root.classList.toggle("stripped", !BESIDE.matches && sheet.offsetHeight > css("--strip") && left <= least + 1);
  }
  let due = false;
  const soon = () => {
    if (!due) {
      due = true;
      requestAnimationFrame(() => {
        due = false;
        follow();
      });
    }
  };
  window.addEventListener("scroll", soon, { passive: true });
  window.addEventListener("resize", measure);

  // A long schedule begins with the names of its parts.
  function jumps() {
    const schedule = by("schedule");
    document.querySelectorAll(".jumps").forEach((old) => old.remove());
    const heads = schedule
      ? [...schedule.querySelectorAll("h2, details.own > summary")].filter((head) => !head.closest(".proposal"))
      : [];
    if (heads.length < 4) {
      return;
    }
    const nav = document.createElement("nav");
    nav.className = "jumps";
    nav.setAttribute("aria-label", "Parts of this page");
    heads.forEach((head, number) => {
      head.id = head.id || `part-${number}`;
      const link = document.createElement("a");
      link.href = `#${head.id}`;
      link.textContent = head.dataset.jump || head.textContent.trim().replace(/\s+/g, " ");
      nav.append(link);
    });
    (schedule.querySelector(".tabs") || schedule.firstElementChild)?.insertAdjacentElement(
      schedule.querySelector(".tabs") ? "afterend" : "beforebegin",
      nav,
    );
  }
  document.addEventListener("click", (event) => {
    const link = event.target.closest(".jumps a");
    const details = link && document.querySelector(link.getAttribute("href"))?.closest("details");
    if (details) {
      details.open = true;
    }
  });

  // What was unfolded stays so when the page is written anew.
  let unfolded = [];
  document.addEventListener("htmx:beforeSwap", () => {
    unfolded = [...document.querySelectorAll("#schedule details[id][open]:not(.log-kind)")].map((details) => details.id);
  });
  document.addEventListener("htmx:afterSwap", () => {
    unfolded.map(by).forEach((details) => {
      if (details) {
        details.open = true;
      }
    });
  });

  // What is pointed at, focused or tapped says what it is, under the drawing.
  function say(target) {
    const out = by("pointed"),
      item = target.closest?.(".view g, .view path, .view rect");
    let named = item;
    while (named && named.closest(".view") && !named.querySelector(":scope > title")) {
      named = named.parentElement;
    }
    const title = named?.querySelector?.(":scope > title");
    if (out && title) {
      out.textContent = named.getAttribute("aria-label") || title.textContent;
    }
  }
  document.addEventListener("pointerdown", (event) => event.target.closest?.(".view") && say(event.target));
  document.addEventListener("focusin", (event) => event.target.closest?.(".view") && say(event.target));

  // A finger types over what stands in a field.
  document.addEventListener("focusin", (event) => {
    if (event.target.matches?.("input[inputmode]") && window.matchMedia("(pointer: coarse)").matches) {
      event.target.select();
    }
  });

  // Folds: margins beyond the worst three, the season, the menu.
  let all = false,
    season = false;
  function fold() {
    const margins = by("margins"),
      more = margins?.querySelector(".more-margins"),
      band = document.querySelector(".season");
    margins?.classList.toggle("all", all);
    band?.classList.toggle("open", season);
    document.querySelector(".season-toggle")?.setAttribute("aria-expanded", String(season));
    if (more) {
      more.setAttribute("aria-expanded", String(all));
      more.textContent = all ? more.dataset.few : more.dataset.all;
    }
  }
  document.addEventListener("click", (event) => {
    if (event.target.closest(".more-margins")) {
      all = !all;
      fold();
    }
    if (event.target.closest(".season-toggle")) {
      season = !season;
      fold();
    }
    const button = event.target.closest(".menu-button"),
      tools = document.querySelector(".top-tools");
    if (tools) {
      const open = Boolean(button) && !tools.classList.contains("open");
      if (button || !event.target.closest(".top-tools")) {
        tools.classList.toggle("open", open);
        document.querySelector(".menu-button")?.setAttribute("aria-expanded", String(open));
      }
    }
  });
  document.addEventListener("keydown", (event) => {
    if (event.key === "Escape") {
      document.querySelector(".top-tools.open")?.classList.remove("open");
    }
  });

  function renew() {
    jumps();
    fold();
    measure();
  }
  document.addEventListener("DOMContentLoaded", renew);
  // The page stays where it was while its inside is renewed.
  let at = 0;
  document.addEventListener("htmx:beforeSwap", () => {
    at = window.scrollY;
  });
  document.addEventListener("htmx:afterSwap", (event) => {
    if (event.target.id === "workspace" || event.detail.target?.id === "workspace") {
      renew();
      window.scrollTo(0, at);
      follow();
    }
  });
  // Fonts and pictures that come later change its height.
  window.addEventListener("load", measure);
})();
