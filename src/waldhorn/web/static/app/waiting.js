// What is typed or taken while Waldhorn does not answer: it waits in this browser under the name of who typed it, and
// is sent once it does.
import { kept, madeHere, screenName } from "./browser.js";
import { follow } from "./stream.js";

const AGAIN_MS = 4000;
const HAD_MS = 10_000;
const LATER = [401, 429, 503, 507]; // nobody's fault: the same again, later
const WAITING = "waiting";
const author = document.body.dataset.seat;

// What is taken: kept with the identifier its form has, shown as waiting, sent again in order.
document.addEventListener("htmx:sendError", ({ detail: { elt, requestConfig } }) => {
  if (!elt.matches("form[data-waits]") || !requestConfig.parameters) return;
  const fields = [...Object.entries(requestConfig.parameters)].filter(([name]) => name !== "csrf_token");
  const isShown = ([name, value]) => value && document.getElementById(name)?.matches(".big input");
  const said = fields.filter(isShown).map(([, value]) => value);
  const one = {
    url: requestConfig.path,
    body: new URLSearchParams(fields).toString(),
    words: `${elt.dataset.waits} ${said.slice(0, 4).join(" · ")}`,
    by: author,
  };
  kept.write(WAITING, [...kept.read(WAITING, []), one]);
  kept.write(typedInto(elt.getAttribute("action")), null);
  elt.elements.form_id.value = madeHere();
  for (const field of elt.querySelectorAll("input[inputmode=decimal], textarea"))
    field.value = field.dataset.usual ?? "";
  countOn(elt, 1);
  showWaiting();
});

// So many runs of a form wait here: the next one is a later one.
export function countOn(form, waiting) {
  const { run } = form.elements;
  if (!run || !waiting) return;
  const next = Number(run.value) + waiting;
  for (const told of [form.querySelector("#take"), document.getElementById("at-step")])
    told.textContent = told.textContent.replace(`run ${run.value}`, `run ${next}`);
  run.value = next;
}

let isSending = false;
let refused = ""; // what a person has to decide on is not tried again by itself
const agreed = new Set(); // what somebody else took, and this seat sends in that one's name

const isMine = (one) => (one.by ?? author) === author;
const isToSend = (one) => one.body !== refused && (isMine(one) || agreed.has(one.body));

function showWaiting(why = "") {
  const waiting = kept.read(WAITING, []);
  const bar = document.getElementById("waiting");
  bar.hidden = waiting.length === 0;
  if (bar.hidden) return;
  const foreign = waiting.find((one) => !isMine(one) && !agreed.has(one.body));
  if (why) {
    const [one] = waiting.filter(({ body }) => body === refused);
    const again = document.createElement("a");
    again.href = one.url.replace(/\/steps\/([^/]+).*/, "?step=$1");
    again.textContent = "To its step";
    bar.replaceChildren(
      `${one.words} was not taken: ${why} `,
      again,
      " ",
      button("Let it go", () => drop(one)),
    );
  } else if (foreign) {
    const send = button("Send it", () => (agreed.add(foreign.body), sendWaiting()));
    const words = `${foreign.words} was taken here by ${foreign.by || "somebody else"} and waits. In that name: `;
    bar.replaceChildren(
      words,
      send,
      " ",
      button("Let it go", () => drop(foreign)),
    );
  } else {
    bar.textContent = `${waiting.length} taken, waiting for Waldhorn: ${waiting.at(-1).words}.`;
  }
}

function button(words, press) {
  const made = document.createElement("button");
  made.className = "plain";
  made.type = "button";
  made.textContent = words;
  made.addEventListener("click", press);
  return made;
}

const without = (one) => kept.read(WAITING, []).filter((another) => another.body !== one.body);

function drop(one) {
  kept.write(WAITING, without(one));
  showWaiting();
  sendWaiting();
}

