import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, test } from 'vitest'
import { CHOICES, choicesOf, folder, given, MEASURES } from '../../tests/fixtures'
import type { Reading } from '../api/client'
import {
  type Action,
  begun,
  type Choices,
  differing,
  type Draft,
  EMPTY,
  type Measure,
  mayMove,
  reduce,
  toReading,
} from './draft'
import { applying } from './state'

const FIGURES = { scope: { high: '13.8', low: '0.1' }, trace: { min: '0,1', max: '0.8', delay_s: '0,3' } }
const TYPED: Partial<Record<Measure, string>> = { resistance: '6.2', lamp: 'bright', inspect: 'ok', act: 'done' }
const SIGNAL = 'harness.signal'

const touch = (point: string): Action => ({ type: 'touch', point })
const turn = (measure: Measure): Action => ({ type: 'measure', measure })
const set = (change: Partial<Draft>): Action => ({ type: 'set', change })
const type = (value: string): Action => ({ type: 'type', value })
const propose = (probe: object): Action => ({ type: 'propose', probe: probe as never })
const follow = (probe: object): Action => ({ type: 'follow', probe: probe as never })

const after = (actions: Action[], start: Draft = EMPTY, choices: Choices = CHOICES): Draft =>
  actions.reduce((draft, action) => reduce(draft, action, choices), start)

const sent = (draft: Draft, choices: Choices = CHOICES) =>
  toReading(draft, choices.state) as Reading & Record<string, unknown>

/** The draft with something typed that its instrument may show. */
function filled(draft: Draft): Draft {
  const { measure } = draft
  if (measure === 'scope' || measure === 'trace')
    return { ...draft, [measure]: { ...draft[measure], ...FIGURES[measure] } }
  const words =
    measure === 'scan' ? given.words.scan[draft.pid] : measure === 'act' ? given.words.act[draft.action] : undefined
  return { ...draft, value: words?.[0] ?? TYPED[measure] ?? '12.4' }
}

/** Written for the core to read: `tests/web/test_front_end.py` holds it against what it asked for and takes. */
describe('what is sent, for the core to read', () => {
  test('of every proposal', () => {
    const readings = given.proposals.map(({ family, probe }) => {
      const choices = choicesOf(family)
      return sent(filled(after([propose(probe)], EMPTY, choices)), choices)
    })
    expect(readings.length).toBeGreaterThan(100)
    writeFileSync(join(folder, 'proposed.json'), JSON.stringify(readings))
  })

  test('of any touches', () => {
    const drafts = given.touches.map((actions) => after(actions))
    writeFileSync(join(folder, 'touched.json'), JSON.stringify(drafts.map((draft) => ({ draft, sent: sent(draft) }))))
  })

  test('at every point that is drawn, with every instrument that has points', () => {
    const readings = Object.entries(given.points).flatMap(([family, points]) =>
      points.flatMap((point) =>
        (['voltage', 'resistance', 'lamp', 'scope', 'current'] as const).flatMap((measure) => {
          const choices = choicesOf(family)
          const steps = [turn(measure), touch(point)]
          return [steps, [...steps].reverse()].map((order) => ({
            family,
            sent: sent(filled(after(order, EMPTY, choices)), choices),
          }))
        }),
      ),
    )
    writeFileSync(join(folder, 'drawn.json'), JSON.stringify(readings))
  })

  test('of what is no number', () => {
    const recording: Action[] = [turn('trace'), { type: 'figure', of: 'trace', name: 'min', value: '0.1' }]
    const readings = {
      at_s: sent(after([...recording, set({ at_s: 'a while' })])),
      'value.rise_s': sent(after([...recording, { type: 'figure', of: 'trace', name: 'rise_s', value: 'fast' }])),
      'value.min': sent(after([...recording, { type: 'figure', of: 'trace', name: 'min', value: 'low' }])),
    }
    writeFileSync(join(folder, 'mistyped.json'), JSON.stringify(readings))
    expect(sent(after([...recording, set({ at_s: ' 12,5 ' })]))['at_s']).toBe(12.5)
  })
})

/** State that is shown beside the meter, and may be stored. */
const STATE = ['connector', 'module_connector', 'battery', 'sensor_c', 'codes_cleared', 'with', 'at_s', 'rpm', 'jumper', 'of', 'fed_v', 'others', 'coolant_c'] as const // prettier-ignore

