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
