/** The reading being taken: a plain reducer over named actions, so that the meter, the drawing and the keys agree. */
import type { JobView, Probe, Reading } from '../api/client'
import { applying, type Rules, settled, type StateField } from './state'
import { typedNumber } from './typed'

export type Measure = Probe['measure']
export type Choices = JobView['choices']

export interface Draft {
  measure: Measure
  red: string
  black: string
  /** The clamp's point, or the place that was moved; empty for none. */
  at: string
  pid: string
  target: string
  /** Where the target was looked at, empty for all of it. */
  place: string
  action: string
  load: 'lamp' | null
  watts: number
  in_place_of: 'heater' | null
  key: 'off' | 'on' | 'running' | 'cranking'
  connector: 'mated' | 'unplugged'
  module_connector: 'mated' | 'unplugged'
  battery: 'connected' | 'disconnected'
  sensor_c: string
  codes_cleared: boolean
  /** The conditions it is taken with (rich, lean, signal-grounded ...). */
  with: string[]
  /** Volts put on the signal wire, as typed. */
  fed_v: string
  /** Seconds since engine start or key on, as typed; empty for not noted. */
  at_s: string
  signal: string
  /** Another part or sensor that is measured, empty for the one in question. */
  of: string
  /** Two points joined by a lead, empty for none. */
  jumper: [string, string] | []
  value: string
  scope: { high: string; low: string; duty_low: string; frequency: string }
  trace: Record<'min' | 'max' | 'switches_per_min' | 'first_activity_s' | 'rise_s' | 'delay_s', string>
  /** What a live value did while it was watched; empty for one look. */
  moves: '' | 'steady' | 'slow' | 'switching'
  /** Another sensor read beside this one, empty for none, and what it showed. */
  beside: string
  beside_value: string
  beside_moves: '' | 'steady' | 'slow' | 'switching'
  note: string
  lead: 'red' | 'black'
  /** False while the draft is still the reading that was proposed. */
  own: boolean
  /** The proposed reading that was laid out, as text; empty for none. */
  laid: string
  /** Why the last touch did not move a lead, empty where it did. */
  told: string
}

export const EMPTY: Draft = {
  measure: 'voltage', red: 'battery.positive', black: 'battery.negative', at: '', pid: 'heater_current',
  target: 'connector', place: '', action: 'clear-codes', load: null, watts: 0, in_place_of: null, key: 'running',
  connector: 'mated', module_connector: 'mated', battery: 'connected', sensor_c: '', codes_cleared: false, with: [], fed_v: '',
  at_s: '', signal: 'sensor_voltage', of: '', jumper: [], value: '', scope: { high: '', low: '', duty_low: '', frequency: '' },
  trace: { min: '', max: '', switches_per_min: '', first_activity_s: '', rise_s: '', delay_s: '' }, lead: 'red', own: false, told: '',
  moves: '', beside: '', beside_value: '', beside_moves: '', note: '', laid: '',
} // prettier-ignore

export type Action =
  | { type: 'propose'; probe: Probe | null }
  /** The reading went into the ledger. */
  | { type: 'taken' }
  /** What follows from it is worked out: laid out, unless the next reading was begun meanwhile. */
  | { type: 'follow'; probe: Probe | null }
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
  const next = mayMove(laid, choices.live) ? laid : { ...laid, ...UNSEEN }
  return next.watts === EMPTY.watts ? { ...next, watts: choices.usual_watts } : next
}

/** Nothing said of how it moved, or of another sensor beside it. */
const UNSEEN = { moves: '', beside: '', beside_value: '', beside_moves: '' } as const

/** Whether what is read may be a span, or be said to stand still, drift or switch. */
export function mayMove(draft: Draft, live: Choices['live']): boolean {
  if (draft.measure === 'scan') return (live.pids as readonly string[]).includes(draft.pid)
  const ends = [draft.red, draft.black].map((point) => point.split('.').at(-1) ?? '')
  return draft.measure === 'voltage' && ends.some((end) => (live.terminals as readonly string[]).includes(end))
}

