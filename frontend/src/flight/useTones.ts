import { useDisplay } from '@/parts/display'

const KINDS = ['pointerdown', 'keydown'] as const
let context: AudioContext | undefined

/** Unlock sound on the first tap or key of a page, where it is switched on: browsers keep it silent until then. */
export function useUnlockedSound() {
  const { unlock } = useTones()
  const display = useDisplay()
  const first = () => {
    if (display.sound) unlock()
    for (const kind of KINDS) removeEventListener(kind, first)
  }
  for (const kind of KINDS) addEventListener(kind, first)
}

/** Short tones: time up, limit passed, drop measured, peak found. Silent until the first tap has unlocked sound. */
export function useTones() {
  const display = useDisplay()

  function play(hertz: number, seconds = 0.15) {
    if (!display.sound || !context) return
    const oscillator = context.createOscillator()
    const gain = context.createGain()
    oscillator.frequency.value = hertz
    gain.gain.setValueAtTime(0.2, context.currentTime)
    gain.gain.exponentialRampToValueAtTime(0.001, context.currentTime + seconds)
    oscillator.connect(gain).connect(context.destination)
    oscillator.start()
    oscillator.stop(context.currentTime + seconds)
  }

  function unlock() {
    context ??= new AudioContext()
    void context.resume()
    play(880, 0.2)
  }

  return { unlock, done: () => play(880), alarm: () => play(440, 0.6), peak: () => play(1320, 0.1) }
}
