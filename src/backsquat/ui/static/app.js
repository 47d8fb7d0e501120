// Keys, the sheet's arrows, the rest timer and the steppers. Everything here is a shortcut: the pages work without it.
"use strict";

// The open number of the sheet: arrows move from cell to cell, skipping cells without one.
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

// The sheet: a picked rectangle of cells, typing over it, filling, copying a week. The server checks and draws.
const picked = { from: null, to: null };
const cellOf = (td) => td.querySelector("a[data-cell]");
const rowsOf = () => [...document.querySelectorAll("#sheet tbody tr")];
const pickable = (td) => td.querySelector("a[data-load]") && !td.classList.contains("refused");

function pick(link, extend) {
  if (!extend || !picked.from?.isConnected) picked.from = link;
  picked.to = link;
  const [a, b] = [picked.from, picked.to].map((one) => ({ row: one.closest("tr").sectionRowIndex, week: Number(one.dataset.week) }));
  document.querySelectorAll(".sheet td.is-picked").forEach((td) => td.classList.remove("is-picked"));
  if (a.row === b.row && a.week === b.week) return;
  for (const td of pickedCells()) td.classList.add("is-picked");
}

function pickedCells() {
  if (!picked.from?.isConnected || !picked.to?.isConnected) return [];
  const rows = [picked.from, picked.to].map((one) => one.closest("tr").sectionRowIndex).sort((x, y) => x - y);
  const weeks = [picked.from, picked.to].map((one) => Number(one.dataset.week)).sort((x, y) => x - y);
  return rowsOf().slice(rows[0], rows[1] + 1).flatMap((row) => [...row.querySelectorAll("a[data-cell]")])
    .filter((link) => Number(link.dataset.week) >= weeks[0] && Number(link.dataset.week) <= weeks[1])
    .map((link) => link.closest("td")).filter(pickable);
}

function sheetSays(words, wrong) {
  const said = document.getElementById("sheet-said");
  if (said) { said.textContent = words; said.classList.toggle("is-wrong", Boolean(wrong)); }
}

// Show the new loads at once, send them, and put what the server drew in their place.
async function sendLoads(edits) {
  const frame = document.getElementById("sheet");
  edits = edits.filter(([td, load]) => load !== "" && load !== cellOf(td).dataset.load);
  if (!edits.length || !frame?.dataset.edits) return;
  const before = edits.map(([td]) => td.innerHTML);
  const focused = document.activeElement?.closest?.("a[data-cell]") || picked.to;
  const at = focused && { row: focused.closest("tr").sectionRowIndex, week: focused.dataset.week };
  for (const [td, load] of edits) {
    td.classList.add("is-sending");
    const shown = td.querySelector(".load");
    if (shown) shown.textContent = load; else cellOf(td).textContent = load;
  }
  const body = new URLSearchParams({ cells: edits.map(([td]) => cellOf(td).dataset.cell).join(" "), loads: edits.map(([, load]) => load).join(" ") });
  const token = document.querySelector("meta[name=csrf-token]")?.content || "";
  let answer, told = {};
  try {
    answer = await fetch(frame.dataset.edits, { method: "POST", body, headers: { "X-CSRFToken": token } });
    told = await answer.json();
  } catch {
    told = { problem: answer?.status === 401 ? "Your sign-in has ended: nothing was changed. Sign in, then type it again." : "The line is down: nothing was changed." };
  }
  if (!answer?.ok) {
    edits.forEach(([td], n) => { td.innerHTML = before[n]; td.classList.remove("is-sending"); td.classList.add("is-refused"); setTimeout(() => td.classList.remove("is-refused"), 2500); });
    sheetSays(told.problem || "This could not be kept. Reload the page.", true);
    return;
  }
  for (const [id, html] of Object.entries(told.cells)) {
    const old = document.querySelector(`#sheet a[data-cell="${id}"]`)?.closest("td");
    if (!old) continue;
    const holder = document.createElement("template");
    holder.innerHTML = html;
    const fresh = holder.content.firstElementChild;
    old.replaceWith(fresh);
    htmx.process(fresh);
  }
  const back = at && rowsOf()[at.row]?.querySelector(`a[data-week="${at.week}"]`);
  if (back) { back.focus({ preventScroll: true }); pick(back, false); }
  document.getElementById("block-acts").innerHTML = told.acts;
  sheetSays(`${edits.length === 1 ? "Changed" : `${edits.length} cells changed`}, as a draft. Publish it when the week is right.`);
  document.dispatchEvent(new CustomEvent("sheet:kept"));
}

