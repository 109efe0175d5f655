import { describe, expect, test } from 'vitest'
import type { VehicleLook } from '../../api/vehicle'
import { type Draft, EMPTY } from '../draft'
import { probeOf, readInto, settingOf, stateOf, waitOf } from './probe'

const draft = (change: Partial<Draft>): Draft => ({ ...EMPTY, ...change })
const look = (change: Partial<VehicleLook>): VehicleLook => ({
  setting: { key: 'running', connector: 'mated', module_connector: 'mated', battery: 'connected', rpm: 'idle', conditions: [], fed_v: null, jumper: [], of: 'B1S1' }, // prettier-ignore
  since_s: 40,
  rpm: 760,
  coolant_c: 30,
  codes: [],
  monitors: {},
  shown: { value: '0.72 A', figures: {}, moves: '', refused: '' },
  state: { key: 'running', connector: 'mated', at_s: 40, coolant_c: 30 },
  ...change,
})

describe('what is asked of a vehicle', () => {
  test.each([
    ['two points', draft({}), { measure: 'voltage', red: 'battery.positive', black: 'battery.negative' }],
    ['both leads on one point', draft({ black: 'battery.positive' }), null],
    ['a clamp that lies nowhere', draft({ measure: 'current' }), null],
    ['a scan value of the twin', draft({ measure: 'scan', of: 'B2S1' }), { measure: 'scan', pid: 'heater_current', of: 'B2S1' }], // prettier-ignore
    ['what hands do', draft({ measure: 'act' }), null],
  ])('%s', (_, given, wanted) => {
    expect(probeOf(given)).toEqual(wanted)
  })
})

describe('what is read', () => {
  test('the value without the unit that stands beside it, the state, and where it is from', () => {
    const read = readInto(draft({ measure: 'current', codes_cleared: true, with: ['rich'] }), look({}))
    expect(read).toMatchObject({ value: '0.72', key: 'running', at_s: '40', coolant_c: '30', instrument: 'simulated' })
    // what the vehicle does not say is not so
    expect([read.codes_cleared, read.with]).toEqual([false, []])
  })
  test('nothing where the instrument shows nothing', () => {
    const shown = { value: '', figures: {}, moves: '', refused: 'Needs key: off.' }
    expect(readInto(draft({}), look({ shown }))).toEqual({})
  })
  test('the figures of a scope’s screen', () => {
    const shown = { value: '', figures: { high: '13.9 V', duty_low: '60 %' }, moves: '', refused: '' }
    expect(readInto(draft({ measure: 'scope' }), look({ shown })).scope).toEqual({ high: '13.9 V', low: '', duty_low: '60 %', frequency: '' }) // prettier-ignore
  })
  test('one condition or several', () => {
    expect(stateOf({ with: 'rich' }).with).toEqual(['rich'])
    expect(stateOf({ with: ['rich', 'heater-commanded'] }).with).toEqual(['rich', 'heater-commanded'])
  })
})

describe('what brings the vehicle there', () => {
  test('what is laid out, with volts fed and engine speed as numbers', () => {
    const laid = draft({ rpm: '2500', with: ['signal-fed', 'rich'], fed_v: '0,6', of: 'new' })
    expect(settingOf(laid)).toMatchObject({ rpm: 2500, fed_v: 0.6, conditions: ['rich'], of: null })
    expect(settingOf(draft({ key: 'off', rpm: '2500' }))).toMatchObject({ rpm: 'idle', fed_v: 'none' })
  })
  test.each([
    ['an engine that has to be started', draft({}), look({ setting: { ...look({}).setting, key: 'off' } }), 1.5],
    ['one that runs', draft({}), look({}), 0],
    ['one that has not run long enough', draft({ at_s: '300' }), look({}), 260],
    ['one that has run longer', draft({ at_s: '30' }), look({}), 0],
  ])('waits for %s', (_, laid, now, seconds) => {
    expect(waitOf(laid, now)).toBe(seconds)
  })
})
