// The sections of a page: which of them the address names is marked; it is the style sheet that shows it.

const tabs = () => ({
  init() {
    this.mark();
    window.addEventListener("hashchange", () => this.mark());
  },

  mark() {
    const shown =
      document.getElementById(location.hash.slice(1))?.closest(".tab-page") ??
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

document.addEventListener("alpine:init", () => window.Alpine.data("tabs", tabs));
