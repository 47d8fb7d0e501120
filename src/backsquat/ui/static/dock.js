// The dock of the floor: values of one tap in "Different", what Log will say, and a second in which a new name takes no tap.
// Without it the fields are typed in, and Done is Done.
"use strict";

(() => {
  const LOCK_MS = window.DOCK_LOCK_MS ?? 1000; // longer than a second tap in haste, shorter than anybody takes to the bar
  const shown = { athlete: null, tapped: false };
  const text = (value) => String(Math.round(value * 1000) / 1000);
  const amount = (input) => (input.value.trim() ? Number(input.value.replace(",", ".")) : null);

  // What one would tap: reps around those asked, loads of the room around the planned one, what was in reserve.
  function values(box, input) {
    const { kind, most } = box.dataset, asked = Number(input.defaultValue || input.placeholder) || 8;
    if (kind === "reserve" || kind === "short") return Array.from({ length: Number(most) + 1 }, (_, n) => n);
    if (kind === "reps") return [...new Set([0, ...[-3, -2, -1, 0, 1].map((n) => Math.max(0, asked + n))])];
    const loads = [...(input.list?.options || [])].map((one) => Number(one.value)), planned = amount(input) ?? loads[0];
    const near = loads.reduce((best, one, n) => (Math.abs(one - planned) < Math.abs(loads[best] - planned) ? n : best), 0);
    return loads.slice(Math.max(0, near - 3), near + 3);
  }

  // The field is the value that stands, and stands where it belongs; the others are a tap each.
  function place(box) {
    const input = box.querySelector("input"), said = amount(input);
    box.querySelectorAll("button").forEach((one) => { one.hidden = said === null ? !one.value : one.value !== "" && Number(one.value) === said; });
    input.classList.toggle("is-said", said !== null);
    if (document.activeElement === input) return; // while it is typed in it stays
    const after = said === null ? null : [...box.querySelectorAll("button")].find((one) => !one.value || Number(one.value) >= said);
    box.insertBefore(input, after || null);
  }

  function make(box) {
    const input = box.querySelector("input");
    box.querySelectorAll("button").forEach((one) => one.remove());
    const offered = values(box, input).map(text);
    if (box.dataset.kind === "reserve") offered.push(""); // what was said can be taken back
    for (const value of offered) {
      const button = document.createElement("button");
      button.type = "button";
      button.value = value;
      button.textContent = value || input.placeholder;
      box.append(button);
    }
  }

  // Which values stand, and what Log will say.
  function look(form) {
    form.querySelectorAll("[data-chips]").forEach(place);
    const says = form.querySelector("[data-says]"), one = (name) => form.elements[name]?.value?.trim() || "";
    if (!says) return;
    const sides = ["left", "right"].filter((side) => one(`${side}_reps`)).map((side) => `${one(`${side}_reps`)} ${side}`);
    const reps = sides.join(", ") || (one("hold_s") ? `${one("hold_s")} s` : one("reps"));
    says.textContent = [form.dataset.name?.split(" ")[0], `${Number(one("load").replace(",", ".")) ? `${one("load")} × ` : ""}${reps}`].filter(Boolean).join(" · ");
  }

  function open(form) {
    form.querySelectorAll("[data-chips]").forEach(make);
    look(form);
  }

  document.addEventListener("toggle", (event) => {
    if (event.target.matches?.("#floor details[open]")) event.target.querySelectorAll(".set-form").forEach(open);
  }, true);
  document.addEventListener("click", (event) => {
    const button = event.target.closest(".chip-row button");
    if (!button) return;
    button.parentElement.querySelector("input").value = button.value;
    look(button.closest("form"));
  });
  document.addEventListener("focusout", (event) => { const box = event.target.closest(".chip-row"); if (box) setTimeout(() => place(box)); });
  document.addEventListener("input", (event) => { const form = event.target.closest(".set-form"); if (form) look(form); });

  // Who is up has changed, or a set was just tapped: for a second Done takes no tap, and shows it.
  function show() {
    document.querySelectorAll("#floor .set-form").forEach((form) => { if (!form.closest("details:not([open])")) open(form); });
    const tap = document.querySelector("#floor .done-form .tap"), athlete = tap?.closest("form").dataset.athlete ?? null;
    const changed = shown.athlete !== null && athlete !== null && shown.athlete !== athlete;
    if (tap && LOCK_MS && (changed || shown.tapped)) {
      tap.setAttribute("aria-disabled", "true");
      setTimeout(() => tap.removeAttribute("aria-disabled"), LOCK_MS);
    }
    if (athlete !== null) shown.athlete = athlete;
    shown.tapped = false;
  }
  document.addEventListener("click", (event) => {
    const tap = event.target.closest(".done-form .tap, .dock-log .log");
    if (!tap) return;
    if (tap.getAttribute("aria-disabled") === "true") { event.preventDefault(); event.stopImmediatePropagation(); } else shown.tapped = true;
  }, true);

  // A name held, or its menu key: here, late, absent. Whoever has no finger for it has "Not here" under the card.
  const HOLD_MS = 500;
  let holding = null, held = null, pressed = false; // the name that was held; whether the finger is still down
  const menu = (link) => document.getElementById(link.dataset.press)?.showPopover?.();
  document.addEventListener("pointerdown", (event) => {
    const link = event.target.closest("[data-press]");
    held = null;
    pressed = true;
    clearTimeout(holding);
    if (link && event.button === 0) holding = setTimeout(() => { held = link; navigator.vibrate?.(30); }, HOLD_MS);
  }, true);
  for (const what of ["pointerup", "pointercancel"]) document.addEventListener(what, () => {
    pressed = false;
    clearTimeout(holding);
    const link = held;
    if (link) setTimeout(() => menu(link)); // a browser closes what was opened while the finger was down
  }, true);
  document.addEventListener("scroll", () => clearTimeout(holding), true);
  document.addEventListener("contextmenu", (event) => {
    const link = event.target.closest("[data-press]");
    if (!link) return;
    event.preventDefault();
    if (pressed) held = link;
    else menu(link);
  });
  document.addEventListener("click", (event) => {
    if (held && event.target.closest("[data-press]")) { event.preventDefault(); event.stopImmediatePropagation(); }
    held = null;
  }, true);
  for (const what of ["DOMContentLoaded", "floor:shown"]) document.addEventListener(what, show);
  document.addEventListener("htmx:afterSwap", (event) => { if (event.detail?.target?.id === "floor" || event.target.id === "floor") show(); });
})();
