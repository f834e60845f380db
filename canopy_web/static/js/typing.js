// What is typed while an answer is on its way stays: text not yet sent, fields that were refused, focus and caret.
(() => {
  "use strict";
  const TEXT = "input:not([type=hidden], [type=checkbox], [type=radio], [type=range], [type=file]), textarea, select";
  let sent = 0,
    shown = 0,
    kept = [];
  const typed = new WeakSet();
  // Fields that were left with a new value which no request has carried yet.
  const left = new WeakSet();
  // What an answer replaces: a space's page, or the household's.
  const page = () => document.getElementById("workspace") || document.getElementById("household");
  const isPage = (target) => Boolean(target) && (target.id === "workspace" || target.id === "household");
  const holdsFields = (target) => isPage(target) || target?.id === "schedule";
  const fields = () => (page() ? [...page().querySelectorAll(TEXT)].filter((field) => field.name) : []);

  function changed(field) {
    if (field.tagName === "SELECT") {
      const first = [...field.options].findIndex((option) => option.defaultSelected);
      return field.selectedIndex !== Math.max(0, first);
    }
    return field.value !== field.defaultValue;
  }

  function keep(form) {
    const focused = document.activeElement;
    return fields()
      .filter((field) => {
        const went = form.has(field.name) && form.get(field.name) === field.value;
        return !went && (changed(field) || field.getAttribute("aria-invalid") || field === focused);
      })
      .map((field) => ({
        name: field.name,
        // A field that is only entered so far keeps the caret, not its old value.
        text: changed(field) || field.getAttribute("aria-invalid") ? field.value : null,
        // An answer that carries the field judges it anew.
        refused: form.has(field.name) ? "" : field.getAttribute("aria-invalid"),
        note: field.getAttribute("aria-describedby"),
        words: document.getElementById(field.getAttribute("aria-describedby") || "-")?.outerHTML || "",
        left: left.has(field),
        focused: field === focused,
        caret: field === focused && field.tagName !== "SELECT" ? [field.selectionStart, field.selectionEnd] : null,
      }));
  }

  function bringBack(item) {
    const field = fields().find((other) => other.name === item.name);
    if (!field || field.getAttribute("aria-invalid")) {
      return;
    }
    if (item.text !== null) {
      field.value = item.text;
    }
    if (item.refused && item.note) {
      field.setAttribute("aria-invalid", "true");
      field.setAttribute("aria-describedby", item.note);
      field.insertAdjacentHTML("afterend", item.words);
    }
    if (item.left) {
      left.add(field);
    }
    if (item.focused) {
      if (item.text !== null) {
        typed.add(field);
      }
      field.focus({ preventScroll: true });
      if (item.caret && item.caret[0] !== null) {
        field.setSelectionRange(...item.caret);
      }
    }
  }

  document.addEventListener("htmx:beforeRequest", (event) => {
    sent += 1;
    event.detail.xhr.order = sent;
    const carried = event.detail.requestConfig.formData;
    fields()
      .filter((field) => carried.get(field.name) === field.value)
      .forEach((field) => left.delete(field));
  });
  document.addEventListener("htmx:beforeSwap", (event) => {
    const { target, xhr, requestConfig } = event.detail;
    if (!isPage(target)) {
      return;
    }
    // A newer answer stands already, or the page that asked was renewed meanwhile.
    if (xhr.order < shown) {
      event.detail.shouldSwap = false;
      return;
    }
    shown = xhr.order || shown;
    event.detail.target = page() || target;
    kept = requestConfig && requestConfig.verb !== "get" ? keep(requestConfig.formData || new FormData()) : [];
  });
  // What comes later fills the schedule only where a station follows the climate: fields in it are kept likewise.
  document.addEventListener("htmx:oobBeforeSwap", (event) => {
    if (event.detail.target?.id === "schedule") {
      kept = keep(new FormData());
    }
  });
  function back(event) {
    if (page() && (holdsFields(event.target) || holdsFields(event.detail.target))) {
      kept.forEach(bringBack);
      kept = [];
    }
  }
  document.addEventListener("htmx:afterSwap", back);
  document.addEventListener("htmx:oobAfterSwap", back);
  // A row that waited behind its own first request went with the page that was replaced: it is sent from the new one,
  // once that listens.
  document.addEventListener("htmx:afterSettle", () =>
    fields()
      .filter((field) => left.has(field) && !field.getAttribute("aria-invalid"))
      .forEach((field) => left.has(field) && field.dispatchEvent(new Event("change", { bubbles: true }))),
  );
  document.addEventListener(
    "change",
    (event) => {
      typed.delete(event.target);
      if (event.target.matches?.(TEXT) && event.target.closest("[hx-trigger*=change]")) {
        left.add(event.target);
      }
    },
    true,
  );
  // Text that was brought back counts as typed: it is sent when the field is left, as always.
  document.addEventListener("focusout", (event) => {
    if (typed.delete(event.target)) {
      event.target.dispatchEvent(new Event("change", { bubbles: true }));
    }
  });
})();
