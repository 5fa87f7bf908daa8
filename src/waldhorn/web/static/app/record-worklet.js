// Hands on what the microphone gives, as it comes.
class Tap extends AudioWorkletProcessor {
  process([[samples]]) {
    if (samples) this.port.postMessage(samples.slice());
    return true;
  }
}
registerProcessor("tap", Tap);