async function sendWaiting() {
  if (isSending) return;
  isSending = true;
  let sent = 0;
  try {
    for (let one; (one = kept.read(WAITING, []).find(isToSend));) {
      const answer = await send(one);
      if (LATER.includes(answer.status)) break;
      if (!answer.ok) {
        refused = one.body;
        showWaiting(refusal(answer, await answer.text()));
        break;
      }
      kept.write(WAITING, without(one));
      sent += 1;
      showWaiting();
    }
  } catch {
    /* not yet: the stream says when it answers again */
  } finally {
    isSending = false;
  }
  if (sent) follow({ all: true });
}

function send({ url, body, by }) {
  const headers = {
    ...JSON.parse(document.body.getAttribute("hx-headers")),
    "Content-Type": "application/x-www-form-urlencoded",
    "X-Screen": screenName,
    "X-Typed-By": encodeURIComponent(by ?? author),
    "HX-Request": "true",
  };
  return fetch(url, { method: "POST", body, headers });
}

function refusal(answer, text) {
  try {
    return JSON.parse(answer.headers.get("HX-Trigger-After-Swap")).announce;
  } catch {
    return text.startsWith("<") ? "it does not fit any more." : text;
  }
}

// What is typed is kept here until Waldhorn has it, with its step, its run, its form and who typed it: into those fields
// and no others it comes back after a reload. What was `sent` to be taken when the page was left may have become a run:
// it comes back only while that run is still to be taken.
const typedInto = (action) => `typed ${action}`;
const fieldsOf = (form) => Object.fromEntries([...new FormData(form)].filter(([name]) => name !== "csrf_token"));
const isSame = (one, other) => Object.keys(one).every((name) => one[name] === other[name]);

function keepTyped(form) {
  const { run, form_id } = form.elements;
  const place = typedInto(form.getAttribute("action"));
  const sent = form.dataset.sending ? kept.read(place, null)?.sent : null;
  kept.write(place, { by: author, run: run?.value ?? "", form: form_id.value, fields: fieldsOf(form), sent });
}

document.addEventListener("htmx:beforeRequest", ({ detail: { elt } }) => {
  if (!elt.matches("form#work")) return;
  keepTyped(elt);
  markSent(elt.getAttribute("action"), fieldsOf(elt));
});

function markSent(action, sent) {
  const typed = kept.read(typedInto(action), null);
  if (typed) kept.write(typedInto(action), { ...typed, sent });
}

document.addEventListener("input", ({ target }) => {
  const form = target.closest("form#work");
  if (form) keepTyped(form);
});

// Waldhorn has what was sent; what was typed since is newer, and stays. Before the answer is drawn: what is drawn brings
// back what is kept.
document.addEventListener("htmx:beforeSwap", ({ detail: { xhr, requestConfig } }) => {
  if (requestConfig?.verb !== "post") return;
  const action = requestConfig.path.replace(/\/draft$/, "");
  const typed = kept.read(typedInto(action), null);
  if (!typed) return;
  const isThere = xhr.status < 300 && isSame(typed.fields, Object.fromEntries(requestConfig.formData));
  if (isThere && action !== requestConfig.path) kept.write(typedInto(action), { ...typed, had: Date.now() });
  else if (isThere) kept.write(typedInto(action), null);
  else if (xhr.status >= 400) markSent(action, null);
});

// A page that was asked for before Waldhorn had what was typed is drawn without it.
const isOld = ({ had }) => had && Date.now() - had > HAD_MS;

function bringBackTyped(form) {
  const place = typedInto(form.getAttribute("action"));
  const typed = kept.read(place, null);
  if (!typed || typed.by !== author) return;
  if (isOld(typed)) return kept.write(place, null);
  const isTaken = typed.sent && typed.run !== (form.elements.run?.value ?? "");
  const since = Object.entries(typed.fields).filter(([name, value]) => !isTaken || value !== typed.sent[name]);
  if (!since.length) return kept.write(place, null);
  if (!isTaken) form.elements.form_id.value = typed.form;
  fill(form, Object.fromEntries(since));
  maybeTaken = typed.sent && !isTaken ? typed : null;
}

