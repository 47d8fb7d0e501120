// One frame of a short clip becomes the picture of the form. The clip itself never leaves the browser.
"use strict";

const clip = document.getElementById("clip"), player = document.getElementById("clip-video"), at = document.getElementById("clip-at");
const clipSaid = (words) => { document.getElementById("clip-said").textContent = words; };

clip?.addEventListener("change", () => {
  const file = clip.files[0];
  document.getElementById("clip-player").hidden = !file;
  if (!file) return;
  URL.revokeObjectURL(player.src);
  player.src = URL.createObjectURL(file);
});
player?.addEventListener("loadedmetadata", () => { at.max = String(player.duration || 1); at.value = "0"; player.currentTime = 0.001; clipSaid(""); });
player?.addEventListener("error", () => { if (player.src) clipSaid("This browser cannot play the clip. Take a picture of the moment instead."); });
at?.addEventListener("input", () => { player.currentTime = Number(at.value); });

const seek = (to) => new Promise((ready) => { player.addEventListener("seeked", ready, { once: true }); player.currentTime = to; });

function frameNow(name) {
  const canvas = document.createElement("canvas");
  canvas.width = player.videoWidth; canvas.height = player.videoHeight;
  canvas.getContext("2d").drawImage(player, 0, 0);
  return new Promise((ready) => canvas.toBlob((blob) => ready(new File([blob], name, { type: "image/jpeg" })), "image/jpeg", 0.92));
}

document.getElementById("clip-take")?.addEventListener("click", async (event) => {
  if (!player.videoWidth) return clipSaid("No frame yet: choose a clip first.");
  const files = new DataTransfer(), count = Number(event.target.dataset.frames || 1), whole = player.duration;
  if (count === 1) files.items.add(await frameNow("frame.jpg"));
  else for (let n = 0; n < count; n++) { await seek(Number.isFinite(whole) ? whole * (n + 0.5) / count : n * 0.4); files.items.add(await frameNow(`frame-${n + 1}.jpg`)); }
  document.getElementById("picture").files = files.files;
  clipSaid(count === 1 ? `The frame at ${player.currentTime.toFixed(2)} s is the picture now.` : `${count} frames are the picture now.`);
});
