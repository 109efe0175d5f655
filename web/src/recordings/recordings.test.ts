import { describe, expect, it } from 'vitest'
import type { CaptureView, Mark, SamplesView, TraceView } from '../api/recordings'
import { groupsOf, shortName } from './groups'
import { stepAt } from './Guided'
import { joined } from './lines'
import { added } from './MarkBar'
import { around, moved, onKey, told, within, zoomed } from './view'

const WHOLE = { from: 0, to: 100 }
const VIEW = { from: 40, to: 60 }

describe('the view', () => {
  it.each([
    ['ArrowLeft', { from: 36, to: 56 }],
    ['ArrowRight', { from: 44, to: 64 }],
    ['0', WHOLE],
    ['a', null],
  ])('moves by the key %s', (key, expected) => {
    expect(onKey(key, VIEW, WHOLE)).toEqual(expected)
  })

  it('zooms around its middle and back again', () => {
    const closer = onKey('+', VIEW, WHOLE)
    expect(closer).toEqual({ from: 44, to: 56 })
    expect(closer && onKey('-', closer, WHOLE)).toEqual(VIEW)
  })

  it('keeps the moment under the fingers where it is', () => {
    const next = zoomed(VIEW, WHOLE, 4, 45)
    expect((45 - next.from) / (next.to - next.from)).toBeCloseTo(0.25)
  })

  it('never leaves the recording', () => {
    expect(moved(VIEW, WHOLE, 9)).toEqual({ from: 80, to: 100 })
    expect(within({ from: -500, to: 900 }, WHOLE)).toEqual(WHOLE)
    expect(around({ from: 0, to: 0 }, WHOLE).from).toBe(0)
  })

  it.each([
    [4.5213, '4.521 s'],
    [200, '3 min 20 s'],
  ])('tells %d seconds as %s', (seconds, expected) => {
    expect(told(seconds)).toBe(expected)
  })
})

const trace = (signal: string, of: string | null, gaps: [number, number][] = []): TraceView => ({
  column: signal,
  signal,
  of,
  label: `${of ?? ''} ${signal}`.trim(),
  unit: 'V',
  words: [],
  samples: 3,
  rate_hz: 1,
  lowest: 0,
  highest: 1,
  left_out: 0,
  gaps,
  figures: [],
})
const levels = (at: number[], values: number[]) => ({
  at: Float32Array.from(at),
  lowest: Float32Array.from(values),
  highest: Float32Array.from(values),
})

describe('lines', () => {
  it('put two traces on common times, each only where it has samples', () => {
    const lines = joined([levels([0, 2], [1, 2]), levels([1, 2], [5, 6])], [trace('a', null), trace('b', null)], [0, 0])
    expect(lines.at).toEqual([0, 1, 2])
    expect(lines.columns[0]).toEqual([1, undefined, 2])
    expect(lines.columns[2]).toEqual([undefined, 5, 6])
  })

  it('break where nothing was recorded', () => {
    const lines = joined([levels([0, 1, 9, 10], [1, 1, 1, 1])], [trace('a', null, [[1, 9]])], [0])
    expect(lines.at).toEqual([0, 1, 5, 9, 10])
    expect(lines.columns[0]).toEqual([1, 1, null, 1, 1])
  })

  it('start together where another recording lies behind', () => {
    expect(joined([levels([0, 1], [1, 1])], [trace('a', null)], [3]).at).toEqual([3, 4])
  })
})

describe('plots', () => {
  const shown: SamplesView = {
    from_s: 0,
    to_s: 1,
    rows: 1,
    events: [],
    traces: [
      trace('engine_speed', null),
      trace('long_trim', 'B1S1'),
      trace('sensor_voltage', 'B1S1'),
      trace('short_trim', 'B1S1'),
      trace('sensor_voltage', 'B2S1'),
    ],
  }

  it('show twins over each other, the cell first', () => {
    const groups = groupsOf(shown)
    expect(groups.map((group) => group.key)).toEqual(['sensor_voltage', 'short_trim', 'engine_speed'])
    expect(groups[0]?.traces.map((item) => item.place)).toEqual([2, 4])
    expect(groups[0]?.label).toBe('sensor_voltage')
  })

  it('name each line by what tells it apart', () => {
    const [volts, trims] = groupsOf(shown)
    expect(volts?.traces.map((item) => shortName(item, volts))).toEqual(['B1S1', 'B2S1'])
    expect(trims?.traces.map((item) => shortName(item, trims))).toEqual(['B1S1 long_trim', 'B1S1 short_trim'])
  })
})

describe('a guided recording', () => {
  const capture: CaptureView = {
    id: 'snap',
    title: 'Snap',
    record: '',
    cautions: [],
    steps: [
      { says: 'Wait', seconds: 10, mark: null },
      { says: 'Snap', seconds: 15, mark: 'snap' },
    ],
  }
  it.each([
    [0, 0, 10],
    [9.5, 0, 0.5],
    [10, 1, 15],
    [99, 1, 0],
  ])('after %d s is at step %d with %d s left', (seconds, step, left) => {
    expect(stepAt(capture, seconds)).toMatchObject({ step, left })
  })

  it('sets the same mark once, in the order of time', () => {
    const mark = (at_s: number): Mark => ({ at_s, event: 'rich', note: '' })
    expect(added([mark(5)], mark(5.0001))).toEqual([mark(5)])
    expect(added([mark(5)], mark(2))).toEqual([mark(2), mark(5)])
  })
})
