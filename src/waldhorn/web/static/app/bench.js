// The bench: the bead one is at in sight, the checklist by letters, lamps by taps, a hold and a cooling counted down.
import { withModifier } from "./page.js";

const PICKED_BY = { o: "ok", d: "doubt", b: "bad" };

const bench = () => ({
  init() {
    this.$el.querySelector(".bead.now")?.scrollIntoView({ block: "nearest", inline: "center" });
  },

  // All figures open or shut at once.
  explainAll() {
    const all = [...document.querySelectorAll(".figure")];
    const open = !all.every((figure) => figure.open);
    all.forEach((figure) => (figure.open = open));
  },
});

// O, D and B for the row one is in and on to the next, A for all that is left.
const checklist = () => ({
  pick(event) {
    const row = event.target.closest("[data-look]");
    if (!row || !event.target.matches("[type=radio]") || withModifier(event)) return;
    const key = event.key.toLowerCase();
    if (!(key in PICKED_BY) && key !== "a") return;
    event.preventDefault();
    event.stopPropagation();
    if (key === "a") return this.restIsOk();
    const rows = [...this.$root.querySelectorAll("[data-look]")];
    const next = rows[rows.indexOf(row) + 1] ?? row;
    const picked = row.querySelector(`[value=${PICKED_BY[key]}]`);
    picked.checked = true;
    (next.querySelector("[type=radio]:checked") ?? next.querySelector("[type=radio]")).focus();
    picked.dispatchEvent(new Event("change", { bubbles: true }));
  },

  restIsOk() {
    const rows = [...this.$root.querySelectorAll("[data-look]")];
    const left = rows.filter((row) => !row.querySelector("[type=radio]:checked"));
    const picked = left.map((row) => row.querySelector("[value=ok]"));
    picked.forEach((radio) => (radio.checked = true));
    picked.at(-1)?.focus();
    picked.at(-1)?.dispatchEvent(new Event("change", { bubbles: true }));
  },
});

// The lamps can be tapped instead of typed.
const lamps = () => ({
  note() {
    const field = document.getElementById("states");
    field.value = `${field.value} ${this.$el.dataset.lamps}`.trim();
    field.dispatchEvent(new Event("input", { bubbles: true }));
  },
});

// A recording or a trace comes from a file as well: what is in it stands in the field as if it were pasted.
const fromFile = () => ({
  async take() {
    const [file] = this.$el.files;
    if (!file) return;
    const field = document.getElementById(this.$el.dataset.into);
    field.value = await file.text();
    this.$el.value = "";
    field.dispatchEvent(new Event("change", { bubbles: true }));
    field.focus();
  },
});

// What was noted the last time, into the fields that are still empty; the caret goes on to the next of them.
const asBefore = () => ({
  fill() {
    const { form } = this.$el;
    for (const [name, value] of Object.entries(JSON.parse(this.$el.dataset.before))) {
      const field = form.elements[name];
      if (!field || (field.value && !field.matches("select"))) continue;
      field.closest("details")?.setAttribute("open", "");
      field.value = value;
      field.dispatchEvent(new Event("input", { bubbles: true }));
    }
    this.$el.hidden = true;
    [...form.querySelectorAll(".step-fields input")].find((field) => !field.value && field.checkVisibility())?.focus();
  },
});

// Seconds until a time of day, whatever page one comes from; none where no time is set.
const countdown = () => ({
  until: NaN,
  now: Date.now(),
  timer: 0,

  init() {
    this.until = Date.parse(this.$el.dataset.until);
    this.timer = setInterval(() => (this.now = Date.now()), 250);
  },

  destroy() {
    clearInterval(this.timer);
  },

  hold() {
    this.now = Date.now();
    this.until = this.now + this.$el.dataset.hold * 1000;
  },

  get isSet() {
    return !Number.isNaN(this.until);
  },

  get left() {
    return Math.ceil((this.until - this.now) / 1000);
  },

  get isOver() {
    return this.left <= 0;
  },

  get leftToHold() {
    if (!this.isSet) return "";
    return this.isOver ? "Off, let it cool" : `${this.left} s left`;
  },

  get clock() {
    const clock = new Date(this.until).toTimeString().slice(0, 5);
    const [minutes, seconds] = [Math.floor(this.left / 60), String(this.left % 60).padStart(2, "0")];
    return this.isOver ? `${clock}, now` : `${clock}, in ${minutes}:${seconds}`;
  },
});

document.addEventListener("alpine:init", () => {
  const components = { bench, checklist, lamps, fromFile, countdown, asBefore };
  for (const [name, component] of Object.entries(components)) window.Alpine.data(name, component);
});
