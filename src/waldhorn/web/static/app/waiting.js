// What is typed or taken while Waldhorn does not answer: it waits in this browser, and is sent once it does.
import { kept, madeHere, screenName } from "./browser.js";
import { follow } from "./stream.js";

const AGAIN_MS = 4000;
const LATER = [401, 429, 503, 507]; // nobody's fault: the same again, later
const WAITING = "waiting";

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
  };
  kept.write(WAITING, [...kept.read(WAITING, []), one]);
  kept.write(typedInto(elt), null);
  elt.elements.form_id.value = madeHere();
  for (const field of elt.querySelectorAll("input[inputmode=decimal], textarea")) field.value = "";
  showWaiting();
});

function showWaiting(why = "") {
  const waiting = kept.read(WAITING, []);
  const bar = document.getElementById("waiting");
  bar.hidden = waiting.length === 0;
  if (bar.hidden) return;
  if (!why) {
    bar.textContent = `${waiting.length} taken, waiting for Waldhorn: ${waiting.at(-1).words}.`;
    return;
  }
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
  bar.replaceChildren(`${waiting[0].words} was not taken: ${why} `, again, " ", drop);
}

let isSending = false;
let refused = ""; // what a person has to decide on is not tried again by itself

async function sendWaiting() {
  if (isSending) return;
  isSending = true;
  let sent = 0;
  try {
    for (let one; (one = kept.read(WAITING, [])[0]) && one.body !== refused;) {
      const answer = await send(one);
      if (LATER.includes(answer.status)) break;
      if (!answer.ok) {
        refused = one.body;
        showWaiting(refusal(answer, await answer.text()));
        break;
      }
      const left = kept.read(WAITING, []).filter((another) => another.body !== one.body);
      kept.write(WAITING, left);
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

function send({ url, body }) {
  const headers = {
    ...JSON.parse(document.body.getAttribute("hx-headers")),
    "Content-Type": "application/x-www-form-urlencoded",
    "X-Screen": screenName,
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

// What is typed is kept here until Waldhorn has it, and stands in its fields again after a reload.
const typedInto = (form) => `typed ${form.getAttribute("action")}`;

document.addEventListener("input", ({ target }) => {
  const form = target.closest("form#work");
  if (form) kept.write(typedInto(form), Object.fromEntries(new FormData(form)));
});
document.addEventListener("htmx:afterRequest", ({ detail: { elt, successful } }) => {
  const form = successful && elt.closest?.("form#work");
  if (form) kept.write(typedInto(form), null);
});

function bringBackTyped(form) {
  const typed = kept.read(typedInto(form), {});
  const fields = [...form.querySelectorAll(".big input, .big textarea")];
  const empty = fields.filter((field) => !field.value && typed[field.name]);
  for (const field of empty) field.value = typed[field.name];
  kept.write(typedInto(form), null);
  empty.at(-1)?.dispatchEvent(new Event("input", { bubbles: true }));
}

document.addEventListener("answering", sendWaiting);
setInterval(sendWaiting, AGAIN_MS);
showWaiting();
document.addEventListener("DOMContentLoaded", () => {
  const form = document.querySelector("form#work");
  if (form) bringBackTyped(form);
});
