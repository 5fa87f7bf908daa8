// The bench while Waldhorn does not answer: the steps of the check travel with its page, and open from there. Where a
// browser allows it (on this machine, or over TLS) a service worker also keeps the page itself, for a reload.
import { kept, madeHere } from "./browser.js";
import { countOn, sendTyped } from "./waiting.js";

const LATER_MS = 3000; // what was just done comes first

let steps = null;
let timer = 0;

const check = () => location.pathname;

function fetchStepsSoon() {
  clearTimeout(timer);
  timer = setTimeout(async () => {
    const bench = document.querySelector("#bench[data-open]");
    if (!bench) return;
    try {
      const answer = await fetch(`${check()}/steps`);
      if (answer.ok) steps = new DOMParser().parseFromString(await answer.text(), "text/html");
    } catch {
      /* what was fetched before is what there is */
    }
  }, LATER_MS);
}

// A step by its link: from Waldhorn, else from what this page has.
document.addEventListener("click", (event) => {
  const link = event.target.closest("#bench a[href^='?step=']");
  if (!link || event.ctrlKey || event.metaKey || event.shiftKey || event.button) return;
  event.preventDefault();
  openStep(link.getAttribute("href"));
});

async function benchAt(search) {
  const answer = await fetch(`${check()}${search}`);
  return new DOMParser().parseFromString(await answer.text(), "text/html").getElementById("bench");
}

async function openStep(search) {
  try {
    await sendTyped({ isLeft: true });
    const drawn = await benchAt(search);
    if (!drawn) return location.assign(search);
    replace("#bench", drawn);
  } catch {
    if (!openFromPage(new URLSearchParams(search).get("step"))) return;
  }
  history.pushState(null, "", search);
  at = search;
}

// The work of a step as it was fetched, with a form of its own and the run that is next here.
function openFromPage(name) {
  const template = steps?.querySelector(`template[data-step="${CSS.escape(name)}"]`);
  if (!template) return false;
  const bench = document.getElementById("bench");
  bench.dataset.step = name;
  for (const bead of bench.querySelectorAll(".bead")) {
    const isNow = bead.getAttribute("href") === `?step=${name}`;
    bead.classList.toggle("now", isNow);
    if (isNow) bead.setAttribute("aria-current", "step");
    else bead.removeAttribute("aria-current");
  }
  const work = replace("#bench .bench-work", template.content.firstElementChild.cloneNode(true));
  const form = work.querySelector("form#work");
  if (form) nextHere(form);
  return true;
}

function nextHere(form) {
  form.elements.form_id.value = madeHere();
  countOn(form, kept.read("waiting", []).filter(({ url }) => url === form.getAttribute("action")).length);
}

function replace(selector, drawn) {
  const fresh = document.importNode(drawn, true);
  document.querySelector(selector).replaceWith(fresh);
  window.htmx.process(fresh);
  fresh.querySelector("[autofocus]")?.focus();
  const settled = new CustomEvent("htmx:afterSettle", { bubbles: true, detail: {} });
  document.getElementById("bench").dispatchEvent(settled); // as after any other swap
  return fresh;
}

// Back to another step; a jump within the page is none.
let at = location.search;
window.addEventListener("popstate", () => location.search !== at && location.reload());
document.addEventListener("htmx:afterSettle", ({ target }) => target.matches?.("#bench") && fetchStepsSoon());
fetchStepsSoon();

// A page that was left another way: the answer says what was typed before, unless one has begun to sign it.
sendTyped({ isLeft: false }).then(async (sent) => {
  if (!sent || document.getElementById("bench")?.dataset.step !== "answer") return;
  const drawn = await benchAt("?step=answer").catch(() => null);
  const fields = [...document.querySelectorAll("#bench input")];
  const isUntouched = fields.every((f) => f.value === f.defaultValue && f.checked === f.defaultChecked);
  if (drawn && isUntouched) replace("#bench", drawn);
});

if ("serviceWorker" in navigator) navigator.serviceWorker.register("/worker.js").catch(() => {});

// A page that the service worker kept is of the step it was loaded at: the one asked for opens once the steps are there.
const asked = new URLSearchParams(location.search).get("step");
const bench = document.getElementById("bench");
if (asked && bench && bench.dataset.step !== asked && !navigator.onLine) {
  fetch(`${check()}/steps`)
    .then((answer) => answer.text())
    .then((text) => {
      steps = new DOMParser().parseFromString(text, "text/html");
      openFromPage(asked);
    })
    .catch(() => {});
}
