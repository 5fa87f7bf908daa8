// Several screens on one pit: what others do is heard on a stream, and the parts of a page that show it are asked for
// anew.
import { announce } from "./page.js";
import { screenName } from "./browser.js";

const AWAY_MS = 1500; // a stream that is lost for less is not worth a word
const AGAIN_MS = 4000;

const offline = document.getElementById("offline");

// Open while the page is in sight, so that many tabs do not hold all of a browser's connections.
let stream = null;
let lost = 0;

function listen() {
  if (stream || document.hidden) return;
  const at = document.body.dataset.standing;
  stream = new EventSource(`/events?${new URLSearchParams({ screen: screenName, path: location.pathname, at })}`);
  stream.onopen = () => {
    clearTimeout(lost);
    lost = 0;
    offline.hidden = true;
    document.dispatchEvent(new Event("answering"));
  };
  stream.onmessage = (message) => hear(JSON.parse(message.data));
  stream.onerror = () => {
    lost ||= setTimeout(() => (offline.hidden = false), AWAY_MS);
    if (stream?.readyState !== EventSource.CLOSED) return;
    stopListening();
    setTimeout(listen, AGAIN_MS);
  };
}

function stopListening() {
  stream?.close();
  stream = null;
}

function hear(event) {
  if (event.at) document.body.dataset.standing = event.at;
  if (event.kind === "changed") follow(event);
  else if (event.kind === "here") sayWhoIsHere(event.who);
  else if (event.kind === "typed") sayAgain();
  else if (event.kind === "open") openHanded(event);
  else if (event.kind === "out") location.assign("/join");
}

// What was done, told to the parts of this page that show it. One round at a time: what is done meanwhile is the next.
let news = null;
let isTelling = false;

export async function follow(event) {
  news = {
    all: event.all || news?.all,
    named: [...(news?.named ?? []), ...(event.tags ?? []), ...(event.checks ?? [])],
  };
  if (event.did && event.who) announce(`${event.who}: ${event.did}`);
  if (isTelling) return;
  isTelling = true;
  while (news) {
    const round = news;
    news = null;
    await Promise.all([...document.querySelectorAll("[data-follows]")].map((part) => askAnew(part, round)));
  }
  isTelling = false;
}

// A part is asked for anew where it shows what was done; each knows how.
function askAnew(part, { all, named }) {
  const what = part.dataset.follows;
  if (what === "rack") return followRack(part);
  if (!all && !named.includes(what)) return null;
  return new Promise((done) => {
    part.addEventListener("htmx:afterRequest", () => (keepTypingOf(), done()), { once: true });
    setTimeout(done, AGAIN_MS); // nobody is waited for longer
    window.htmx.trigger(part, "changed");
  });
}

// What is typed here and not taken is kept again: taking a run ends the draft of all who typed into it.
function keepTypingOf() {
  const fields = [...document.querySelectorAll("#work .big input")];
  const draft = document.querySelector("#work [data-draft]");
  if (draft && fields.some((field) => field.value !== field.defaultValue)) window.htmx.trigger(draft, "change");
}

// Somebody has typed something else into a field of this form: what stands here is said again, to be shown both.
let isSaidAgain = false;

function sayAgain() {
  isSaidAgain = true;
  keepTypingOf();
}

// The rack hangs anew, as many motors as were shown; the arrows stay where they were.
async function followRack(part) {
  const now = new URL(part.dataset.now, location);
  const shown = part.querySelectorAll("[data-hook]").length;
  now.searchParams.set("most", Math.min(400, Math.max(40, shown)));
  const at = document.activeElement?.closest("[data-hook]")?.dataset.tag;
  await window.htmx.ajax("GET", now.pathname + now.search, { target: part, swap: "outerHTML" });
  if (at) document.querySelector(`[data-tag="${CSS.escape(at)}"]`)?.focus({ preventScroll: true });
}

let others = [];

function sayWhoIsHere(who) {
  others = who;
  const here = document.getElementById("here");
  if (here) here.textContent = who.length ? `${who.join(", ")} ${who.length > 1 ? "are" : "is"} here too` : "";
}

// A place that was handed to this screen: it opens at once, unless something is typed here.
function openHanded({ path, who }) {
  const fields = [...document.querySelectorAll("form input, form textarea")];
  const isTyped = (field) =>
    field.checkVisibility() &&
    !field.matches("[type=hidden], [type=radio], [type=checkbox]") &&
    field.value !== field.defaultValue;
  if (!fields.some(isTyped)) return location.assign(path);
  const bar = document.getElementById("handed");
  const link = document.createElement("a");
  link.href = path;
  link.textContent = `${who} sent ${decodeURIComponent(path.split("/").at(-1))}: open it`;
  bar.replaceChildren(link);
  bar.hidden = false;
}

document.addEventListener("htmx:configRequest", ({ detail: { headers, elt } }) => {
  headers["X-Screen"] = screenName;
  if (!isSaidAgain || !elt.matches("[data-draft]")) return;
  headers["X-Told"] = "yes";
  isSaidAgain = false;
});
// A form that leads to another page is done with this one: what it does is news to others only.
document.addEventListener("submit", ({ target }) => {
  if (target.closest("[hx-post]")) return;
  stopListening();
  setTimeout(listen, AGAIN_MS);
});
document.addEventListener("htmx:afterSettle", () => sayWhoIsHere(others));
document.addEventListener("visibilitychange", () => (document.hidden ? stopListening() : listen()));
window.addEventListener("online", () => (stopListening(), listen()));
window.addEventListener("pagehide", stopListening);
window.addEventListener("pageshow", listen);
listen();
