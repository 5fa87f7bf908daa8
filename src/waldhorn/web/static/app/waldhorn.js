// Keys, focus, drafts and theme for every screen, as Alpine components. Pages work without it; with it they work with
// one hand.
"use strict";

// A letter is a command unless the field one is in has something typed, or takes free text.
function takesText(target) {
  if (!target.matches("input, select, textarea")) return false;
  if (target.matches("input[type=radio]")) return false;
  return !(target.inputMode === "decimal" && target.value === "");
}

const NO_TEXT = "[type=radio], [type=checkbox], [type=file], [type=hidden]";
const withModifier = (event) => event.ctrlKey || event.metaKey || event.altKey;

// The whole page: keys that stand on buttons and links, the rack's arrows, theme, announcements, times of day.
const page = () => ({
  said: "",
  telling: 0,
  going: false,

  init() {
    this.$el.addEventListener("announce", (event) =>
      this.announce(event.detail.value),
    );
    this.$el.addEventListener("done", (event) =>
      this.tell(event.detail.value, event.detail.act),
    );
    this.tell(
      document.getElementById("did").dataset.did,
      document.getElementById("did-act").value,
    );
    setInterval(() => this.tellTimes(), 1000);
    watchDrafts();
    remember();
    window.addEventListener("hashchange", remember);
    this.$el.addEventListener("click", takeTheirs);
  },

  press(event) {
    if (event.key === "Enter" && this.goOn(event)) return;
    if (withModifier(event)) return;
    const target = event.target;
    if (event.key === "ArrowDown" || event.key === "ArrowUp")
      return this.walk(event);
    if (event.key !== "Escape" && takesText(target)) {
      return;
    }
    const wanted = event.key.length === 1 ? event.key.toLowerCase() : event.key;
    if (wanted === "?") return location.assign("/help");
    if (this.going || wanted === "g") return this.goTo(event, wanted);
    if (wanted === "Escape" && document.querySelector(":popover-open")) return;
    if (wanted === "x" && target.matches("[data-hook]"))
      return this.mark(target);
    const found = [...document.querySelectorAll("[data-key]")].find(
      (element) =>
        element.dataset.key === wanted && !element.closest("[hidden]"),
    );
    if (!found) return;
    event.preventDefault();
    if (found.matches("input")) (found.select(), found.focus());
    else found.click();
  },

  // One rule for Enter in every form: on to the next empty field, from the last one it is taken. With Ctrl it is taken
  // at once.
  goOn(event) {
    const { target } = event;
    const { form } = target;
    if (!form || target.matches(".find, button") || event.altKey) return false;
    if (event.ctrlKey || event.metaKey)
      return (event.preventDefault(), form.requestSubmit(), true);
    if (!target.matches("input, select") || target.matches(NO_TEXT))
      return false;
    const fields = [...form.querySelectorAll("input, select, textarea")];
    const next = fields
      .slice(fields.indexOf(target) + 1)
      .find(
        (field) =>
          field.matches("input, textarea") &&
          !field.matches(NO_TEXT) &&
          field.value === "" &&
          field.offsetParent,
      );
    if (!next && !target.matches("select")) return false;
    event.preventDefault();
    next ? next.focus() : form.requestSubmit();
    return true;
  },

  // G and a letter: to the place of that letter. The letters stand beside the places while one is waited for.
  goTo(event, letter) {
    const places = document.querySelector(".places");
    const going = !this.going && letter === "g";
    const place =
      this.going && document.querySelector(`[data-place="${letter}"]`);
    this.going = going;
    places.classList.toggle("going", going);
    if (going) this.announce("Go where? A letter of a place");
    if (place || going) event.preventDefault();
    if (place) place.click();
  },

  walk(event) {
    const found = document.activeElement.closest(".finder");
    const along = found ? "[data-found]" : "[data-hook]";
    const hooks = [...document.querySelectorAll(along)];
    if (!hooks.length || event.target.matches("select, textarea")) return;
    const at = hooks.indexOf(document.activeElement);
    const next = event.key === "ArrowDown" ? at + 1 : at - 1;
    event.preventDefault();
    if (next < 0) document.querySelector(".find")?.focus();
    else hooks[Math.min(next, hooks.length - 1)].focus();
  },

  // Motors marked on the rack, to be compared: X on the one the arrows stand on, or its peg.
  mark(hook) {
    hook.toggleAttribute("data-marked");
    this.tellMarked();
    this.announce(
      `${hook.dataset.tag} ${hook.matches("[data-marked]") ? "marked" : "no longer marked"}`,
    );
  },

  tellMarked() {
    const tags = [...document.querySelectorAll("[data-marked]")].map(
      (one) => one.dataset.tag,
    );
    document.getElementById("marked").hidden = tags.length === 0;
    const words = tags.length === 1 ? "one motor" : `${tags.length} motors`;
    document.getElementById("marked-words").textContent = `${words} marked`;
    const named = tags.map(encodeURIComponent).join(",");
    const to = `/compare?tags=${named}`;
    document.getElementById("print-marked").href = `/paper/rack?tags=${named}`;
    document.getElementById("between").href = to;
    const set = document.getElementById("between-set");
    set.href = `${to}&take=2`;
    document.getElementById("between").hidden = tags.length < 2;
    set.hidden = tags.length < 3;
  },

  unmark() {
    document
      .querySelectorAll("[data-marked]")
      .forEach((hook) => hook.removeAttribute("data-marked"));
    this.tellMarked();
    this.announce("none marked");
  },

  markByPeg(event) {
    if (!event.target.matches(".hook-peg")) return;
    event.preventDefault();
    this.mark(event.currentTarget);
  },

  // Files dropped on a form are chosen in it, and it goes on.
  dragOver(event) {
    event.currentTarget.classList.add("over");
  },

  dragLeave(event) {
    event.currentTarget.classList.remove("over");
  },

  drop(event) {
    const form = event.currentTarget;
    form.classList.remove("over");
    if (!event.dataTransfer.files.length) return;
    form.querySelector("[type=file]").files = event.dataTransfer.files;
    form.requestSubmit();
  },

  switchTheme() {
    const root = document.documentElement;
    const dark = matchMedia("(prefers-color-scheme: dark)").matches;
    const night =
      root.dataset.theme === "night" || (root.dataset.theme !== "day" && dark);
    root.dataset.theme = night ? "day" : "night";
    document.cookie = `theme=${root.dataset.theme};path=/;max-age=31536000;samesite=strict`;
  },

  // The region that speaks stays on the page, so that a screen reader hears what is put into it.
  announce(words) {
    if (words === this.said) return;
    this.said = words;
    document.getElementById("announce").textContent = words;
  },

  // What a key has just done, for two seconds, with its undo: a letter may have been meant for a field.
  tell(words, act) {
    const did = document.getElementById("did");
    if (!words) return;
    document.getElementById("did-act").value = act ?? "";
    clearTimeout(this.telling);
    document.getElementById("did-words").textContent = words;
    document.getElementById("did-undo").hidden =
      !did.getAttribute("action") || words.startsWith("Undone");
    did.hidden = false;
    this.telling = setTimeout(() => (did.hidden = true), 2000);
  },

  stay() {
    clearTimeout(this.telling);
  },

  // Times of day that something is ready at: how long it still takes, whatever page one comes from.
  tellTimes() {
    for (const time of document.querySelectorAll("[data-until]")) {
      const seconds = Math.round(
        (new Date(time.dataset.until) - Date.now()) / 1000,
      );
      const clock = new Date(time.dataset.until).toTimeString().slice(0, 5);
      const left = `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, "0")}`;
      time.textContent = seconds > 0 ? `${clock}, in ${left}` : `${clock}, now`;
    }
  },
});