test('what is stored is what stands beside the meter, whatever was touched', () => {
  for (const actions of given.touches) {
    const draft = after(actions)
    const reading = sent(draft)
    const shown = applying(draft, CHOICES.state)
    for (const name of STATE) {
      const stored = reading[name]
      const where = `${name} after ${JSON.stringify(actions)}`
      if (!shown.has(name)) expect(stored, where).toBeUndefined()
      if (stored !== undefined) expect(texts(stored), where).toEqual(texts(draft[name]))
    }
    const apart = !['voltage', 'resistance', 'lamp', 'scope'].includes(draft.measure) || draft.red !== draft.black
    expect(apart, JSON.stringify(actions)).toBe(true)
  }
})

/** A field as text, whether it is typed or sent: one value or several, a comma for a point. */
const texts = (value: unknown) => [value].flat().map((part) => String(part).trim().replace(',', '.'))

describe('leads', () => {
  test('move in turn, and set apart what has to be', () => {
    const one = after([touch(SIGNAL)])
    expect([one.red, one.lead, one.connector]).toEqual([SIGNAL, 'black', 'mated'])
    const both = after([touch(SIGNAL), touch('sensor.signal')])
    expect([both.red, both.black, both.lead, both.connector]).toEqual([SIGNAL, 'sensor.signal', 'red', 'unplugged'])
    expect(after([touch('module_pin.signal')]).module_connector).toBe('unplugged')
  })

  test('a point that has a lead says so, and the next entry takes the word away', () => {
    const twice = after([touch(SIGNAL), touch(SIGNAL)])
    expect([twice.black, twice.lead]).toEqual([EMPTY.black, 'black'])
    expect(twice.told).toContain('red lead lies there')
    expect(after([type('1')], twice).told).toBe('')
  })

  test('swap where the other lead lies', () => {
    const swapped = after([touch(SIGNAL), touch('battery.positive'), touch('battery.positive')])
    expect([swapped.red, swapped.black, swapped.lead]).toEqual(['battery.positive', SIGNAL, 'black'])
  })

  test('a clamp and a hand have one place', () => {
    const clamp = after([turn('current'), touch(SIGNAL)])
    expect([clamp.at, clamp.red]).toEqual([SIGNAL, EMPTY.red])
    expect(sent(filled(after([turn('act'), set({ action: 'wiggle' }), touch(SIGNAL)])))['at']).toBe(SIGNAL)
  })

  test('a lamp in place of the heater lies across its terminals until a point is touched', () => {
    const lamp = after([turn('lamp'), set({ in_place_of: 'heater' })])
    expect([lamp.red, lamp.black, lamp.connector]).toEqual([
      'harness.heater_supply',
      'harness.heater_control',
      'unplugged',
    ])
    expect(after([touch('battery.positive')], lamp).in_place_of).toBeNull()
  })
})

const LAMP = { measure: 'lamp', red: 'harness.heater_supply', black: 'harness.heater_control', key: 'running', connector: 'unplugged', watts: 21, codes_cleared: true } // prettier-ignore
const SCAN = { measure: 'scan', pid: 'sensor_voltage', key: 'running', with: 'rich', at_s: 620, codes_cleared: true }
const TRIM = { measure: 'scan', pid: 'long_trim', key: 'running' }

describe('a bench of one’s own', () => {
  const own = [turn('voltage'), set({ key: 'on' }), touch(SIGNAL), touch('battery.negative'), type('4.9')]

  test('stays as it was set, reading after reading', () => {
    const first = after(own)
    const again = after([{ type: 'taken' }, follow(LAMP)], first)
    for (const name of ['measure', 'red', 'black', 'key', 'connector', 'battery', 'watts'] as const)
      expect(again[name], name).toEqual(first[name])
    expect([again.value, again.own, again.lead]).toEqual(['', true, 'red'])
    expect(after([propose(LAMP)], again)).toMatchObject({ measure: 'lamp', own: false })
  })

  test('what holds for one reading falls back, and says so', () => {
    const conditions: Partial<Draft> = { with: ['rich'], codes_cleared: true, at_s: '620', of: 'B2S1', jumper: ['battery.positive', SIGNAL] } // prettier-ignore
    const draft = after([turn('scan'), set(conditions)])
    expect(sent(draft)['with']).toBe('rich')
    const next = after([{ type: 'taken' }], draft)
    expect(next).toMatchObject({ with: [], codes_cleared: false, at_s: '', of: '', jumper: [] })
    expect(next.told).toContain('codes cleared')
  })

  test.each([
    ['another value', SCAN, [set({ pid: 'heater_current' })]],
    ['volts after a scan', SCAN, [turn('voltage'), touch(SIGNAL)]],
    ['volts after a lamp', LAMP, [turn('voltage'), touch('harness.heater_supply'), touch('battery.negative')]],
  ])('takes over nothing that only the proposal set: %s', (_, probe, actions) => {
    const reading = sent(filled(after([propose(probe), ...actions])))
    for (const name of ['with', 'at_s', 'codes_cleared']) expect(reading[name], name).toBeUndefined()
    expect(reading['connector'] ?? 'mated').toBe('mated')
  })
})

