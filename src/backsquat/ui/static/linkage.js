// Sliders of a squat seen from the side: the same sums as core/technique/linkage.py (a test compares them), so that
// the figure follows the hand. Words come from the server once the hand rests. Without this the form still works.
"use strict";

const MIDDLE = 6, WIDTH = 400, FLOOR = 392;
const rad = (deg) => deg * Math.PI / 180, deg = (turn) => turn * 180 / Math.PI;
const step = ([x, y], angle, length) => [x + length * Math.sin(rad(angle)), y + length * Math.cos(rad(angle))];
const between = (one, other, share) => [one[0] + share * (other[0] - one[0]), one[1] + share * (other[1] - one[1])];

function footOn(known, wedge) {
  const foot = known.lengths.foot, lever = foot * known.shares.BALL;
  const slope = Math.asin(Math.min(wedge / 10 / lever, 0.9));
  const turned = (along, up) => [lever + (along - lever) * Math.cos(slope) + up * Math.sin(slope), up * Math.cos(slope) - (along - lever) * Math.sin(slope)];
  const heel = turned(0, 0);
  return { heel, ball: [lever, 0], toe: [foot, 0], ankle: turned(foot * known.shares.ANKLE_BACK, known.height * known.shares.ANKLE_UP), slope: deg(slope), middle: (heel[0] + foot) / 2 };
}

function onTrunk(known, hold, hip, lean) {
  const along = step(hip, lean, known.lengths.trunk * hold.along);
  const ahead = step(along, lean + 90, known.height * hold.ahead);
  return [ahead[0] + known.height * hold.out, ahead[1] + known.height * hold.over];
}

// The posture of a set-up: names and signs as in Python.
function posture(known, squat) {
  const s = known.shares, mass = known.mass, hold = known.holds[squat.held], trunk = known.lengths.trunk;
  const kg = squat.held === "nothing" ? 0 : squat.load_kg, armsAhead = squat.held === "nothing" ? mass * s.ARMS_MASS * known.height * s.ARM / 2 : 0;
  const foot = footOn(known, squat.wedge_mm);
  const legs = (shin) => {
    const knee = step(foot.ankle, shin, known.lengths.shank);
    return [knee, step(knee, -90 - squat.depth_deg, known.lengths.thigh)];
  };
  const balance = (shin) => {
    const [knee, hip] = legs(shin);
    const parts = [[s.FOOT_MASS * mass, (foot.heel[0] + foot.toe[0]) / 2], [s.SHANK_MASS * mass, between(foot.ankle, knee, s.SHANK_CENTRE)[0]],
      [s.THIGH_MASS * mass, between(knee, hip, s.THIGH_CENTRE)[0]], [s.UPPER_MASS * mass + kg, hip[0]]];
    return { sine: trunk * (s.UPPER_MASS * mass * s.UPPER_CENTRE + kg * hold.along), cosine: known.height * kg * hold.ahead,
      rest: parts.reduce((sum, [m, x]) => sum + m * (x - foot.middle), 0) + armsAhead };
  };
  const off = (b, lean) => (b.sine * Math.sin(rad(lean)) + b.cosine * Math.cos(rad(lean)) + b.rest) / (mass + kg);
  const leanOf = (b) => {
    const reach = Math.hypot(b.sine, b.cosine);
    if (Math.abs(b.rest) > reach) return b.rest < 0 ? null : -90;
    return deg(Math.asin(-b.rest / reach) - Math.atan2(b.cosine, b.sine));
  };
  let shin = Math.min(squat.ankle_deg + foot.slope, known.rules.knee_bend_most - 90 - squat.depth_deg) * squat.shin_share;
  let lean = leanOf(balance(shin));
  if (lean !== null && lean < 0) {
    let low = -30, high = shin;
    for (let n = 0; n < 40; n++) {
      const half = (low + high) / 2;
      if (off(balance(half), 0) > 0) high = half; else low = half;
    }
    shin = (low + high) / 2; lean = 0;
  }
  const fold = 90 - squat.depth_deg - known.rules.fold_least, most = Math.min(known.rules.lean_most, fold);
  const limit = lean !== null && lean <= most ? "" : fold < known.rules.lean_most ? "fold" : "lean";
  if (limit) lean = most;
  const [knee, hip] = legs(shin), before = off(balance(shin), lean), line = foot.middle + before;
  const shoulder = step(hip, lean, trunk), load = onTrunk(known, hold, hip, lean);
  const back = between(hip, shoulder, s.BACK), above = between(hip, shoulder, s.OVER_BACK_CENTRE), upper = between(hip, shoulder, s.UPPER_CENTRE);
  const overBack = mass * s.OVER_BACK_MASS * (above[0] - back[0]) + kg * (load[0] - back[0]) + armsAhead;
  const overHip = mass * s.UPPER_MASS * (upper[0] - hip[0]) + kg * (load[0] - hip[0]) + armsAhead;
  const overKnee = overHip + (mass * s.UPPER_MASS + kg) * (hip[0] - knee[0]) + mass * s.THIGH_MASS * (between(knee, hip, s.THIGH_CENTRE)[0] - knee[0]);
  const carried = overBack / (mass * s.OVER_BACK_MASS + kg), share = (line - foot.heel[0]) / (foot.toe[0] - foot.heel[0]);
  return {
    points: { heel: foot.heel, ball: foot.ball, toe: foot.toe, ankle: foot.ankle, knee, hip, shoulder, head: step(shoulder, lean, known.height * s.HEAD_UP), load,
      elbow: onTrunk(known, known.elbows[squat.held], hip, lean), back, middle: [foot.middle, 0], line: [line, 0], floor: [0, 0], carried: [back[0] + carried, back[1]] },
    numbers: { lean_deg: lean, shin_deg: shin, hip_deg: 90 - squat.depth_deg - lean, knee_deg: 90 + shin + squat.depth_deg, hip_arm_cm: line - hip[0],
      knee_arm_cm: knee[0] - line, back_arm_cm: carried, hip_moment: overHip * 9.81 / 100, knee_moment: -overKnee * 9.81 / 100, back_moment: overBack * 9.81 / 100 },
    standing: before > -1 ? "stands" : share >= known.rules.heels_share ? "heels" : "tips",
  };
}

