/** Cuts the microphone's sound into tenths of a second of 16-bit samples and numbers them. Runs on the audio thread. */
declare const sampleRate: number
declare class AudioWorkletProcessor {
  readonly port: MessagePort
}
declare function registerProcessor(name: string, made: new () => AudioWorkletProcessor): void

const SIZE = Math.round(sampleRate / 10)

class Tenths extends AudioWorkletProcessor {
  private part = new Int16Array(SIZE)
  private filled = 0
  private number = 0

  process(inputs: Float32Array[][]): boolean {
    for (const sample of inputs[0]?.[0] ?? []) {
      this.part[this.filled++] = Math.max(-1, Math.min(1, sample)) * 32_767
      if (this.filled < SIZE) continue
      this.port.postMessage({ number: this.number++, samples: this.part.buffer }, [this.part.buffer])
      this.part = new Int16Array(SIZE) // the one before went with the message
      this.filled = 0
    }
    return true
  }
}

registerProcessor('tenths', Tenths)
