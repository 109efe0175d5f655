import { typedNumber } from '../shared/typed'

/** Figures that are counted or timed: numbers, not text with a unit. */
const COUNTED = ['switches_per_min', 'first_activity_s', 'rise_s', 'delay_s']

/** The figures that were typed. */
export function noted(typed: Record<string, string>): Record<string, unknown> {
  const said = Object.entries(typed).filter(([, value]) => value.trim() !== '')
  return Object.fromEntries(said.map(([name, value]) => [name, COUNTED.includes(name) ? typedNumber(value) : value]))
}
