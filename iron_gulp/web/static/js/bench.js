"use strict";
// The bench's own behaviour: dialogs, keyboard, theme, and keeping what was typed through a repaint.

const byId = (id) => document.getElementById(id);
const inText = (element) => element && element.matches("input, textarea, select, [contenteditable]");

// --- Repaints keep refused and half-typed fields, and all that the hand did since --------------------------------
if (window.Idiomorph) {
  Idiomorph.defaults.ignoreActiveValue = true;
  Idiomorph.defaults.callbacks.beforeNodeMorphed = (oldNode, newNode) => {
    if (oldNode.nodeType !== Node.ELEMENT_NODE) return true;
    if (oldNode.dataset?.keeps && !hand.answering?.holds(oldNode.firstElementChild)) return false;
    if (oldNode.matches(".handle.is-dragged, .handle[data-moved-power]")) return false;
    if (newNode.dataset?.source && oldNode.dataset?.source && oldNode.id === newNode.id) {
      // What comes when looked at keeps what it shows until the new arrives; remedies of another finding do not.
      if (oldNode.classList.contains("remedies-of")) oldNode.replaceChildren();
      oldNode.dataset.source = newNode.dataset.source;
      oldNode.dataset.revision = newNode.dataset.revision;
      if (newNode.hasAttribute("aria-label")) oldNode.setAttribute("aria-label", newNode.getAttribute("aria-label"));
      return false;
    }
    if (oldNode.classList.contains("field") && oldNode.dataset.path) {
      const same = newNode.dataset && newNode.dataset.path === oldNode.dataset.path;
      const control = oldNode.querySelector(CONTROLS);
      if (same && control && (hand.keeps(control) || (oldNode.classList.contains("bad") && !hand.answering?.holds(control)))) return false;
    }
    if (oldNode.matches(CONTROLS) && hand.keeps(oldNode)) return false;
    if (oldNode.tagName === "DETAILS" && oldNode.open && newNode.setAttribute) newNode.setAttribute("open", "");
    return true;
  };
}

document.addEventListener("htmx:beforeSwap", () => {
  // What is being typed in another field stays. The edited field has been answered and a button pressed may be another
  // button now: the repaint replaces their text even while they have the focus.
  const active = document.activeElement;
  if (window.Idiomorph) Idiomorph.defaults.ignoreActiveValue = active.matches(CONTROLS) && !hand.answering?.holds(active);
});
document.addEventListener("htmx:afterSwap", (event) => {
  if (event.detail.target.id === "explain-body") byId("explain-dialog").showModal();
});

function announce(message) {
  let toast = byId("offline");
  if (!toast) {
    toast = document.createElement("p");
    toast.id = "offline";
    toast.className = "toast-error";
    toast.setAttribute("role", "alert");
    document.body.append(toast);
  }
  toast.textContent = message;
  clearTimeout(announce.timer);
  announce.timer = setTimeout(() => toast.remove(), 8000);
}
document.addEventListener("htmx:sendError", (event) => {
  if (event.detail.requestConfig?.elt.id !== "sender") announce("The server did not answer; try again.");
});
document.addEventListener("htmx:responseError", (event) => {
  if (event.detail.requestConfig?.elt.id !== "sender") announce(wordsOf(event.detail.xhr.responseText) || `The server refused this (${event.detail.xhr.status}).`);
});

// --- What was changed before the scripts were ready ------------------------------------------------------------------
document.addEventListener("htmx:load", () => {
  const waiting = window.earlyChanges;
  window.earlyChanges = null;
  (waiting || []).forEach((element) => { if (element.isConnected) htmx.trigger(element, "change"); });
}, { once: true });