// Typing starts over the picked cells; Enter takes the number for all of them.
function typeInto(link, first) {
  const td = link.closest("td"), input = document.createElement("input");
  input.className = "typed"; input.value = first; input.inputMode = "decimal"; input.setAttribute("aria-label", "Load");
  td.append(input); input.focus();
  let open = true;
  const end = (take, next) => {
    if (!open) return;
    open = false;
    const value = input.value.trim().replace(",", ".");
    const cells = pickedCells(), goal = cells.includes(td) && cells.length > 1 ? cells : [td];
    input.remove();
    const move = next && sheetStep(link, ...next);
    (move || link).focus();
    if (take && value) sendLoads(goal.map((one) => [one, value]));
  };
  input.addEventListener("keydown", (event) => {
    event.stopPropagation();
    if (event.key === "Enter") { event.preventDefault(); end(true, [0, 1]); }
    if (event.key === "Tab") { event.preventDefault(); end(true, [event.shiftKey ? -1 : 1, 0]); }
    if (event.key === "Escape") end(false);
  });
  input.addEventListener("blur", () => end(true));
}

let copiedWeek = null;
const FILLS = {
  right() {
    const rows = Map.groupBy ? Map.groupBy(pickedCells(), (td) => td.parentElement) : pickedCells().reduce((map, td) => map.set(td.parentElement, [...(map.get(td.parentElement) || []), td]), new Map());
    sendLoads([...rows.values()].flatMap(([first, ...others]) => others.map((td) => [td, cellOf(first).dataset.load])));
  },
  down() {
    const first = new Map();
    sendLoads(pickedCells().flatMap((td) => {
      const week = cellOf(td).dataset.week;
      if (!first.has(week)) { first.set(week, cellOf(td).dataset.load); return []; }
      return [[td, first.get(week)]];
    }));
  },
  copy() {
    if (!picked.to?.isConnected) return;
    copiedWeek = picked.to.dataset.week;
    sheetSays(`Week ${Number(copiedWeek) + 1} copied. Go to another week and paste it.`);
  },
  paste() {
    if (copiedWeek === null || !picked.to?.isConnected) return;
    const to = picked.to.dataset.week;
    sendLoads(rowsOf().flatMap((row) => {
      const [from, goal] = [copiedWeek, to].map((week) => row.querySelector(`a[data-cell][data-week="${week}"]`));
      return from?.dataset.load && goal && pickable(goal.closest("td")) ? [[goal.closest("td"), from.dataset.load]] : [];
    }));
  },
};
const FILL_KEYS = { r: "right", d: "down", c: "copy", v: "paste" };

document.addEventListener("focusin", (event) => {
  const link = event.target.closest?.("#sheet a[data-cell]");
  if (link && !picked.extending) pick(link, false);
});

document.addEventListener("keydown", (event) => {
  const target = event.target;
  if (target.matches("input, textarea, select")) return;
  const cell = target.closest("a[data-cell]");
  if ((event.ctrlKey || event.metaKey) && cell && "zy".includes(event.key)) {
    event.preventDefault();
    document.querySelector(event.key === "z" ? "form[data-undo]" : "form[data-redo]")?.requestSubmit();
  }
  if (event.ctrlKey || event.metaKey || event.altKey) return;
  if (cell && ARROWS[event.key]) {
    const next = sheetStep(cell, ...ARROWS[event.key]);
    if (next) {
      picked.extending = event.shiftKey;
      next.focus();
      picked.extending = false;
      if (event.shiftKey) pick(next, true);
      event.preventDefault();
    }
    return;
  }
  const edits = document.getElementById("sheet")?.dataset.edits;
  if (cell && edits && /^[0-9-]$/.test(event.key) && pickable(cell.closest("td"))) { event.preventDefault(); typeInto(cell, event.key); return; }
  if (cell && edits && FILL_KEYS[event.key]) { event.preventDefault(); FILLS[FILL_KEYS[event.key]](); return; }
  const go = { "[": ".rail-steps a[rel=prev]", "]": ".rail-steps a[rel=next]" }[event.key];
  if (go) document.querySelector(go)?.click();
  if (event.key === "?") document.getElementById("keys").showModal();
  if (event.key === "u") document.querySelector("form[data-undo]")?.requestSubmit();
  if (event.key === "y") document.querySelector("form[data-redo]")?.requestSubmit();
  if (event.key === "e") {
    const field = document.querySelector("#panel input[name=load]");
    if (field) { event.preventDefault(); field.closest("details")?.setAttribute("open", ""); field.select(); }
  }
});

