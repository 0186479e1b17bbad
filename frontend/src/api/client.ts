import createClient from 'openapi-fetch'
import type { paths, Problem as Told } from './schema'

/** What went wrong with a request, in words; a server that is away is a problem too. */
export class Problem extends Error {
  constructor(
    public code: string,
    message: string,
    public where: string | null = null,
    /** The answer's status; 0 where there was none. */
    public status = 0,
  ) {
    super(message)
  }

  /** Whether saying it again would change nothing: the server understood, and will not. */
  get isRefusal() {
    return this.status >= 400 && this.status < 500 && ![408, 425, 429].includes(this.status)
  }
}

export const AWAY = 'server_away'
const PATIENCE_MS = 10_000

/** The server, by the paths and bodies of its own description. A request that hangs is given up: the server is away. */
export const api = createClient<paths>({
  baseUrl: location.origin,
  fetch: (request) => fetch(request, { signal: AbortSignal.any([request.signal, AbortSignal.timeout(PATIENCE_MS)]) }),
})

/** What a request answers. Throws a `Problem`. */
export async function answer<T>(request: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let said: Awaited<typeof request>
  try {
    said = await request
  } catch (error) {
    if (error instanceof SyntaxError)
      throw new Problem('no_json', 'Jemmon’s server gave an answer that cannot be read.')
    throw new Problem(AWAY, 'Jemmon’s server does not answer. It must run on this machine.')
  }
  if (said.response.ok) return said.data as T
  const told = (typeof said.error === 'object' ? said.error : null) as Told | null
  throw new Problem(
    told?.code ?? 'no_json',
    told?.message ?? `The server answered ${said.response.status}.`,
    told?.where,
    said.response.status,
  )
}

/** How a file goes to the server: as it is, and for as long as it takes. */
export const asFile = {
  bodySerializer: (file: unknown) => file as BodyInit,
  fetch: (request: Request) => fetch(request),
}

/** A new id for something that arises here; also where the page came over a plain network. */
export function newId(): string {
  if (crypto.randomUUID) return crypto.randomUUID()
  return [...crypto.getRandomValues(new Uint8Array(16))].map((byte) => byte.toString(16).padStart(2, '0')).join('')
}
