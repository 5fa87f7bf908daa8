// Every page: keys that stand on what they press, Enter through a form, arrows along a list, what was just done. Pages
// work without it; with it they work with one hand.

const NO_TEXT = "[type=radio], [type=checkbox], [type=file], [type=hidden]";
const TOLD_MS = 2000;

export const withModifier = (event) => event.ctrlKey || event.metaKey || event.altKey;

// A letter is a command unless the field one is in has something typed, or takes free text.
function takesText(target) {
  if (!target.matches("input, select, textarea") || target.matches("[type=radio]")) return false;
  return !(target.inputMode === "decimal" && target.value === "");
}

// The region that speaks stays on the page, so that a screen reader hears what is put into it.
export function announce(words) {
  const region = document.getElementById("announce");
  if (region.textContent !== words) region.textContent = words;
}

const page = () => ({
  going: false,

  press(event) {
    if (event.key === "Enter" && this.goOn(event)) return;
    if (withModifier(event)) return;
    if (event.key === "ArrowDown" || event.key === "ArrowUp") return this.walk(event);
    const inEmpty = event.key === "=" && event.target.value === ""; // nothing one types begins with it
    if (event.key !== "Escape" && !inEmpty && takesText(event.target)) return;
    const wanted = event.key.length === 1 ? event.key.toLowerCase() : event.key;
    if (wanted === "?") return location.assign("/help");
    if (this.going || wanted === "g") return this.goTo(event, wanted);
    if (wanted === "Escape" && document.querySelector(":popover-open")) return;
    const keyed = [...document.querySelectorAll(`[data-key="${CSS.escape(wanted)}"]`)];
    const found = keyed.find((element) => !element.closest("[hidden]"));
    if (!found) return;
    event.preventDefault();
    if (found.matches("input")) (found.select(), found.focus());
    else found.click();
  },

  // One rule for Enter in every form: on to the next empty field, from the last one it is taken. With Ctrl it is taken
  // at once, and so is one that corrects what stands: what is empty in it is meant to be.
  goOn(event) {
    const { target } = event;
    const { form } = target;
    if (!form || target.matches(".find, button") || event.altKey) return false;
    if (event.ctrlKey || event.metaKey) return (event.preventDefault(), form.requestSubmit(), true);
    if (!target.matches("input, select, textarea") || target.matches(NO_TEXT)) return false;
    if (target.matches("textarea") && target.value) return false; // a line more of what is pasted
    const fields = [...form.querySelectorAll("input, select, textarea")];
    const isEmpty = (field) =>
      field.matches("input, textarea") && !field.matches(NO_TEXT) && field.value === "" && field.checkVisibility();
    const next = form.hasAttribute("data-corrects")
      ? undefined
      : fields.slice(fields.indexOf(target) + 1).find(isEmpty);
    if (!next && target.matches("input")) return false;
    event.preventDefault();
    next ? next.focus() : form.requestSubmit();
    return true;
  },

  // G and a letter: to the place of that letter. The letters stand beside the places while one is waited for.
  goTo(event, letter) {
    const going = !this.going && letter === "g";
    const place = this.going && document.querySelector(`[data-place="${CSS.escape(letter)}"]`);
    this.going = going;
    if (going) announce("Go where? A letter of a place");
    if (place || going) event.preventDefault();
    if (place) place.click();
  },

  walk(event) {
    const inFinder = document.activeElement.closest(".finder");
    const stops = [...document.querySelectorAll(inFinder ? "[data-found]" : "[data-hook]")];
    if (!stops.length || event.target.matches("select, textarea")) return;
    const next = stops.indexOf(document.activeElement) + (event.key === "ArrowDown" ? 1 : -1);
    event.preventDefault();
    if (next < 0) document.querySelector(".find")?.focus();
    else stops[Math.min(next, stops.length - 1)].focus();
  },

  switchTheme() {
    const { dataset } = document.documentElement;
    const isDark = matchMedia("(prefers-color-scheme: dark)").matches;
    const isNight = dataset.theme === "night" || (dataset.theme !== "day" && isDark);
    dataset.theme = isNight ? "day" : "night";
    document.cookie = `theme=${dataset.theme};path=/;max-age=31536000;samesite=strict`;
  },

  // Of a field that two changed: the other's value instead of one's own.
  takeTheirs() {
    const { take, for: name } = this.$el.dataset;
    const field = this.$el.closest("form").elements[name];
    field.value = take;
    this.$el.parentElement.textContent = "";
    field.dispatchEvent(new Event("input", { bubbles: true }));
    field.focus();
  },
});

// What a key has just done, for two seconds, with its undo: a letter may have been meant for a field.
const done = () => ({
  words: "",
  change: "",
  timer: 0,

  init() {
    this.tell({ value: this.$el.dataset.did, change: this.$el.dataset.change });
  },

  tell({ value, change }) {
    clearTimeout(this.timer);
    this.words = value;
    this.change = change ?? "";
    this.timer = setTimeout(() => (this.words = ""), TOLD_MS);
  },

  stay() {
    clearTimeout(this.timer);
  },

  get cannotUndo() {
    return !this.$root.getAttribute("action") || this.words.startsWith("Undone");
  },
});

// What is found hangs below the field while one is there.
const finder = () => ({
  shut() {
    this.$refs.find.value = "";
    this.$refs.found.textContent = "";
    document.getElementById("main").focus();
  },

  leave(event) {
    if (!this.$root.contains(event.relatedTarget)) this.$refs.found.textContent = "";
  },
});

window.addEventListener("announce", (event) => announce(event.detail.value));
document.addEventListener("alpine:init", () => {
  for (const [name, component] of Object.entries({ page, done, finder })) window.Alpine.data(name, component);
});
