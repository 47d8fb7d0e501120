// Keys, the sheet's arrows, the rest timer and the steppers. Everything here is a shortcut: the pages work without it.
"use strict";

// The open number of the sheet: arrows move from cell to cell, skipping places without one.
function sheetStep(link, columns, rows) {
  const row = link.closest("tr");
  if (columns) {
    const links = [...row.querySelectorAll("a[data-cell]")];
    return links[links.indexOf(link) + columns];
  }
  const week = link.dataset.week;
  for (let next = row; (next = rows > 0 ? next.nextElementSibling : next.previousElementSibling);) {
    const found = next.querySelector(`a[data-cell][data-week="${week}"]`);
    if (found) return found;
  }
  return null;
}

const ARROWS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey) return;
  const target = event.target;
  if (target.matches("input, textarea, select")) return;
  const cell = target.closest("a[data-cell]");
  if (cell && ARROWS[event.key]) {
    const next = sheetStep(cell, ...ARROWS[event.key]);
    if (next) { next.focus(); event.preventDefault(); }
    return;
  }
  const go = { "[": ".rail-steps a[rel=prev]", "]": ".rail-steps a[rel=next]" }[event.key];
  if (go) document.querySelector(go)?.click();
  if (event.key === "?") document.getElementById("keys").showModal();
  if (event.key === "u") document.querySelector("form[data-undo]")?.requestSubmit();
  if (event.key === "e") {
    const field = document.querySelector("#panel input[name=load]");
    if (field) { event.preventDefault(); field.closest("details")?.setAttribute("open", ""); field.select(); }
  }
});

document.addEventListener("click", (event) => {
  if (event.target.closest("[data-keys]")) document.getElementById("keys").showModal();
  const cell = event.target.closest("a[data-cell]");
  if (cell) {
    document.querySelectorAll(".sheet td.is-open").forEach((open) => open.classList.remove("is-open"));
    cell.closest("td").classList.add("is-open");
  }
  // Opening one way to log closes the other.
  const summary = event.target.closest(".tap-row summary");
  if (summary) document.querySelectorAll(".tap-row details[open]").forEach((open) => open !== summary.parentElement && open.removeAttribute("open"));
});

// On narrow screens the working stands below the sheet: bring it into view when it changes.
document.addEventListener("htmx:afterSwap", (event) => {
  if (event.target.id === "panel" && event.target.getBoundingClientRect().top > window.innerHeight - 120) {
    event.target.scrollIntoView({ block: "start" });
  }
});

// Fields that keep themselves. What was typed stays in the browser until the server has it, so that a
// lost connection or a closed tab loses nothing; it is sent again when the page opens or the line is back.
const draftKey = (field) => `draft ${field.dataset.autosave} ${field.name} ${field.dataset.day}`;

function say(field, words, kind) {
  const state = field.closest(".save-field").querySelector(".save-state");
  state.className = `save-state ${kind}`;
  state.innerHTML = words;
}

// One after the other: answers that overtake each other would leave older findings beside newer values.
let line = Promise.resolve();
function keepField(field) {
  localStorage.setItem(draftKey(field), field.value);
  line = line.then(() => sendField(field));
}

async function sendField(field) {
  const value = field.value;
  const panel = field.closest("form[data-panel]")?.dataset.panel || "";
  const body = new URLSearchParams({ [field.name]: value, day: field.dataset.day, panel });
  const token = document.querySelector("meta[name=csrf-token]")?.content || "";
  let answer;
  try {
    answer = await fetch(field.dataset.autosave, { method: "POST", body, headers: { "X-CSRFToken": token, "X-Autosave": "1" } });
  } catch {
    say(field, "waits for the line", "is-waiting");
    return;
  }
  if (answer.status === 422) {
    localStorage.removeItem(draftKey(field));
    say(field, await answer.text(), "is-wrong");
    return;
  }
  if (!answer.ok || answer.redirected) { say(field, "not kept: reload the page", "is-waiting"); return; }
  if (field.value === value) { localStorage.removeItem(draftKey(field)); say(field, "kept", "is-kept"); }
  if (answer.status === 200 && panel) document.getElementById(panel).outerHTML = await answer.text();
}

function flushDrafts() {
  document.querySelectorAll("[data-autosave]").forEach((field) => {
    const draft = localStorage.getItem(draftKey(field));
    if (draft === null) return;
    field.value = draft;
    keepField(field);
  });
}

document.addEventListener("change", (event) => {
  if (event.target.matches("[data-autosave]")) keepField(event.target);
  if (event.target.matches("[data-submits]")) event.target.form.requestSubmit();
  if (event.target.matches("[data-jumps]")) location.assign(event.target.value);
  if (event.target.matches("[data-goes]")) document.querySelector("[data-squad-link]").href = event.target.value;
});
document.addEventListener("input", (event) => {
  if (event.target.matches("input[data-autosave]")) localStorage.setItem(draftKey(event.target), event.target.value);
});
document.addEventListener("keydown", (event) => {
  const field = event.target;
  if (!field.matches("[data-autosave]")) return;
  const fields = [...document.querySelectorAll("[data-autosave]")];
  const place = fields.indexOf(field);
  const cell = field.closest("td");
  const upOrDown = { ArrowUp: "previousElementSibling", ArrowDown: "nextElementSibling" }[event.key];
  let next = null;
  if (event.key === "Enter") next = fields[place + (event.shiftKey ? -1 : 1)];
  else if (upOrDown && field.tagName === "INPUT") next = cell.parentElement[upOrDown]?.children[cell.cellIndex]?.querySelector("[data-autosave]");
  if (next) { event.preventDefault(); next.focus(); next.select?.(); }
  else if (event.key === "Enter") { event.preventDefault(); field.blur(); }
});
window.addEventListener("online", flushDrafts);
window.addEventListener("DOMContentLoaded", flushDrafts);
setInterval(flushDrafts, 15000);

document.addEventListener("alpine:init", () => {
  // Rest: counts down from the seconds the server worked out.
  Alpine.data("rest", () => ({
    left: 0, words: "",
    init() {
      this.end = Date.now() + 1000 * Number(this.$el.dataset.rest);
      this.tick();
      this.timer = setInterval(() => this.tick(), 250);
    },
    destroy() { clearInterval(this.timer); },
    tick() {
      this.left = Math.max(0, Math.round((this.end - Date.now()) / 1000));
      this.words = this.left ? `${Math.floor(this.left / 60)}:${String(this.left % 60).padStart(2, "0")}` : "ready";
    },
  }));
  // A number with minus and plus beside it.
  Alpine.data("count", () => ({
    add(by) {
      const input = this.$el.closest(".count").querySelector("input");
      const low = Number(input.dataset.low || 0), high = Number(input.dataset.high || 99);
      input.value = Math.min(high, Math.max(low, (Number(input.value) || 0) + by));
    },
    less() { this.add(-1); },
    more() { this.add(1); },
  }));
});
