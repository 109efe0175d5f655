import type { SamplesView, TraceView } from '../api/recordings'

/** A trace with its place in the recording. */
export interface Placed {
  trace: TraceView
  place: number
}

/** Traces that are drawn over each other: the same signal of several sensors. */
export interface Group {
  key: string
  label: string
  unit: string
  traces: Placed[]
}

/** What is looked at first stands first. */
const ORDER = [
  'sensor_voltage',
  'cell_current',
  'lambda',
  'volts',
  'amps',
  'nox',
  'o2',
  'nox_status',
  'heater_current',
  'heater_command',
  'short_trim',
  'long_trim',
  'loop',
  'engine_speed',
  'battery_voltage',
  'coolant',
]
/** Signals that share a plot though they are not the same. */
const TOGETHER: Record<string, string> = { long_trim: 'short_trim' }

/** The plots of a recording, twins over each other. */
export function groupsOf(shown: SamplesView): Group[] {
  const groups = new Map<string, Group>()
  shown.traces.forEach((trace, place) => {
    const key = keyOf(trace)
    const group = groups.get(key) ?? { key, label: trace.label, unit: trace.unit, traces: [] }
    groups.set(key, { ...group, traces: [...group.traces, { trace, place }] })
  })
  return [...groups.values()].sort((one, other) => rank(one) - rank(other)).map(named)
}

const keyOf = (trace: TraceView) => TOGETHER[trace.signal] ?? trace.signal

function rank(group: Group): number {
  const place = ORDER.indexOf(group.key)
  return place < 0 ? ORDER.length : place
}

/** A plot of one trace has its whole name; one of several has what they share, and each has its own at its line. */
function named(group: Group): Group {
  const [first] = group.traces
  if (group.traces.length < 2 || !first) return group
  return { ...group, label: first.trace.label.replace(`${first.trace.of ?? ''} `, '') }
}

/** What a trace is called among those of its plot. */
export function shortName({ trace }: Placed, group: Group): string {
  if (group.traces.length < 2) return trace.label
  const alike = group.traces.every((other) => other.trace.signal === trace.signal)
  return alike && trace.of ? trace.of : trace.label
}
