/** The reading being taken: a plain reducer over named actions, so that the meter, the drawing and the keys agree. */
import type { Probe, Reading } from '../api/client'
import { KINDS } from './measures'
import { type Choices, type Draft, EMPTY, type Measure, type Stood } from './reading'
import { applying, type Rules, settled, type StateField } from './state'
import { typedNumber } from '../shared/typed'

export { type Choices, type Draft, EMPTY, type Measure, type Stood }

/** What holds for one reading: it falls back once that is taken, or where a reading of one's own is begun. */
const FOR_ONE = {
  with: [] as string[],
  codes_cleared: false,
  at_s: '',
  coolant_c: '',
  jumper: [] as [],
  of: '',
  fed_v: '',
}
const FALLS_BACK: Record<keyof typeof FOR_ONE, string> = {
  with: 'what it was taken with', codes_cleared: 'codes cleared', at_s: 'seconds', coolant_c: 'the coolant’s temperature', jumper: 'the bridge', of: 'the other part', fed_v: 'volts fed',
} // prettier-ignore
/** What a reading is of: another choice begins one of one's own. */
const OF_WHAT: (keyof Draft)[] = ['pid', 'signal', 'target', 'action', 'in_place_of', 'load']

export type Action =
  | { type: 'propose'; probe: Probe | null }
  /** The reading went into the ledger. */
  | { type: 'taken' }
  /** What follows from it is worked out: laid out, unless the next reading was begun meanwhile. */
  | { type: 'follow'; probe: Probe | null }
  /** Something else than what was proposed is measured. */
  | { type: 'own' }
  | { type: 'type'; value: string }
  | { type: 'figure'; of: 'scope' | 'trace'; name: string; value: string }
  | { type: 'touch'; point: string }
  | { type: 'measure'; measure: Measure }
  | { type: 'set'; change: Partial<Draft> }
  /** What was seen of the reading at hand; the reading itself stays as it was proposed. */
  | { type: 'note'; change: Partial<Draft> }

/** The next draft. What the new one has no place for is gone from it, so that nothing carries over unseen. */
export function reduce(draft: Draft, action: Action, choices: Choices): Draft {
  const laid = settled(draft, { ...stepped({ ...draft, told: '' }, action, choices) }, choices.state)
  const seen = mayMove(laid, choices.live) ? laid : { ...laid, ...UNSEEN }
  const next = byHand(seen, action) ? { ...seen, instrument: '' as const } : seen
  return next.watts === EMPTY.watts ? { ...next, watts: choices.usual_watts } : next
}

/** Whether the value is a person's own, or there is none: then no instrument has shown it. */
function byHand(draft: Draft, action: Action): boolean {
  const shown = [draft.value, ...Object.values(draft.scope), ...Object.values(draft.trace)]
  return action.type === 'type' || action.type === 'figure' || shown.every((text) => text === '')
}

/** Nothing said of how it moved, or of another sensor beside it. */
const UNSEEN = { moves: '', beside: '', beside_value: '', beside_moves: '' } as const

/** Whether what is read may be a span, or be said to stand still, drift or switch. */
export function mayMove(draft: Draft, live: Choices['live']): boolean {
  return KINDS[draft.measure].mayMove?.(draft, live) ?? false
}

function stepped(draft: Draft, action: Action, choices: Choices): Draft {
  switch (action.type) {
    case 'propose':
      return action.probe
        ? { ...fromProbe(action.probe), laid: JSON.stringify(action.probe), stood: draft.stood }
        : { ...EMPTY, ...draft.stood, stood: draft.stood, own: true }
    case 'taken':
      return taken(draft, choices)
    case 'follow':
      return begun(draft) ? draft : stepped(draft, { type: 'propose', probe: action.probe }, choices)
    case 'own':
      return { ...begin(draft), lead: 'red' }
    case 'type':
      return { ...draft, value: action.value }
    case 'figure':
      return { ...draft, [action.of]: { ...draft[action.of], [action.name]: action.value } }
    case 'touch':
      return touched(draft, action.point, choices)
    case 'measure':
      return turned(draft, action.measure, choices)
    case 'set':
      return changed(draft, action.change, choices)
    case 'note':
      return { ...draft, ...action.change }
  }
}

/** A reading was taken. On a bench of one's own all stays but what holds for one reading; else the next proposal may follow. */
function taken(draft: Draft, choices: Choices): Draft {
  const stood = standing(draft, choices)
  const next: Draft = {
    ...draft,
    value: '',
    scope: EMPTY.scope,
    trace: EMPTY.trace,
    lead: 'red',
    ...UNSEEN,
    note: '',
    stood,
  }
  if (!draft.own) return next
  const fallen = (Object.keys(FOR_ONE) as (keyof typeof FOR_ONE)[]).filter(
    (name) => String(draft[name]) !== String(FOR_ONE[name]),
  )
  const told = fallen.length
    ? `Held for one reading, and off again: ${fallen.map((name) => FALLS_BACK[name]).join(', ')}.`
    : ''
  return { ...next, ...FOR_ONE, told, laid: '' }
}

