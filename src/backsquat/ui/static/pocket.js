// The floor while there is no line: the lists that were taken along, what was done since laid over them. It walks the
// steps the server worked out, drops what was left out or stopped, and knows nothing else of the rules.
"use strict";

const Pocket = (() => {
  let where = {}; // session, rack, athlete, lift
  let on = false;
  let latest = null; // the set written down last on this device

  function el(tag, about = {}, ...inside) {
    const made = document.createElement(tag);
    for (const [name, value] of Object.entries(about)) {
      if (value === false || value === null || value === undefined) continue;
      if (name === "on") for (const [what, run] of Object.entries(value)) made.addEventListener(what, run);
      else made.setAttribute(name, value === true ? "" : value);
    }
    made.append(...inside.flat().filter((one) => one !== null && one !== undefined && one !== ""));
    return made;
  }
  const drawn = (svg) => { const holder = document.createElement("template"); holder.innerHTML = svg; return holder.content; };
  const first = (name) => name.split(" ")[0];
  const own = () => Boolean(Outbox.state.pack?.athlete); // an athlete's own phone is spoken to, not about
  const clock = (s) => `${Math.floor(s / 60)}:${String(Math.round(s) % 60).padStart(2, "0")}`;

  // One athlete's list with what was done since: steps that are left, sets done of each piece of work, when the last was.
  function listOf(pack, session, id, things) {
    const packed = session.athletes[id], work = new Map(packed.work.map((one) => [one.exercise, { ...one, since: [], halves: new Set(one.half ? [one.half === "left" ? "right" : "left"] : []) }]));
    let steps = packed.steps.map(([exercise, number, rest_s, inside]) => ({ exercise, number, rest_s, inside }));
    let at = null, done = packed.done, stopped = null;
    const cells = new Map(packed.work.map((one) => [one.cell, one.exercise]));
    for (const thing of things) {
      const exercise = cells.get(thing.cell) ?? (session.athletes[id].work.some((one) => one.exercise === thing.exercise) ? thing.exercise : undefined), mine = work.get(exercise);
      if (thing.athlete !== Number(id) || !mine) continue;
      if (thing.what === "ramp") mine.ramped = [...(mine.ramped || []), Number(thing.fields.n?.[0])];
      if (thing.what === "skip" || thing.what === "end") { steps = steps.filter((step) => step.exercise !== exercise); mine.over = true; mine.why_over = thing.what === "skip" ? "left out" : ""; }
      if (thing.what !== "set" && thing.what !== "pain") continue;
      if (thing.what === "set") mine.since.push(thing);
      at = Math.max(at || 0, thing.tapped_ms);
      if (thing.what === "set" && whole(thing, mine, pack)) {
        const next = steps.findIndex((step) => step.exercise === exercise);
        if (next >= 0) steps.splice(next, 1);
        mine.done += 1;
        done += 1;
      }
      if (thing.locks?.length) {
        stopped = thing;
        for (const other of work.values()) if (thing.locks.includes(other.movement)) { other.over = true; other.why_over = "stopped"; }
        steps = steps.filter((step) => !thing.locks.includes(work.get(step.exercise).movement));
      }
    }
    for (const one of work.values()) one.over ||= one.done >= one.sets;
    const now = steps[0] || null;
    const restFrom = at ?? Date.parse(pack.at), rest = at ? now?.rest_s || 0 : packed.rest_left_s;
    return { id: Number(id), name: packed.name, awaited: at ? "" : packed.awaited, stop_at: packed.stop_at, work, steps, now, done, at, stopped, rest_left_s: now ? Math.max(0, Math.round(rest - (Date.now() - (at ? restFrom : pack.asked_ms)) / 1000)) : 0 };
  }

  function whole(thing, mine, pack) {
    if (pack.movements[mine.movement].sides !== 2) return true;
    const [left, right] = ["left_reps", "right_reps"].map((name) => Number(thing.fields[name]?.[0] || 0));
    if (left > 0 === right > 0) return true;
    mine.halves.add(left ? "left" : "right");
    if (mine.halves.size < 2) return false;
    mine.halves.clear();
    return true;
  }

  // The day by the server's calendar, and how many midnights the device has seen since: it is right where no clock is.
  function today(pack) {
    const midnight = (ms) => new Date(ms).setHours(0, 0, 0, 0);
    const day = new Date(`${pack.today}T12:00:00Z`);
    day.setUTCDate(day.getUTCDate() + Math.max(0, Math.round((midnight(Date.now()) - midnight(pack.asked_ms)) / 86400000)));
    return day.toISOString().slice(0, 10);
  }

  const things = async () => (await Outbox.all()).filter((one) => !one.refused);

  async function show(asked = {}) {
    const pack = await Outbox.packed(), floor = document.getElementById("floor");
    if (!floor) return;
    on = true;
    where = { ...where, ...asked };
    const session = pack && (pack.sessions.find((one) => String(one.id) === String(where.session)) || pack.sessions.find((one) => one.day >= today(pack)) || pack.sessions.at(-1));
    if (!session) { floor.replaceChildren(el("p", { class: "cue" }, "No line, and nothing was taken along on this device for the days to come. What you log on paper now can be typed in later.")); return; }
    where.session = session.id;
    const done = await things();
    latest = done.filter((one) => one.what === "set").at(-1);
    const racks = session.racks.map((rack) => ({ ...rack, lists: rack.athletes.map((id) => listOf(pack, session, id, done)) }));
    let at = racks.findIndex((rack, n) => String(n) === String(where.rack));
    const wanted = Number(where.athlete || where.after || 0);
    if (at < 0 || (wanted && !racks[at].athletes.includes(wanted))) at = Math.max(0, racks.findIndex((rack) => (wanted ? rack.athletes.includes(wanted) : rack.lists.some((one) => one.now && !one.awaited))));
    where.rack = at;
    const rack = racks[at], open = (rack?.lists || []).filter((one) => one.now && !one.awaited && !one.work.get(one.now.exercise).spare);
    const order = [...open].sort((a, b) => a.done - b.done);
    const after = rack?.lists.find((one) => one.id === Number(where.after));
    const mine = rack?.lists.find((one) => one.id === Number(where.athlete)) || (after?.now?.inside || after?.stopped === done.at(-1) && after?.stopped ? after : null) || order[0] || rack?.lists.find((one) => one.now && !one.awaited) || rack?.lists[0];
    const next = order.find((one) => one !== mine);
    floor.replaceChildren(...page({ pack, session, racks, at, mine, next }));
    const stop = floor.querySelector(".decision.is-stop");
    if (stop) { stop.tabIndex = -1; stop.focus(); stop.scrollIntoView({ block: "center" }); } // read before anything else
    else floor.querySelector(".tap")?.focus({ preventScroll: true });
  }

  const go = (asked) => (event) => { event.preventDefault(); where = { session: where.session, rack: where.rack }; show(asked); };

  function page({ pack, session, racks, at, mine, next }) {
    const early = session.day > today(pack);
    const head = el("details", { class: "where" },
      el("summary", {}, el("b", {}, session.day_words), " ", el("span", {}, session.name), " ", racks[at] && !pack.athlete ? el("span", { class: "rack-here" }, racks[at].label) : null, el("span", { class: "quiet" }, "no line")),
      el("nav", { class: "pick", "aria-label": "Session" }, pack.sessions.map((one) => el("a", { href: "#", class: one === session ? "is-here" : null, on: { click: go({ session: one.id, rack: null, athlete: null }) } }, `${one.day_words.slice(0, 3)} ${one.name}`))),
      pack.athlete ? null : el("nav", { class: "pick", "aria-label": "Rack" }, racks.map((one, n) => el("a", { href: "#", class: n === at ? "is-here" : null, "aria-label": one.label, on: { click: go({ rack: n, athlete: null }) } }, n === at ? one.label : one.short))));
    const lifters = racks[at] && !pack.athlete ? el("nav", { class: "lifters", "aria-label": "Lifters on this rack" }, racks[at].lists.map((one) => lifter(one, one === mine, one === next, pack))) : null;
    return [el("h1", { class: "visually-hidden" }, "Floor"), head,
      early ? el("p", { class: "cue" }, `This session is on ${session.day_words}. Sets can be logged then.`) : null,
      session.unsafe.map((words) => el("p", { class: "cue is-unsafe" }, `Unsafe: ${words}. Nobody is put there.`)),
      lifters, just(latest, mine),
      mine ? el("div", { class: "station" }, el("section", { class: "main-list", "aria-label": mine.name }, card(pack, mine, early)), el("section", { class: "second" }, list(pack, mine), upNext(pack, next, mine))) : el("p", { class: "cue" }, "Nobody can lift here today."),
      session.kept_off.length ? el("section", { class: "mt-3" }, el("h2", {}, "Not today"), el("ul", { class: "log-list" }, session.kept_off.map((one) => el("li", {}, el("span", {}, one.name), el("span", { class: "quiet" }, one.words))))) : null,
    ].flat().filter(Boolean);
  }

  function lifter(one, up, next, pack) {
    const work = one.now && one.work.get(one.now.exercise);
    const says = one.stopped ? "stopped" : !one.now ? "done" : one.awaited ? one.awaited : one.rest_left_s ? ["rests ", timer(one.rest_left_s)] : up ? "up now" : `${next ? "next · " : ""}${work.load || pack.movements[work.movement].tag}`;
    return el("a", { href: "#", class: `lifter ${up ? "is-up" : next ? "is-next" : one.stopped ? "is-stopped" : one.awaited ? "is-awaited" : one.now ? "" : "is-done"}`, "aria-current": up || null, on: { click: go({ athlete: one.id }) } }, el("b", {}, first(one.name)), el("small", {}, says));
  }
  const timer = (left) => el("span", { "x-data": "rest", "data-rest": left, "x-text": "words" }, clock(left));

  function card(pack, mine, early) {
    const step = (where.lift && mine.steps.find((one) => one.exercise === Number(where.lift))) || mine.now;
    if (mine.stopped && !where.lift) return stopCard(mine);
    if (!step) return el("p", { class: "cue" }, `${own() ? "You are" : `${mine.name} is`} through the whole session.`);
    const work = mine.work.get(step.exercise), movement = pack.movements[work.movement], sided = movement.sides === 2 && !work.hold_s;
    const dose = work.hold_s ? `${work.hold_s} s${movement.sides === 2 ? " each side" : ""}` : `${work.reps}${sided ? " each side" : ""}`;
    const big = work.hold_s ? el("div", { class: "floor-level" }, work.hold_s >= 120 ? clock(work.hold_s) : `${work.hold_s} s`, movement.sides === 2 ? " each side" : "")
      : work.load ? el("div", { class: "floor-load" }, work.load, " ", el("span", { class: "times" }, `${work.unit}${work.a_hand ? " a hand" : ""} × ${work.reps}`))
      : el("div", { class: "floor-level" }, `${work.reps} `, el("span", { class: "times" }, `reps${sided ? " each side" : ""}`));
    const last = work.since.at(-1);
    return el("div", { class: `card-now is-${movement.family}` },
      early ? null : doneForm(mine, work, movement, sided, dose),
      el("div", { class: "reads" },
        el("p", { class: "card-name" }, el("span", { class: `tag is-${movement.family}` }, movement.tag), ` ${movement.name} `, el("span", { class: "quiet" }, `${Math.min(work.done + 1, work.sets)} of ${work.sets}${step.inside ? " · no rest before it" : ""}${work.spare ? " · spare" : ""}`)),
        big, el("p", { class: "floor-asked" }, work.asked),
        (work.cues.length ? work.cues : [movement.cues[work.done % movement.cues.length]]).map((words) => el("p", { class: "cue" }, words)),
        work.done || early ? null : ramp(mine, work), drawn(work.bar),
        work.set_up.length ? el("p", { class: "small quiet" }, work.set_up.join(" · ")) : null,
        el("div", { class: "sets", role: "img", "aria-label": `${work.done} of ${work.sets} sets done` }, Array.from({ length: work.sets }, (_, n) => el("span", { class: n < work.done ? "is-done" : n === work.done ? "is-now" : "" }))),
        last ? el("p", { class: "last-truth" }, last.sent_ms ? "last set " : "waits for the line: ", last.set_words) : null),
      early ? null : el("div", { class: "below" }, el("div", { class: "tap-row" }, otherwise(mine, work, movement, sided), hurts(mine, work, movement)), aside(mine, work, movement)));
  }

  function stopCard(mine) {
    return el("div", { class: "card-now" }, el("div", { class: "below" },
      el("div", { class: "decision is-stop", role: "status" }, el("p", { class: "says" }, `${own() ? "You stop" : `${first(mine.name)} stops`}: ${mine.stopped.set_words}.`), el("p", {}, mine.steps.length ? `May go on today: ${[...new Set(mine.steps.map((step) => Outbox.state.pack.movements[mine.work.get(step.exercise).movement].name))].join(", ")}. Nothing with a load.` : "Nothing of today's plan goes on."),
        el("p", {}, `${own() ? "See" : `${mine.name} sees`} a physiotherapist or doctor. Chest pain, collapse, numbness in the saddle region, loss of bladder or bowel control: emergency services, now.`),
        el("p", { class: "quiet" }, "Locked on this device now; everybody else sees it when there is a line: tell them."),
        mine.now ? el("a", { href: "#", class: "btn btn-outline-primary", on: { click: go({ athlete: mine.id, lift: mine.now.exercise }) } }, "What is not locked") : null)));
  }

  const hidden = (name, value) => el("input", { type: "hidden", name, value: value ?? "" });

  function doneForm(mine, work, movement, sided, dose) {
    const half = [...work.halves][0], sides = ["left", "right"].filter((side) => side !== half);
    return el("form", { class: "done-form", on: { submit: kept("set", mine, work, movement) } },
      el("p", { class: "problem", role: "alert", hidden: true }),
      work.find && !work.load ? el("label", { class: "find-load" }, work.start ? `Find the load: begin with ${work.start} ${work.unit}` : "Find the load", stepper("load", work.start || "", { "data-step": 1, "aria-label": `Load, ${work.unit}`, inputmode: "decimal", placeholder: work.unit })) : hidden("load", work.load || "0"),
      work.hold_s ? [hidden("hold_s", work.hold_s), hidden("reps", 1)] : sided ? el("div", { class: "sides" }, sides.map((side) => el("label", { class: "side-reps" }, el("span", {}, side), stepper(`${side}_reps`, work.reps, { "aria-label": `${side} reps` }), el("span", { class: "held-tick" }, el("input", { type: "checkbox", name: `${side}_supported`, value: "y", "aria-label": `${side} with a hand on support` }), " hand")))) : hidden("reps", work.reps),
      hidden("pain_character", "dull"),
      el("button", { class: "tap" }, `Done: ${half ? `${work.reps} ${sides[0]}` : dose}${work.load ? ` at ${work.load}` : ""}`));
  }

  function stepper(name, value, about = {}) {
    return el("span", { class: "count", "x-data": "count" }, el("button", { type: "button", "x-on:click": "less", "aria-label": `${name.replace("_", " ")}, one less` }, "−"), el("input", { class: "form-control", name, value, inputmode: "numeric", "data-low": 0, "data-high": 999, autocomplete: "off", ...about }), el("button", { type: "button", "x-on:click": "more", "aria-label": `${name.replace("_", " ")}, one more` }, "+"));
  }
  function field(words, inside) { // not a label around it: that would name the minus before the number
    (inside.matches("input, select") ? inside : inside.querySelector("input")).setAttribute("aria-label", words);
    return el("div", { class: "field" }, el("span", { class: "field-name" }, words), inside);
  }
  const choose = (name, options, value) => el("select", { class: "form-select", name }, options.map(([code, words]) => el("option", { value: code, selected: code === value || null }, words)));

  // Pain in three taps: open, place, what it is. Nothing else is asked.
  function hurts(mine, work, movement) {
    const chip = (said, words, label) => el("button", { name: "said", value: said, "aria-label": label }, words);
    return el("details", { class: "is-pain" }, el("summary", {}, "Pain"), el("div", { class: "inside" },
      el("form", { class: "pain-form", on: { submit: kept("pain", mine, work, movement) } },
        el("p", { class: "problem", role: "alert", hidden: true }),
        el("fieldset", {}, el("legend", {}, "Where"), el("div", { class: "pain-chips" }, Object.keys(movement.locks).map((region) => el("label", {}, el("input", { type: "radio", name: "pain_region", value: region, required: true }), el("span", {}, region))))),
        el("fieldset", {}, el("legend", {}, "Any of these stops immediately"), el("div", { class: "pain-chips" }, Outbox.state.pack.stopping.map((one) => chip(one, one)))),
        el("fieldset", {}, el("legend", {}, "Dull: how bad, of 10 ", el("span", { class: "quiet" }, "(soreness of muscles is not pain)")), el("div", { class: "pain-chips is-numbers" }, Array.from({ length: 10 }, (_, n) => chip(`dull ${n + 1}`, n + 1, `dull, ${n + 1} of 10`)))))));
  }

  // What was left in the set done last, while it waits here: one tap, or nothing is said.
  function just(thing, mine) {
    if (!thing || thing.what !== "set" || thing.sent_ms || thing.fields.reserve_reps?.[0] || thing.fields.hold_s || Number(thing.fields.pain?.[0])) return null;
    const most = Outbox.state.pack.or_more;
    const say = (n) => () => Outbox.amend(thing.client_id, { reserve_reps: [String(n)], ...(n >= most ? { or_more: ["1"] } : {}) }).then(() => show({ athlete: mine?.id, after: null }));
    return el("div", { class: "just", role: "status" }, el("p", {}, el("b", {}, thing.words.split(",")[0]), ` ${thing.set_words} ✓`), el("div", { class: "just-chips" }, el("span", { class: "quiet" }, "RIR"), Array.from({ length: most + 1 }, (_, n) => n).map((n) => el("button", { type: "button", "aria-label": `RIR ${n}${n === most ? " or more" : ""} in the last set`, on: { click: say(n) } }, `${n}${n === most ? "+" : ""}`))));
  }

  function otherwise(mine, work, movement, sided) {
    return el("details", {}, el("summary", {}, "It went differently"),
      el("form", { class: "inside", on: { submit: kept("set", mine, work, movement) } },
        el("p", { class: "problem", role: "alert", hidden: true }),
        hidden("pain_character", "dull"),
        el("div", { class: "fields" }, field(`Load, ${work.unit}`, el("input", { class: "form-control", name: "load", value: work.load || work.start || "0", inputmode: "decimal", autocomplete: "off" })),
          work.hold_s ? [hidden("reps", 1), field("Seconds held", stepper("hold_s", work.hold_s))] : sided ? [field("Left", stepper("left_reps", work.reps)), field("Right", stepper("right_reps", work.reps))] : field("Reps", stepper("reps", work.reps)),
          field("RIR", stepper("reserve_reps", "", { "data-from": work.reserve, placeholder: "not said" })), field("Short of depth", stepper("short_reps", 0))),
        el("fieldset", { class: "field" }, el("legend", {}, "Form"), el("div", { class: "ticks" }, movement.faults.map(([code, look]) => el("label", { class: "tick" }, el("input", { class: "form-check-input", type: "checkbox", name: "fault", value: code }), ` ${look}`)))),
        el("div", { class: "fields" }, field("Felt in", choose("felt", [["", "not asked"], ...movement.felt.map(([code]) => [code, code])])), field("To be read next time", el("input", { class: "form-control", name: "note", maxlength: 120, autocomplete: "off" }))),
        el("button", { class: "btn btn-primary w-100" }, "Log this set")));
  }

  function aside(mine, work, movement) {
    const form = (what, inside) => el("form", { class: what === "skip" ? "chips" : null, on: { submit: kept(what, mine, work, movement) } }, inside);
    const last = work.since.filter((one) => !one.sent_ms).at(-1);
    return [el("div", { class: "card-more" },
      last ? el("button", { type: "button", class: "btn btn-outline-primary", on: { click: () => Outbox.drop(last.client_id).then(() => show({ athlete: mine.id, after: null })) } }, `Take back ${last.set_words}`) : null,
      el("div", { class: "pacer", "x-data": "pacer", "data-tempo": work.pace.tempo, "data-reps": work.reps, "data-hold": work.pace.hold_s }, el("button", { type: "button", class: "btn btn-outline-primary", "x-on:click": "toggle", "x-text": "button" }, "Pace"), el("span", { class: "pace-words", "x-text": "words", "aria-live": "polite" })),
      el("details", {}, el("summary", { class: "btn btn-outline-primary" }, "Skip it"), form("skip", ["no time", "tired", "no place free", "sore"].map((why) => el("button", { name: "reason", value: why }, why)))),
      work.done ? form("end", el("button", { class: "btn btn-outline-primary" }, "End here, sets missing")) : null),
    movement.easier.length || movement.harder.length ? el("p", { class: "small quiet" }, [movement.easier.length ? `Easier: ${movement.easier.join(" or ")}` : "", movement.harder.length ? `Harder: ${movement.harder.join(" or ")}` : ""].filter(Boolean).join(" · ")) : null,
    el("p", { class: "small quiet mt-2" }, movement.safety),
    el("details", { class: "why" }, el("summary", {}, "How to set it up"), el("ol", { class: "steps" }, movement.steps.map((one) => el("li", {}, one))))];
  }

  function ramp(mine, work) {
    if (!work.ramp.length) return null;
    return el("ol", { class: "ramp", "aria-label": "Ramp sets" }, work.ramp.map((words, n) => el("li", {}, (work.ramped || []).includes(n + 1) ? el("span", { class: "ramp-done" }, `✓ ${words}`) : el("form", { on: { submit: kept("ramp", mine, work, null) } }, hidden("n", n + 1), el("button", {}, words)))));
  }

  function list(pack, mine) {
    return el("ol", { class: "run", "aria-label": "The session" }, [...mine.work.values()].map((work) => {
      const movement = pack.movements[work.movement], here = mine.now?.exercise === work.exercise;
      const said = [...(work.logged || []), ...work.since.map((one) => `${one.set_words}${one.sent_ms ? "" : " (waits)"}`)];
      return el("li", { class: `run-row ${here ? "is-here" : ""} ${work.over ? "is-done" : ""} ${work.spare ? "is-spare" : ""} ${work.superset ? "is-superset" : ""}` }, el("span", { class: "run-mark" }, work.why_over === "stopped" ? "■" : work.why_over ? "–" : work.over ? "✓" : ""),
        el("a", { href: "#", class: "run-name", "aria-current": here ? "step" : null, on: { click: go({ athlete: mine.id, lift: work.over ? null : work.exercise }) } }, el("span", { class: `tag is-${movement.family}` }, movement.tag), ` ${movement.name}`, said.length ? el("span", { class: "run-said" }, said.join(", ")) : null, work.why_over ? el("span", { class: "run-said" }, work.why_over) : null),
        el("span", { class: "run-dose" }, work.over || work.done ? `${work.done} of ${work.sets}` : work.hold_s ? `${work.sets} × ${work.hold_s >= 120 ? clock(work.hold_s) : `${work.hold_s} s`}` : `${work.load ? `${work.load} × ` : `${work.sets} × `}${work.reps}${movement.sides === 2 ? " each side" : ""}`));
    }));
  }

  function upNext(pack, next, mine) {
    if (!next) return pack.athlete ? null : el("div", { class: "upnext" }, el("span", { class: "quiet" }, "last lifter on this rack"));
    const work = next.work.get(next.now.exercise), movement = pack.movements[work.movement];
    return el("div", { class: "upnext" }, el("div", {}, el("small", { class: "quiet" }, "next on this rack"), el("div", { class: "who" }, next.name), el("span", { class: `tag is-${movement.family}` }, movement.tag), " ", work.load ? [el("span", { class: "big" }, work.load), el("span", { class: "quiet" }, ` × ${work.reps}${movement.sides === 2 ? " each side" : ""}`)] : movement.name),
      mine.now ? null : el("a", { href: "#", class: "btn btn-primary", on: { click: go({ athlete: next.id }) } }, `${first(next.name)} is up`));
  }

  // A form of these pages is never sent: what it says is written down, and the list goes on.
  function kept(what, mine, work, movement) {
    const client = uuid();
    return async (event) => {
      event.preventDefault();
      const data = new FormData(event.target, event.submitter), fields = fieldsOf(data);
      const wrong = what === "set" ? problem(fields) : what === "pain" && !fields.pain_region ? "Say where it hurts." : "";
      const says = event.target.querySelector(".problem");
      if (wrong) { if (says) { says.textContent = wrong; says.hidden = false; } return; }
      await Outbox.put(thingOf(what, client, { cell: work.cell, exercise: work.exercise, athlete: mine.id, name: mine.name, movement: work.movement, seen: work.entries + work.since.length, stop_at: mine.stop_at }, fields));
      where = { session: where.session, rack: where.rack, [what === "ramp" ? "athlete" : "after"]: mine.id, lift: what === "ramp" ? work.exercise : null };
      await show();
      Floor.tryLine();
    };
  }

  function fieldsOf(data) {
    const fields = {};
    for (const [name, value] of data.entries()) if (typeof value === "string" && name !== "csrf_token") (fields[name] ||= []).push(value);
    return fields;
  }

  function problem(fields) {
    const pain = Number(fields.pain?.[0] || 0), region = fields.pain_region?.[0];
    if (fields.painful && !pain && !fields.pain?.[0]) return "Say how bad the pain is, 1 to 10.";
    if (fields.painful && !region) return "Say where it hurts.";
    const reps = Math.max(...["reps", "left_reps", "right_reps"].map((name) => Number(fields[name]?.[0] || 0)));
    if (!reps && !fields.hold_s && !["reps", "left_reps", "right_reps"].some((name) => fields[name]?.[0]?.trim())) return "Say how many reps.";
    if (fields.load && !fields.load[0].trim()) return "Say the load that was taken.";
    if (fields.load && !/^\s*-?\d{1,4}([.,]\d{1,3})?\s*$/.test(fields.load[0])) return "The load is a number.";
    return "";
  }

  // What is written down of a form: the same fields whichever page it stood on, with words for the mark and the list.
  function thingOf(what, client_id, about, fields) {
    const { cell, exercise, athlete, name, movement, seen, stop_at } = about, pack = Outbox.state.pack;
    const known = pack?.movements[movement], one = (field) => fields[field]?.[0] || "";
    if (what === "set" && seen !== undefined) fields.seen = [String(seen)];
    const reps = one("hold_s") ? `${one("hold_s")} s` : one("left_reps") || one("right_reps") ? ["left", "right"].filter((side) => Number(one(`${side}_reps`))).map((side) => `${one(`${side}_reps`)} ${side}`).join(", ") : one("reps");
    const [, character, level] = /^(\D+?)\s*(\d*)$/.exec(one("said")) || [];
    const set_words = what === "pain" ? `${character} pain${level ? `, ${level} of 10` : ""}, ${one("pain_region")}` : `${Number(one("load")) ? `${one("load")} × ` : ""}${reps}${Number(one("pain")) ? `, pain ${one("pain")}, ${one("pain_region")}` : ""}`;
    const words = `${first(name || "somebody")}, ${known?.name.toLowerCase() || "set"}: ${{ set: set_words, ramp: "ramp set", skip: "left out", end: "ended", trial: "trial rep", pain: set_words }[what]}`;
    const stops = what === "pain" ? pack?.stopping.includes(character) || Number(level) >= (stop_at ?? 4) : one("painful") && (Number(one("pain")) >= (stop_at ?? 4) || pack?.stopping.includes(one("pain_character")));
    return { client_id, what, cell, exercise, athlete, fields, words, set_words, locks: stops ? known?.locks[one("pain_region")] || [movement] : [] };
  }

  const uuid = () => crypto.randomUUID?.() || Array.from(crypto.getRandomValues(new Uint8Array(16)), (one) => one.toString(16).padStart(2, "0")).join("");

  return { show, thingOf, fieldsOf, problem, get on() { return on; }, off() { on = false; }, get where() { return where; } };
})();
