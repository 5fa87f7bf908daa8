// Several screens on one pit. What others do is heard on a stream, and the parts of a page that show it are asked for
// anew. What is taken while Waldhorn does not answer waits in this browser, and is sent once it does.
"use strict";

const AWAY_MS = 1500; // a stream that is lost for less is not worth a word
const AGAIN_MS = 4000;
const WAITING = "waiting";
const TYPED = "typed ";

// Made here, and also where a page comes without TLS, which has no randomUUID.
function madeHere() {
  const bytes = crypto.getRandomValues(new Uint8Array(12));
  return btoa(String.fromCharCode(...bytes)).replace(/[+/]/g, "_");
}

const screenName = madeHere();
const byId = (id) => document.getElementById(id);
const csrf = () =>
  JSON.parse(document.body.getAttribute("hx-headers"))["X-CSRF-Token"];

// Where nothing may be kept in this browser, what waits is kept on this page alone.
const kept = {
  beside: {},
  read(name, otherwise) {
    try {
      return JSON.parse(localStorage.getItem(name)) ?? otherwise;
    } catch {
      return this.beside[name] ?? otherwise;
    }
  },
  write(name, value) {
    this.beside[name] = value;
    try {
      if (value === null) localStorage.removeItem(name);
      else localStorage.setItem(name, JSON.stringify(value));
    } catch {
      /* it stays beside */
    }
  },
};

// The stream: open while the page is in sight, so that many tabs do not hold all of a browser's connections.
let stream = null;
let lost = 0;