document.addEventListener("mousedown", (event) => {
  const fill = event.target.closest("[data-fill]");
  if (fill) event.preventDefault(); // the picked cells keep the focus
  const link = event.target.closest("#sheet a[data-cell]");
  if (link && event.shiftKey) { event.preventDefault(); pick(link, true); }
});

document.addEventListener("click", (event) => {
  const fill = event.target.closest("[data-fill]");
  if (fill) FILLS[fill.dataset.fill]();
  if (event.shiftKey && event.target.closest("#sheet a[data-cell]")) { event.preventDefault(); event.stopPropagation(); return; }
  if (event.target.closest("[data-keys]")) document.getElementById("keys").showModal();
  const cell = event.target.closest("a[data-cell]");
  if (cell) {
    document.querySelectorAll(".sheet td.is-open").forEach((open) => open.classList.remove("is-open"));
    cell.closest("td").classList.add("is-open");
  }
});

// On narrow screens the working stands below the sheet: bring it into view when it changes.
document.addEventListener("htmx:afterSwap", (event) => {
  if (event.target.id === "panel" && event.target.getBoundingClientRect().top > window.innerHeight - 120) {
    event.target.scrollIntoView({ block: "start" });
  }
});

// Fields that keep themselves. What was typed stays in the browser until the server has it, so that a
// lost connection or a closed tab loses nothing; it is sent again when the page opens or the line is back.
// It belongs to the person who typed it: nobody else's browser session sends it, and signing out clears it.
const person = document.querySelector("meta[name=person]")?.content || "";
const draftKey = (field) => `draft ${person} ${field.dataset.autosave} ${field.name} ${field.dataset.day}`;
function clearDrafts(whose) {
  for (const key of Object.keys(localStorage)) if (key.startsWith("draft ") && whose(key)) localStorage.removeItem(key);
}
clearDrafts((key) => !/^draft \d+ /.test(key)); // of earlier versions, nobody's
document.addEventListener("submit", (event) => {
  if (event.target.matches("form.person")) clearDrafts((key) => key.startsWith(`draft ${person} `));
});

