// A match or a session is taken and dropped on another day; over a week of the picture it keeps its weekday. What the
// forms beside them do is done: without scripts, and by keys, a day is typed or chosen there.
const DAY_MS = 86400000;
let held = null;

const target = (event) => document.elementFromPoint(event.clientX, event.clientY)?.closest("[data-day], [data-week]");

function dayOf(place) {
  if (place.dataset.day) return place.dataset.day;
  const weekday = (new Date(held.from).getUTCDay() + 6) % 7;
  return new Date(Date.parse(place.dataset.week) + weekday * DAY_MS).toISOString().slice(0, 10);
}

function clear() { document.querySelectorAll(".is-target").forEach((one) => one.classList.remove("is-target")); }

document.addEventListener("pointerdown", (event) => {
  const taken = event.target.closest?.("[data-drag]");
  if (!taken || event.button || event.target.closest("details, button, select, input")) return;
  event.preventDefault();
  held = { taken, from: taken.dataset.drag, at: [event.clientX, event.clientY], moved: false };
});
document.addEventListener("pointermove", (event) => {
  if (!held) return;
  held.moved ||= Math.hypot(event.clientX - held.at[0], event.clientY - held.at[1]) > 6;
  if (!held.moved) return;
  held.taken.classList.add("is-taken");
  clear();
  target(event)?.classList.add("is-target");
});
document.addEventListener("pointerup", (event) => {
  if (!held) return;
  const place = held.moved ? target(event) : null, { taken, from, moved } = held, to = place && dayOf(place);
  taken.classList.remove("is-taken");
  clear();
  held = null;
  if (!moved) { if (taken.dataset.opens) location.assign(taken.dataset.opens); return; }
  if (!to || to === from) return;
  const form = document.getElementById(taken.dataset.form);
  const day = form.elements.to;
  day.value = day.tagName === "SELECT" ? (new Date(to).getUTCDay() + 6) % 7 : to;
  if (form.elements.match) form.elements.match.value = taken.dataset.match;
  if (day.value !== "") form.requestSubmit(form.querySelector("[value=move]"));
});
document.addEventListener("pointercancel", () => { if (held) { held.taken.classList.remove("is-taken"); held = null; clear(); } });
