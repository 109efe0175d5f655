import { afterEach, describe, expect, test, vi } from 'vitest'
import { answeredAt, keyFor } from '../api/keys'
import { Attended, spanOf } from '../people/attended'
import { forgetBegun, keep, kept } from './browserStore'
import { at } from './clash'
import { NOX_SENSORS, placeOf, SENSORS } from './sensors'
import { typedNumber, typedRange } from './typed'
import { plainField } from './words'

test.each([
  ['12,5', 12.5],
  [' 7 ', 7],
  ['', null],
  ['  ', null],
  [undefined, null],
  ['a while', 'a while'],
  ['0', 0],
])('%o as a number is %o', (text, number) => {
  expect(typedNumber(text)).toBe(number)
})

test.each<[[string, string], unknown]>([
  [
    ['4', '7,5'],
    [4, 7.5],
  ],
  [
    ['4', ''],
    [4, null],
  ],
  [['', ''], null],
])('the ends %o are %o', (ends, range) => {
  expect(typedRange(ends)).toEqual(range)
})

test.each([
  ['readings[3].sensor_c', 'Reading 4, element temperature:'],
  ['readings[0].value.min', 'Reading 1, min:'],
  ['codes[0].code', 'Code:'],
  ['sensor.heater_ohms_20c[1]', 'Heater at 20 °C:'],
  ['readings', 'Readings:'],
  ['', ''],
])('the field %s is called %s', (field, says) => {
  expect(plainField(field)).toBe(says)
})

test('a clash is looked up by its path', () => {
  const job = { vehicle: { engine: { cylinders: 6 } }, note: null }
  expect([at(job, 'vehicle.engine.cylinders'), at(job, 'vehicle.trim.name'), at(job, 'note.of')]).toEqual([
    6,
    undefined,
    undefined,
  ])
})

test('every sensor that can be chosen has its bank and position', () => {
  expect(SENSORS.map(({ value }) => placeOf(value))).toContainEqual({ bank: 2, position: 3 })
  expect(NOX_SENSORS.map(({ value }) => placeOf(value).position)).toEqual([1, 2])
})

describe('what the browser keeps', () => {
  test('what one person began is taken away, and the light stays', () => {
    keep('draft4-7', { value: '12' })
    keep('understood-7', ['hot'])
    keep('light', 'night')
    forgetBegun()
    expect([kept('draft4-7'), kept('understood-7'), kept('light')]).toEqual([null, null, 'night'])
  })

  test('what is unreadable is not there', () => {
    localStorage.setItem('light', '{')
    expect(kept('light')).toBeNull()
  })

  test('a full store loses the draft only', () => {
    vi.spyOn(Storage.prototype, 'setItem').mockImplementation(() => {
      throw new DOMException('full')
    })
    expect(() => keep('draft4-7', {})).not.toThrow()
  })
})

describe('a request’s key', () => {
  test('stays for the same body until an answer came', () => {
    const key = keyFor('new-job', { codes: 'P0141' })
    expect(keyFor('new-job', { codes: 'P0141' })).toBe(key)
    expect(keyFor('new-job', { codes: 'P0135' })).not.toBe(key)
    const other = keyFor('new-job', { codes: 'P0135' })
    answeredAt('new-job')
    expect(keyFor('new-job', { codes: 'P0135' })).not.toBe(other)
  })
})

describe('attendance', () => {
  afterEach(() => vi.useRealTimers())

  test.each([
    [240, 60_000],
    [1, 15_000],
    [0.05, 2_000],
  ])('with %f idle minutes it is said every %i ms at most', (minutes, span) => {
    expect(spanOf(minutes)).toBe(span)
  })

  test('is said once after a touch, and not by a page alone', () => {
    const attended = new Attended()
    expect(attended.take(1000)).toBe(false)
    attended.touch(2000)
    expect([attended.take(2500), attended.take(2600)]).toEqual([true, false])
  })
})
