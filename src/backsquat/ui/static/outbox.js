// What was done on the floor and is not on the server yet. It is written down on the device before it is sent, and
// crossed out when the server says it has it: by its client id each is stored once, in the order it was done, whatever
// happens between. What belongs to somebody else's sign-in, or to other data, is never sent by itself.
"use strict";

const Outbox = (() => {
  const FORMAT = 2, AT_ONCE = 20, PATIENCE_MS = 8000;
  const me = Number(document.querySelector("meta[name=person]")?.content || 0);
  const state = { line: true, since: null, signedIn: true, problem: "", waiting: [], trying: [], refused: [], said: [], pack: null };

  const opened = idb.openDB("backsquat", 1, {
    upgrade(db) {
      db.createObjectStore("things", { keyPath: "n", autoIncrement: true }).createIndex("client", "client_id", { unique: true });
      db.createObjectStore("kept");
    },
  });

  const SAFE = { durability: "strict" }; // on the disk before the next line is read: batteries die
  opened.catch(() => {}); // a browser that keeps nothing: every page works as without this script
  const unwritten = []; // what the device's store had no room for: on this page only, and said so
  async function all() { try { return [...(await (await opened).getAll("things")), ...unwritten]; } catch { return [...unwritten]; } }
  async function change(client, how) {
    const at = unwritten.findIndex((one) => one.client_id === client);
    if (at >= 0) { const next = how(unwritten[at]); unwritten.splice(at, 1, ...(next ? [next] : [])); return; }
    const tx = (await opened).transaction("things", "readwrite", SAFE);
    const found = await tx.store.index("client").get(client);
    if (found) { const next = how(found); await (next ? tx.store.put(next) : tx.store.delete(found.n)); }
    await tx.done;
  }

  // Written down; false where it was before: a double tap is one set.
  async function put(thing) {
    const made = { person: me || state.pack?.person || 0, place: state.pack?.place || "", tapped_ms: Date.now(), ...thing };
    try { return await write(made); } catch (error) {
      if (unwritten.some((one) => one.client_id === thing.client_id)) return false;
      unwritten.push(made);
      state.full = true;
      await look();
      return true;
    }
  }

  async function write(thing) {
    const tx = (await opened).transaction("things", "readwrite", SAFE);
    const known = await tx.store.index("client").get(thing.client_id);
    if (!known) await tx.store.add(thing);
    await tx.done;
    await look();
    return !known;
  }

  // The server has it. It is kept until the next pack, which knows of it, so that the list goes on from there.
  async function sent(client) { await change(client, (one) => ({ ...one, sent_ms: Date.now(), refused: "" })); await look(); }
  async function amend(client, fields) { await change(client, (one) => (one.sent_ms ? one : { ...one, fields: { ...one.fields, ...fields } })); await look(); }
  async function drop(client) { await change(client, () => null); await look(); }

  let again = 0; // a request that was never answered (a closed tab): what it carried waits then like anything else
  async function look() {
    const things = (await all()).filter((one) => !one.sent_ms);
    state.trying = things.filter(underWay);
    state.waiting = things.filter((one) => !one.refused && !underWay(one));
    state.refused = things.filter((one) => one.refused);
    localStorage.setItem("waiting", String(things.length));
    if (state.trying.length) { clearTimeout(again); again = setTimeout(() => look().then(() => !document.getElementById("floor") && flush()), PATIENCE_MS + 2100); }
    document.dispatchEvent(new CustomEvent("outbox:changed"));
  }

  // Its own request is under way and may come back with a question: nobody else hands it in meanwhile.
  const underWay = (one) => Date.now() - (one.trying_ms || 0) < PATIENCE_MS + 2000;
  async function waits(client) { await change(client, (one) => ({ ...one, trying_ms: 0 })); await look(); }

  async function fetchSoon(address, options = {}) {
    const stop = new AbortController(), timer = setTimeout(() => stop.abort(), PATIENCE_MS);
    try { return await fetch(address, { ...options, signal: stop.signal, cache: "no-store", redirect: "manual" }); }
    finally { clearTimeout(timer); }
  }

  function lineIs(there) {
    if (state.line === there) return;
    state.line = there;
    if (there) localStorage.removeItem("no line since");
    else if (!localStorage.getItem("no line since")) localStorage.setItem("no line since", String(Date.now()));
    state.since = Number(localStorage.getItem("no line since")) || null;
    document.dispatchEvent(new CustomEvent("outbox:changed"));
  }

  // Who is signed in, with which data, and a token that is good now; null where the server does not answer as ours.
  async function greet(athletes = "") {
    let answer;
    try { answer = await fetchSoon(`/floor/pulse?athletes=${athletes}`, { headers: { "HX-Request": "true" } }); } catch { lineIs(false); return null; }
    if ([502, 503, 504].includes(answer.status)) { lineIs(false); return null; }
    lineIs(true);
    state.signedIn = answer.ok;
    return answer.ok ? answer.json() : null;
  }

  const locked = (run) => (navigator.locks ? navigator.locks.request("backsquat outbox", run) : (line = line.then(run, run)));
  let line = Promise.resolve();

  // Hand in what waits, the oldest first; one tab at a time. True where something was taken.
  function flush(asMe = false) {
    return locked(async () => {
      let taken = false;
      for (;;) {
        const things = (await all()).filter((one) => !one.sent_ms && !one.refused && !underWay(one));
        if (!things.length) return taken;
        const there = await greet();
        if (!there) return taken;
        const mine = things.filter((one) => (asMe || !one.person || one.person === there.person) && !one.not_for?.includes(there.person) && (!one.place || one.place === there.place));
        state.problem = there.format === FORMAT ? "" : "This page is older than the server: reload it, what waits stays.";
        if (!mine.length || state.problem) { await look(); return taken; }
        if (!(await hand(mine.slice(0, AT_ONCE), there))) { await look(); return taken; }
        taken = true;
      }
    });
  }

  async function hand(things, there) {
    const kept = await all(), mine = (one) => kept.filter((other) => other.what === "set" && other.cell === one.cell && other.client_id !== one.client_id).map((other) => other.client_id).slice(-200);
    const body = JSON.stringify({ format: FORMAT, place: there.place, device_ms: Date.now(), things: things.map((one) => ({ client_id: one.client_id, what: one.what, cell: one.cell, athlete: one.athlete, tapped_ms: one.tapped_ms, mine: mine(one), fields: one.fields || {} })) });
    let answer, told = {};
    try {
      answer = await fetchSoon("/floor/waiting", { method: "POST", body, headers: { "Content-Type": "application/json", "X-CSRFToken": there.token, "HX-Request": "true" } });
      told = await answer.json();
    } catch { if (!answer) lineIs(false); return false; }
    if (!things.some((one) => told.answers?.[one.client_id])) { state.problem = told.problem || "The server did not say what it took: what waits stays."; return false; }
    for (const thing of things) {
      const said = told.answers?.[thing.client_id];
      if (!said) continue;
      if (said.taken) await change(thing.client_id, (one) => ({ ...one, sent_ms: Date.now() }));
      else if (said.waits) await change(thing.client_id, (one) => ({ ...one, not_for: [...(one.not_for || []), there.person] })); // for whoever may send it
      else await change(thing.client_id, (one) => ({ ...one, refused: said.words }));
      if (said.taken && said.words) state.said.push(`${thing.words}: ${said.words}`);
    }
    if (told.problem) state.problem = told.problem;
    await look();
    return answer.ok;
  }

  // What to take along. What was sent before it was made is in it, and need not be remembered any more.
  async function takeAlong() {
    const asked = Date.now();
    let answer;
    try { answer = await fetchSoon("/floor/pack", { headers: { "HX-Request": "true" } }); } catch { lineIs(false); return null; }
    if (!answer.ok) return null;
    const pack = { ...(await answer.json()), asked_ms: asked };
    let tx;
    try { tx = (await opened).transaction(["things", "kept"], "readwrite", SAFE); } catch { return null; }
    await tx.objectStore("kept").put(pack, "pack");
    for (const one of await tx.objectStore("things").getAll()) if (one.sent_ms && one.sent_ms < asked) await tx.objectStore("things").delete(one.n);
    await tx.done;
    state.pack = pack;
    document.dispatchEvent(new CustomEvent("outbox:changed"));
    return pack;
  }

  async function packed() {
    try { state.pack ||= await (await opened).get("kept", "pack"); } catch { return null; }
    if (state.pack && me && state.pack.person !== me) { await forget(); return null; } // of who was here before
    return state.pack?.format === FORMAT ? state.pack : null;
  }
  async function forget() { state.pack = null; try { await (await opened).delete("kept", "pack"); } catch { /* nothing is kept */ } }

  async function toFile() {
    const things = (await all()).filter((one) => !one.sent_ms);
    const text = JSON.stringify({ what: "Sets that wait for the line", format: FORMAT, place: state.pack?.place || things[0]?.place || "", things }, null, 1);
    const link = document.createElement("a");
    link.href = URL.createObjectURL(new Blob([text], { type: "application/json" }));
    link.download = `waiting-sets-${new Date().toISOString().slice(0, 10)}.json`;
    link.click();
    setTimeout(() => URL.revokeObjectURL(link.href), 60000);
  }

  // A file saved on another device: what is in it waits here, for whoever is signed in now. Says how many; throws where it is none.
  async function fromFile(file) {
    if (file.size > 2_000_000) throw new Error("too large");
    const read = JSON.parse(await file.text());
    if (![1, FORMAT].includes(read.format) || !Array.isArray(read.things)) throw new Error("not ours");
    let added = 0;
    for (const { n, sent_ms, refused, ...thing } of read.things) {
      if (typeof thing.client_id === "string" && Number.isInteger(thing.cell) && Number.isInteger(thing.athlete)) added += await put({ ...thing, place: thing.place || read.place, person: me });
    }
    return added;
  }

  return { state, me, put, amend, sent, drop, waits, look, flush, greet, takeAlong, packed, forget, all, toFile, fromFile, lineIs };
})();