function listen() {
  if (stream || document.hidden) return;
  const asked = new URLSearchParams({
    screen: screenName,
    path: location.pathname,
    at: document.body.dataset.standing,
  });
  stream = new EventSource(`/events?${asked}`);
  stream.onopen = () => {
    clearTimeout(lost);
    lost = 0;
    byId("offline").hidden = true;
    sendWaiting();
  };
  stream.onmessage = (message) => hear(JSON.parse(message.data));
  stream.onerror = () => {
    lost ||= setTimeout(() => (byId("offline").hidden = false), AWAY_MS);
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
  else if (event.kind === "here") whoIsHere(event.who);
  else if (event.kind === "typed") sayAgain();
  else if (event.kind === "open") handed(event);
  else if (event.kind === "out") location.assign("/join");
}

// What was done, told to the parts of this page that show it. One round at a time: what is done meanwhile is the next.
let news = null;
let telling = false;

async function follow(event) {
  news = {
    all: event.all || news?.all,
    tags: [...(news?.tags ?? []), ...(event.tags ?? [])],
    checks: [...(news?.checks ?? []), ...(event.checks ?? [])],
  };
  if (event.did && event.who)
    window.Alpine?.$data(document.body)?.announce(`${event.who}: ${event.did}`);
  if (telling) return;
  telling = true;
  while (news) {
    const told = news;
    news = null;
    await Promise.all(
      [...document.querySelectorAll("[data-follows]")].map((part) =>
        askAnew(part, told),
      ),
    );
  }
  telling = false;
}

// A part is asked for anew where it shows what was done; each knows how.
function askAnew(part, { all, tags, checks }) {
  const what = part.dataset.follows;
  if (what === "rack") return followRack(part);
  if (!all && !tags.includes(what) && !checks.includes(what)) return null;
  return new Promise((done) => {
    const after = () => (keepTypingOf(), done());
    part.addEventListener("htmx:afterRequest", after, { once: true });
    setTimeout(done, AGAIN_MS); // nobody is waited for longer
    window.htmx.trigger(part, "changed");
  });
}

// What is typed here and not taken is kept again: taking a run ends the draft of all who typed into it.
function keepTypingOf() {
  const typed = [...document.querySelectorAll("#work .big input")].some(
    (field) => field.value !== field.defaultValue,
  );
  const draft = document.querySelector("#work [data-draft]");
  if (typed && draft) window.htmx.trigger(draft, "change");
}

// Somebody has typed something else into a field of this form: what stands here is said again, to be shown both.
let saidAgain = false;
function sayAgain() {
  saidAgain = true;
  keepTypingOf();
}

// The rack hangs anew, as many motors as were shown; what was marked stays marked, and the arrows stay where they were.
async function followRack(part) {
  const now = new URL(part.dataset.now, location);
  const shown = part.querySelectorAll("[data-hook]").length;
  now.searchParams.set("most", Math.min(400, Math.max(40, shown)));
  const marked = new Set(
    [...document.querySelectorAll("[data-marked]")].map((h) => h.dataset.tag),
  );
  const at = document.activeElement?.closest("[data-hook]")?.dataset.tag;
  await window.htmx.ajax("GET", now.pathname + now.search, {
    target: part,
    swap: "outerHTML",
  });
  for (const hook of document.querySelectorAll("[data-hook]")) {
    if (marked.has(hook.dataset.tag)) hook.setAttribute("data-marked", "");
    if (hook.dataset.tag === at) hook.focus({ preventScroll: true });
  }
}

let others = [];
function whoIsHere(who) {
  others = who;
  const here = byId("here");
  if (!here) return;
  const are = who.length > 1 ? "are" : "is";
  here.textContent = who.length ? `${who.join(", ")} ${are} here too` : "";
}

// A place that was handed to this screen: it opens at once, unless something is typed here.
function handed({ path, who }) {
  const typing = [
    ...document.querySelectorAll("form input, form textarea"),
  ].some(
    (field) =>
      field.offsetParent &&
      !field.matches("[type=hidden], [type=radio], [type=checkbox]") &&
      field.value !== field.defaultValue,
  );
  if (!typing) return location.assign(path);
  const bar = byId("handed");
  const link = document.createElement("a");
  link.href = path;
  link.textContent = `${who} sent ${decodeURIComponent(path.split("/").at(-1))}: open it`;
  bar.replaceChildren(link);
  bar.hidden = false;
}

// What is taken while nobody answers: kept with the identifier its form has, shown as waiting, sent again in order.
function keepForLater(event) {
  const { elt, requestConfig } = event.detail;
  if (!elt.matches("form[data-waits]") || !requestConfig.parameters) return;
  const fields = [...Object.entries(requestConfig.parameters)].filter(
    ([name]) => name !== "csrf_token",
  );
  const said = fields
    .filter(([name, value]) => value && byId(name)?.matches(".big input"))
    .map(([, value]) => value)
    .slice(0, 4);
  const one = {
    url: requestConfig.path,
    body: new URLSearchParams(fields).toString(),
    words: `${elt.dataset.waits} ${said.join(" · ")}`,
  };
  kept.write(WAITING, [...kept.read(WAITING, []), one]);
  kept.write(TYPED + elt.getAttribute("action"), null);
  elt.elements.form_id.value = madeHere();
  for (const field of elt.querySelectorAll(
    "input[inputmode=decimal], textarea",
  ))
    field.value = "";
  showWaiting();
}

function showWaiting(why = "") {
  const waiting = kept.read(WAITING, []);
  const bar = byId("waiting");
  bar.hidden = waiting.length === 0;
  if (bar.hidden) return;
  const words = document.createElement("span");
  words.textContent = `${waiting.length} taken, waiting for Waldhorn: ${waiting.at(-1).words}. `;
  bar.replaceChildren(words);
  if (!why) return;
  words.textContent = `${waiting[0].words} was not taken: ${why} `;
  const again = document.createElement("a");
  again.href = waiting[0].url.replace(/\/steps\/([^/]+).*/, "?step=$1");
  again.textContent = "To its step";
  const drop = document.createElement("button");
  drop.className = "plain";
  drop.type = "button";
  drop.textContent = "Let it go";
  drop.addEventListener("click", () => {
    kept.write(WAITING, kept.read(WAITING, []).slice(1));
    showWaiting();
    sendWaiting();
  });
  bar.append(again, " ", drop);
}

let sending = false;
let refused = ""; // what a person has to decide on is not tried again by itself
async function sendWaiting() {
  const [first] = kept.read(WAITING, []);
  if (sending || !first || first.body === refused) return;
  sending = true;
  let sent = 0;
  try {
    for (let one; (one = kept.read(WAITING, [])[0]);) {
      const answer = await fetch(one.url, {
        method: "POST",
        body: one.body,
        headers: {
          "Content-Type": "application/x-www-form-urlencoded",
          "X-CSRF-Token": csrf(),
          "X-Screen": screenName,
          "HX-Request": "true",
        },
      });
      if ([401, 429, 503, 507].includes(answer.status)) break;
      if (!answer.ok) {
        refused = one.body;
        showWaiting(refusal(answer, await answer.text()));
        break;
      }
      kept.write(
        WAITING,
        kept.read(WAITING, []).filter((w) => w.body !== one.body),
      );
      sent += 1;
      showWaiting();
    }
  } catch {
    /* not yet: the stream says when it answers again */
  } finally {
    sending = false;
  }
  if (sent) follow({ all: true });
}

function refusal(answer, text) {
  try {
    return JSON.parse(answer.headers.get("HX-Trigger-After-Swap")).announce;
  } catch {
    return text.startsWith("<") ? "it does not fit any more." : text;
  }
}

// What is typed is kept here until Waldhorn has it, and stands in its fields again after a reload.
function keepTyped({ target }) {
  const form = target.closest("form#work");
  if (form)
    kept.write(
      TYPED + form.getAttribute("action"),
      Object.fromEntries(new FormData(form)),
    );
}

function bringBackTyped() {
  const form = document.querySelector("form#work");
  const name = form && TYPED + form.getAttribute("action");
  const typed = name && kept.read(name, null);
  if (!typed) return;
  let touched = null;
  for (const field of form.querySelectorAll(".big input, .big textarea")) {
    if (field.value || !typed[field.name]) continue;
    field.value = typed[field.name];
    touched = field;
  }
  kept.write(name, null);
  touched?.dispatchEvent(new Event("input", { bubbles: true }));
}

document.addEventListener("htmx:configRequest", (event) => {
  event.detail.headers["X-Screen"] = screenName;
  if (!saidAgain || !event.detail.elt.matches("[data-draft]")) return;
  event.detail.headers["X-Told"] = "yes";
  saidAgain = false;
});
// A form that leads to another page is done with this one: what it does is news to others only.
document.addEventListener("submit", ({ target }) => {
  if (target.closest("[hx-post]")) return;
  stopListening();
  setTimeout(listen, AGAIN_MS);
});
document.addEventListener("htmx:sendError", keepForLater);
document.addEventListener("input", keepTyped);
document.addEventListener("htmx:afterRequest", (event) => {
  const { elt, successful } = event.detail;
  const form = successful && elt.closest?.("form#work");
  if (form) kept.write(TYPED + form.getAttribute("action"), null);
});
document.addEventListener("htmx:afterSettle", () => whoIsHere(others));
document.addEventListener("visibilitychange", () =>
  document.hidden ? stopListening() : listen(),
);
window.addEventListener("online", () => {
  stopListening();
  listen();
});
window.addEventListener("pagehide", stopListening);
window.addEventListener("pageshow", listen);
setInterval(sendWaiting, AGAIN_MS);
document.addEventListener("DOMContentLoaded", () => {
  showWaiting();
  bringBackTyped();
  listen();
});
