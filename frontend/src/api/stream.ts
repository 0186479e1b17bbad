import type { Frame } from './schema'

export interface Listener {
  /** A frame came. */
  onFrame: (frame: Frame) => void
  /** The server is there: a frame, or its beat between them. */
  onHeard: () => void
  /** The stream broke; it is asked for again by itself. */
  onAway: () => void
}

/** Listen to frames through the shared worker, or by this page's own stream where there is none. Returns a stop. */
export function listenToFrames({ onFrame, onHeard, onAway }: Listener): () => void {
  const take = newestOnly((text) => onFrame(JSON.parse(text) as Frame))
  if (typeof SharedWorker === 'undefined') {
    const source = new EventSource('/api/stream')
    source.addEventListener('frame', (event) => (onHeard(), take((event as MessageEvent<string>).data)))
    source.addEventListener('beat', onHeard)
    source.onerror = onAway
    return () => source.close()
  }
  const worker = new SharedWorker(new URL('./stream.worker.ts', import.meta.url), { type: 'module', name: 'frames' })
  worker.port.onmessage = ({ data }: MessageEvent<{ frame?: string; away?: true; last?: true }>) => {
    if (data.away) return onAway()
    if (!data.last) onHeard()
    if (data.frame) take(data.frame)
  }
  worker.port.start()
  const bye = () => worker.port.postMessage('bye')
  addEventListener('pagehide', bye, { once: true })
  return () => {
    removeEventListener('pagehide', bye)
    bye()
    worker.port.close()
  }
}

/** Hand over the newest text once per painted picture: what came in between is old, and is not even parsed. */
export function newestOnly(handOver: (text: string) => void): (text: string) => void {
  let waiting: string | null = null
  const flush = () => {
    if (waiting !== null) handOver(waiting)
    waiting = null
  }
  return (text) => {
    if (waiting === null) {
      if (document.hidden)
        setTimeout(flush, 250) // nothing is painted on a hidden page
      else requestAnimationFrame(flush)
    }
    waiting = text
  }
}