// Of a field that two changed: the other's value instead of one's own.
function takeTheirs(event) {
  const button = event.target.closest("[data-take]");
  const field = button?.closest("form")?.elements[button.dataset.for];
  if (!field) return;
  field.value = button.dataset.take;
  button.parentElement.textContent = "";
  field.dispatchEvent(new Event("input", { bubbles: true }));
  field.focus?.();
}

// A draft must never overtake or cut off the form it belongs to: sending the form ends it, and holds back the next.
// A server that does not answer is said so, and forgotten when it does again.
function watchDrafts() {
  const offline = document.getElementById("offline");
  document.addEventListener("htmx:beforeRequest", (event) => {
    const element = event.detail.elt;
    if (element.matches("form")) {
      element.dataset.sending = "yes";
      element
        .querySelectorAll("[data-draft]")
        .forEach((draft) => window.htmx.trigger(draft, "htmx:abort"));
    } else if (
      element.matches("[data-draft]") &&
      element.closest("form")?.dataset.sending
    ) {
      event.preventDefault();
    }
  });
  document.addEventListener("htmx:afterRequest", (event) => {
    if (event.detail.elt.matches("form"))
      delete event.detail.elt.dataset.sending;
    if (event.detail.xhr.status) offline.hidden = true;
  });
  for (const name of ["htmx:sendError", "htmx:timeout"]) {
    document.addEventListener(name, () => (offline.hidden = false));
  }
  sendAgain();
}

