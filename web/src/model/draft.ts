/** The reading being taken: a plain reducer over named actions, so that the meter, the drawing and the keys agree. */
import type { JobView, Probe, Reading } from '../api/client'
import { typedNumber } from './typed'

export type Measure = Probe['measure']

export interface Draft {
  measure: Measure
  red: string
  black: string
  at: string
  pid: string
  target: string
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
  /** The condition it is taken with (rich, lean, signal-grounded ...), empty for none. */
  with: string
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
  lead: 'red' | 'black'
  /** False while the draft is still the reading that was proposed. */
  own: boolean
}

export const EMPTY: Draft = {
  measure: 'voltage', red: 'battery.positive', black: 'battery.negative', at: '', pid: 'heater_current',
  target: 'connector', action: 'clear-codes', load: null, watts: 5, in_place_of: null, key: 'running',
  connector: 'mated', module_connector: 'mated', battery: 'connected', sensor_c: '20', codes_cleared: false, with: '', at_s: '',
  signal: 'sensor_voltage', of: '', jumper: [], value: '', scope: { high: '', low: '', duty_low: '', frequency: '' },
  trace: { min: '', max: '', switches_per_min: '', first_activity_s: '', rise_s: '', delay_s: '' }, lead: 'red', own: false,
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
  | { type: 'measure'; measure: Measure; scans: JobView['choices']['scans'] }
  | { type: 'set'; change: Partial<Draft> }

export function reduce(draft: Draft, action: Action): Draft {
  switch (action.type) {
    case 'propose':
      return action.probe ? fromProbe(action.probe) : { ...EMPTY, own: true }
    case 'taken':
      return { ...draft, value: '', scope: EMPTY.scope, trace: EMPTY.trace, own: false }
    case 'follow':
      return begun(draft) ? draft : reduce(draft, { type: 'propose', probe: action.probe })
    case 'type':
      return { ...draft, value: action.value }
    case 'figure':
      return { ...draft, [action.of]: { ...draft[action.of], [action.name]: action.value } }
    case 'touch':
      return touched(draft, action.point)
    case 'measure':
      return { ...draft, measure: action.measure, pid: known(draft.pid, action.scans), value: '', own: true, ...usualState(draft, action.measure) }
    case 'set':
      return { ...draft, ...action.change, own: true }
  }
}

/** Whether anything of the next reading was touched or typed yet. */
export function begun(draft: Draft): boolean {
  return draft.own || [draft.value, ...Object.values(draft.scope), ...Object.values(draft.trace)].some((text) => text !== '')
}

/** The scan value last used, where this sensor has it. */
function known(pid: string, scans: JobView['choices']['scans']): string {
  return scans.some((item) => item.pid === pid) ? pid : (scans[0]?.pid ?? pid)
}

/** A draft laid out as the proposed reading. */
export function fromProbe(probe: Probe): Draft {
  const own = Object.fromEntries(Object.entries(probe).filter(([name, value]) => name in EMPTY && value !== null))
  const celsius = probe.sensor_c === null || probe.sensor_c === undefined ? '' : String(probe.sensor_c)
  const condition = Array.isArray(probe.with) ? (probe.with[0] ?? '') : (probe.with ?? '')
  const seconds = probe.at_s === null || probe.at_s === undefined ? '' : String(probe.at_s)
  const typed = { sensor_c: celsius, with: condition, at_s: seconds, value: '', own: false, lead: 'red' }
  return { ...EMPTY, connector: 'mated', ...own, ...typed } as Draft
}

/** Touching points moves the leads in turn: red, then black. */
function touched(draft: Draft, point: string): Draft {
  if (draft.measure === 'current') return { ...draft, at: point, own: true }
  const measure = ['scan', 'inspect', 'act', 'trace'].includes(draft.measure) ? 'voltage' : draft.measure
  const moved = draft.lead === 'red' ? { red: point, lead: 'black' as const } : { black: point, lead: 'red' as const }
  const next: Draft = { ...draft, ...moved, measure, own: true, value: '' }
  if (next.red === next.black) return { ...draft, lead: draft.lead === 'red' ? 'black' : 'red' }
  return { ...next, ...plugsFor(next) }
}

/** Points that can only be reached apart set the plugs apart. */
function plugsFor(draft: Draft): Partial<Draft> {
  const points = [draft.red, draft.black]
  const apart: Partial<Draft> = {}
  if (points.some((point) => point.startsWith('sensor.') && point !== 'sensor.shell')) apart.connector = 'unplugged'
  if (points.some((point) => point.startsWith('module_pin.'))) apart.module_connector = 'unplugged'
  return apart
}

function usualState(draft: Draft, measure: Measure): Partial<Draft> {
  if (measure === 'resistance') return { key: 'off', connector: 'unplugged', sensor_c: draft.sensor_c || '20' }
  if (measure === 'lamp') return { key: 'running', connector: 'unplugged' }
  if (measure === 'current') return { key: 'running', connector: 'mated', at: draft.at || draft.red }
  if (draft.measure === 'resistance' && measure !== 'inspect') return { key: 'running' }
  return {}
}

const NEEDS_POINTS: Measure[] = ['voltage', 'resistance', 'lamp', 'scope']

export function needsPoints(measure: Measure): boolean {
  return NEEDS_POINTS.includes(measure)
}

/** The reading to send. Only what the draft's instrument has is said. */
export function toReading(draft: Draft): Reading {
  const points = needsPoints(draft.measure) ? { red: draft.red, black: draft.black } : {}
  const own = {
    current: { at: draft.at }, scan: { pid: draft.pid }, inspect: lookOf(draft), act: { action: draft.action },
    lamp: { watts: draft.watts, ...(draft.in_place_of ? { in_place_of: draft.in_place_of } : {}) },
    voltage: draft.load ? { load: draft.load } : {}, resistance: {}, scope: {}, trace: { signal: draft.signal },
  }[draft.measure] // prettier-ignore
  return { measure: draft.measure, ...points, ...own, ...stateOf(draft), value: valueOf(draft) } as Reading
}

/** The exhaust is looked at in a place; everything else where it is. */
function lookOf(draft: Draft): Record<string, unknown> {
  return { target: draft.target, ...(draft.target === 'exhaust' ? { at: draft.at || 'before-front' } : {}) }
}

function stateOf(draft: Draft): Record<string, unknown> {
  const other = draft.of ? { of: draft.of } : {}
  if (draft.measure === 'inspect' || draft.measure === 'act') return other
  const hasTemperature = draft.measure === 'resistance' && draft.sensor_c.trim() !== ''
  return {
    key: draft.key,
    ...(draft.measure === 'scan' || draft.measure === 'trace' ? plugApart(draft) : { connector: draft.connector }),
    ...(draft.with ? { with: draft.with } : {}),
    ...(draft.at_s.trim() ? { at_s: typedNumber(draft.at_s) } : {}),
    ...(draft.module_connector === 'unplugged' ? { module_connector: 'unplugged' } : {}),
    ...(draft.battery === 'disconnected' ? { battery: 'disconnected' } : {}),
    ...(draft.codes_cleared ? { codes_cleared: true } : {}),
    ...other,
    ...(draft.jumper.length === 2 ? { jumper: draft.jumper } : {}),
    ...(draft.measure === 'voltage' && draft.sensor_c === 'hot' ? { sensor_c: 'hot' } : {}),
    ...(hasTemperature ? { sensor_c: typedNumber(draft.sensor_c) } : {}),
  }
}

/** A scan value is taken plugged in unless said otherwise. */
function plugApart(draft: Draft): Record<string, unknown> {
  return draft.connector === 'unplugged' ? { connector: 'unplugged' } : {}
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
  return { red: null, black: null, clamp: draft.measure === 'current' ? draft.at : null }
}
