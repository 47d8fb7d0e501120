// The floor while there is no line: cards, rows and forms as the server's own templates made them, what was done since
// laid over them. It walks the steps the server worked out, drops what was left out or stopped, and knows no rule.
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
      if (thing.what === "trial") mine.tried = true;
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
    return { id: Number(id), name: packed.name, awaited: at ? "" : packed.awaited, work, steps, now, done, at, stopped, rest_left_s: now ? Math.max(0, Math.round(rest - (Date.now() - (at ? restFrom : pack.asked_ms)) / 1000)) : 0 };
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
    let at = racks.findIndex((rack) => rack.key === where.rack); // a rack is an identity, whatever opens or closes
    const wanted = Number(where.athlete || where.after || 0);
    if (at < 0 || (wanted && !racks[at].athletes.includes(wanted))) at = Math.max(0, racks.findIndex((rack) => (wanted ? rack.athletes.includes(wanted) : rack.lists.some((one) => one.now && !one.awaited))));
    where.rack = racks[at]?.key ?? null;
    const rack = racks[at], open = (rack?.lists || []).filter((one) => one.now && !one.awaited && !one.work.get(one.now.exercise).spare);
    const order = [...open].sort((a, b) => a.done - b.done);
    const after = rack?.lists.find((one) => one.id === Number(where.after));
    const mine = rack?.lists.find((one) => one.id === Number(where.athlete)) || (after?.now?.inside || after?.stopped === done.at(-1) && after?.stopped ? after : null) || order[0] || rack?.lists.find((one) => one.now && !one.awaited) || rack?.lists[0];
    const next = order.find((one) => one !== mine);
    floor.replaceChildren(...page({ pack, session, racks, at, mine, next }));
    const stop = floor.querySelector(".decision.is-stop");
    if (stop) { stop.tabIndex = -1; stop.focus(); stop.scrollIntoView({ block: "center" }); } // read before anything else
    else floor.querySelector(".tap")?.focus({ preventScroll: true });
    document.dispatchEvent(new Event("floor:shown"));
  }

  const go = (asked) => (event) => { event.preventDefault(); where = { session: where.session, rack: where.rack }; show(asked); };

  function page({ pack, session, racks, at, mine, next }) {
    const early = session.day > today(pack);
    const head = el("details", { class: "where" },
      el("summary", {}, el("b", {}, session.day_words), " ", el("span", {}, session.name), " ", racks[at] && !pack.athlete ? el("span", { class: "rack-here" }, racks[at].label) : null, el("span", { class: "quiet" }, "no line")),
      el("nav", { class: "pick", "aria-label": "Session" }, pack.sessions.map((one) => el("a", { href: "#", class: one === session ? "is-here" : null, on: { click: go({ session: one.id, rack: null, athlete: null }) } }, `${one.day_words.slice(0, 3)} ${one.name}`))),
      pack.athlete ? null : el("nav", { class: "pick", "aria-label": "Rack" }, racks.map((one, n) => el("a", { href: "#", class: n === at ? "is-here" : null, "aria-label": one.label, on: { click: go({ rack: one.key, athlete: null }) } }, n === at ? one.label : one.short))));
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

  // The card of the step, moved on to where the list is; its forms are put in, and filled with what is asked.
  function card(pack, mine, early) {
    const step = (where.lift && mine.steps.find((one) => one.exercise === Number(where.lift))) || mine.now;
    if (mine.stopped && !where.lift) return stopCard(mine);
    if (!step) return el("p", { class: "cue" }, `${own() ? "You are" : `${mine.name} is`} through the whole session.`);
    const work = mine.work.get(step.exercise), movement = pack.movements[work.movement], made = drawn(work.card);
    const all = (what) => [...made.querySelectorAll(what)], gone = (what) => all(what).forEach((one) => one.remove());
    all("[data-number]").forEach((one) => { one.textContent = Math.min(work.done + 1, work.sets); });
    all("[data-inside]").forEach((one) => { one.hidden = !step.inside; });
    all("[data-at]").forEach((one) => { one.hidden = Number(one.dataset.at) !== work.entries + work.since.length; });
    all("[data-after]").forEach((one) => { one.hidden = !work.done; });
    if (work.since.length || work.done) gone("[data-first]");
    if (work.tried) gone("form[data-keep=trial]");
    for (const n of work.ramped || []) all(".ramp li")[n - 1]?.replaceChildren(el("span", { class: "ramp-done" }, `✓ ${all(".ramp li")[n - 1].textContent.trim()}`));
    all(".sets > span").forEach((one, n) => { if (!one.classList.contains("is-off")) one.className = n < work.done ? "is-done" : n === work.done ? "is-now" : ""; });
    all(".sets").forEach((one) => one.setAttribute("aria-label", `${work.done} of ${work.sets} sets done`));
    const last = work.since.at(-1), half = [...work.halves][0];
    if (last) all(".last-truth").forEach((one) => one.replaceChildren(last.sent_ms ? "last set " : "waits for the line: ", last.set_words));
    if (half) {
      gone(`.done-form [data-side=${half}]`);
      all("[data-sides]").forEach((one) => { one.textContent = half === "left" ? "right" : "left"; });
    }
    all("form.set-form").forEach((form) => fill(form, pack.parts[work.form], work, half));
    all("form.pain-form").forEach((form) => form.append(drawn(pack.parts[work.pain])));
    all(".find-load input").forEach((input) => { input.value = last?.fields.load?.[0] || input.value; });
    for (const form of all("form[data-keep]")) {
      Object.assign(form.dataset, { cell: work.cell, exercise: work.exercise, athlete: mine.id, name: mine.name, movement: work.movement, seen: work.entries + work.since.length });
      form.addEventListener("submit", kept(form, work));
    }
    if (early) gone("form, .below");
    made.querySelector(".below")?.append(...beside(mine, work, movement));
    return made;
  }

  // A form of the pack with a set as it is asked: values to be typed over, hints that say nothing, loads to choose from.
  function fill(form, html, work, half) {
    form.append(drawn(html));
    for (const [name, value] of Object.entries(work.values)) for (const input of form.querySelectorAll(`[name="${name}"]`)) { input.value = value; input.defaultValue = value; }
    for (const [name, words] of Object.entries(work.hints)) for (const input of form.querySelectorAll(`[name="${name}"]`)) input.placeholder = words;
    if (half) for (const input of form.querySelectorAll(`[name="${half}_reps"]`)) input.value = "";
    for (const input of form.querySelectorAll("[name=reserve_reps]")) input.dataset.from = work.left ?? "";
    form.querySelector("datalist")?.append(...work.loads.map((one) => el("option", { value: one })));
  }

  // What is said of the movement, and the way back of a set that still waits here.
  function beside(mine, work, movement) {
    const last = work.since.filter((one) => !one.sent_ms).at(-1);
    return [last ? el("button", { type: "button", class: "btn btn-outline-primary", on: { click: () => Outbox.drop(last.client_id).then(() => show({ athlete: mine.id, after: null })) } }, `Take back ${last.set_words}`) : "",
      movement.easier.length || movement.harder.length ? el("p", { class: "small quiet" }, [movement.easier.length ? `Easier: ${movement.easier.join(" or ")}` : "", movement.harder.length ? `Harder: ${movement.harder.join(" or ")}` : ""].filter(Boolean).join(" · ")) : "",
      el("p", { class: "small quiet mt-2" }, movement.safety), drawn(movement.set_up)];
  }

  function stopCard(mine) {
    return el("div", { class: "card-now" }, el("div", { class: "below" },
      el("div", { class: "decision is-stop", role: "status" }, el("p", { class: "says" }, `${own() ? "You stop" : `${first(mine.name)} stops`}: ${mine.stopped.set_words}.`), el("p", {}, mine.steps.length ? `May go on today: ${[...new Set(mine.steps.map((step) => Outbox.state.pack.movements[mine.work.get(step.exercise).movement].name))].join(", ")}. Nothing with a load.` : "Nothing of today's plan goes on."),
        el("p", {}, `${own() ? "See" : `${mine.name} sees`} a physiotherapist or doctor. Chest pain, collapse, numbness in the saddle region, loss of bladder or bowel control: emergency services, now.`),
        el("p", { class: "quiet" }, "Locked on this device now; everybody else sees it when there is a line: tell them."),
        mine.now ? el("a", { href: "#", class: "btn btn-outline-primary", on: { click: go({ athlete: mine.id, lift: mine.now.exercise }) } }, "What is not locked") : null)));
  }

  // What was left in the set done last, while it waits here: one tap, or nothing is said.
  function just(thing, mine) {
    if (!thing || thing.what !== "set" || thing.sent_ms || thing.fields.reserve_reps?.[0] || thing.fields.hold_s || Number(thing.fields.pain?.[0])) return null;
    const most = Outbox.state.pack.or_more;
    const say = (n) => () => Outbox.amend(thing.client_id, { reserve_reps: [String(n)], ...(n >= most ? { or_more: ["1"] } : {}) }).then(() => show({ athlete: mine?.id, after: null }));
    return el("div", { class: "just", role: "status" }, el("p", {}, el("b", {}, thing.words.split(",")[0]), ` ${thing.set_words} ✓`), el("div", { class: "just-acts" }, el("button", { type: "button", class: "btn-link-plain", on: { click: () => Outbox.drop(thing.client_id).then(() => show({ athlete: thing.athlete, after: null })) } }, "Undo")), el("div", { class: "just-chips" }, el("span", { class: "quiet" }, "RIR"), Array.from({ length: most + 1 }, (_, n) => n).map((n) => el("button", { type: "button", "aria-label": `RIR ${n}${n === most ? " or more" : ""} in the last set`, on: { click: say(n) } }, `${n}${n === most ? "+" : ""}`))));
  }

  function list(pack, mine) {
    return el("ol", { class: "run", "aria-label": "The session" }, [...mine.work.values()].map((work) => row(pack, mine, work)));
  }

  function row(pack, mine, work) {
    const made = drawn(work.row).querySelector("li"), link = made.querySelector("a"), here = mine.now?.exercise === work.exercise;
    const said = [...(work.logged || []), ...work.since.map((one) => `${one.set_words}${one.sent_ms ? "" : " (waits)"}`)];
    made.classList.toggle("is-here", here);
    made.classList.toggle("is-done", Boolean(work.over));
    if (here) link.setAttribute("aria-current", "step");
    link.addEventListener("click", go({ athlete: mine.id, lift: work.over ? null : work.exercise }));
    made.querySelector(".run-mark").textContent = work.why_over === "stopped" ? "■" : work.why_over ? "–" : work.over ? "✓" : "";
    made.querySelector(".run-said").textContent = [said.join(", "), work.why_over].filter(Boolean).join(" · ");
    if (work.over || work.done) made.querySelector(".run-dose").textContent = `${work.done} of ${work.sets}`;
    return made;
  }

  function upNext(pack, next, mine) {
    if (!next) return pack.athlete ? null : el("div", { class: "upnext" }, el("span", { class: "quiet" }, "last lifter on this rack"));
    const work = next.work.get(next.now.exercise), movement = pack.movements[work.movement];
    return el("div", { class: "upnext" }, el("div", {}, el("small", { class: "quiet" }, "next on this rack"), el("div", { class: "who" }, next.name), el("span", { class: `tag is-${movement.family}` }, movement.tag), " ", work.load ? [el("span", { class: "big" }, work.load), el("span", { class: "quiet" }, ` × ${work.reps}${movement.sides === 2 ? " each side" : ""}`)] : movement.name),
      mine.now ? null : el("a", { href: "#", class: "btn btn-primary", on: { click: go({ athlete: next.id }) } }, `${first(next.name)} is up`));
  }

  // A form of these pages is never sent: what it says is written down, and the list goes on.
  function kept(form, work) {
    return async (event) => {
      event.preventDefault();
      const thing = thingOf(form, event.submitter), wrong = problem(thing);
      if (wrong) { say(form, wrong); return; }
      await Outbox.put(thing);
      const ramp = thing.what === "ramp" || thing.what === "trial";
      where = { session: where.session, rack: where.rack, [ramp ? "athlete" : "after"]: thing.athlete, lift: ramp ? work.exercise : null };
      await show();
      Floor.tryLine();
    };
  }

  function say(form, words) {
    const said = form.querySelector("p.problem") || form.insertBefore(el("p", { class: "problem", role: "alert" }), form.firstChild);
    said.textContent = words;
  }

  const ABOUT_PAGE = ["csrf_token", "client_id", "session", "rack", "lift", "athlete", "as_person"]; // where it stood, not what was done
  function fieldsOf(form, submitter) {
    const fields = {};
    for (const [name, value] of new FormData(form, submitter).entries()) if (typeof value === "string" && !ABOUT_PAGE.includes(name)) (fields[name] ||= []).push(value);
    return fields;
  }

  // Without a line nobody can be asked later: what cannot be read is said here. What cannot have been the server says.
  function problem({ what, fields }) {
    const one = (name) => fields[name]?.[0]?.trim() || "";
    if (what === "pain") return one("pain_region") ? "" : "Say where it hurts.";
    if (what !== "set") return "";
    if (!one("hold_s") && !["reps", "left_reps", "right_reps"].some(one)) return "Say how many reps.";
    if (fields.load && !one("load")) return "Say the load that was taken.";
    return fields.load && !/^-?\d{1,4}([.,]\d{1,3})?$/.test(one("load")) ? "The load is a number." : "";
  }

  // What is written down of a form, whether it stood on a page or was taken along; with words for the mark and the list.
  function thingOf(form, submitter) {
    const fields = fieldsOf(form, submitter), about = form.dataset, pack = Outbox.state.pack, what = about.keep;
    about.client ||= form.querySelector("[name=client_id]")?.value || uuid();
    const known = pack?.movements[about.movement], one = (field) => fields[field]?.[0] || "";
    if (what === "set" && about.seen !== undefined) fields.seen = [about.seen];
    const reps = one("hold_s") ? `${one("hold_s")} s` : one("left_reps") || one("right_reps") ? ["left", "right"].filter((side) => Number(one(`${side}_reps`))).map((side) => `${one(`${side}_reps`)} ${side}`).join(", ") : one("reps");
    const [, character, level] = /^(\D+?)\s*(\d*)$/.exec(one("said")) || [];
    const set_words = what === "pain" ? `${character} pain${level ? `, ${level} of 10` : ""}, ${one("pain_region")}` : `${Number(one("load")) ? `${one("load")} × ` : ""}${reps}`;
    const words = `${first(about.name || "somebody")}, ${known?.name.toLowerCase() || "set"}: ${{ set: set_words, ramp: "ramp set", skip: "left out", end: "ended", trial: "trial rep", pain: set_words }[what]}`;
    const stops = submitter?.dataset.stops !== undefined; // what stops this athlete, the form was made to know
    return { client_id: about.client, what, cell: Number(about.cell), exercise: Number(about.exercise), athlete: Number(about.athlete), fields, words, set_words, locks: stops ? known?.locks[one("pain_region")] || [about.movement] : [] };
  }

  const uuid = () => crypto.randomUUID?.() || Array.from(crypto.getRandomValues(new Uint8Array(16)), (one) => one.toString(16).padStart(2, "0")).join("");

  return { show, thingOf, problem, say, get on() { return on; }, off() { on = false; }, get where() { return where; } };
})();