// A store that is busy is asked again after a moment, with what was typed; what is refused otherwise is said.
function sendAgain() {
  const busy = document.getElementById("busy");
  document.addEventListener("htmx:responseError", (event) => {
    const { xhr, elt, requestConfig } = event.detail;
    const type = xhr.getResponseHeader("Content-Type") ?? "";
    if (!type.startsWith("text/plain")) return;
    busy.textContent = xhr.responseText;
    busy.hidden = false;
    const wait = Number(xhr.getResponseHeader("Retry-After"));
    if (!wait) return;
    const button = requestConfig.triggeringEvent?.submitter;
    setTimeout(() => {
      if (!elt.isConnected) return;
      if (elt.matches("form")) elt.requestSubmit(button);
      else
        window.htmx.trigger(
          elt,
          elt.matches("[data-draft]") ? "change" : "click",
        );
    }, wait * 1000);
  });
  document.addEventListener("htmx:afterRequest", (event) => {
    if (event.detail.successful) busy.hidden = true;
  });
  const form = document.querySelector("form[data-again]");
  if (form) setTimeout(() => form.requestSubmit(), form.dataset.again * 1000);
}

// Find: Enter opens the first that was found once the answer to what was typed is there; Escape shuts it.
const finder = () => ({
  answered: "",
  opening: false,

  init() {
    this.$el.addEventListener("htmx:afterSwap", (event) =>
      this.told(event.detail.requestConfig.parameters.q),
    );
    this.$el.addEventListener("keydown", (event) => this.key(event));
  },

  get lines() {
    return this.$el.querySelectorAll("[data-found]");
  },

  key(event) {
    if (event.key === "Escape") this.shut(event);
    if (event.key !== "Enter" || !event.target.matches(".find")) return;
    if (event.target.value.trim() === "") return;
    event.preventDefault();
    event.stopPropagation();
    if (event.target.value === this.answered) this.lines[0]?.click();
    else this.opening = true;
  },

  told(words) {
    this.answered = words;
    if (!this.opening || words !== this.$el.querySelector(".find").value)
      return;
    this.opening = false;
    this.lines[0]?.click();
  },

  shut(event) {
    event.stopPropagation();
    this.$el.querySelector(".find").value = "";
    this.$el.querySelector(".found").textContent = "";
    document.getElementById("main").focus();
  },

  leave(event) {
    if (!this.$el.contains(event.relatedTarget))
      this.$el.querySelector(".found").textContent = "";
  },
});

// The sections of a page: which of them the address names is marked; it is the style sheet that shows it.
const tabs = () => ({
  init() {
    this.mark();
    window.addEventListener("hashchange", () => this.mark());
  },

  mark() {
    const named = location.hash.slice(1);
    const shown =
      document.getElementById(named)?.closest(".tab-page") ??
      document.querySelector(".tab-page.open") ??
      document.querySelector(".tab-page");
    for (const tab of this.$el.querySelectorAll(".tab")) {
      const here = tab.getAttribute("href") === `#${shown.id}`;
      if (!here) tab.removeAttribute("aria-current");
      else {
        tab.setAttribute("aria-current", "true");
        tab.scrollIntoView({ block: "nearest", inline: "center" });
      }
    }
  },
});

// The tour on the rack: what this browser has seen fills a bead; the first that is empty is what to try next.
const SEEN = "seen";
const AWAY = "away";

// Where nothing may be kept in this browser, nothing is.
function remembered() {
  try {
    return JSON.parse(localStorage.getItem(SEEN) ?? "[]");
  } catch {
    return [];
  }
}

