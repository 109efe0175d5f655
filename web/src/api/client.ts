import createClient from 'openapi-fetch'
import { attended } from '../people/attended'
import { tell } from '../shared/notice'
import { who } from '../people/who'
import type { components, paths } from './schema.gen'

export type Schemas = components['schemas']
/**
 * behind: the newest readings are judged, and what follows from them is still being worked out, or could not be; notTaken: one
 * that waited was refused in the end.
 */
export type JobView = Schemas['JobView'] & { behind?: 'working' | 'failed'; notTaken?: string }
export type Taken = Schemas['TakenReading']
export type JobSummary = Schemas['JobSummary']
export type Decoded = Schemas['Decoded']
export type Verdict = Schemas['Answer']
export type Judged = Schemas['Judged']
export type Next = Schemas['Next']
export type Probe = Next['reading']
export type Reading = Schemas['Case']['readings'][number]
export type Drawing = Schemas['Drawing']
export type Described = Schemas['Described']
export type Problem = Omit<Schemas['Problem'], 'by'> & { by?: string }

export const client = createClient<paths>({ baseUrl: '/' })

/** Every write carries the page's token; who is nobody yet is asked. */
client.use({
  onRequest({ request }) {
    const token = /(?:^|; )csrftoken=([^;]+)/.exec(document.cookie)?.[1]
    if (token && request.method !== 'GET') request.headers.set('X-CSRFToken', token)
    // the server takes nothing that a form of another page could send: one without a body says what it is, too
    if (request.method !== 'GET' && !request.headers.has('Content-Type'))
      request.headers.set('Content-Type', 'application/json')
    if (attended.take(Date.now())) request.headers.set('X-Attended', '1')
    return request
  },
  onResponse({ response }) {
    if (response.status === 401) who.ask()
    const version = response.headers.get('X-Api-Version')
    if (version && version !== __API_VERSION__)
      tell('A new version is here. Load this page anew: what waits to be sent is safe.')
    return undefined
  },
})

/** A request that brought no answer to use. problem: what was wrong, field by field; status: the answer's, 0 where none came. */
export class Refused extends Error {
  constructor(
    readonly problem: Problem,
    readonly status = 0,
  ) {
    super(problem.message)
  }
}

const NO_ANSWER = {
  asking: 'The server does not answer. Is it still running?',
  writing: 'No answer came. It may have been saved before the connection broke: try again, nothing is noted twice.',
}

/**
 * The answer's data as the schema's own type (openapi-fetch loses tuples), or a Refused error with what the server said.
 * doing: whether the request changes anything; what became of a change that was not answered is not known here.
 */
export async function answered<T>(
  request: Promise<{ data?: unknown; error?: unknown; response: Response }>,
  doing: 'asking' | 'writing' = 'asking',
): Promise<T> {
  const { data, error, response } = await request.catch(() => {
    throw new Refused({ message: NO_ANSWER[doing], findings: [] })
  })
  if (data !== undefined || response.status === 204) return data as T
  const problem = error as Partial<Problem> | undefined
  const failed =
    doing === 'writing' && response.status >= 500
      ? ' It may or may not have been saved: try again, nothing is noted twice.'
      : ''
  throw new Refused(
    {
      message: (problem?.message ?? `The server answered ${response.status}.`) + failed,
      findings: problem?.findings ?? [],
    },
    response.status,
  )
}

/** Whether the server took the request in and said no, so that nothing is left under way. */
export function saidNo(error: unknown): boolean {
  return error instanceof Refused && error.status >= 400 && error.status < 500
}
