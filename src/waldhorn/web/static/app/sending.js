// Forms on their way to Waldhorn: drafts beside them, a store that is busy, a server that does not answer.

const offline = document.getElementById("offline");
const busy = document.getElementById("busy");

// A draft must never overtake or cut off the form it belongs to: sending the form ends it, and holds back the next.
document.addEventListener("htmx:beforeRequest", (event) => {
  const { elt } = event.detail;
  if (elt.matches("form")) {
    elt.dataset.sending = "yes";
    for (const draft of elt.querySelectorAll("[data-draft]")) window.htmx.trigger(draft, "htmx:abort");
  } else if (elt.matches("[data-draft]") && elt.closest("form")?.dataset.sending) {
    event.preventDefault();
  }
});

// A server that does not answer is said so, and forgotten when it does again.
document.addEventListener("htmx:afterRequest", ({ detail: { elt, xhr, successful } }) => {
  if (elt.matches("form")) delete elt.dataset.sending;
  if (xhr.status) offline.hidden = true;
  if (successful) busy.hidden = true;
});
for (const name of ["htmx:sendError", "htmx:timeout"]) document.addEventListener(name, () => (offline.hidden = false));

// A store that is busy is asked again after a moment, with what was typed; what is refused otherwise is said.
document.addEventListener("htmx:responseError", ({ detail: { xhr, elt, requestConfig } }) => {
  if (!xhr.getResponseHeader("Content-Type")?.startsWith("text/plain")) return;
  busy.textContent = xhr.responseText;
  busy.hidden = false;
  const seconds = Number(xhr.getResponseHeader("Retry-After"));
  if (seconds) setTimeout(() => sendAgain(elt, requestConfig.triggeringEvent?.submitter), seconds * 1000);
});

function sendAgain(elt, button) {
  if (!elt.isConnected) return;
  if (elt.matches("form")) elt.requestSubmit(button);
  else window.htmx.trigger(elt, elt.matches("[data-draft]") ? "change" : "click");
}

const refused = document.querySelector("form[data-again]");
if (refused) setTimeout(() => refused.requestSubmit(), refused.dataset.again * 1000);
