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
