// The floor: pace and hold timers, the sound at the end of a rest, the focus after a set. The pages work without it.
"use strict";

const muted = () => localStorage.getItem("floor muted") === "1";
function shownMute() {
  document.querySelectorAll("[data-mute]").forEach((button) => {
    button.textContent = muted() ? "Sound is off" : "Sound is on";
    button.setAttribute("aria-pressed", String(!muted()));
  });
}
document.addEventListener("click", (event) => {
  if (!event.target.closest("[data-mute]")) return;
  localStorage.setItem("floor muted", muted() ? "0" : "1");
  shownMute();
});

let sound = null;
function beep(pitch = 880, long = 0.12) {
  if (muted()) return;
  try {
    sound ||= new AudioContext();
    const tone = sound.createOscillator(), volume = sound.createGain();
    tone.frequency.value = pitch;
    volume.gain.setValueAtTime(0.2, sound.currentTime);
    volume.gain.exponentialRampToValueAtTime(0.001, sound.currentTime + long);
    tone.connect(volume).connect(sound.destination);
    tone.start();
    tone.stop(sound.currentTime + long);
  } catch { /* no sound here: it is seen all the same */ }
}
document.addEventListener("rest:over", () => { beep(660, 0.4); navigator.vibrate?.(200); });

document.addEventListener("DOMContentLoaded", shownMute);
document.addEventListener("htmx:afterSwap", (event) => {
  if (event.target.id !== "floor" && event.detail?.target?.id !== "floor") return;
  shownMute();
  if (document.querySelector("#floor [autofocus]")) return;
  document.querySelector("#floor .tap")?.focus({ preventScroll: true });
});

