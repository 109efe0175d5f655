import type { Schemas } from '../api/client'
import { signal } from './signal'

/** A change that was not taken, because someone else had changed the same meanwhile. */
export interface Clash {
  job: number
  change: Schemas['CaseChange']
  fields: string[]
  by: string
}

export const clash = signal<Clash | null>(null)

/** What stands at a path of names in a document; undefined for nothing. */
export function at(document: unknown, path: string): unknown {
  return path
    .split('.')
    .reduce<unknown>(
      (value, name) =>
        value !== null && typeof value === 'object' ? (value as Record<string, unknown>)[name] : undefined,
      document,
    )
}
