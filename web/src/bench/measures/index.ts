import type { Measure } from '../reading'
import { act } from './Act'
import { current } from './Current'
import { inspect } from './Inspect'
import type { Kind } from './kind'
import { lamp } from './Lamp'
import { resistance } from './Resistance'
import { scan } from './Scan'
import { scope } from './Scope'
import { trace } from './Trace'
import { voltage } from './Voltage'

/** Every measurement, in the order of the dial. */
export const KINDS: Record<Measure, Kind> = { voltage, resistance, lamp, current, scope, scan, trace, inspect, act }