function stepped(draft: Draft, action: Action, choices: Choices): Draft {
  switch (action.type) {
    case 'propose':
      return action.probe ? { ...fromProbe(action.probe), laid: JSON.stringify(action.probe) } : { ...EMPTY, own: true }
    case 'taken':
      return { ...draft, value: '', scope: EMPTY.scope, trace: EMPTY.trace, own: false, lead: 'red', ...UNSEEN, note: '' }
    case 'follow':
      return begun(draft) ? draft : stepped(draft, { type: 'propose', probe: action.probe }, choices)
    case 'type':
      return { ...draft, value: action.value }
    case 'figure':
      return { ...draft, [action.of]: { ...draft[action.of], [action.name]: action.value } }
    case 'touch':
      return touched(draft, action.point, choices)
    case 'measure':
      return turned(draft, action.measure, choices)
    case 'set':
      return { ...draft, ...action.change, own: true }
    case 'note':
      return { ...draft, ...action.change }
  }
}

/** Whether anything of the next reading was touched or typed yet. */
export function begun(draft: Draft): boolean {
  return draft.own || [draft.value, draft.moves, draft.beside_value, draft.note, ...Object.values(draft.scope), ...Object.values(draft.trace)].some((text) => text !== '')
}

/** A draft laid out as the proposed reading. */
function fromProbe(probe: Probe): Draft {
  const own = Object.fromEntries(Object.entries(probe).filter(([name, value]) => name in EMPTY && value !== null))
  const text = (value: unknown) => (value === null || value === undefined ? '' : String(value))
  const conditions = (Array.isArray(probe.with) ? probe.with : [probe.with ?? 'none']).filter((name) => name !== 'none')
  const place = probe.measure === 'inspect' ? { place: text(probe.at), at: '' } : {}
  const typed = { sensor_c: text(probe.sensor_c), with: conditions, at_s: text(probe.at_s), value: '', own: false, lead: 'red' }
  return { ...EMPTY, connector: 'mated', ...own, ...place, ...typed } as Draft
}

/** The dial turned: what the last instrument was set to does not stay, the vehicle's own state does where it is shown. */
function turned(draft: Draft, measure: Measure, choices: Choices): Draft {
  if (measure === draft.measure) return draft
  const own = { load: null, watts: EMPTY.watts, in_place_of: null, place: '', jumper: [] as [], value: '', scope: EMPTY.scope, trace: EMPTY.trace }
  const pid = choices.scans.some((item) => item.pid === draft.pid) ? draft.pid : (choices.scans[0]?.pid ?? draft.pid)
  const signal = choices.recordings.some((item) => item.signal === draft.signal) ? draft.signal : (choices.recordings[0]?.signal ?? draft.signal)
  return { ...draft, ...own, measure, pid, signal, own: true, ...usualState(draft, measure, choices) }
}

/** Touching a point moves the leads in turn: red, then black. A lead that lies there already makes room, or the meter says why not. */
function touched(draft: Draft, point: string, choices: Choices): Draft {
  if (marksOne(draft)) return { ...draft, at: point, own: true }
  const start = needsPoints(draft.measure) ? draft : { ...draft, measure: 'voltage' as const }
  const here = start.lead === 'red' ? start.red : start.black
  const other = start.lead === 'red' ? start.black : start.red
  if (point === other && start.lead === 'black') {
    return { ...start, own: true, told: 'The red lead lies there already: touch another point for the black one.' }
  }
  const makesRoom = point === other ? here : other
  const moved = start.lead === 'red' ? { red: point, black: makesRoom, lead: 'black' as const } : { red: makesRoom, black: point, lead: 'red' as const }
  const next: Draft = { ...start, ...moved, own: true, value: '' }
  return { ...next, ...plugsFor(next, choices) }
}

