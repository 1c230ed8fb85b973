// Hands the microphone's samples on in blocks of a quarter second; no processing here.
class Tap extends AudioWorkletProcessor {
    constructor() {
        super();
        this.block = new Float32Array(Math.round(sampleRate / 4));
        this.at = 0;
    }

    process(inputs) {
        const input = inputs[0] && inputs[0][0];
        if (!input) return true;
        for (let i = 0; i < input.length; i += 1) {
            this.block[this.at] = input[i];
            this.at += 1;
            if (this.at === this.block.length) {
                this.port.postMessage(this.block.slice());
                this.at = 0;
            }
        }
        return true;
    }
}
registerProcessor("tap", Tap);
