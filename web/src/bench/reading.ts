/** The reading being taken, as it is laid out at the bench. */
import type { JobView, Probe } from '../api/client'

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
  /** Of a lamp that is none: a tester that draws next to nothing. */
  kind: 'led' | null
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
  /** Whether the other consumers of the feed are unplugged; empty for not said. */
  others: '' | 'unplugged'
  /** Engine speed in 1/min, as typed; empty for not noted. */
  rpm: string
  /** Seconds since engine start or key on, as typed; empty for not noted. */
  at_s: string
  coolant_c: string
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
  /** Where the value was read from: a simulated vehicle's instrument; empty for a real one. */
  instrument: '' | 'simulated'
  lead: 'red' | 'black'
  /** False while the draft is still the reading that was proposed; from then on the bench stays as it is set. */
  own: boolean
  /** How key, plugs, battery and engine stood when the last reading was taken: what a bench of one's own begins with. */
  stood: Stood
  /** The proposed reading that was laid out, as text; empty for none. */
  laid: string
  /** Why the last touch did not move a lead, empty where it did. */
  told: string
}

export type Stood = Pick<Draft, 'key' | 'connector' | 'module_connector' | 'battery' | 'rpm'>

export const EMPTY: Draft = {
  measure: 'voltage', red: 'battery.positive', black: 'battery.negative', at: '', pid: 'heater_current',
  target: 'connector', place: '', action: 'clear-codes', load: null, watts: 0, in_place_of: null, kind: null, key: 'running',
  connector: 'mated', module_connector: 'mated', battery: 'connected', sensor_c: '', codes_cleared: false, with: [], fed_v: '',
  at_s: '', coolant_c: '', signal: 'sensor_voltage', of: '', jumper: [], value: '', scope: { high: '', low: '', duty_low: '', frequency: '' },
  trace: { min: '', max: '', switches_per_min: '', first_activity_s: '', rise_s: '', delay_s: '' }, lead: 'red', own: false, told: '',
  moves: '', beside: '', beside_value: '', beside_moves: '', note: '', instrument: '', laid: '', rpm: '', others: '',
  stood: { key: 'running', connector: 'mated', module_connector: 'mated', battery: 'connected', rpm: '' },
} // prettier-ignore