// --- Clicks --------------------------------------------------------------------------------------------------------
document.addEventListener("click", (event) => {
  const opener = event.target.closest("[data-open]");
  if (opener) openDialog(opener.dataset.open);
  if (event.target.closest("[data-close]")) event.target.closest("dialog").close();
  if (event.target.tagName === "DIALOG") event.target.close();
  document.querySelectorAll(".units-menu[open]").forEach((menu) => {
    if (!menu.contains(event.target)) menu.open = false;
  });
});
// What was asked back is taken with one key: it stands in the field as if typed, and goes where that goes.
document.addEventListener("click", (event) => {
  const button = event.target.closest("[data-meant]");
  if (!button) return;
  const input = button.closest(".field").querySelector("input");
  input.value = button.dataset.meant;
  if (input.hasAttribute("hx-post")) input.dispatchEvent(new Event("change", { bubbles: true }));
  else { button.closest(".field").classList.remove("bad"); button.parentElement.remove(); input.focus(); }
});
document.addEventListener("htmx:afterSettle", (event) => {
  if (event.detail.elt?.id === "work") document.querySelector("[data-meant]")?.focus();
});
document.querySelector("[data-meant]")?.focus();
document.addEventListener("change", (event) => {
  if (event.target.matches("[data-autosubmit]")) event.target.form.submit();
});
// Enter takes a typed value; in a field of a form it sends the form.
document.addEventListener("keydown", (event) => {
  if (event.key !== "Enter" || event.isComposing || !event.target.matches("#work input:not([type=range], [type=checkbox], [type=radio])")) return;
  const { target } = event, { form } = target;
  if (target.hasAttribute("hx-post")) { target.blur(); return; }
  if (!form || target.type === "file") return;
  event.preventDefault();
  const sends = form.querySelector("button[hx-post]");
  if (sends && !form.hasAttribute("hx-post")) sends.click(); else form.requestSubmit();
});

byId("theme-switch").addEventListener("click", () => {
  const root = document.documentElement;
  const next = root.dataset.bsTheme === "dark" ? "light" : "dark";
  root.dataset.bsTheme = next;
  try { localStorage.setItem("iron-gulp-theme", next); } catch (error) { announce("This browser does not keep the choice of lamp."); }
  document.dispatchEvent(new CustomEvent("bench:theme"));
});

// --- Find ------------------------------------------------------------------------------------------------------------
function findable() {
  return [...document.querySelectorAll("[data-find]")]
    .map((element) => ({
      element,
      kind: element.dataset.find,
      text: (element.dataset.find === "station" ? element.querySelector(".station-title") : element).textContent.replace(/\s+/g, " ").trim(),
    }))
    .filter((entry) => entry.text);
}

function goTo(entry) {
  byId("find-dialog").close();
  const { element } = entry;
  if (element.tagName === "A") { element.click(); return; }
  const target = element.tagName === "LABEL" ? byId(element.htmlFor) : element;
  const fold = target.closest("details");
  if (fold) fold.open = true;
  target.scrollIntoView({ block: "center" });
  target.focus();
}

function showFound(text) {
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  const hits = findable().filter((entry) => words.every((word) => entry.text.toLowerCase().includes(word))).slice(0, 12);
  const list = byId("find-results");
  list.replaceChildren(
    ...hits.map((entry) => {
      const item = document.createElement("li");
      const button = document.createElement("button");
      const kind = document.createElement("span");
      kind.className = "muted small";
      kind.textContent = entry.kind;
      button.type = "button";
      button.append(entry.text, " ", kind);
      button.addEventListener("click", () => goTo(entry));
      item.append(button);
      return item;
    }),
  );
}

// Everything that is not on this page: other benches, parts, builds, words.
let findTurn = 0;
async function showElsewhere(text) {
  const turn = ++findTurn, list = byId("find-elsewhere");
  if (!text.trim()) { list.replaceChildren(); return; }
  const work = byId("work"), here = /^\/builds\/(\d+)\//.exec(location.pathname);
  const asked = new URLSearchParams({ q: text });
  if (here) {
    const values = JSON.parse(work?.getAttribute("hx-vals") || "{}");
    asked.set("build", here[1]); asked.set("option", values.option || ""); asked.set("target", values.target || "");
  }
  try {
    const answer = await fetch(`/find?${asked}`);
    const html = await answer.text();
    if (turn === findTurn && answer.ok) {
      list.innerHTML = html;
      if (byId("find-results").children.length) list.querySelector(".find-nothing")?.remove();
    }
  } catch (error) {
    if (turn === findTurn) announce("The server did not answer; only this page was searched.");
  }
}

