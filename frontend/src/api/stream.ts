import type { Frame } from './types'

/** Listen to frames through the shared worker, or by this page's own stream where there is none. Returns a stop. */
export function listenToFrames(onFrame: (frame: Frame) => void, onAway: () => void): () => void {
  const take = (text: string) => onFrame(JSON.parse(text) as Frame)
  if (typeof SharedWorker === 'undefined') {
    const source = new EventSource('/api/stream')
    source.addEventListener('frame', (event) => take((event as MessageEvent<string>).data))
    source.onerror = onAway
    return () => source.close()
  }
  const worker = new SharedWorker(new URL('./stream.worker.ts', import.meta.url), { type: 'module', name: 'frames' })
  worker.port.onmessage = (event) => (event.data.frame ? take(event.data.frame) : onAway())
  worker.port.start()
  const bye = () => worker.port.postMessage('bye')
  addEventListener('pagehide', bye, { once: true })
  return () => {
    removeEventListener('pagehide', bye)
    bye()
    worker.port.close()
  }
}