document.addEventListener("alpine:init", () => {
  // A sensor on the bar: what it has seen of the set so far, asked of the server; what was seen stays if it is unplugged.
  Alpine.data("speed", () => ({
    words: "", button: "Watch the speed",
    init() { this.words = this.$el.querySelector(".speed-words").textContent.trim().replace(/\s+/g, " "); this.root = this.$el; },
    destroy() { clearTimeout(this.timer); },
    watchSet() { this.forSet = true; return this.toggle(); },
    rampForm() { return this.forSet ? null : document.querySelector("#floor .ramp form"); },
    async toggle() {
      if (this.of) return this.stop("");
      const next = this.rampForm(), ramp = next?.querySelector("input[name=load_kg]");
      const body = new URLSearchParams({ load_kg: ramp ? ramp.value : this.root.dataset.load });
      if (this.taking) body.set("take_over", "y");
      const token = document.querySelector("meta[name=csrf-token]")?.content || "";
      try {
        const said = await (await fetch(`/floor/cells/${this.root.dataset.cell}/watch`, { method: "POST", body, headers: { "X-CSRFToken": token } })).json();
        if (said.held_by) {
          this.taking = said.may_take;
          this.button = said.may_take ? "Take it over" : "Watch the speed";
          this.words = `${said.held_by} is in the middle of a set with this sensor${said.may_take ? "." : ": count as usual."}`;
          return;
        }
        this.taking = false;
        if (!said.there) { this.words = "The sensor is not plugged in: count as usual."; return; }
        this.of = said.of;
      } catch { this.words = "No line to the sensor: count as usual."; return; }
      this.button = "Stop watching";
      this.words = next ? `Ramp ${next.querySelector("button").textContent.trim()}: lift, it counts.` : "The set: lift, it counts.";
      this.look();
    },
    async look() {
      if (!this.of || !this.root.isConnected) return;
      let said = null;
      try { said = await (await fetch(`/floor/watch?of=${this.of}&drop=${this.root.dataset.drop}`)).json(); } catch { /* asked again */ }
      if (said) this.show(said);
      this.timer = setTimeout(() => this.look(), 300);
    },
    show(said) {
      const percent = Math.round(100 * said.drop), count = said.speeds.length, best = Math.max(...said.speeds, 0.01);
      const bars = this.root.querySelector(".speed-bars");
      bars.innerHTML = said.speeds.map((one, n) => `<span class="${said.over && n + 1 >= said.over ? "is-over" : ""}"><svg width="30" height="46"><rect x="3" width="24" y="${46 - Math.round((44 * one) / best)}" height="${Math.round((44 * one) / best)}" rx="2"/></svg>${one.toFixed(2)}</span>`).join("");
      if (count) this.fill(said.speeds);
      if (!said.there) return this.stop(count ? `Sensor unplugged: ${count} reps so far are kept. Count the rest, and correct the number.` : "Sensor unplugged: count as usual.");
      if (count) this.words = `${count} reps, last ${said.speeds[count - 1].toFixed(2)} m/s${percent > 0 ? `, down ${percent} %` : ""}`;
      if (said.over && this.root.dataset.ends === "1") { beep(440, 0.5); navigator.vibrate?.(200); this.stop(`Down ${percent} %: the set is over, ${count} reps.`); }
      else if (said.over) this.words += ": it may end here";
      if (said.heard_s > 10) this.words = `${this.words.replace(/ · last heard.*/, "")} · last heard ${said.heard_s} s ago`;
    },
    fill(speeds) {
      const text = speeds.join(" "), ramp = this.rampForm()?.querySelector("input[name=speeds]");
      if (ramp) { ramp.value = text; return; }
      document.querySelectorAll("#floor input[name=speeds]").forEach((input) => { input.value = text; });
      document.querySelectorAll("#floor .done-form input[name=reps], #floor .set-form input[name=reps]").forEach((input) => { input.value = speeds.length; });
      document.querySelectorAll("#floor .done-form [data-reps]").forEach((one) => { one.textContent = speeds.length; });
    },
    stop(words) {
      const token = document.querySelector("meta[name=csrf-token]")?.content || "";
      if (this.of) fetch("/floor/watch/end", { method: "POST", body: new URLSearchParams({ of: this.of }), headers: { "X-CSRFToken": token } }).catch(() => {});
      this.of = "";
      this.forSet = false;
      clearTimeout(this.timer);
      this.button = "Watch the speed";
      if (words) this.words = words;
    },
  }));
  // Pace: says down, hold, up for every rep in its seconds; by the clock it counts the seconds down.
  Alpine.data("pacer", () => ({
    on: false, words: "", button: "",
    init() {
      this.hold = Number(this.$el.dataset.hold);
      this.parts = this.$el.dataset.tempo.split("-").map(Number);
      this.reps = Number(this.$el.dataset.reps);
      this.rest();
    },
    rest() { this.on = false; this.words = ""; this.button = this.hold ? "Hold" : "Pace"; },
    destroy() { clearInterval(this.timer); },
    toggle() {
      clearInterval(this.timer);
      if (this.on) return this.rest();
      this.on = true;
      this.button = "Stop";
      this.start = Date.now();
      this.said = "";
      this.timer = setInterval(() => this.tick(), 100);
      this.tick();
    },
    tick() {
      const gone = (Date.now() - this.start) / 1000;
      const now = this.hold ? this.holding(gone) : this.pacing(gone);
      if (now === null) { beep(440, 0.5); navigator.vibrate?.(200); clearInterval(this.timer); return this.rest(); }
      if (now !== this.said) { this.said = now; this.words = now; if (!this.hold || /^[321]$/.test(now)) beep(now.startsWith("up") ? 990 : 740, 0.08); }
    },
    holding(gone) { const left = Math.ceil(this.hold - gone); return left > 0 ? String(left) : null; },
    pacing(gone) {
      const whole = this.parts.reduce((a, b) => a + b, 0) || 3, rep = Math.floor(gone / whole);
      if (rep >= this.reps) return null;
      let inside = gone - rep * whole;
      for (const [n, word] of ["down", "hold", "up", "top"].entries()) {
        if (inside < this.parts[n]) return `${word} ${rep + 1}`;
        inside -= this.parts[n];
      }
      return `${rep + 1}`;
    },
  }));
});

