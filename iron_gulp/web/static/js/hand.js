"use strict";
// What the hand did stays as it was done and is sent in that order, one change after the other, whatever is repainted
// meanwhile. Values are read when a control is used, not when its turn comes; a repaint leaves alone what was used after
// the change it answers, and what was typed or chosen and not sent yet.

const hand = { turn: 0, touched: new WeakMap(), queue: [], current: null, answering: null, waits: null, afterwards: [] };
const CONTROLS = "input, select, textarea";
const SEEN_AT = /\/(remedy|cures\/[^/]+)$/;  // goes by its place in a list that was seen on its own revision
const STEPS = /\/(undo|redo)$/;
const AGAIN_MS = 3000;

["input", "change"].forEach((name) => document.addEventListener(name, (event) => {
  if (event.target.matches?.(CONTROLS)) hand.touched.set(event.target, ++hand.turn);
}, true));
document.addEventListener("pointerdown", (event) => {  // a list that is open is being chosen from
  if (event.target.matches?.("select")) hand.touched.set(event.target, ++hand.turn);
}, true);

hand.busy = () => Boolean(hand.current || hand.queue.length);
hand.isDirty = (control) => {
  if (control.type === "file") return control.files.length > 0;
  if (control.type === "checkbox" || control.type === "radio") return control.checked !== control.defaultChecked;
  if (control.tagName === "SELECT") {
    const preset = [...control.options].filter((one) => one.defaultSelected);
    return preset.length ? preset.some((one) => !one.selected) : control.selectedIndex > 0;
  }
  return control.value !== control.defaultValue;
};

// Whether a repaint leaves a control as it is.
hand.keeps = (control) => {
  const used = hand.touched.get(control) || 0, answer = hand.answering;
  if (answer && used > answer.turn) return true;
  if (hand.queue.some((one) => one.control === control)) return true;
  if (answer && answer.holds(control)) return false;
  return hand.isDirty(control);
};

// --- Sending ---------------------------------------------------------------------------------------------------------
function baseNow() {
  return JSON.parse(document.getElementById("work")?.getAttribute("hx-vals") || "{}").base;
}

function holder(control, path) {
  // The field, form or control a change comes from: what its answer is about.
  const field = control.closest?.(".field[data-path]");
  return (one) => one === control || (control.tagName === "FORM" && control.contains(one)) || (field && one.closest(".field[data-path]")?.dataset.path === field.dataset.path) || (path && one.closest("[data-keeps]")?.dataset.keeps === path);
}

// Send something when its turn has come; gives the status of its answer. `values` are as they are now.
hand.post = (path, values, control, target = "#work", swap = "morph:outerHTML") => new Promise((done) => {
  const base = values.base === undefined ? baseNow() : Number(values.base);
  hand.queue.push({ path, values, control, target, swap, base, turn: hand.turn, holds: holder(control), done, status: 0 });
  document.body.classList.add("is-saving");
  sendNext();
});

function asObject(form) {
  const found = {};
  for (const [name, value] of form.entries()) (found[name] ||= []).push(value);
  return found;
}

document.addEventListener("htmx:configRequest", (event) => {
  const asked = event.detail;
  asked.handTurn = hand.turn;
  if (asked.verb !== "post" || asked.elt.id === "sender") return;
  event.preventDefault();
  const target = asked.target.id ? `#${CSS.escape(asked.target.id)}` : asked.target;
  const swap = asked.elt.closest("[hx-swap]")?.getAttribute("hx-swap") || "innerHTML";
  hand.post(asked.path, asObject(asked.formData), asked.elt, target, swap);
});

// What is only looked at waits for what was done before it.
document.addEventListener("htmx:confirm", (event) => {
  if (event.detail.verb !== "get" || !hand.busy()) return;
  event.preventDefault();
  hand.then(() => { if (event.detail.elt.isConnected) event.detail.issueRequest(true); });
});

