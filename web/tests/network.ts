/** The network of a test: whatever is asked is answered by what the test says, and otherwise not at all. */

export interface Asked {
  method: string
  path: string
  body: unknown
  headers: Headers
}

type Answer = (asked: Asked) => { status?: number; body?: unknown } | undefined

let answer: Answer = () => undefined
let all: Asked[] = []

/** In place of the browser's own; a path alone is one of this bench. */
export async function ask(input: RequestInfo | URL, init?: RequestInit): Promise<Response> {
  const request = input instanceof Request ? input : new Request(new URL(String(input), 'http://bench'), init)
  const text = await request.clone().text()
  const asked: Asked = {
    method: request.method,
    path: new URL(request.url).pathname,
    body: text ? JSON.parse(text) : undefined,
    headers: request.headers,
  }
  all.push(asked)
  const said = answer(asked)
  if (!said) throw new TypeError('no server')
  const headers = { 'Content-Type': 'application/json' }
  return new Response(JSON.stringify(said.body ?? {}), { status: said.status ?? 200, headers })
}

/** A server that answers so; every question to it is kept. */
export function server(says: Answer): Asked[] {
  answer = says
  all = []
  return all
}

/** No server any more. */
export const noServer = () => void server(() => undefined)
