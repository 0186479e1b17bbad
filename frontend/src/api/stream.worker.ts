/** One event stream for all tabs of this browser, which allows six connections to a host. */
const scope = self as unknown as { onconnect: (event: MessageEvent) => void }
const ports = new Set<MessagePort>()
let newest: string | null = null
let source: EventSource | null = null

function listen() {
  source = new EventSource('/api/stream')
  source.addEventListener('frame', (event) => {
    newest = (event as MessageEvent<string>).data
    for (const port of ports) port.postMessage({ frame: newest })
  })
  source.onerror = () => ports.forEach((port) => port.postMessage({ away: true }))
}

scope.onconnect = (event) => {
  const port = event.ports[0]!
  ports.add(port)
  port.onmessage = (message) => {
    if (message.data === 'bye') ports.delete(port)
  }
  if (newest) port.postMessage({ frame: newest })
  if (!source) listen()
}
