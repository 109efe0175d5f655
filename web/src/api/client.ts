import createClient from 'openapi-fetch'
import type { components, paths } from './schema.gen'

export type Schemas = components['schemas']
/** behind: the newest readings are judged, and what follows from them is still being worked out, or could not be. */
export type JobView = Schemas['JobView'] & { behind?: 'working' | 'failed' }
export type Taken = Schemas['Taken']
export type JobSummary = Schemas['JobSummary']
export type Decoded = Schemas['Decoded']
export type Verdict = Schemas['Verdict']
export type Judged = Schemas['Judged']
export type Next = Schemas['Next']
export type Probe = Next['reading']
export type Reading = Schemas['Case']['readings'][number]
export type Drawing = Schemas['Drawing']
export type Described = Schemas['Described']
export type Problem = Schemas['Problem']

export const client = createClient<paths>({ baseUrl: '/' })

/** A request the server refused; ``problem`` says what was wrong, field by field. */
export class Refused extends Error {
  constructor(readonly problem: Problem) {
    super(problem.message)
  }
}

/** The answer's data as the schema's own type (openapi-fetch loses tuples), or a Refused error with what the server said. */
export async function answered<T>(request: Promise<{ data?: unknown; error?: unknown; response: Response }>): Promise<T> {
  const { data, error, response } = await request.catch(() => {
    throw new Refused({ message: 'The server does not answer. Is it still running? Nothing was saved.', findings: [] })
  })
  if (data !== undefined) return data as T
  const problem = error as Partial<Problem> | undefined
  throw new Refused({
    message: problem?.message ?? `The server answered ${response.status}. Nothing was saved.`,
    findings: problem?.findings ?? [],
  })
}
