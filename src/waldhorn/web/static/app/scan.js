// A tag under the camera: looked at a few times a second, and opened as soon as one can be read.
"use strict";

const LOOK_MS = 200;
const form = document.getElementById("scan");
const seen = document.getElementById("seen");
const button = document.getElementById("camera");
const drawn = document.createElement("canvas");

// Asked only where it can be given: a page that came over TLS, or on the machine itself.
const hasCamera = window.isSecureContext && navigator.mediaDevices?.getUserMedia;
button.hidden = !hasCamera;
document.getElementById("no-camera").hidden = Boolean(hasCamera);
button.addEventListener("click", start);

async function start() {
  const said = document.getElementById("scanned");
  try {
    seen.srcObject = await navigator.mediaDevices.getUserMedia({
      video: { facingMode: "environment" },
    });
  } catch (error) {
    said.textContent = `No camera: ${error.message}. Type the code instead.`;
    return;
  }
  seen.hidden = false;
  await seen.play();
  said.textContent = "Looking for a tag.";
  look();
}

function look() {
  const { videoWidth: width, videoHeight: height } = seen;
  if (!width) return setTimeout(look, LOOK_MS);
  ((drawn.width = width), (drawn.height = height));
  const context = drawn.getContext("2d", { willReadFrequently: true });
  context.drawImage(seen, 0, 0);
  const found = window.jsQR(context.getImageData(0, 0, width, height).data, width, height);
  if (!found?.data) return setTimeout(look, LOOK_MS);
  seen.srcObject.getTracks().forEach((track) => track.stop());
  form.elements.code.value = found.data;
  form.requestSubmit();
}
