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
document.getElementById("clip-take")?.addEventListener("click", () => {
  const canvas = document.createElement("canvas");
  canvas.width = player.videoWidth; canvas.height = player.videoHeight;
  if (!canvas.width) return clipSaid("No frame yet: choose a clip first.");
  canvas.getContext("2d").drawImage(player, 0, 0);
  canvas.toBlob((blob) => {
    const files = new DataTransfer();
    files.items.add(new File([blob], "frame.jpg", { type: "image/jpeg" }));
    document.getElementById("picture").files = files.files;
    clipSaid(`The frame at ${player.currentTime.toFixed(2)} s is the picture now.`);
  }, "image/jpeg", 0.92);
});