// Signed in again without leaving the page: its forms get the token that is good now, and what was typed stays.
document.addEventListener("signed-in", (event) => {
  const token = event.detail.value;
  document.querySelectorAll("input[name=csrf_token]").forEach((input) => { input.value = token; });
  document.querySelector("meta[name=csrf-token]")?.setAttribute("content", token);
  document.getElementById("sign-in-here").innerHTML = '<p class="message" role="status">Signed in. Send it again.</p>';
});

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
  if (event.target.matches("[data-goes-to]")) location.assign(`${event.target.dataset.goesTo.split("?")[0]}?athlete=${event.target.value}`);
  if (event.target.matches("[data-goes]")) document.querySelector("[data-squad-link]").href = event.target.value;
});
document.addEventListener("change", (event) => {
  const name = event.target.dataset?.ticks;
  if (name) for (const box of event.target.form.elements) if (box.name === name) box.checked = event.target.checked;
});
document.addEventListener("input", (event) => {
  if (event.target.matches("input[data-autosave]")) localStorage.setItem(draftKey(event.target), event.target.value);
});
// A name that could be meant takes the place of what was typed in its line.
document.addEventListener("click", (event) => {
  const name = event.target.closest("[data-means]");
  if (!name) return;
  const text = name.closest("form").querySelector("[name=typed]");
  const lines = text.value.split("\n"), row = Number(name.dataset.row) - 1;
  const at = lines[row]?.toLowerCase().indexOf(name.dataset.typed);
  if (at === undefined || at < 0) return;
  lines[row] = lines[row].slice(0, at) + name.dataset.means.toLowerCase() + lines[row].slice(at + name.dataset.typed.length);
  text.value = lines.join("\n");
  text.focus();
  text.dispatchEvent(new Event("input", { bubbles: true }));
});
// One more line of a list: the last one again with the next number; what is typed is empty, what is chosen stays.
document.addEventListener("click", (event) => {
  const button = event.target.closest("[data-more-lines]");
  if (!button) return;
  const body = button.closest("p").previousElementSibling.tBodies[0];
  if (body.rows.length >= Number(button.dataset.moreLines || Infinity)) return button.remove();
  const last = body.lastElementChild, line = last.cloneNode(true), chosen = [...last.querySelectorAll("select")];
  for (const said of line.querySelectorAll(".problem, .is-hold")) said.remove();
  for (const field of line.querySelectorAll("[name]")) {
    field.classList.remove("is-wrong");
    field.name = field.name.replace(/\d+$/, (n) => Number(n) + 1);
    field.ariaLabel = field.ariaLabel?.replace(/\d+$/, (n) => Number(n) + 1) ?? null;
    if (field.type === "checkbox") field.checked = false;
    else field.value = field.matches("select") ? chosen.shift().value : "";
  }
  body.append(line);
  line.querySelector("input:not([type=hidden])").focus();
});
// A table to type into: Enter and the arrows go down and up its column.
document.addEventListener("keydown", (event) => {
  const field = event.target;
  if (!field.matches("[data-grid] td input.form-control") || !["Enter", "ArrowDown", "ArrowUp"].includes(event.key)) return;
  const cell = field.closest("td");
  const up = event.key === "ArrowUp" || (event.key === "Enter" && event.shiftKey);
  let row = cell.parentElement, next = null;
  while (!next && (row = row[up ? "previousElementSibling" : "nextElementSibling"])) next = row.children[cell.cellIndex]?.querySelector("input.form-control");
  event.preventDefault();
  if (next) { next.focus(); next.select(); }
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
// A jump mat fills the field beside it with the best of three; without it the number is typed.
document.addEventListener("click", async (event) => {
  const button = event.target.closest("[data-mat]");
  if (!button) return;
  const field = button.closest(".save-field").querySelector("input");
  const token = document.querySelector("meta[name=csrf-token]")?.content || "";
  const asked = async (options) => { try { return await (await fetch(options.of ? `/screen/mat?of=${options.of}` : "/screen/mat", options.of ? {} : { method: "POST", headers: { "X-CSRFToken": token } })).json(); } catch { return null; } };
  const begun = await asked({});
  if (begun?.held_by) { say(field, `${begun.held_by} is measuring with the mat`, "is-waiting"); return; }
  if (!begun?.there) { say(field, "the mat is not plugged in: type it", "is-waiting"); return; }
  say(field, `jump: ${begun.jumps} times`, "is-waiting");
  const look = async () => {
    const seen = await asked({ of: begun.of });
    const count = seen?.heights_cm.length || 0;
    if (count) { field.value = String(seen.best_cm); say(field, `${count} of ${begun.jumps}: ${seen.heights_cm.join(", ")}`, "is-waiting"); }
    if (count >= begun.jumps || (seen && !seen.there)) { if (count) keepField(field); return; }
    if (button.isConnected) setTimeout(look, 300);
  };
  look();
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
      const before = this.left;
      this.left = Math.max(0, Math.round((this.end - Date.now()) / 1000));
      if (before > 0 && !this.left && "sound" in this.$el.dataset) document.dispatchEvent(new CustomEvent("rest:over"));
      this.words = this.left ? `${Math.floor(this.left / 60)}:${String(this.left % 60).padStart(2, "0")}` : "ready";
    },
  }));
  // A number with minus and plus beside it.
  Alpine.data("count", () => ({
    add(by) {
      const input = this.$el.closest(".count").querySelector("input");
      const low = Number(input.dataset.low || 0), high = Number(input.dataset.high || 99);
      if (!input.value && input.dataset.from) input.value = input.dataset.from; // the first tap says what was expected
      else input.value = Math.min(high, Math.max(low, (Number(input.value) || 0) + by));
    },
    less() { this.add(-1); },
    more() { this.add(1); },
  }));
});

// What scrolls sideways can be scrolled with keys too, where nothing in it takes the focus.
function scrollable() {
  document.querySelectorAll(".wide-table, .sheet-frame").forEach((frame) => {
    const wide = frame.scrollWidth > frame.clientWidth && !frame.querySelector("a, button, input, select, summary");
    if (wide) { frame.tabIndex = 0; frame.setAttribute("role", "group"); frame.setAttribute("aria-label", "scrolls sideways"); }
  });
}
document.addEventListener("DOMContentLoaded", scrollable);
document.addEventListener("htmx:afterSettle", scrollable);
window.addEventListener("resize", scrollable); // a tablet turned, a window drawn smaller