/** How the vehicle stands by a reading: what it was not said with stays. */
function standing(draft: Draft, choices: Choices): Stood {
  const has = applying(draft, choices.state)
  const { key, connector, module_connector, battery, rpm } = draft
  const said = { key, connector, module_connector, battery, rpm }
  return { ...draft.stood, ...Object.fromEntries(Object.entries(said).filter(([name]) => has.has(name as StateField))) }
}

/** The same by a reading that is in the ledger already. */
export function stoodBy(reading: Reading): Partial<Stood> {
  const said = reading as Partial<Record<keyof Stood, unknown>>
  const names: (keyof Stood)[] = ['key', 'connector', 'module_connector', 'battery']
  const known = names
    .filter((name) => said[name] !== null && said[name] !== undefined)
    .map((name) => [name, said[name]])
  return {
    ...Object.fromEntries(known),
    ...(typeof said.rpm === 'number' ? { rpm: String(said.rpm) } : {}),
  } as Partial<Stood>
}

/**
 * A draft of one's own, begun on a proposal: nothing of the proposal's state that nobody set. What the proposal would have had pulled
 * apart or switched off is as it last stood.
 */
function begin(draft: Draft): Draft {
  if (draft.own) return draft
  const { stood } = draft
  const usual = {
    connector: draft.connector === 'mated' ? draft.connector : stood.connector,
    module_connector: draft.module_connector === 'mated' ? draft.module_connector : stood.module_connector,
    battery: draft.battery === 'connected' ? draft.battery : stood.battery,
    key: draft.key === 'off' || draft.key === 'cranking' ? stood.key : draft.key,
    rpm: stood.rpm,
  }
  return { ...draft, ...FOR_ONE, ...usual, own: true }
}

function changed(draft: Draft, change: Partial<Draft>, choices: Choices): Draft {
  const another = OF_WHAT.some((name) => name in change && change[name] !== draft[name])
  const next: Draft = { ...(another ? begin(draft) : draft), ...change, own: true }
  if (change.in_place_of !== 'heater') return next
  const [red, black] = choices.in_place
  return { ...next, red, black, connector: 'unplugged' }
}

/** Whether anything of the next reading was touched or typed yet. */
export function begun(draft: Draft): boolean {
  return (
    draft.own ||
    [
      draft.value,
      draft.moves,
      draft.beside_value,
      draft.note,
      ...Object.values(draft.scope),
      ...Object.values(draft.trace),
    ].some((text) => text !== '')
  )
}

/** A draft laid out as the proposed reading. */
function fromProbe(probe: Probe): Draft {
  const own = Object.fromEntries(Object.entries(probe).filter(([name, value]) => name in EMPTY && value !== null))
  const text = (value: string | number | null | undefined) => String(value ?? '')
  const conditions = (Array.isArray(probe.with) ? probe.with : [probe.with ?? 'none']).filter((name) => name !== 'none')
  const place = KINDS[probe.measure].from?.(own) ?? {}
  const typed = {
    sensor_c: text(probe.sensor_c),
    with: conditions,
    at_s: text(probe.at_s),
    coolant_c: text(probe.coolant_c),
    rpm: text(probe.rpm),
    value: '',
    own: false,
    lead: 'red',
  }
  return { ...EMPTY, connector: 'mated', ...own, ...place, ...typed } as Draft
}

/** The dial turned: what the last instrument was set to does not stay, the vehicle's own state does where it is shown. */
function turned(draft: Draft, measure: Measure, choices: Choices): Draft {
  if (measure === draft.measure) return { ...draft, own: true }
  const own = {
    load: null,
    watts: EMPTY.watts,
    in_place_of: null,
    kind: null,
    place: '',
    jumper: [] as [],
    value: '',
    scope: EMPTY.scope,
    trace: EMPTY.trace,
  }
  const pid = choices.scans.some((item) => item.pid === draft.pid) ? draft.pid : (choices.scans[0]?.pid ?? draft.pid)
  const signal = choices.recordings.some((item) => item.signal === draft.signal)
    ? draft.signal
    : (choices.recordings[0]?.signal ?? draft.signal)
  const start = begin(draft)
  return { ...start, ...own, measure, pid, signal, own: true, ...usualState(start, measure, choices) }
}

/** Touching a point moves the leads in turn: red, then black. A lead that lies there already makes room, or the meter says why not. */
function touched(was: Draft, point: string, choices: Choices): Draft {
  const draft = begin(was)
  if (marksOne(draft)) return { ...draft, at: point, own: true }
  const start = needsPoints(draft.measure) ? draft : { ...draft, measure: 'voltage' as const }
  const here = start.lead === 'red' ? start.red : start.black
  const other = start.lead === 'red' ? start.black : start.red
  if (point === other && start.lead === 'black') {
    return { ...start, own: true, told: 'The red lead lies there already: touch another point for the black one.' }
  }
  const makesRoom = point === other ? here : other
  const moved =
    start.lead === 'red'
      ? { red: point, black: makesRoom, lead: 'black' as const }
      : { red: makesRoom, black: point, lead: 'red' as const }
  const next: Draft = { ...start, ...moved, in_place_of: null, own: true, value: '' }
  return { ...next, ...plugsFor(next, choices) }
}

