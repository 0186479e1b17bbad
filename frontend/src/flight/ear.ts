import { onBeforeUnmount, ref, shallowRef } from 'vue'
import { answer, api, asFile, Problem } from '@/api/client'
import workletUrl from './ear.worklet.ts?worker&url'

/** As the processor hands it over: a tenth of a second of 16-bit samples. */
interface Chunk {
  number: number
  samples: ArrayBuffer
}
/** What waits for a slow server at most: a second. What is older is dropped, and its numbers tell the ear of the gap. */
const MOST_WAITING = 10
const KEY = 'jemmon-microphone'
/** What a tablet does to speech, and what spoils an engine: asked to be off. */
const RAW = { echoCancellation: false, noiseSuppression: false, autoGainControl: false }
const FILTERS: Record<keyof typeof RAW, string> = {
  echoCancellation: 'echo cancellation',
  noiseSuppression: 'noise suppression',
  autoGainControl: 'automatic gain',
}

/** The microphone, opened by a tap: its sound goes to this machine's own server tenth by tenth, and is kept nowhere. */
export function useEar() {
  const isOn = ref(false)
  const problem = ref('')
  /** What the device does to the sound although it was asked not to. */
  const filters = ref('')
  const microphones = shallowRef<MediaDeviceInfo[]>([])
  const chosen = ref(localStorage.getItem(KEY) ?? '')
  let stream: MediaStream | undefined
  let context: AudioContext | undefined
  let waiting: Chunk[] = []
  let isSending = false

  async function start() {
    problem.value = ''
    if (!navigator.mediaDevices) {
      problem.value = 'A microphone is opened on this machine’s own address, 127.0.0.1, or over TLS only.'
      return
    }
    try {
      await listen()
    } catch (error) {
      problem.value =
        error instanceof DOMException && error.name === 'NotAllowedError'
          ? 'The browser does not allow the microphone here: allow it beside the address.'
          : 'No microphone could be opened.'
      await stop()
    }
  }

  async function listen() {
    await close()
    await forget() // another microphone counts from 0, and its engine's own sound is not known yet
    const deviceId = chosen.value ? { deviceId: { ideal: chosen.value } } : {}
    stream = await navigator.mediaDevices.getUserMedia({ audio: { ...RAW, channelCount: 1, ...deviceId } })
    const settings = stream.getAudioTracks()[0]!.getSettings() as Record<string, unknown>
    filters.value = Object.entries(FILTERS)
      .filter(([name]) => settings[name] === true)
      .map(([, says]) => says)
      .join(', ')
    microphones.value = (await navigator.mediaDevices.enumerateDevices()).filter((one) => one.kind === 'audioinput')
    context = new AudioContext()
    await context.audioWorklet.addModule(workletUrl)
    const node = new AudioWorkletNode(context, 'tenths')
    const rate = context.sampleRate
    waiting = []
    node.port.onmessage = ({ data }: MessageEvent<Chunk>) => {
      waiting = [...waiting, data].slice(-MOST_WAITING)
      void send(rate)
    }
    const silent = new GainNode(context, { gain: 0 }) // nothing is pulled that leads nowhere
    context.createMediaStreamSource(stream).connect(node).connect(silent).connect(context.destination)
    await context.resume()
    isOn.value = true
  }

  /** One letter at a time, with all that waits: two would overtake each other. */
  async function send(rate: number) {
    if (isSending || !waiting.length) return
    isSending = true
    const number = waiting[0]!.number
    const body = new Blob(waiting.map((chunk) => chunk.samples))
    waiting = []
    try {
      await answer(
        api.POST('/api/live/ear', {
          params: { query: { rate_hz: rate, number } },
          body: body as never,
          headers: { 'Content-Type': 'application/octet-stream' },
          ...asFile,
        }),
      )
    } catch (error) {
      if (!(error instanceof Problem) || !error.isRefusal) return // the server is away: the next chunk tries again
      problem.value = error.message
      await stop()
    } finally {
      isSending = false
      if (waiting.length && isOn.value) void send(rate)
    }
  }

  async function close() {
    stream?.getTracks().forEach((track) => track.stop())
    await context?.close()
    stream = context = undefined
  }

  async function stop() {
    isOn.value = false
    await close()
    await forget()
  }

  const forget = () => answer(api.DELETE('/api/live/ear')).catch(() => null)

  async function choose(id: string) {
    chosen.value = id
    localStorage.setItem(KEY, id)
    await start()
  }

  onBeforeUnmount(() => void (isOn.value && stop()))
  return { isOn, problem, filters, microphones, chosen, start, stop, choose }
}