function remember() {
  const here = location.pathname + location.search + location.hash;
  const seen = remembered().filter((address) => address !== here);
  try {
    localStorage.setItem(SEEN, JSON.stringify([...seen, here].slice(-200)));
  } catch {
    /* the tour begins anew each time */
  }
}

const tour = () => ({
  init() {
    const seen = remembered();
    const beads = [...this.$el.querySelectorAll(".tour-bead")];
    for (const bead of beads) {
      const done = seen.some((address) =>
        new RegExp(bead.dataset.when).test(address),
      );
      bead.classList.toggle("done", done);
      bead.textContent = `${bead.dataset.name}: ${done ? "done" : "not yet"}`;
    }
    const next = beads.findIndex((bead) => !bead.matches(".done"));
    const steps = [...this.$el.querySelectorAll(".tour-step")];
    steps.at(next).hidden = false;
    this.$el.hidden = localStorage.getItem(AWAY) === "yes";
  },

  putAway() {
    localStorage.setItem(AWAY, "yes");
    this.$root.hidden = true;
  },
});

// The bench: the bead one is at is in sight, all figures open or shut at once.
const bench = () => ({
  init() {
    const now = this.$el.querySelector(".bead.now");
    now?.scrollIntoView({ block: "nearest", inline: "center" });
  },

  explainAll() {
    const all = [...document.querySelectorAll(".figure")];
    const open = !all.every((figure) => figure.open);
    all.forEach((figure) => (figure.open = open));
  },
});

// The checklist: O, D and B for the row one is in and on to the next, A for all that is left.
const checklist = () => ({
  pick(event) {
    const row = event.target.closest("[data-look]");
    if (!row || !event.target.matches("[type=radio]") || withModifier(event))
      return;
    const key = event.key.toLowerCase();
    const wanted = { o: "ok", d: "doubt", b: "bad" }[key];
    if (!wanted && key !== "a") return;
    event.preventDefault();
    event.stopPropagation();
    if (key === "a") return this.restIsOk();
    const picked = row.querySelector(`[value=${wanted}]`);
    picked.checked = true;
    const rows = [...document.querySelectorAll("[data-look]")];
    const next = rows[rows.indexOf(row) + 1] ?? row;
    (
      next.querySelector("[type=radio]:checked") ??
      next.querySelector("[type=radio]")
    ).focus();
    picked.dispatchEvent(new Event("change", { bubbles: true }));
  },

  restIsOk() {
    let last = null;
    for (const row of document.querySelectorAll("[data-look]")) {
      if (row.querySelector("[type=radio]:checked")) continue;
      last = row.querySelector("[value=ok]");
      last.checked = true;
    }
    last?.focus();
    last?.dispatchEvent(new Event("change", { bubbles: true }));
  },
});

// The lamps can be tapped instead of typed.
const lamps = () => ({
  note(event) {
    const field = document.getElementById("states");
    field.value = `${field.value} ${event.currentTarget.dataset.lamps}`.trim();
    field.dispatchEvent(new Event("input", { bubbles: true }));
  },
});

// A recording or a trace comes from a file as well: what is in it stands in the field as if it were pasted.
const fromFile = () => ({
  async take() {
    const [file] = this.$el.files;
    const field = document.getElementById(this.$el.dataset.into);
    if (!file) return;
    field.value = await file.text();
    this.$el.value = "";
    field.dispatchEvent(new Event("change", { bubbles: true }));
    field.focus();
  },
});

// How long a pull may still be held: counted down on its button.
const hold = () => ({
  timer: 0,

  count() {
    clearInterval(this.timer);
    let left = Number(this.$el.dataset.hold);
    const said = this.$el.querySelector("span");
    const tick = () => {
      said.textContent = left > 0 ? `${left} s left` : "Off, let it cool";
      this.$el.classList.toggle("is-retire", left <= 0);
      if (left-- <= 0) clearInterval(this.timer);
    };
    this.timer = setInterval(tick, 1000);
    tick();
  },
});

document.addEventListener("alpine:init", () => {
  for (const [name, component] of Object.entries({
    page,
    finder,
    tabs,
    tour,
    bench,
    checklist,
    lamps,
    fromFile,
    hold,
  })) {
    window.Alpine.data(name, component);
  }
});
