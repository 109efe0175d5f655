/** What the draft's instrument is laid to, as it is asked of a connected vehicle; what comes back, as the draft holds it. */
import type { Probe } from '../../api/client'
import type { VehicleLook } from '../../api/vehicle'
import { KINDS } from '../measures'
import { type Draft, EMPTY, needsPoints } from '../draft'

/** The probe without its state: the vehicle's own counts. Null while nothing can be read. */
export function probeOf(draft: Draft): Probe | null {
  if (draft.measure === 'act') return null
  const { red, black, at } = draft
  if (needsPoints(draft.measure) && (!red || !black || red === black)) return null
  if (KINDS[draft.measure].clamps && !at) return null
  const points = needsPoints(draft.measure) ? { red, black } : {}
  const own = KINDS[draft.measure].own?.(draft) ?? {}
  const of = draft.of ? { of: draft.of } : {}
  return { measure: draft.measure, ...points, ...own, ...of } as Probe
}

/** The state that a look was taken in, as the draft holds it. What the look does not say is not so. */
export function stateOf(state: VehicleLook['state']): Partial<Draft> {
  const text = (name: string) => {
    const said = state[name]
    return typeof said === 'string' || typeof said === 'number' ? String(said) : ''
  }
  const listed = state['with']
  const conditions = Array.isArray(listed) ? (listed as string[]) : typeof listed === 'string' ? [listed] : []
  return {
    ...(state['key'] ? { key: state['key'] as Draft['key'] } : {}),
    ...(state['connector'] ? { connector: state['connector'] as Draft['connector'] } : {}),
    module_connector: (state['module_connector'] as Draft['module_connector'] | undefined) ?? EMPTY.module_connector,
    battery: (state['battery'] as Draft['battery'] | undefined) ?? EMPTY.battery,
    codes_cleared: state['codes_cleared'] === true,
    jumper: (state['jumper'] as Draft['jumper'] | undefined) ?? [],
    with: conditions,
    sensor_c: text('sensor_c'),
    at_s: text('at_s'),
    coolant_c: text('coolant_c'),
    rpm: text('rpm'),
    fed_v: text('fed_v'),
  }
}

/** A unit that stands beside the display already: a bare number has the measure's own. */
const OWN_UNIT = / (V|A|ohm|mA|%|ppm)$/

/** What the instrument showed and the state it was taken in, as the draft holds them. */
export function readInto(draft: Draft, look: VehicleLook): Partial<Draft> {
  const { shown } = look
  if (!shown || shown.refused) return {}
  const figures = shown.figures
  return {
    ...(draft.measure === 'inspect' ? {} : stateOf(look.state)),
    value: shown.value.replace(OWN_UNIT, ''),
    scope: draft.measure === 'scope' ? { ...EMPTY.scope, ...figures } : draft.scope,
    trace: draft.measure === 'trace' ? { ...EMPTY.trace, ...figures } : draft.trace,
    moves: shown.moves as Draft['moves'],
    instrument: 'simulated',
  }
}

/** What brings the vehicle to the state that the draft is laid out with. */
export function settingOf(draft: Draft) {
  const fed = Number(draft.fed_v.replace(',', '.'))
  const conditions = draft.with.filter((name) => name !== 'signal-fed')
  return {
    key: draft.key,
    connector: draft.connector,
    module_connector: draft.module_connector,
    battery: draft.battery,
    conditions,
    jumper: [...draft.jumper],
    of: /^B\dS\d$/.test(draft.of) ? draft.of : null,
    rpm: draft.key === 'running' && Number(draft.rpm) > 0 ? Number(draft.rpm) : ('idle' as const),
    fed_v: draft.with.includes('signal-fed') && fed > 0 ? fed : ('none' as const),
  }
}

/** A starter turns about a second: what is laid out for a running engine is not read while it turns. */
const STARTS_S = 1.5

/** Seconds to let go by: until the engine runs, and until it has run for as long as the reading is laid out for. */
export function waitOf(draft: Draft, look: VehicleLook): number {
  const asked = Number(draft.at_s.replace(',', '.')) || 0
  const stands = look.setting.key === draft.key
  const starts = draft.key === 'running' && !stands ? STARTS_S : 0
  return Math.min(Math.max(asked - (stands ? look.since_s : 0), starts), 3600)
}
