// Runs on the browser's audio thread: hands the microphone's samples on, untouched, with the time they came.

const PIECE = 1024;

class Capture extends AudioWorkletProcessor {
  constructor() {
    super();
    this.piece = new Float32Array(PIECE);
    this.filled = 0;
  }

  process(inputs) {
    const channel = inputs[0]?.[0];
    // No input yet: the microphone has not begun.
    if (!channel) return true;
    for (let n = 0; n < channel.length; n++) {
      this.piece[this.filled++] = channel[n];
      if (this.filled === PIECE) {
        this.port.postMessage({ samples: this.piece, at: Date.now() }, [this.piece.buffer]);
        this.piece = new Float32Array(PIECE);
        this.filled = 0;
      }
    }
    return true;
  }
}

registerProcessor('capture', Capture);
