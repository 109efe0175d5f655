/** What `tests/web/fixtures.py` has written. */
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { inject } from 'vitest'
import type { JobView, Probe } from '../src/api/client'
import type { Action, Choices, Measure } from '../src/bench/draft'
import type { Vocabulary } from '../src/shared/vocabulary'

interface Given {
  vocabulary: Vocabulary
  choices: Record<string, Choices>
  points: Record<string, string[]>
  proposals: { id: string; family: string; row: number; switch: string; probe: Probe }[]
  touches: Action[][]
  words: { scan: Record<string, string[]>; act: Record<string, string[]> }
  views: Record<'new' | 'testing' | 'decided' | 'proven', JobView>
}

export const folder = inject('folder')
export const given = JSON.parse(readFileSync(join(folder, 'given.json'), 'utf8')) as Given

/** A view that a test may change. */
export const viewOf = (name: keyof Given['views']): JobView => structuredClone(given.views[name])

/** A family's rules. */
export function choicesOf(family: string): Choices {
  const found = given.choices[family]
  if (!found) throw new Error(`no family ${family}`)
  return found
}

/** Four wires, a switching cell: what most tests are about. */
export const CHOICES = choicesOf('switching-4w')
export const MEASURES: Measure[] = [
  'voltage',
  'resistance',
  'lamp',
  'current',
  'scope',
  'scan',
  'trace',
  'inspect',
  'act',
]
