// Points in a picture: chosen from the list and tapped, dragged, or moved by arrow keys, with a loupe. The fields of the
// form are what is kept; the server measures. On the page of two dates it moves the slider between them.
"use strict";

const board = document.getElementById("board"), pointsForm = document.getElementById("points"), loupe = document.getElementById("loupe");
const BONES = [["ankle", "knee"], ["knee", "hip"], ["hip", "shoulder"], ["hip", "rear_knee"], ["heel", "toe"], ["waist_back", "waist_front"], ["level_a", "level_b"], ["plate_a", "plate_b"]];
const field = (spot) => pointsForm.elements[spot], mark = (spot) => board.querySelector(`[data-spot="${spot}"]`);
const spots = () => [...board.querySelectorAll("[data-spot]")].map((one) => one.dataset.spot);
let chosen = "", dragged = "";

function placeOf(spot) {
  const [x, y] = (field(spot)?.value || "").trim().split(/\s+/).map(Number);
  return Number.isFinite(x) && Number.isFinite(y) ? [x, y] : null;
}

function choose(spot) {
  chosen = spot;
  for (const button of document.querySelectorAll("[data-choose]")) button.setAttribute("aria-pressed", String(button.dataset.choose === spot));
  for (const one of board.querySelectorAll("[data-spot]")) one.classList.toggle("is-chosen", one.dataset.spot === spot);
  look(placeOf(spot));
}

function look(place) {
  loupe.hidden = !place;
  if (!place) return;
  const reach = Number(board.dataset.high) / 14, lens = loupe.querySelector("svg");
  lens.setAttribute("viewBox", `${place[0] - reach} ${place[1] - reach} ${2 * reach} ${2 * reach}`);
  lens.querySelector("path").setAttribute("d", `M${place[0] - reach} ${place[1]}H${place[0] + reach}M${place[0]} ${place[1] - reach}V${place[1] + reach}`);
  loupe.classList.toggle("is-left", place[0] > Number(board.dataset.wide) / 2);
}

function put(spot, place, quiet) {
  const at = place && [Math.min(Math.max(place[0], 0), Number(board.dataset.wide)), Math.min(Math.max(place[1], 0), Number(board.dataset.high))];
  field(spot).value = at ? `${at[0].toFixed(1)} ${at[1].toFixed(1)}` : "";
  show(spot);
  if (quiet) return;
  look(at);
  pointsForm.dispatchEvent(new Event("moved"));
}

function show(spot) {
  const place = placeOf(spot), one = mark(spot);
  one.classList.toggle("is-off", !place);
  one.setAttribute("tabindex", place ? "0" : "-1");
  if (place) one.setAttribute("transform", `translate(${place[0]} ${place[1]})`);
  document.querySelector(`[data-line="${spot}"]`).classList.toggle("is-placed", Boolean(place));
  document.getElementById("bones").replaceChildren(...BONES.flatMap(([a, b]) => {
    const ends = [a, b].map((name) => field(name) && placeOf(name));
    if (!ends[0] || !ends[1]) return [];
    const line = document.createElementNS("http://www.w3.org/2000/svg", "line");
    ["x1", "y1", "x2", "y2"].forEach((name, n) => line.setAttribute(name, ends.flat()[n]));
    line.setAttribute("class", a.startsWith("level") || a.startsWith("plate") ? "bone is-help" : "bone");
    return [line];
  }));
}

function inPicture(event) {
  const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(board.getScreenCTM().inverse());
  return [at.x, at.y];
}

function next(after) {
  const all = spots(), from = all.indexOf(after) + 1;
  return [...all.slice(from), ...all.slice(0, from)].find((spot) => !placeOf(spot)) || after;
}

if (board && pointsForm) {
  spots().forEach(show);
  choose(spots().find((spot) => !placeOf(spot)) || spots()[0]);
  board.addEventListener("pointerdown", (event) => {
    const taken = event.target.closest("[data-spot]:not(.is-off)");
    event.preventDefault();
    board.setPointerCapture(event.pointerId);
    dragged = taken ? taken.dataset.spot : chosen;
    if (!dragged) return;
    choose(dragged);
    if (!taken) put(dragged, inPicture(event));
    mark(dragged).focus({ preventScroll: true });
  });
  board.addEventListener("pointermove", (event) => { if (dragged) put(dragged, inPicture(event)); });
  for (const end of ["pointerup", "pointercancel"]) {
    board.addEventListener(end, () => { if (dragged) { const done = dragged; dragged = ""; choose(next(done)); } });
  }
  board.addEventListener("focusin", (event) => { const one = event.target.closest("[data-spot]"); if (one && !dragged) choose(one.dataset.spot); });
  board.addEventListener("keydown", (event) => {
    const spot = event.target.closest("[data-spot]")?.dataset.spot, by = event.shiftKey ? 10 : 1;
    const way = { ArrowLeft: [-by, 0], ArrowRight: [by, 0], ArrowUp: [0, -by], ArrowDown: [0, by] }[event.key];
    if (!spot || !(way || event.key === "Delete")) return;
    event.preventDefault();
    const place = placeOf(spot);
    put(spot, way && place ? [place[0] + way[0], place[1] + way[1]] : null);
  });
  document.addEventListener("click", (event) => {
    const pick = event.target.closest("[data-choose]"), clear = event.target.closest("[data-clear]");
    if (clear) put(clear.dataset.clear, null);
    if (!pick) return;
    const spot = pick.dataset.choose;
    choose(spot);
    // By keyboard a point begins in the middle of the picture, and the arrows take it from there.
    if (event.detail === 0) { if (!placeOf(spot)) put(spot, [Number(board.dataset.wide) / 2, Number(board.dataset.high) / 2]); mark(spot).focus(); }
  });
  pointsForm.addEventListener("input", (event) => {
    if (spots().includes(event.target.name)) show(event.target.name);
    pointsForm.dispatchEvent(new Event("moved"));
  });
}

document.addEventListener("input", (event) => {
  if (event.target.matches("[data-over]")) document.querySelector(".overlay-picture.is-new")?.setAttribute("opacity", event.target.value / 100);
});
document.querySelector("[data-over]")?.dispatchEvent(new Event("input", { bubbles: true }));
