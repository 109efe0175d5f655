/** The words of the trade, as the server says them: loaded once before anything is drawn, and kept for a bench without a server. */
import type { Schemas } from '../api/client'
import { keep, kept } from './browserStore'

export type Vocabulary = Schemas['Vocabulary']

interface Saved {
  version: string
  words: Vocabulary
}

const KEY = 'vocabulary'
/** A first visit waits so long for them; without them words stand as the format writes them. */
const PATIENCE_MS = 4000
const NONE: Vocabulary = {
  words: {}, fields: {}, keys: {}, measures: {}, units: {}, results: {}, parts: {}, components: {},
  styles: [], code_statuses: [], symptoms: [], history: [], checks: [], lights: [], element_c: 0,
} // prettier-ignore
let known = NONE

export const vocabulary = () => known

/** A word of the format as it is said. */
export const say = (word: string): string => known.words[word] ?? word

/** A judgement's mark and word. */
export const judgement = (result: string) =>
  known.results[result as keyof Vocabulary['results']] ?? { mark: '', word: result, sentence: result }

/** A measurement's place on the dial. */
export const dial = (measure: string) =>
  known.measures[measure as keyof Vocabulary['measures']] ?? { label: measure, letter: '' }

export function learn(words: Vocabulary): void {
  known = words
}

/** Those kept by a page of the same version at once; else the server is asked. */
export async function loadVocabulary(): Promise<void> {
  const saved = kept<Saved>(KEY)
  if (saved) learn(saved.words)
  if (saved?.version === __API_VERSION__) return
  try {
    const response = await fetch('/api/vocabulary', { signal: AbortSignal.timeout(PATIENCE_MS) })
    if (!response.ok) return
    learn((await response.json()) as Vocabulary)
    keep(KEY, { version: __API_VERSION__, words: known } satisfies Saved)
  } catch {
    // no server: what was kept serves
  }
}
