// The last picture of the same stands faint over the camera, so that the next is taken from where it was.
"use strict";

(() => {
  const place = document.querySelector("[data-camera]"), form = place && place.closest("form");
  if (!form || !navigator.mediaDevices || !navigator.mediaDevices.getUserMedia) return;
  const [begin, view, acts, said] = ["[data-act=camera]", ".camera", ".acts", "[data-said]"].map((path) => place.querySelector(path));
  const video = view.querySelector("video"), ghost = view.querySelector("img"), last = JSON.parse(place.dataset.last);
  const { photo, shows, photo_code: code, tray } = form.elements;
  let stream = null;

  const wanted = () => last[`${shows.value}|${code.value.replaceAll(" ", "").toUpperCase()}|${tray.value}`] || "";
  function show() {
    begin.hidden = Boolean(stream) || !wanted();
    view.hidden = acts.hidden = !stream;
    if (wanted()) ghost.src = wanted();
    ghost.hidden = !wanted();
  }

  function off() {
    if (stream) stream.getTracks().forEach((track) => track.stop());
    stream = null;
    show();
  }

  async function on() {
    try {
      stream = await navigator.mediaDevices.getUserMedia({ video: { facingMode: "environment", width: { ideal: 2000 } } });
      video.srcObject = stream;
      await video.play();
      said.textContent = "";
    } catch { said.textContent = "The camera may not be used here. Choose a photo above instead."; off(); return; }
    show();
  }

  async function take() {
    const canvas = Object.assign(document.createElement("canvas"), { width: video.videoWidth, height: video.videoHeight });
    canvas.getContext("2d").drawImage(video, 0, 0);
    const blob = await new Promise((done) => canvas.toBlob(done, "image/jpeg", 0.9));
    if (!blob) { said.textContent = "The camera gave no picture yet. Take it once more."; return; }
    const taken = new DataTransfer();
    taken.items.add(new File([blob], "photo.jpg", { type: "image/jpeg" }));
    photo.files = taken.files;
    off();
    said.textContent = "Taken. Keep the photo, or take another.";
  }

  place.addEventListener("click", (event) => ({ camera: on, take, off })[event.target.dataset.act]?.());
  form.addEventListener("input", show);
  form.addEventListener("change", show);
  window.addEventListener("pagehide", off);
  show();
})();