// What is logged here is written down on the device first (outbox.js), then sent. Without a line the floor goes on from
// what was taken along (pocket.js); with one it looks every second whether anything has changed for who is shown.
const Floor = (() => {
  const EVERY_MS = 1000, QUIET_MS = 2000, QUIET_AFTER_MS = 30000, WITHOUT_LINE_MS = 3000, HIDDEN_MS = 20000, PACK_MS = 300000, PACK_CHANGED_MS = 120000; // a pack costs the server ten floors' polls
  const here = () => document.getElementById("floor");
  const shell = document.body.classList.contains("is-pocket");
  let trying = null, packing = false, lively = Date.now(); // when something last happened here, or was seen to have


  function goOn(thing) {
    const at = here()?.dataset || {};
    return Pocket.show({ session: at.session, rack: at.rack, [thing.what === "ramp" ? "athlete" : "after"]: thing.athlete, lift: null });
  }

  document.addEventListener("htmx:confirm", (event) => {
    const form = event.detail.elt;
    if (!form.matches?.("form[data-keep]")) return;
    event.preventDefault();
    const thing = Pocket.thingOf(form, event.detail.triggeringEvent?.submitter);
    const lacks = thing.what === "set" && Pocket.problem(thing);
    if (lacks) { // the server says it in the page; without one it is said here, and nothing is written down yet
      delete form.dataset.client;
      if (Outbox.state.line) event.detail.issueRequest(true);
      else Pocket.say(form, lacks);
      return;
    }
    const first = [...Outbox.state.waiting, ...Outbox.state.trying].every((one) => one.client_id === thing.client_id);
    const now = Outbox.state.line && first;
    Outbox.put(now ? { ...thing, trying_ms: Date.now() } : thing).then(() => {
      if (now) event.detail.issueRequest(true);
      else goOn(thing).then(tryLine);
    }).catch(() => event.detail.issueRequest(true)); // a browser that keeps nothing: as before
  });

  document.addEventListener("htmx:afterRequest", async (event) => {
    const form = event.detail.elt, status = event.detail.xhr.status;
    const failed = form.matches?.("form[data-keep]") && !(status >= 200 && status < 300) && status !== 422;
    if (failed && form.dataset.client) await Outbox.waits(form.dataset.client);
    if (status === 0) {
      Outbox.lineIs(false);
      const lacks = form.matches?.("form[data-keep]") && !form.dataset.client;
      if (lacks) Pocket.say(form, Pocket.problem(Pocket.thingOf(form)) || "No line: send it again.");
      else if (form.matches?.("form[data-keep]")) goOn({ what: form.dataset.keep, athlete: Number(form.dataset.athlete) });
      else if (here()) Pocket.show({ session: here().dataset.session, rack: here().dataset.rack });
      return;
    }
    if (!form.matches?.("form[data-keep]")) {
      if (event.detail.requestConfig?.verb === "post" && status < 300) takeAlong(0); // taken back, corrected: what was taken along is old
      return;
    }
    if (status >= 200 && status < 300) Outbox.sent(form.dataset.client);
    else if (status === 422) { Outbox.drop(form.dataset.client); delete form.dataset.client; } // said in the page, to be fixed there
    else if (status === 401) { Outbox.state.signedIn = false; Outbox.look(); }
    else tryLine();
  });
  document.addEventListener("signed-in", () => tryLine());

  function tryLine() {
    trying ||= (async () => { if (await Outbox.flush() || (Pocket.on && Outbox.state.line && Outbox.state.signedIn)) await back(); })().finally(() => { trying = null; });
    return trying;
  }

  // From the device's own lists to the server's, or to newer ones of the server.
  async function back() {
    const mine = Outbox.state.waiting.filter((one) => !Outbox.me || one.person === Outbox.me);
    if (!Outbox.state.line || mine.length) return;
    const at = Pocket.on ? Pocket.where : { ...here()?.dataset, athlete: here()?.dataset.athlete, lift: null };
    const asked = new URLSearchParams(Object.entries({ session: at.session, rack: at.rack, athlete: at.athlete, after: at.after }).filter(([, value]) => value !== null && value !== undefined && value !== ""));
    if (shell) { location.replace(`/floor/?${asked}`); return; }
    await htmx.ajax("GET", `/floor/?${asked}`, { target: "#floor", swap: "outerHTML" });
    Pocket.off();
    takeAlong(PACK_CHANGED_MS);
  }

  async function takeAlong(older) {
    const pack = Outbox.state.pack;
    if (packing || (pack && Date.now() - pack.asked_ms < older)) return;
    packing = true;
    try { await Outbox.takeAlong(); } finally { packing = false; }
  }

  // Something is half typed: what is new is said, and shown when it is asked for.
  function typing() {
    return document.querySelector("#floor details[open] form, #floor [role=alertdialog]") || [...document.querySelectorAll("#floor input:not([type=hidden])")].some((one) => (one.type === "checkbox" || one.type === "radio" ? one.checked !== one.defaultChecked : one.value !== one.defaultValue));
  }

  function news(stopped) {
    const said = document.getElementById("floor-news");
    if (!said) return;
    said.innerHTML = `<p class="cue ${stopped ? "is-unsafe" : ""}" role="alert">${stopped ? "Somebody here was stopped on another device: look before the next set." : "Something changed here on another device."} <button type="button" class="btn btn-outline-primary">Show it</button></p>`;
    said.querySelector("button").addEventListener("click", back);
  }

  async function beat() {
    const shown = here();
    if (shown && document.visibilityState === "visible") {
      const there = await Outbox.greet(Pocket.on ? "" : shown.dataset.athletes);
      if (there && !shell && there.person !== Outbox.me) { Outbox.state.problem = "Somebody else has signed in on this device: reload the page."; Outbox.look(); }
      if (there && !shell && there.person === Outbox.me) {
        if (Outbox.state.waiting.length || Pocket.on) await tryLine();
        else if (here()?.dataset.pulse && there.pulse !== here().dataset.pulse && there.asked === here().dataset.athletes) {
          lively = Date.now();
          const stopped = there.stops !== Number(here().dataset.stops);
          if (typing()) { news(stopped); here().dataset.pulse = there.pulse; here().dataset.stops = there.stops; } else await back();
          takeAlong(stopped ? 0 : PACK_CHANGED_MS); // a stop goes along at once
        }
        takeAlong(PACK_MS);
      } else if (there && shell) await tryLine();
    }
    const quiet = Date.now() - lively > QUIET_AFTER_MS; // where nothing happens, half as many looks: twice as many devices
    setTimeout(beat, document.visibilityState === "hidden" ? HIDDEN_MS : !Outbox.state.line ? WITHOUT_LINE_MS : quiet ? QUIET_MS : EVERY_MS);
  }

  // What only the server can do (a check-in, a note, a correction) is not sent into nothing: what was typed stays.
  document.addEventListener("submit", (event) => {
    const form = event.target;
    if (Outbox.state.line || Pocket.on || !form.closest("#floor") || form.matches("[data-keep]")) return;
    event.preventDefault();
    event.stopPropagation();
    Pocket.say(form, "No line: this needs one. What you typed stays here.");
  }, true);

  // Without a line a link of the floor goes on in the pocket, whether a service worker is here or not.
  document.addEventListener("click", (event) => {
    const link = event.target.closest("#floor a[href*='/floor/?']");
    if (!link || Outbox.state.line || Pocket.on) return;
    event.preventDefault();
    Pocket.show(Object.fromEntries(new URL(link.href).searchParams));
  });
  window.addEventListener("online", () => tryLine());
  for (const what of ["pointerdown", "keydown"]) document.addEventListener(what, () => { lively = Date.now(); }, true);

  document.addEventListener("DOMContentLoaded", async () => {
    htmx.config.timeout = 8000;
    await Outbox.packed();
    if (shell) { Outbox.lineIs(false); await Pocket.show(Object.fromEntries(new URL(location.href).searchParams)); }
    else if (here()) { await Outbox.look(); if (Outbox.state.waiting.length) tryLine(); }
    beat();
  });
  return { tryLine, takeAlong };
})();