// The mark: what waits, since when, and what to do about it. Nothing waits without a word.
const LineMark = (() => {
  const clock = (ms) => new Date(ms).toTimeString().slice(0, 5);
  const button = (words, run) => { const made = document.createElement("button"); made.type = "button"; made.className = "btn-link-plain"; made.textContent = words; made.addEventListener("click", run); return made; };

  function draw() {
    const mark = document.getElementById("line"), { state, me } = Outbox;
    if (!mark) return;
    const others = state.waiting.filter((one) => me && ((one.person && one.person !== me) || one.not_for?.includes(me)));
    const parts = [], acts = [];
    if (!state.line) parts.push(`No line since ${clock(state.since)}`);
    if (state.waiting.length) {
      const sets = state.waiting.every((one) => one.what === "set"), one = state.waiting.length === 1;
      parts.push(`${state.waiting.length} ${sets ? (one ? "set" : "sets") : one ? "entry" : "entries"} ${one ? "waits" : "wait"} for the line${state.line ? ` since ${clock(state.waiting[0].tapped_ms)}` : ""}`);
    }
    if (state.waiting.length && !state.signedIn && state.line) { parts.push("nobody is signed in"); acts.push(Object.assign(document.createElement("a"), { href: "/sign-in?next=/floor/", textContent: "Sign in to send" })); }
    if (others.length) { parts.push(`${others.length} of them logged by somebody else here`); acts.push(button("Send in my name", () => Outbox.flush(true))); }
    if (state.full) parts.push("This device has no room left to write sets down: they are on this page only. Save them to a file before you close it");
    if (state.problem) parts.push(state.problem);
    if (!state.line && state.pack) parts.push(`list taken along at ${state.pack.at.slice(11, 16)}`);
    if (state.waiting.length || state.refused.length) acts.push(button("Save to a file", Outbox.toFile));
    const seen = [parts.join(" · "), ...state.refused.map((one) => one.client_id), ...state.said, acts.length].join("|");
    if (mark.dataset.seen === seen) return;
    mark.dataset.seen = seen;
    mark.replaceChildren();
    mark.hidden = !parts.length && !acts.length && !state.said.length;
    if (parts.length) { const p = document.createElement("p"); p.append(parts.join(" · "), " ", ...acts); mark.append(p); }
    for (const one of state.refused) {
      const p = document.createElement("p");
      p.className = "is-refused";
      p.append(`Not taken: ${one.words}. ${one.refused} `);
      if (!parts.length) p.append(...acts.splice(0));
      const sure = document.createElement("details");
      sure.innerHTML = "<summary>Throw it away</summary>";
      sure.append(button("Yes, it never happened", () => Outbox.drop(one.client_id)));
      p.append(sure);
      mark.append(p);
    }
    for (const words of state.said) { const p = document.createElement("p"); p.append(`Sent, and marked: ${words}. `, button("Seen", () => { state.said = state.said.filter((one) => one !== words); draw(); })); mark.append(p); }
  }
  document.addEventListener("outbox:changed", draw);
  return { draw };
})();