function openDialog(id) {
  const dialog = byId(id);
  dialog.showModal();
  if (id === "find-dialog") {
    byId("find-text").value = "";
    showFound("");
    showElsewhere("");
    byId("find-text").focus();
  }
}
byId("find-text").addEventListener("input", (event) => { showFound(event.target.value); showElsewhere(event.target.value); });
byId("find-text").addEventListener("keydown", (event) => {
  const first = byId("find-results").querySelector("button") || byId("find-elsewhere").querySelector("a");
  if (event.key === "Enter") first?.click();
  if (event.key === "ArrowDown") first?.focus();
});

// --- Keyboard ----------------------------------------------------------------------------------------------------------
function walk(step) {
  const stations = [...document.querySelectorAll("[data-station]")];
  if (!stations.length) return;
  const at = stations.findIndex((station) => station.hasAttribute("aria-current"));
  const next = at < 0 ? (step > 0 ? 0 : stations.length - 1) : (at + step + stations.length) % stations.length;
  stations[next].click();
}

document.addEventListener("keydown", (event) => {
  if (document.querySelector("dialog[open]")) return;
  const undoing = (event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z";
  if (undoing && !inText(event.target)) {
    event.preventDefault();
    byId(event.shiftKey ? "redo" : "undo")?.click();
    return;
  }
  if (inText(event.target) || event.ctrlKey || event.metaKey || event.altKey) return;
  if (event.key === "?") openDialog("help-dialog");
  else if (event.key === "/") {
    event.preventDefault();
    const filter = byId("q");
    if (filter) filter.focus(); else openDialog("find-dialog");
  } else if (event.key === "[") walk(-1);
  else if (event.key === "]") walk(1);
  else if (event.key === "g") hand.then(() => window.location.assign("/"));
  else if (/^[1-9]$/.test(event.key)) document.querySelector(`[data-target="${event.key}"]`)?.click();
});

// --- Diagram ---------------------------------------------------------------------------------------------------------
function showElement(event) {
  const element = event.target.closest?.(".el");
  const place = byId("element-figures");
  if (element && place) place.textContent = `${element.dataset.name} — ${element.dataset.figures}`;
}
document.addEventListener("focusin", showElement);
document.addEventListener("mouseover", showElement);

function showSlider(slider) {
  const shown = Number(slider.value) * Number(slider.dataset.scale) + Number(slider.dataset.offset);
  slider.closest("label").querySelector("output").textContent = `${shown.toFixed(Number(slider.dataset.decimals))} ${slider.dataset.unit}`;
}
document.addEventListener("input", (event) => {
  if (event.target.matches(".sliders input[type=range]")) showSlider(event.target);
});
document.addEventListener("reset", (event) => {
  if (event.target.id !== "sliders") return;
  // The values are back only after the event; then the drawing follows them.
  setTimeout(() => {
    event.target.querySelectorAll("input[type=range]").forEach(showSlider);
    event.target.dispatchEvent(new Event("input", { bubbles: true }));
  });
});

// --- Charts, remedies and tables are worked out when someone looks ------------------------------------------------------
const looking = new IntersectionObserver((entries) => {
  entries.filter((entry) => entry.isIntersecting).forEach((entry) => fetchPiece(entry.target));
}, { rootMargin: "120px" });

async function fetchPiece(element) {
  const wanted = `${element.dataset.revision} ${element.dataset.source}`;
  if (element.dataset.asked === wanted) return;
  element.dataset.asked = wanted;
  element.setAttribute("aria-busy", "true");
  if (element.classList.contains("chart")) {
    try {
      const answer = await fetch(element.dataset.source);
      if (!answer.ok) throw new Error(String(answer.status));
      if (answer.status === 204) { element.removeAttribute("aria-busy"); return; }
      const data = await answer.text();
      if (element.dataset.asked !== wanted) return;
      element.dataset.chart = data;
      document.dispatchEvent(new CustomEvent("bench:chart"));
    } catch (error) {
      delete element.dataset.asked;
      announce("The server did not answer for a chart; it comes with the next change.");
    }
  } else if (element.classList.contains("remedies-of")) {
    await fetchTogether(element);
    return;
  } else {
    await htmx.ajax("GET", element.dataset.source, { source: element, target: element, swap: "morph:innerHTML" });
  }
  element.removeAttribute("aria-busy");
}

// Remedies of findings seen at the same moment are asked for in one request: the model tries them in one set.
let waiting = [];
async function fetchTogether(element) {
  waiting.push(element);
  if (waiting.length > 1) return;
  await new Promise((done) => setTimeout(done, 0));
  const [together, address] = [waiting, new URL(waiting[0].dataset.source, location.href)];
  waiting = [];
  const wanted = together.map((one) => one.dataset.asked);
  together.slice(1).forEach((one) => address.searchParams.append("number", new URL(one.dataset.source, location.href).searchParams.get("number")));
  try {
    const answer = await fetch(address, { headers: { "HX-Request": "true" } });
    if (!answer.ok) throw new Error(String(answer.status));
    const pieces = new DOMParser().parseFromString(await answer.text(), "text/html");
    together.forEach((one, at) => {
      if (one.dataset.asked !== wanted[at]) return;  // asked again since
      const piece = pieces.querySelector(`[data-piece="${one.id}"]`);
      one.replaceChildren(...(piece ? piece.childNodes : []));  // none: the finding went with a change since
      htmx.process(one);
    });
  } catch (error) {
    together.forEach((one) => { delete one.dataset.asked; });
    announce("The server did not answer for the remedies; they come with the next change.");
  }
  together.forEach((one) => one.removeAttribute("aria-busy"));
}

function watchPieces() {
  document.querySelectorAll("[data-source]").forEach((element) => { looking.unobserve(element); looking.observe(element); });
  document.querySelectorAll(".sheets .chart[data-source]").forEach(fetchPiece);  // paper is not scrolled
}
document.addEventListener("DOMContentLoaded", watchPieces);
document.addEventListener("htmx:afterSettle", (event) => {
  const target = event.detail.target;
  if (target.id === "work" || target.querySelector?.("[data-source]")) watchPieces();  // a piece may hold pieces
});
let lampBefore = null;
window.addEventListener("beforeprint", () => {
  lampBefore = document.documentElement.dataset.bsTheme;
  document.documentElement.dataset.bsTheme = "light";
  document.dispatchEvent(new CustomEvent("bench:theme"));
});
window.addEventListener("afterprint", () => {
  document.documentElement.dataset.bsTheme = lampBefore;
  document.dispatchEvent(new CustomEvent("bench:theme"));
});
// Paper does not wait: what nobody has looked at yet is fetched at once, and charts take the paper's width.
function fetchForPaper(element) {
  const wanted = `${element.dataset.revision} ${element.dataset.source}`;
  if (element.dataset.asked === wanted && !element.hasAttribute("aria-busy")) return;
  const request = new XMLHttpRequest();
  request.open("GET", element.dataset.source, false);
  request.setRequestHeader("HX-Request", "true");
  try { request.send(); } catch (error) { return; }  // a server that is gone leaves the piece as it is on screen
  if (request.status !== 200) return;
  element.dataset.asked = wanted;
  element.removeAttribute("aria-busy");
  if (element.classList.contains("chart")) element.dataset.chart = request.responseText;
  else element.innerHTML = request.responseText;
}
window.addEventListener("beforeprint", () => {
  // Remedies and closed folds do not go to paper.
  document.querySelectorAll("[data-source]:not(.remedies-of)").forEach((element) => { if (!element.closest("details:not([open])")) fetchForPaper(element); });
  document.dispatchEvent(new CustomEvent("bench:paper", { detail: true }));
});
window.addEventListener("afterprint", () => document.dispatchEvent(new CustomEvent("bench:paper", { detail: false })));

// A build is sized once, however often the button is pressed.
document.addEventListener("submit", (event) => {
  if (event.target.id !== "new-form") return;
  document.getElementById("size-it").disabled = true;
  document.getElementById("size-wait").textContent = "Sizing: systems of the shelf are judged on every target.";
});
window.addEventListener("pageshow", () => document.getElementById("size-it")?.removeAttribute("disabled"));

// --- What takes trials is worked out only where someone looks ----------------------------------------------------------
function wantLazy(fold) {
  if (fold.open) htmx.trigger(fold.querySelector(".lazy-load"), "wanted");
}
document.addEventListener("toggle", (event) => {
  if (event.target.matches?.(".lazy-fold")) wantLazy(event.target);
}, true);
document.addEventListener("htmx:afterSettle", (event) => {
  if (event.detail.target.id === "work") document.querySelectorAll(".lazy-fold[open]").forEach(wantLazy);
});