/** Whether a touch marks one place: the clamp's, or where something was moved. */
export function marksOne(draft: Draft): boolean {
  return KINDS[draft.measure].marksOne?.(draft) ?? false
}

/** Points that can only be reached apart set the plugs apart. */
function plugsFor(draft: Draft, choices: Choices): Partial<Draft> {
  const points = [draft.red, draft.black]
  const apart: Partial<Draft> = {}
  if (points.some((point) => choices.apart.connector.includes(point))) apart.connector = 'unplugged'
  if (points.some((point) => choices.apart.module_connector.includes(point))) apart.module_connector = 'unplugged'
  return apart
}

/** What the measurement begins with; one that has no state of its own goes on in the vehicle's, awake after an ohmmeter. */
function usualState(draft: Draft, measure: Measure, choices: Choices): Partial<Draft> {
  const start = choices.start.find((item) => item.measure === measure)
  const at = KINDS[measure].clamps ? draft.at || draft.red : ''
  if (start)
    return { at, ...(start.key ? { key: start.key } : {}), ...(start.connector ? { connector: start.connector } : {}) }
  if (!needsPoints(measure)) return { at }
  return { at, ...(KINDS[draft.measure].asleep ? { key: 'running' as const } : {}), ...plugsFor(draft, choices) }
}

export function needsPoints(measure: Measure): boolean {
  return KINDS[measure].twoPoints ?? false
}

/** The reading to send. Only what the draft's instrument has, and what stands beside the meter, is said. */
export function toReading(draft: Draft, rules: Rules): Reading {
  const points = needsPoints(draft.measure) ? { red: draft.red, black: draft.black } : {}
  const own = KINDS[draft.measure].own?.(draft) ?? {}
  const said = {
    ...(draft.moves ? { moves: draft.moves } : {}),
    ...(draft.instrument ? { instrument: draft.instrument } : {}),
    ...(draft.note.trim() ? { note: draft.note.trim() } : {}),
  }
  return {
    measure: draft.measure,
    ...points,
    ...own,
    ...stateOf(draft, rules),
    ...said,
    value: KINDS[draft.measure].value?.(draft) ?? draft.value.trim(),
  } as Reading
}

/** The same taken at the other sensor at the same time; null where none was read. */
export function besideReading(draft: Draft, rules: Rules): Reading | null {
  if (!draft.beside || !draft.beside_value.trim()) return null
  return toReading(
    { ...draft, of: draft.beside, value: draft.beside_value, moves: draft.beside_moves, note: '' },
    rules,
  )
}

function stateOf(draft: Draft, rules: Rules): Record<string, unknown> {
  const has = applying(draft, rules)
  const said: Partial<Record<StateField, unknown>> = {
    key: draft.key,
    // a scan value is read plugged in unless said otherwise
    connector: draft.connector === 'mated' && KINDS[draft.measure].onTool ? null : draft.connector,
    module_connector: draft.module_connector === 'unplugged' ? 'unplugged' : null,
    battery: draft.battery === 'disconnected' ? 'disconnected' : null,
    sensor_c: draft.sensor_c === 'hot' ? 'hot' : typedNumber(draft.sensor_c),
    codes_cleared: draft.codes_cleared || null,
    with: draft.with.length > 1 ? draft.with : (draft.with[0] ?? null),
    fed_v: typedNumber(draft.fed_v),
    at_s: typedNumber(draft.at_s),
    coolant_c: typedNumber(draft.coolant_c),
    rpm: typedNumber(draft.rpm),
    jumper: draft.jumper.length === 2 ? draft.jumper : null,
    of: draft.of || null,
    others: draft.others || null,
  }
  return Object.fromEntries(
    Object.entries(said).filter(([field, value]) => value !== null && has.has(field as StateField)),
  )
}

/** The fields of the state in which the draft differs from the proposal that it began as; none on a bench of one's own points. */
export function differing(draft: Draft, rules: Rules): string[] {
  if (!draft.laid || !(draft.own || draft.instrument)) return []
  const laid = { ...fromProbe(JSON.parse(draft.laid) as Probe), stood: draft.stood }
  const [now, then] = [toReading(draft, rules), toReading(laid, rules)] as unknown as Record<string, unknown>[]
  const what = ['measure', 'red', 'black', 'at', 'pid', 'signal', 'target', 'action'] as const
  if (!now || !then || what.some((name) => now[name] !== then[name])) return []
  const fields = new Set(
    [...Object.keys(now), ...Object.keys(then)].filter((name) => !['value', 'note', 'moves'].includes(name)),
  )
  return [...fields].filter((name) => JSON.stringify(now[name]) !== JSON.stringify(then[name]))
}

/** Where the leads lie, for the drawing. */
export function leads(draft: Draft): { red: string | null; black: string | null; clamp: string | null } {
  if (needsPoints(draft.measure)) return { red: draft.red, black: draft.black, clamp: null }
  return { red: null, black: null, clamp: marksOne(draft) && draft.at ? draft.at : null }
}
