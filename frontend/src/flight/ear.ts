import { onBeforeUnmount, ref, shallowRef } from 'vue'
import { answer, api, asFile, Problem } from '@/api/client'
import workletUrl from './ear.worklet.ts?worker&url'

/** As the processor hands it over: a tenth of a second of 16-bit samples. */
interface Chunk {
  number: number
  samples: ArrayBuffer
}
const MOST_ON_THE_WAY = 3
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
  let onTheWay = 0

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
    node.port.onmessage = ({ data }: MessageEvent<Chunk>) => void send(data, rate)
    const silent = new GainNode(context, { gain: 0 }) // nothing is pulled that leads nowhere
    context.createMediaStreamSource(stream).connect(node).connect(silent).connect(context.destination)
    await context.resume()
    isOn.value = true
  }

  async function send({ number, samples }: Chunk, rate: number) {
    if (onTheWay >= MOST_ON_THE_WAY) return // a chunk that is not sent leaves a gap, which the ear knows by its number
    onTheWay += 1
    try {
      await answer(
        api.POST('/api/live/ear', {
          params: { query: { rate_hz: rate, number } },
          body: samples as never,
          headers: { 'Content-Type': 'application/octet-stream' },
          ...asFile,
        }),
      )
    } catch (error) {
      if (!(error instanceof Problem) || !error.isRefusal) return // the server is away: the next chunk tries again
      problem.value = error.message
      await stop()
    } finally {
      onTheWay -= 1
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
    await answer(api.DELETE('/api/live/ear')).catch(() => null)
  }

  async function choose(id: string) {
    chosen.value = id
    localStorage.setItem(KEY, id)
    await start()
  }

  onBeforeUnmount(() => void (isOn.value && stop()))
  return { isOn, problem, filters, microphones, chosen, start, stop, choose }
}