// Signing out: the server clears what the browser keeps, but for what still waits; what was taken along goes in any case.
document.addEventListener("submit", (event) => {
  if (!event.target.matches("form.person") || event.target.dataset.ready) return;
  event.preventDefault();
  const form = event.target, count = document.createElement("input");
  Object.assign(count, { type: "hidden", name: "waiting", value: localStorage.getItem("waiting") || "0" });
  form.append(count);
  form.dataset.ready = "1";
  Promise.race([Outbox.forget(), new Promise((done) => setTimeout(done, 1000))]).finally(() => form.submit());
});

document.addEventListener("DOMContentLoaded", async () => {
  if ("serviceWorker" in navigator) navigator.serviceWorker.register("/floor/worker.js", { scope: "/" }).catch(() => {});
  document.getElementById("line-file")?.addEventListener("change", async (event) => {
    const said = document.getElementById("line-file-said");
    try { said.textContent = `${await Outbox.fromFile(event.target.files[0])} put in the line.`; } catch { said.textContent = "This is no file of waiting sets."; }
    Outbox.flush();
  });
  await Outbox.packed();
  await Outbox.look();
  if (Outbox.me && Outbox.state.waiting.length && !document.getElementById("floor")) Outbox.flush(); // the floor does it itself
});

// A page that shows what others do, and where nothing is typed: it looks every second whether anything has changed.
document.addEventListener("DOMContentLoaded", () => {
  const live = document.querySelector("main [data-live]");
  if (!live) return;
  let known = live.dataset.live;
  const look = async () => {
    const there = document.visibilityState === "visible" && (await Outbox.greet());
    if (there && there.pulse !== known && !document.querySelector("main details[open], main input:focus")) {
      known = there.pulse;
      await htmx.ajax("GET", location.href, { target: "#main", select: "#main", swap: "outerHTML" });
    }
    setTimeout(look, 1000);
  };
  setTimeout(look, 1000);
});
