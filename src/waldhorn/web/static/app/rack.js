// The rack: motors marked to be compared, and the tour of what to try first.
import { announce, withModifier } from "./page.js";
import { kept } from "./browser.js";

// X on the motor the arrows stand on, or its peg.
const marked = () => ({
  tags: [],

  isMarked(tag) {
    return this.tags.includes(tag);
  },

  mark(event) {
    if (withModifier(event)) return;
    event.preventDefault();
    event.stopPropagation();
    const { tag } = event.target.closest("[data-hook]").dataset;
    const without = this.tags.filter((one) => one !== tag);
    this.tags = this.tags.length === without.length ? [...without, tag] : without;
    announce(`${tag} ${this.isMarked(tag) ? "marked" : "no longer marked"}`);
  },

  unmark() {
    this.tags = [];
    announce("none marked");
  },

  get words() {
    return this.tags.length === 1 ? "one motor marked" : `${this.tags.length} motors marked`;
  },

  get named() {
    return this.tags.map(encodeURIComponent).join(",");
  },
});

// What this browser has seen fills a bead; the first that is empty is what to try next.
const tour = () => ({
  away: kept.read("away", false),

  init() {
    const seen = kept.read("seen", []);
    const beads = [...this.$el.querySelectorAll(".tour-bead")];
    for (const bead of beads) {
      const isDone = seen.some((address) => new RegExp(bead.dataset.when).test(address));
      bead.classList.toggle("done", isDone);
      bead.textContent = `${bead.dataset.name}: ${isDone ? "done" : "not yet"}`;
    }
    const next = beads.findIndex((bead) => !bead.matches(".done"));
    [...this.$el.querySelectorAll(".tour-step")].at(next).hidden = false;
  },

  putAway() {
    this.away = true;
    kept.write("away", true);
  },
});

document.addEventListener("alpine:init", () => {
  window.Alpine.data("marked", marked);
  window.Alpine.data("tour", tour);
});