async function sendNext() {
  if (hand.current || hand.waits || !hand.queue.length) return;
  const item = hand.current = hand.queue.shift(), sender = document.getElementById("sender");
  const files = Object.values(item.values).flat().some((one) => one instanceof File);
  if (files) sender.setAttribute("hx-encoding", "multipart/form-data"); else sender.removeAttribute("hx-encoding");
  const values = { ...item.values };
  if (values.base !== undefined && item.base !== undefined) values.base = item.base;
  const there = typeof item.target === "string" ? document.querySelector(item.target) : item.target.isConnected;
  const target = there ? item.target : "#work";
  const torn = new Promise((done) => { hand.torn = () => done("torn"); });  // an answer that could not be shown never ends by itself
  const sent = htmx.ajax("POST", item.path, { source: sender, target, swap: item.swap, values }).then(() => "answered", () => "unsent");
  const went = await Promise.race([sent, torn]);
  if (went === "unsent") {
    hand.queue.unshift(item);
    hand.waits = setTimeout(tryAgain, AGAIN_MS);
    announce("The server did not answer. What was typed is not saved yet; it is sent again until it is.");
  } else {
    if (went === "torn") announce("It is saved, but the page could not be repainted: load it again.");
    answered(item);
    item.done(item.status);
  }
  hand.current = null;
  if (hand.busy()) { sendNext(); return; }
  document.body.classList.remove("is-saving");
  hand.afterwards.splice(0).forEach((each) => each());
}

["htmx:onLoadError", "htmx:swapError"].forEach((name) => document.addEventListener(name, (event) => {
  if (event.detail.requestConfig?.elt.id === "sender" || event.detail.elt?.id === "sender") hand.torn?.();
}));

function tryAgain() {
  clearTimeout(hand.waits);
  hand.waits = null;
  sendNext();
}
window.addEventListener("online", tryAgain);

// A later change stands on the revision this one made, unless somebody else's came between: then its own stays, and what
// was changed at the same place is told.
function answered(item) {
  const now = baseNow(), ours = now === item.base || now === item.base + 1 || STEPS.test(item.path);
  if (now === undefined || !ours) return;
  hand.queue.forEach((one) => { if (one.base === item.base && !SEEN_AT.test(one.path)) one.base = now; });
}

document.addEventListener("htmx:beforeSwap", (event) => {
  const asked = event.detail.requestConfig, own = asked.elt.id === "sender";
  hand.answering = own && hand.current ? hand.current : { turn: asked.handTurn ?? hand.turn, holds: holder(asked.elt, asked.elt.dataset.keeps) };
});
document.addEventListener("htmx:afterSwap", () => { hand.answering = null; });
document.addEventListener("htmx:afterRequest", (event) => {
  const item = hand.current;
  if (!item || event.detail.requestConfig?.elt.id !== "sender" || !event.detail.xhr?.status) return;
  const status = item.status = event.detail.xhr.status, said = event.detail.xhr.responseText;
  if (status < 400 && item.control.tagName === "FORM") item.control.querySelectorAll("input[type=file]").forEach((one) => { one.value = ""; });
  if (status >= 400 && status !== 422) refuse(item, wordsOf(said) || `The server refused this (${status}). Nothing was changed.`);
});

function wordsOf(html) {
  return new DOMParser().parseFromString(html, "text/html").querySelector(".lead")?.textContent.trim();
}

// What is refused without a repaint says so beside the control it came from.
function refuse(item, words) {
  announce(words);
  const field = item.control.closest?.(".field");
  if (!field) return;
  field.classList.add("bad");
  const note = field.querySelector(".field-error") || field.appendChild(document.createElement("p"));
  note.className = "field-error";
  note.setAttribute("role", "alert");
  note.textContent = words;
}

// --- Whoever leaves the page waits until what was done is sent ---------------------------------------------------------
hand.then = (act) => { if (hand.busy()) hand.afterwards.push(act); else act(); };
document.addEventListener("click", (event) => {
  const link = event.target.closest?.("a[href]");
  if (!hand.busy() || !link || link.target || event.ctrlKey || event.metaKey || event.shiftKey || link.hasAttribute("download")) return;
  if (link.origin !== location.origin || (link.pathname === location.pathname && link.search === location.search && link.hash)) return;
  event.preventDefault();
  hand.then(() => location.assign(link.href));
}, true);
document.addEventListener("submit", (event) => {
  const form = event.target;
  if (!hand.busy() || form.matches("[hx-post], [hx-get]") || event.defaultPrevented) return;
  event.preventDefault();
  hand.then(() => form.submit());
});
// An answer that asks for another page, or this one anew, waits for what was done since.
document.addEventListener("htmx:beforeOnLoad", (event) => {
  const xhr = event.detail.xhr, to = xhr.getResponseHeader("HX-Redirect"), anew = xhr.getResponseHeader("HX-Refresh");
  if (!to && !anew) return;
  event.preventDefault();
  hand.then(() => { if (to) location.assign(to); else location.reload(); });
});
window.addEventListener("beforeunload", (event) => { if (hand.busy()) event.preventDefault(); });
