// What a motor sounds like, as bare samples of one channel: nothing taken out of it, its gain left alone.
"use strict";

const RECORDED_S = 5;
const AS_HEARD = {
  channelCount: 1,
  echoCancellation: false,
  noiseSuppression: false,
  autoGainControl: false,
};

const recorder = () => ({
  // Asked only where it can be given: a page that came over TLS, or on the machine itself.
  init() {
    const may = window.isSecureContext && navigator.mediaDevices?.getUserMedia;
    this.$refs.record.hidden = !may;
    this.$refs.cannot.hidden = Boolean(may);
  },

  async record() {
    const { record, said } = this.$refs;
    record.disabled = true;
    record.closest("details").open = true;
    try {
      this.put(...(await this.listen()));
      this.$root.requestSubmit();
    } catch (error) {
      said.textContent = `No microphone: ${error.message}. A file can be kept instead.`;
    }
    record.disabled = false;
  },

  async listen() {
    const stream = await navigator.mediaDevices.getUserMedia({
      audio: AS_HEARD,
    });
    const context = new AudioContext();
    await context.audioWorklet.addModule("/static/app/record-worklet.js");
    const tap = new AudioWorkletNode(context, "tap", { numberOfOutputs: 0 });
    const heard = [];
    tap.port.onmessage = ({ data }) => heard.push(data);
    context.createMediaStreamSource(stream).connect(tap);
    for (let left = RECORDED_S; left > 0; left--) {
      this.$refs.left.textContent = `${left} s left`;
      await new Promise((done) => setTimeout(done, 1000));
    }
    stream.getTracks().forEach((track) => track.stop());
    await context.close();
    return [heard, context.sampleRate];
  },

  // A telephone's own recorder writes what only a browser reads.
  async convert() {
    const [file] = this.$refs.file.files;
    this.$refs.rate.value = "";
    if (!file || /wav|flac/.test(file.type)) return;
    try {
      const reader = new OfflineAudioContext(1, 1, 48000);
      const heard = await reader.decodeAudioData(await file.arrayBuffer());
      this.put([heard.getChannelData(0)], heard.sampleRate);
    } catch {
      this.$refs.said.textContent = "This file cannot be read here: WAV or FLAC.";
    }
  },

  put(samples, rate) {
    const files = new DataTransfer();
    files.items.add(new File(samples, "recorded.f32"));
    this.$refs.file.files = files.files;
    this.$refs.rate.value = rate;
  },
});

document.addEventListener("alpine:init", () => window.Alpine.data("recorder", recorder));
