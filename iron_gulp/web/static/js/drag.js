"use strict";
// A target dragged in the envelope: the path follows on the way, the drop is one change. By keyboard: arrows, Enter.

const SETTLE_MS = 900;  // after the last arrow key a move counts as dropped

const drag = { handle: null, busy: false, next: null, timer: null, turn: 0 };

function frameOf(handle) {
  const frame = handle.closest("svg").querySelector(".drag-frame").dataset;
  return Object.fromEntries(Object.entries(frame).map(([name, value]) => [name, Number(value)]));
}

function placed(handle, ethanol, power) {
  const f = frameOf(handle);
  const e = Math.min(Math.max(Math.round(ethanol), 0), 100);
  const shown = Math.min(Math.max(Math.round(power / f.step), 1), Math.floor(f.high / f.step));
  const kw = shown * f.step;
  const x = f.left + ((f.right - f.left) * e) / 100;
  const y = f.bottom + ((f.top - f.bottom) * (kw - f.low)) / (f.high - f.low);
  handle.setAttribute("transform", `translate(${x.toFixed(1)} ${y.toFixed(1)})`);
  Object.assign(handle.dataset, { movedEthanol: e, movedPower: kw });
  handle.setAttribute("aria-valuenow", e);
  follow(handle);
}

function addressOf(handle) {
  const values = JSON.parse(document.getElementById("work").getAttribute("hx-vals"));
  const asked = new URLSearchParams({ option: values.option, at: handle.dataset.target, ethanol: handle.dataset.movedEthanol, power: handle.dataset.movedPower });
  return `${handle.closest("[data-url]").dataset.url}/moved?${asked}`;
}

// One question at a time; the newest place waits for the answer.
async function follow(handle) {
  drag.next = handle;
  if (drag.busy) return;
  drag.busy = true;
  while (drag.next) {
    const asked = drag.next, turn = drag.turn;
    drag.next = null;
    try {
      const answer = await fetch(addressOf(asked));
      const html = new DOMParser().parseFromString(await answer.text(), "text/html");
      if (!answer.ok || turn !== drag.turn || !asked.isConnected) continue;
      const strip = document.getElementById("path-strip");
      strip.replaceChildren(...html.querySelector('[data-piece="path"]').childNodes);
      htmx.process(strip);
      const says = html.querySelector('[data-piece="says"]').textContent;
      document.getElementById("ceiling-says").textContent = says;
      asked.setAttribute("aria-valuetext", says);
    } catch (error) {
      announce("The server did not answer; the target goes back when you let go.");
    }
  }
  drag.busy = false;
}

function drop(handle) {
  clearTimeout(drag.timer);
  drag.turn += 1;
  drag.next = null;
  const { target, movedEthanol: ethanol, movedPower: power } = handle.dataset;
  if (ethanol === undefined) return;
  const url = `${handle.closest("[data-url]").dataset.url}/move`;
  drag.refocus = document.activeElement === handle ? target : null;
  const now = JSON.parse(document.getElementById("work").getAttribute("hx-vals"));
  const pending = handle.dataset.pending = String(drag.turn);
  hand.post(url, { ...now, at: target, ethanol, power, target }, handle).then((status) => {
    if (handle.dataset.pending !== pending) return;  // moved again since
    if (status !== 200 && handle.isConnected) placed(handle, Number(handle.dataset.ethanol), Number(handle.dataset.power));
    ["pending", "movedEthanol", "movedPower"].forEach((name) => delete handle.dataset[name]);
  });
}

document.addEventListener("pointerdown", (event) => {
  const handle = event.target.closest?.(".handle");
  if (!handle || event.button > 0) return;
  event.preventDefault();
  drag.handle = handle;
  handle.setPointerCapture(event.pointerId);
  handle.classList.add("is-dragged");
});

document.addEventListener("pointermove", (event) => {
  const handle = drag.handle;
  if (!handle) return;
  const svg = handle.closest("svg"), f = frameOf(handle);
  const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
  placed(handle, (100 * (at.x - f.left)) / (f.right - f.left), f.low + ((f.high - f.low) * (at.y - f.bottom)) / (f.top - f.bottom));
});

function release(event) {
  const handle = drag.handle;
  if (!handle) return;
  drag.handle = null;
  handle.classList.remove("is-dragged");
  if (event.type === "pointerup") drop(handle);
}
document.addEventListener("pointerup", release);
document.addEventListener("pointercancel", release);

const ARROWS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };
document.addEventListener("keydown", (event) => {
  const handle = event.target.closest?.(".handle");
  if (!handle) return;
  if (event.key === "Enter") { drop(handle); return; }
  const step = ARROWS[event.key];
  if (!step) return;
  event.preventDefault();
  const by = event.shiftKey ? 10 : 1, f = frameOf(handle);
  const ethanol = Number(handle.dataset.movedEthanol ?? handle.dataset.ethanol) + step[0] * by;
  placed(handle, ethanol, Number(handle.dataset.movedPower ?? handle.dataset.power) + step[1] * by * f.step);
  clearTimeout(drag.timer);
  drag.timer = setTimeout(() => drop(handle), SETTLE_MS);
});

document.addEventListener("htmx:afterSettle", (event) => {
  if (!drag.refocus || event.detail.target.id !== "envelope") return;
  document.querySelector(`.handle[data-target="${CSS.escape(drag.refocus)}"]`)?.focus();
  drag.refocus = null;
});