// The page was left while a taking travelled, and came back before it had arrived: once the run is taken after all, its
// numbers go from the fields of the next one.
let maybeTaken = null;

function letTakenGo(form) {
  if (form.elements.run.value === maybeTaken.run) return;
  const { sent } = maybeTaken;
  maybeTaken = null;
  const left = [...form.querySelectorAll(".big input, .big textarea")].filter(
    (field) => field.value === sent[field.name],
  );
  for (const field of left) field.value = field.dataset.usual ?? "";
  form.elements.form_id.value = madeHere();
  keepTyped(form);
}

// Put values into the fields one types into, and have them kept again.
function fill(form, values) {
  const fields = [...form.querySelectorAll(".big input, .big textarea, .big select")];
  const other = fields.filter(({ name, value }) => name in values && values[name] !== value);
  for (const field of other) field.value = values[field.name];
  other.at(-1)?.dispatchEvent(new Event("input", { bubbles: true }));
  return other.at(-1);
}

// What is typed while a taking travels belongs to the next run: the answer draws its fields anew.
const NOT_TYPED = ["form_id", "run", "as_shown"];
let carried = null;

document.addEventListener("htmx:beforeSwap", ({ detail: { requestConfig, target } }) => {
  const form = requestConfig?.elt;
  if (target?.id !== "bench" || !form?.matches?.("form#work") || !form.isConnected) return;
  const sent = Object.fromEntries(requestConfig.formData);
  const now = fieldsOf(form);
  const isNew = ([name, value]) => !NOT_TYPED.includes(name) && value !== (sent[name] ?? "");
  const since = Object.entries(now).filter(isNew);
  if (since.length) carried = { action: form.getAttribute("action"), values: Object.fromEntries(since) };
});

function setDown() {
  const { action, values } = carried;
  carried = null;
  const form = document.querySelector("form#work");
  if (form?.getAttribute("action") === action) return fill(form, values)?.focus();
  const body = new URLSearchParams({ ...values, form_id: madeHere() }).toString();
  send({ url: `${action}/draft`, body }).catch(() => {}); // the step is another one now: there it is found again
}

document.addEventListener("htmx:afterSettle", ({ target }) => {
  if (maybeTaken && target.id === "run") letTakenGo(target.form);
  if (!target.matches?.("#bench")) return;
  if (carried) setDown();
  const form = document.querySelector("form#work");
  if (form) bringBackTyped(form);
});

// What is typed into a step that is left, this one too where it `isLeft`, goes to Waldhorn at once, so that the answer
// can say it; returns whether something went.
export async function sendTyped({ isLeft }) {
  const here = isLeft ? "" : document.querySelector("form#work")?.getAttribute("action");
  const places = kept.names().filter((name) => name.startsWith(typedInto("/checks/")) && name !== typedInto(here));
  let sent = false;
  for (const place of places) {
    const typed = kept.read(place, null);
    if (typed?.by !== author || typed.had) continue;
    const body = new URLSearchParams({ ...typed.fields, form_id: typed.form }).toString();
    const answer = await send({ url: `${place.slice(typedInto("").length)}/draft`, body }).catch(() => null);
    if (!answer || LATER.includes(answer.status)) continue;
    if (isSame(typed.fields, kept.read(place, typed).fields)) kept.write(place, null);
    sent ||= answer.ok;
  }
  return sent;
}

document.addEventListener("answering", sendWaiting);
setInterval(sendWaiting, AGAIN_MS);
showWaiting();
document.addEventListener("DOMContentLoaded", () => {
  const form = document.querySelector("form#work");
  if (!form) return;
  form.elements.form_id.value = madeHere(); // a page out of a cache carries one that was sent already
  bringBackTyped(form);
});
