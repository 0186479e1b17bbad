/** One event stream for all tabs of this browser, which allows six connections to a host. */
const scope = self as unknown as { onconnect: (event: MessageEvent) => void }
const ports = new Set<MessagePort>()
let newest: string | null = null
let source: EventSource | null = null

const tell = (message: object) => ports.forEach((port) => port.postMessage(message))

function listen() {
  source = new EventSource('/api/stream')
  source.addEventListener('frame', (event) => {
    newest = (event as MessageEvent<string>).data
    tell({ frame: newest })
  })
  source.addEventListener('beat', () => tell({ beat: true }))
  source.onerror = () => {
    tell({ away: true })
    if (source?.readyState === EventSource.CLOSED) {
      source = null // refused, not broken: ask again by ourselves
      setTimeout(() => ports.size && !source && listen(), 2000)
    }
  }
}

scope.onconnect = (event) => {
  const port = event.ports[0]!
  ports.add(port)
  port.onmessage = (message) => {
    if (message.data === 'bye') ports.delete(port)
  }
  if (newest) port.postMessage({ frame: newest, last: true }) // what came last, however long ago that was
  if (!source) listen()
}
