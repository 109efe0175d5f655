/** Which of the draft's state the measurement at hand has. The rules come with the job: what does not apply is neither shown nor stored. */
import type { JobView } from '../api/client'
import { KINDS } from './measures'
import type { Draft } from './reading'
import { vocabulary } from '../shared/vocabulary'

export type Rules = JobView['choices']['state']
export type StateField = Rules[number]['field'] | 'fed_v'

/** The state the reading would be stored with, and so all that has to stand beside the meter. */
export function applying(draft: Draft, rules: Rules): Set<StateField> {
  const found = new Set<StateField>(rules.filter((rule) => matches(rule, draft)).map((rule) => rule.field))
  if (found.has('with') && draft.with.includes('signal-fed')) found.add('fed_v')
  return found
}

function matches(rule: Rules[number], draft: Draft): boolean {
  const where = rule.points.length === 0 || (rule.points.includes(draft.red) && rule.points.includes(draft.black))
  return where && rule.measures.includes(draft.measure) && rule.keys.includes(draft.key)
}

/** What stands where nothing is noted. The key stays: every instrument but eyes and hands has it. */
const BLANK = {
  connector: 'mated', module_connector: 'mated', battery: 'connected', sensor_c: '', codes_cleared: false, with: [], at_s: '',
  jumper: [], of: '', fed_v: '', rpm: '', coolant_c: '', others: '',
} satisfies Record<Exclude<StateField, 'key'>, unknown> // prettier-ignore

/** The draft with nothing in it that does not apply any more; an element newly laid under the ohmmeter is taken as cold. */
export function settled(before: Draft, draft: Draft, rules: Rules): Draft {
  const had = applying(before, rules)
  const has = applying(draft, rules)
  const gone = (Object.keys(BLANK) as (keyof typeof BLANK)[]).filter((field) => !has.has(field))
  const blank = Object.fromEntries(gone.map((field) => [field, BLANK[field]]))
  const newly = has.has('sensor_c') && !had.has('sensor_c') && draft.sensor_c === '' && KINDS[draft.measure].asleep
  return { ...draft, ...blank, ...(newly ? { sensor_c: String(vocabulary().element_c) } : {}) }
}
