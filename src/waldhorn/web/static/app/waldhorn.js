// Keys, focus and theme for every screen. Pages work without it; with it they work with one hand.
"use strict";

// A letter is a command unless the field one is in has something typed, or takes free text.
function takesText(target) {
  if (!target.matches("input, select, textarea")) return false;
  if (target.matches("input[type=radio]")) return false;
  return !(target.inputMode === "decimal" && target.value === "");
}

document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey) return;
  const target = event.target;
  if (event.key === "ArrowDown" || event.key === "ArrowUp") return walk(event);
  if (event.key !== "Escape" && takesText(target)) {
    if (event.key === "Enter" && target.matches(".find")) openFirst(event);
    if (event.key === "Enter" && target.matches("select") && !event.defaultPrevented) target.form.requestSubmit();
    return;
  }
  const wanted = event.key.length === 1 ? event.key.toLowerCase() : event.key;
  if (wanted === "?") return location.assign("/help");
  const found = [...document.querySelectorAll("[data-key]")].find((element) => element.dataset.key === wanted);
  if (!found) return;
  event.preventDefault();
  if (found.matches("input")) found.select(), found.focus();
  else found.click();
});

function walk(event) {
  const hooks = [...document.querySelectorAll("[data-hook]")];
  if (!hooks.length || event.target.matches("select, textarea")) return;
  const at = hooks.indexOf(document.activeElement);
  const next = event.key === "ArrowDown" ? at + 1 : at - 1;
  event.preventDefault();
  if (next < 0) document.querySelector(".find")?.focus();
  else hooks[Math.min(next, hooks.length - 1)].focus();
}

function openFirst(event) {
  const first = document.querySelector("[data-hook]");
  if (!first) return;
  event.preventDefault();
  first.focus();
}

document.addEventListener("click", (event) => {
  if (!event.target.closest("[data-theme-switch]")) return;
  const root = document.documentElement;
  const dark = getComputedStyle(root).colorScheme === "dark";
  root.dataset.theme = dark ? "day" : "night";
  document.cookie = `theme=${root.dataset.theme};path=/;max-age=31536000;samesite=strict`;
});

// A server that does not answer is said so, and forgotten when it does again.
for (const name of ["htmx:sendError", "htmx:timeout"]) {
  document.addEventListener(name, () => (document.getElementById("offline").hidden = false));
}
document.addEventListener("htmx:afterRequest", (event) => {
  if (event.detail.xhr.status) document.getElementById("offline").hidden = true;
});

// A draft must never overtake or cut off the form it belongs to: sending the form ends it, and holds back the next.
document.addEventListener("htmx:beforeRequest", (event) => {
  const element = event.detail.elt;
  if (element.matches("form")) {
    element.dataset.sending = "yes";
    element.querySelectorAll("[data-draft]").forEach((draft) => window.htmx.trigger(draft, "htmx:abort"));
  } else if (element.matches("[data-draft]") && element.closest("form")?.dataset.sending) {
    event.preventDefault();
  }
});
document.addEventListener("htmx:afterRequest", (event) => {
  if (event.detail.elt.matches("form")) delete event.detail.elt.dataset.sending;
});

document.addEventListener("alpine:init", () => {
  window.Alpine.data("bench", () => ({
    // Enter goes to the next empty field; on the last one the form is sent.
    advance(event) {
      if (!event.target.matches("input, select")) return;
      const fields = [...event.target.form.querySelectorAll("input:not([type=hidden]), select")];
      const next = fields.slice(fields.indexOf(event.target) + 1)[0];
      if (!next) return;
      event.preventDefault();
      next.focus();
    },
  }));
});
