import { Typed } from '../Typed'
import type { EntryProps, Kind } from './kind'
import { vocabulary } from '../../shared/vocabulary'

function Entry(props: EntryProps) {
  return <Typed {...props} padded unit={vocabulary().units.resistance ?? ''} />
}

/** Ohms, on what is switched off. */
export const resistance: Kind = { Entry, twoPoints: true, asleep: true }
