import type { EngineSound } from '@/api/schema'

interface Voice {
  firing: OscillatorNode
  blades: OscillatorNode
  half: OscillatorNode
  level: GainNode
  halfLevel: GainNode
  tone: BiquadFilterNode
}

const FOLLOWS_S = 0.08

/** The simulated engines as they sound: firing, blades, half turns that grow when it runs rough or on one side, and two engines
 * that beat against each other. The frequencies come from the server; nothing is judged by them. */
export function engineSound() {
  const context = new AudioContext()
  const voices: Voice[] = []

  function made(): Voice {
    const voice = {
      firing: new OscillatorNode(context, { type: 'sawtooth' }),
      blades: new OscillatorNode(context, { type: 'triangle' }),
      half: new OscillatorNode(context, { type: 'sine' }),
      level: new GainNode(context, { gain: 0 }),
      halfLevel: new GainNode(context, { gain: 0 }),
      tone: new BiquadFilterNode(context, { type: 'lowpass', frequency: 400, Q: 0.8 }),
    }
    voice.firing.connect(voice.tone)
    voice.blades.connect(voice.tone)
    voice.half.connect(voice.halfLevel).connect(voice.tone)
    voice.tone.connect(voice.level).connect(context.destination)
    for (const one of [voice.firing, voice.blades, voice.half]) one.start()
    return voice
  }

  const set = (parameter: AudioParam, value: number) => parameter.setTargetAtTime(value, context.currentTime, FOLLOWS_S)

  function follow(voice: Voice, one: EngineSound | undefined) {
    set(voice.level.gain, one ? 0.04 + 0.1 * one.load : 0)
    if (!one) return
    set(voice.firing.frequency, one.firing_hz)
    set(voice.blades.frequency, one.blade_hz)
    set(voice.half.frequency, one.half_hz)
    set(voice.halfLevel.gain, 0.15 + 1.5 * one.rough + (one.on_one_side ? 0.25 : 0))
    set(voice.tone.frequency, 200 + 900 * one.load)
  }

  return {
    /** Let the engines sound as they run now; one that does not turn is silent. */
    play(engines: readonly EngineSound[]) {
      while (voices.length < engines.length) voices.push(made())
      voices.forEach((voice, at) => follow(voice, engines[at]))
    },
    resume: () => void context.resume(),
    stop: () => void context.close(),
  }
}