function draw(svg, found, kind, scale) {
  const px = (x) => WIDTH / 2 + (x - MIDDLE) * scale, py = (y) => FLOOR - y * scale;
  for (const mark of svg.querySelectorAll("[data-ends]")) {
    const ends = mark.dataset.ends.split(";").map((end) => end.split(" "));
    const at = ends.map(([x, y, up]) => [px(found.points[x][0]), py(found.points[y][1] + Number(up))]);
    if (mark.tagName === "line") ["x1", "y1", "x2", "y2"].forEach((name, n) => mark.setAttribute(name, at.flat()[n]));
    else if (mark.tagName === "circle") { mark.setAttribute("cx", at[0][0]); mark.setAttribute("cy", at[0][1]); }
    else if (mark.tagName === "text") { mark.setAttribute("x", at[0][0]); mark.setAttribute("y", at[0][1]); mark.textContent = `${mark.dataset.says} ${shown(found.numbers[`${mark.dataset.says}_arm_cm`])} cm`; }
    else mark.setAttribute("points", at.map((end) => end.join(",")).join(" "));
  }
  const load = svg.querySelector(".link-load");
  if (load) { load.setAttribute("r", (kind === "plates" ? 22.5 : kind === "bell" ? 8 : 0) * scale); load.setAttribute("class", `link-load is-${kind}`); }
  svg.querySelector(".link-head").setAttribute("r", 10.5 * scale);
  svg.querySelector(".link-plumb").classList.toggle("is-off", found.standing !== "stands");
}

const shown = (value) => String(Math.round(value)).replace("-", "−");
const STANDS = { stands: "stands", heels: "on the heels", tips: "tips backwards" };
const squatOf = (form, before) => ({
  held: form.elements[`${before}held`].value, load_kg: Number(form.elements[`${before}load_kg`].value), wedge_mm: Number(form.elements[`${before}wedge_mm`].value),
  ankle_deg: Number(form.elements[`${before}ankle_deg`].value), depth_deg: Number(form.elements[`${before}depth_deg`].value), shin_share: Number(form.elements[`${before}shin_share`].value) / 100,
});

function show(form, known, key) {
  const squat = squatOf(form, key === "was" ? "was_" : ""), found = posture(known, squat);
  draw(document.querySelector(`svg.linkage.is-${key}`), found, squat.load_kg || known.loads[squat.held] === "plates" ? known.loads[squat.held] : "none", known.px[squat.held]);
  for (const [name, value] of Object.entries(found.numbers)) {
    const cell = document.querySelector(`[data-number="${key} ${name}"]`);
    if (cell) cell.textContent = shown(value);
  }
  const held = form.elements.held, words = [...held.options].find((one) => one.value === squat.held).textContent;
  document.querySelector(`[data-heading="${key}"]`).textContent = `${squat.wedge_mm ? `${squat.wedge_mm} mm wedge` : "flat"} · ${words}`;
  document.querySelector(`[data-stands="${key}"]`).textContent = STANDS[found.standing];
}

function slid(form) {
  for (const out of form.querySelectorAll("output")) out.textContent = document.getElementById(out.htmlFor[0]).value.replace("-", "−");
  for (const copy of document.querySelectorAll("[data-copy]")) {
    const value = form.elements[copy.dataset.copy]?.value ?? "";
    if (copy.tagName === "INPUT") copy.value = value; else copy.textContent = value;
  }
  if (!form.dataset.linkage) return;
  const known = JSON.parse(form.dataset.linkage);
  for (const name of ["thigh", "shank"]) known.lengths[name] = Number(form.elements[`${name}_cm`].value);
  ["was", "now"].forEach((key) => show(form, known, key));
  const keep = document.getElementById("keep"), movement = known.movements[form.elements.held.value];
  if (keep) { keep.elements.movement.value = movement; keep.hidden = !movement; }
}

document.addEventListener("input", (event) => { if (event.target.form?.id === "sliders") slid(event.target.form); });
document.addEventListener("click", (event) => {
  const pin = event.target.closest("[data-pin]");
  if (!pin) return;
  event.preventDefault();
  for (const field of pin.form.querySelectorAll("input[type=hidden][name^=was_]")) field.value = pin.form.elements[field.name.slice(4)].value;
  slid(pin.form);
  pin.form.dispatchEvent(new Event("change", { bubbles: true }));
});
