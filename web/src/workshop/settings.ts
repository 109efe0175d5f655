/** The workshop's settings as they are typed, and as they are sent. */
import type { Schemas } from '../api/client'
import { typedNumber } from '../shared/typed'

export type Settings = Schemas['Workshop']
export type Tool = NonNullable<Settings['tools']>[number]

export const TOOLS: { value: Tool; label: string }[] = [
  { value: 'meter', label: 'Multimeter' },
  { value: 'lamp', label: 'Test lamp, 5 W and 21 W' },
  { value: 'scan', label: 'Scan tool with live data' },
  { value: 'scope', label: 'Oscilloscope' },
  { value: 'clamp', label: 'Current clamp' },
  { value: 'spare', label: 'Known-good sensor to try' },
]

export const MONEY = {
  labour_per_hour: 'Labour, an hour',
  part_price: 'A sensor costs',
  wrong_call_cost: 'A wrong call costs (second visit, part taken back, trust)',
} as const

/** The fields of the form: all figures as text. */
export interface Typed extends Record<keyof typeof MONEY, string> {
  tools: Tool[]
  minutes: Record<string, string>
  currency: string
  name: string
  paper: NonNullable<Settings['paper']>
  incomplete: string
}

const text = (value: number | string | null | undefined) => String(value ?? '')

export function asTyped(settings: Settings): Typed {
  const minutes = Object.entries(settings.minutes ?? {}).map(([name, value]) => [name, text(value)])
  return {
    tools: settings.tools ?? TOOLS.map(({ value }) => value),
    minutes: Object.fromEntries(minutes) as Record<string, string>,
    labour_per_hour: text(settings.labour_per_hour),
    part_price: text(settings.part_price),
    wrong_call_cost: text(settings.wrong_call_cost),
    currency: text(settings.currency),
    name: text(settings.name),
    paper: settings.paper ?? 'a4',
    incomplete: text(settings.incomplete),
  }
}

/** What is sent; what is no number goes to the server, which says so. */
export function asSettings(typed: Typed): Settings {
  const minutes = Object.entries(typed.minutes).filter(([, figure]) => figure?.trim())
  const money = Object.keys(MONEY).map((name) => [name, typedNumber(typed[name as keyof typeof MONEY])])
  return {
    ...Object.fromEntries(money),
    tools: typed.tools.length === TOOLS.length ? null : typed.tools,
    minutes: Object.fromEntries(minutes.map(([name, figure]) => [name, typedNumber(figure)])),
    currency: typed.currency.trim() || null,
    name: typed.name.trim() || null,
    paper: typed.paper,
    incomplete: typedNumber(typed.incomplete),
  } as Settings
}
