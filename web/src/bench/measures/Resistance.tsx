import { Typed } from '../Typed'
import type { EntryProps, Kind } from './kind'

function Entry(props: EntryProps) {
  return <Typed {...props} padded unit={props.view.choices.units.resistance ?? ''} />
}

/** Ohms, on what is switched off. */
export const resistance: Kind = { label: 'Ω', key: 'o', Entry, twoPoints: true, asleep: true }
