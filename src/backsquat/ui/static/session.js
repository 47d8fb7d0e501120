// The session's strips: rows are taken by their handle (mouse, touch) or moved by keys. The server does every move
// and draws the session again; the buttons of each row's menu do the same without this.
"use strict";

const page = () => document.getElementById("session");
const rows = () => [...page().querySelectorAll(".strip-row[data-key]")];
const groupOf = (row) => {
  // The rows of one superset or circuit stand together, the first one marked.
  const found = [row];
  for (let next = row; !next.classList.contains("is-first") && (next = next.previousElementSibling);) found.unshift(next);
  for (let next = row; !next.classList.contains("is-last") && (next = next.nextElementSibling);) found.push(next);
  return found;
};

// One move after the other, each on the session as the one before has left it: keys may come faster than answers.
let moves = Promise.resolve();
function then(key, act) {
  moves = moves.then(() => { const row = rows().find((one) => one.dataset.key === key); return row && act(row); }).catch(() => {});
}

function send(values) {
  const address = page().dataset.move;
  if (!address) return null;
  const token = document.querySelector("meta[name=csrf-token]")?.content || "";
  const all = { athlete: page().dataset.athlete, csrf_token: token, ...values };
  return htmx.ajax("POST", address, { target: "#session", swap: "outerHTML", values: all }).then(() => {
    page().querySelector(`[data-key="${values.key}"] [data-handle]`)?.focus();
  });
}

const move = (row, what, to = 0) => send({ what, key: row.dataset.key, to });

const KEYS = {
  s(row) { const above = groupOf(row)[0].previousElementSibling; return above?.dataset.key && move(row, "superset", above.dataset.key); },
  x(row) { return move(row, "leave_superset"); },
  o(row) { return move(row, "circuit", row.classList.contains("is-circuit") ? 0 : 1); },
  m(row) { return move(row, "spare", row.classList.contains("is-spare") ? 0 : 1); },
};

document.addEventListener("keydown", (event) => {
  const row = event.target.closest?.("[data-handle]")?.closest(".strip-row");
  if (!row) return;
  if (event.altKey && (event.key === "ArrowUp" || event.key === "ArrowDown")) {
    event.preventDefault();
    const by = event.key === "ArrowUp" ? "earlier" : "later";
    const inside = event.shiftKey && row.hasAttribute("data-many");
    then(row.dataset.key, (one) => move(one, inside ? { earlier: "up", later: "down" }[by] : by));
  } else if (!event.altKey && (event.key === "ArrowUp" || event.key === "ArrowDown")) {
    event.preventDefault();
    rows()[rows().indexOf(row) + (event.key === "ArrowUp" ? -1 : 1)]?.querySelector("[data-handle]").focus();
  } else if (!event.ctrlKey && !event.metaKey && !event.altKey && KEYS[event.key]) {
    event.preventDefault();
    then(row.dataset.key, KEYS[event.key]);
  }
});

// Taken by the handle: over the upper or lower quarter of a row it goes before or after, over its middle onto it.
let held = null;
function clear() { rows().forEach((row) => row.classList.remove("drop-before", "drop-after", "drop-superset")); }

document.addEventListener("pointerdown", (event) => {
  const handle = event.target.closest?.("[data-handle]");
  if (!handle || event.button) return;
  held = { row: handle.closest(".strip-row"), from: event.clientY, onto: null, where: "" };
  handle.setPointerCapture(event.pointerId);
});
document.addEventListener("pointermove", (event) => {
  if (!held || Math.abs(event.clientY - held.from) < 6) return;
  held.row.classList.add("is-held");
  clear();
  const onto = rows().find((row) => { const box = row.getBoundingClientRect(); return event.clientY >= box.top && event.clientY < box.bottom; });
  held.onto = onto && onto !== held.row ? onto : null;
  if (!held.onto) return;
  const box = held.onto.getBoundingClientRect(), at = (event.clientY - box.top) / box.height;
  held.where = at < 0.25 ? "before" : at > 0.75 ? "after" : "superset";
  held.onto.classList.add(`drop-${held.where}`);
});
document.addEventListener("pointerup", () => {
  if (!held) return;
  const { row, onto, where } = held;
  held = null;
  row.classList.remove("is-held");
  clear();
  if (!onto) return;
  if (where === "superset") return move(row, "superset", onto.dataset.key);
  const first = groupOf(onto)[0];
  if (where === "before") return move(row, "before", first.dataset.key);
  move(row, "before", groupOf(onto).at(-1).nextElementSibling?.dataset.key || 0);
});
document.addEventListener("pointercancel", () => { if (held) { held.row.classList.remove("is-held"); held = null; clear(); } });

// A focused row that is taken out makes the browser lay the page out twice. Its handle is focused again once it is drawn.
document.addEventListener("htmx:beforeSwap", (event) => {
  if (event.detail.target.id === "session" && document.activeElement?.matches("[data-handle]")) document.activeElement.blur();
});

// The second click of a double click falls on what the first one has put in its place: it is meant for nothing.
const DOUBLE_MS = 500;
let drawn = -DOUBLE_MS;
document.addEventListener("htmx:afterSwap", (event) => { if (event.detail.target.id === "session") drawn = performance.now(); });
document.addEventListener("click", (event) => {
  const button = event.target.closest?.(".proposals button, .advice button"), keyed = event.detail === 0;
  if (!button || keyed || (event.detail === 1 && performance.now() - drawn > DOUBLE_MS)) return;
  event.preventDefault();
  event.stopImmediatePropagation();
}, true);