/** Whether a touch marks one place: the clamp's, or where something was moved. */
export function marksOne(draft: Draft): boolean {
  return draft.measure === 'current' || (draft.measure === 'act' && draft.action === 'wiggle')
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
  const at = measure === 'current' ? draft.at || draft.red : ''
  if (start) return { at, ...(start.key ? { key: start.key } : {}), ...(start.connector ? { connector: start.connector } : {}) }
  if (!needsPoints(measure)) return { at }
  return { at, ...(draft.measure === 'resistance' ? { key: 'running' as const } : {}), ...plugsFor(draft, choices) }
}

const NEEDS_POINTS: Measure[] = ['voltage', 'resistance', 'lamp', 'scope']

export function needsPoints(measure: Measure): boolean {
  return NEEDS_POINTS.includes(measure)
}

/** The reading to send. Only what the draft's instrument has, and what stands beside the meter, is said. */
export function toReading(draft: Draft, rules: Rules): Reading {
  const points = needsPoints(draft.measure) ? { red: draft.red, black: draft.black } : {}
  const own = {
    current: { at: draft.at }, scan: { pid: draft.pid }, resistance: {}, scope: {}, trace: { signal: draft.signal },
    inspect: { target: draft.target, ...(draft.place ? { at: draft.place } : {}) },
    act: { action: draft.action, ...(draft.action === 'wiggle' && draft.at ? { at: draft.at } : {}) },
    lamp: { watts: draft.watts, ...(draft.in_place_of ? { in_place_of: draft.in_place_of } : {}) },
    voltage: draft.load ? { load: draft.load, watts: draft.watts } : {},
  }[draft.measure] // prettier-ignore
  const said = { ...(draft.moves ? { moves: draft.moves } : {}), ...(draft.note.trim() ? { note: draft.note.trim() } : {}) }
  return { measure: draft.measure, ...points, ...own, ...stateOf(draft, rules), ...said, value: valueOf(draft) } as Reading
}

/** The same taken at the other sensor at the same time; null where none was read. */
export function besideReading(draft: Draft, rules: Rules): Reading | null {
  if (!draft.beside || !draft.beside_value.trim()) return null
  return toReading({ ...draft, of: draft.beside, value: draft.beside_value, moves: draft.beside_moves, note: '' }, rules)
}

function stateOf(draft: Draft, rules: Rules): Record<string, unknown> {
  const has = applying(draft, rules)
  const said: Partial<Record<StateField, unknown>> = {
    key: draft.key,
    // a scan value is read plugged in unless said otherwise
    connector: draft.connector === 'mated' && (draft.measure === 'scan' || draft.measure === 'trace') ? null : draft.connector,
    module_connector: draft.module_connector === 'unplugged' ? 'unplugged' : null,
    battery: draft.battery === 'disconnected' ? 'disconnected' : null,
    sensor_c: draft.sensor_c === 'hot' ? 'hot' : typedNumber(draft.sensor_c),
    codes_cleared: draft.codes_cleared || null,
    with: draft.with.length > 1 ? draft.with : (draft.with[0] ?? null),
    fed_v: typedNumber(draft.fed_v),
    at_s: typedNumber(draft.at_s),
    jumper: draft.jumper.length === 2 ? draft.jumper : null,
    of: draft.of || null,
  }
  return Object.fromEntries(Object.entries(said).filter(([field, value]) => value !== null && has.has(field as StateField)))
}

const COUNTED = ['switches_per_min', 'first_activity_s', 'rise_s', 'delay_s']

function valueOf(draft: Draft): unknown {
  if (draft.measure !== 'scope' && draft.measure !== 'trace') return draft.value.trim()
  const typed = Object.entries(draft[draft.measure]).filter(([, value]) => value.trim() !== '')
  return Object.fromEntries(typed.map(([name, value]) => [name, COUNTED.includes(name) ? typedNumber(value) : value]))
}

/** Where the leads lie, for the drawing. */
export function leads(draft: Draft): { red: string | null; black: string | null; clamp: string | null } {
  if (needsPoints(draft.measure)) return { red: draft.red, black: draft.black, clamp: null }
  return { red: null, black: null, clamp: marksOne(draft) && draft.at ? draft.at : null }
}
