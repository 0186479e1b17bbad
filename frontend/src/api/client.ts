/** The one wrapper around fetch. Errors come back as `Problem`; a server that is away is a problem too. */
export class Problem extends Error {
  constructor(
    public code: string,
    message: string,
  ) {
    super(message)
  }
}

export const AWAY = 'server_away'

async function answer<T>(request: Promise<Response>): Promise<T> {
  let response: Response
  try {
    response = await request
  } catch {
    throw new Problem(AWAY, 'Jemmon’s server does not answer. It must run on this machine.')
  }
  const body = await response
    .json()
    .catch(() => ({ code: 'no_json', message: `The server answered ${response.status}.` }))
  if (!response.ok) throw new Problem(body.code, body.message)
  return body as T
}

export const get = <T>(path: string) => answer<T>(fetch(path))

export const post = <T>(path: string, body: unknown) =>
  answer<T>(
    fetch(path, { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(body) }),
  )

export const upload = <T>(path: string, file: File, type: 'text/csv' | 'application/json' = 'text/csv') =>
  answer<T>(fetch(path, { method: 'POST', headers: { 'Content-Type': type }, body: file }))
