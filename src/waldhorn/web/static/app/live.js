// The live run: what the instrument says, drawn as it comes; one key for the next setting, one to stop.
const live = document.querySelector("[data-live]").dataset;
const url = live.live;
const SHOWN_S = 30;
const points = [[], [], []];
const marked = [];
let pct = 0;
let due = false;
let last = null;
window.liveDelays = [];

// A colour of the theme as the canvas understands it, whichever of day and night holds.
function colour(name) {
  const probe = document.body.appendChild(document.createElement("span"));
  probe.style.color = `var(--color-${name})`;
  const found = getComputedStyle(probe).color;
  probe.remove();
  return found;
}

// The settings of the instrument, rising; the first spin is at the lowest, the last one is full throttle. Four of them
// part friction from what grows with the speed.
const settings = [...document.querySelectorAll("[data-pct]")].map((button) => Number(button.dataset.pct));
const PARTING = [0, settings[1], 30, 50, 100].filter((s, i, all) => settings.includes(s) && all.indexOf(s) === i);
const SPIN_UP = PARTING.length > 4 ? PARTING : settings;

const thousands = (x) => x.toLocaleString("en").replace(",", "\u2009");

function trace(id, label, share) {
  const axis = {
    stroke: colour("muted"),
    grid: { stroke: colour("grid") },
    font: "14px B612",
  };
  const box = document.getElementById(id);
  // What is left of the first view beside numbers, keys and caution.
  const room = innerWidth < 1024 ? 280 : Math.max(200, innerHeight - 540);
  const height = Math.round(room * share);
  return new uPlot(
    {
      width: box.clientWidth,
      height,
      cursor: { show: false },
      legend: { show: false },
      hooks: { draw: [marks] },
      scales: { x: { time: false } },
      axes: [
        { ...axis, values: (u, v) => v.map((x) => `${x} s`) },
        { ...axis, size: 70, values: (u, v) => v.map(thousands) },
      ],
      series: [{}, { label, stroke: colour("copper"), width: 2, points: { show: false } }],
    },
    [[], []],
    box,
  );
}

// A bead where a value was captured.
function marks(plot) {
  const { left, top, width, height } = plot.bbox;
  plot.ctx.fillStyle = colour("ink");
  for (const at of marked) {
    const x = plot.valToPos(at, "x", true);
    if (x >= left && x <= left + width) plot.ctx.fill(bead(x, top + height));
  }
}

function bead(x, y) {
  const path = new Path2D();
  path.arc(x, y, 7 * devicePixelRatio, 0, 2 * Math.PI);
  return path;
}

const rpm = trace("trace-rpm", "rpm", 0.6);
const amps = trace("trace-a", "amps", 0.4);
addEventListener("resize", () =>
  [
    ["trace-rpm", rpm],
    ["trace-a", amps],
  ].forEach(([id, plot]) =>
    plot.setSize({
      width: document.getElementById(id).clientWidth,
      height: plot.height,
    }),
  ),
);

function add(sample) {
  if (points[0].length && sample.t < points[0].at(-1)) (points.forEach((p) => (p.length = 0)), (marked.length = 0));
  (points[0].push(sample.t), points[1].push(sample.rpm), points[2].push(sample.a));
  while (points[0][0] < sample.t - SHOWN_S) points.forEach((p) => p.shift());
}

function draw() {
  due = false;
  rpm.setData([points[0], points[1]]);
  amps.setData([points[0], points[2]]);
  if (!last) return;
  const show = (id, value, digits) =>
    (document.getElementById(id).textContent = value == null ? "–" : value.toFixed(digits));
  document.getElementById("live-rpm").textContent = thousands(Math.round(last.rpm));
  (show("live-a", last.a, 2), show("live-v", last.v, 2), show("live-c", last.c, 1), show("live-db", last.db, 1));
  if (last.at)
    (window.liveDelays.push(Date.now() - last.at), window.liveDelays.length > 5000 && window.liveDelays.shift());
}

function later() {
  if (due) return;
  due = true;
  requestAnimationFrame(draw);
}

function beep(alarm) {
  try {
    const sound = (window.liveSound ??= new AudioContext());
    const tone = sound.createOscillator(),
      level = sound.createGain();
    tone.frequency.value = alarm ? 330 : 880;
    level.gain.value = 0.08;
    tone.connect(level).connect(sound.destination);
    (tone.start(), tone.stop(sound.currentTime + (alarm ? 0.6 : 0.15)));
  } catch {
    /* no sound here: the frame around the number says it too */
  }
}

function state(said) {
  pct = said.pct;
  const lost = live.connected === "yes" && !said.connected;
  live.connected = said.connected ? "yes" : "no";
  const words =
    said.words || (lost ? "Waldhorn was started anew; the motor stops by itself. What was captured is kept." : "");
  if (words) document.getElementById("live-words").textContent = words;
  if (lost) document.getElementById("live-again").hidden = false;
  document
    .querySelectorAll("[data-pct]")
    .forEach((b) => b.setAttribute("aria-pressed", String(Number(b.dataset.pct) === pct)));
  const unread = document.getElementById("live-unread");
  unread.hidden = !said.unread;
  unread.textContent = `${said.unread} lines not understood; the last: ${said.last_unread}`;
  for (const old of said.trace ?? []) add(old);
  if (said.trace?.length) ((last = said.trace.at(-1)), later());
}

const stream = new EventSource(`${url}/stream`);
stream.onmessage = (message) => {
  const event = JSON.parse(message.data);
  document.getElementById("offline").hidden = true;
  if (event.kind === "sample") (add(event), (last = event), later());
  else if (event.kind === "state") state(event);
  else if (event.kind === "took") {
    if (!event.alarm && last) marked.push(last.t);
    const number = document.getElementById("live-rpm");
    number.classList.add("took");
    setTimeout(() => number.classList.remove("took"), 900);
    beep(event.alarm);
    htmx.trigger(document.body, "took");
  }
};
stream.onerror = () => (document.getElementById("offline").hidden = false);

async function act(what, more = {}) {
  const wrong = document.getElementById("live-wrong");
  const body = new URLSearchParams({ what, ...more });
  const token = JSON.parse(document.body.getAttribute("hx-headers"))["X-CSRF-Token"];
  try {
    const answer = await fetch(`${url}/do`, {
      method: "POST",
      body,
      headers: { "X-CSRF-Token": token },
    });
    wrong.textContent = answer.ok ? "" : await answer.text();
  } catch {
    wrong.textContent = "Waldhorn does not answer. The instrument stops the motor by itself within two seconds.";
  }
}

document.addEventListener("click", (event) => {
  const button = event.target.closest("[data-do]");
  if (!button) return;
  if (button.dataset.do === "throttle") act("throttle", { pct: button.dataset.pct });
  else if (button.dataset.do === "next") act("throttle", { pct: SPIN_UP.find((s) => s > pct) ?? 0 });
  else act(button.dataset.do);
});