test('what differs from the proposal is marked, and where the leads lie is not', () => {
  const laid = after([propose({ ...LAMP, codes_cleared: false })])
  const marked = (draft: Draft) => differing(draft, CHOICES.state)
  expect(marked(laid)).toEqual([])
  expect(marked(after([set({ key: 'on' })], laid))).toEqual(['key'])
  expect(marked(after([touch('battery.negative')], laid))).toEqual([])
})

test.each<[boolean, Partial<Draft>]>([
  [true, { measure: 'scan', pid: 'sensor_voltage' }],
  [true, { measure: 'scan', pid: 'long_trim' }],
  [false, { measure: 'scan', pid: 'heater_current' }],
  [false, { measure: 'scan', pid: 'battery_voltage' }],
  [true, { measure: 'voltage', red: SIGNAL, black: 'battery.negative' }],
  [true, { measure: 'voltage', red: 'battery.negative', black: 'module.signal' }],
  [false, { measure: 'voltage', red: 'harness.heater_supply', black: 'battery.negative' }],
  [false, { measure: 'resistance', red: SIGNAL, black: 'chassis' }],
])('a span may be entered: %s of %o', (moves, draft) => {
  expect(mayMove({ ...EMPTY, ...draft }, CHOICES.live)).toBe(moves)
})

describe('what follows a reading', () => {
  const taken = after([type('12'), { type: 'taken' }])

  test('is laid out where nothing was begun', () => {
    expect([taken.value, begun(taken)]).toEqual(['', false])
    expect(after([follow(TRIM)], taken).pid).toBe('long_trim')
  })

  test.each<Action>([
    type('1'),
    touch(SIGNAL),
    { type: 'figure', of: 'trace', name: 'min', value: '0' },
    set({ key: 'off' }),
    { type: 'note', change: { note: 'wire green' } },
  ])('does not take away what was begun: $type', (action) => {
    const before = after([action], taken)
    expect(after([follow(TRIM)], before)).toEqual(before)
  })
})

describe('the dial', () => {
  const every: Partial<Draft> = { connector: 'unplugged', module_connector: 'unplugged', with: ['signal-grounded'], codes_cleared: true, at_s: '9', jumper: ['battery.positive', SIGNAL], load: 'lamp', watts: 21, of: 'B2S1' } // prettier-ignore
  const pairs = MEASURES.flatMap((one) =>
    MEASURES.filter((other) => other !== one).map((other) => [one, other] as const),
  )

  test.each(pairs)('from %s to %s nothing stays that has no place there', (one, other) => {
    const draft = after([turn(one), set(every), turn(other)])
    const [reading, fresh] = [sent(filled(draft)), sent(filled(after([turn(other)])))]
    const seen = applying(draft, CHOICES.state) as Set<string>
    const unseen = Object.keys(reading).filter((name) => JSON.stringify(reading[name]) !== JSON.stringify(fresh[name]))
    expect(unseen.filter((name) => !seen.has(name))).toEqual([])
  })

  test.each<[Measure, object]>([
    ['resistance', { key: 'off', connector: 'unplugged' }],
    ['lamp', { key: 'running', connector: 'unplugged', watts: 5 }],
    ['current', { key: 'running', connector: 'mated', at: 'battery.positive' }],
    ['scan', { key: 'running', pid: 'heater_current' }],
  ])('%s brings its usual state', (measure, state) => {
    expect(sent(after([turn(measure)]))).toMatchObject(state)
  })

  test('and back', () => {
    expect(after([turn('resistance'), turn('voltage')]).key).toBe('running')
  })
})
