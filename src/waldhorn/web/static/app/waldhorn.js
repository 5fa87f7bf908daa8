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

// The checklist: O, D and B for the row one is in and on to the next, A for all that is left.
document.addEventListener("keydown", (event) => {
  const row = event.target.closest?.("[data-look]");
  if (!row || !event.target.matches("[type=radio]") || event.ctrlKey || event.metaKey || event.altKey) return;
  const wanted = { o: "ok", d: "doubt", b: "bad" }[event.key.toLowerCase()];
  if (event.key.toLowerCase() === "a") return event.preventDefault(), event.stopPropagation(), restIsOk();
  if (!wanted) return;
  event.preventDefault();
  event.stopPropagation();
  const picked = row.querySelector(`[value=${wanted}]`);
  picked.checked = true;
  const rows = [...document.querySelectorAll("[data-look]")];
  const next = rows[rows.indexOf(row) + 1] ?? row;
  (next.querySelector("[type=radio]:checked") ?? next.querySelector("[type=radio]")).focus();
  picked.dispatchEvent(new Event("change", { bubbles: true }));
}, true);

function restIsOk() {
  let last = null;
  for (const row of document.querySelectorAll("[data-look]")) {
    if (row.querySelector("[type=radio]:checked")) continue;
    last = row.querySelector("[value=ok]");
    last.checked = true;
  }
  last?.focus();
  last?.dispatchEvent(new Event("change", { bubbles: true }));
}

document.addEventListener("click", (event) => {
  const of = (name) => event.target.closest(`[${name}]`);
  if (of("data-look-rest")) restIsOk();
  if (of("data-lamps")) noteLamps(of("data-lamps").dataset.lamps);
  if (of("data-hold")) hold(of("data-hold"));
  if (of("data-explain")) {
    const all = [...document.querySelectorAll(".figure")];
    const open = !all.every((figure) => figure.open);
    all.forEach((figure) => (figure.open = open));
  }
});

function noteLamps(state) {
  const field = document.getElementById("states");
  field.value = `${field.value} ${state}`.trim();
  field.dispatchEvent(new Event("input", { bubbles: true }));
}

// How long a pull may still be held: counted down on its button.
function hold(button) {
  clearInterval(button.timer);
  let left = Number(button.dataset.hold);
  const said = button.querySelector("span");
  const tick = () => {
    said.textContent = left > 0 ? `${left} s left` : "Off, let it cool";
    button.classList.toggle("is-retire", left <= 0);
    if (left-- <= 0) clearInterval(button.timer);
  };
  button.timer = setInterval(tick, 1000);
  tick();
}

// Times of day that something is ready at: how long it still takes, whatever page one comes from.
setInterval(() => {
  for (const time of document.querySelectorAll("[data-until]")) {
    const seconds = Math.round((new Date(time.dataset.until) - Date.now()) / 1000);
    const clock = new Date(time.dataset.until).toTimeString().slice(0, 5);
    const left = `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, "0")}`;
    time.textContent = seconds > 0 ? `${clock}, in ${left}` : `${clock}, now`;
  }
}, 1000);

document.addEventListener("alpine:init", () => {
  window.Alpine.data("bench", () => ({
    // Enter goes to the next empty field; on the last one the form is sent.
    advance(event) {
      if (!event.target.matches("input, select")) return;
      if (event.target.matches("[type=radio], [type=file]")) return;
      const fields = [...event.target.form.querySelectorAll("input:not([type=hidden]), select, textarea")];
      const after = fields.slice(fields.indexOf(event.target) + 1);
      const next = after.find((field) => field.matches("input, textarea") && field.value === "");
      if (!next) return;
      event.preventDefault();
      next.focus();
    },
  }));
});
