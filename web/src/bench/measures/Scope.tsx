import { Figures } from '../Figures'
import { noted } from '../noted'
import type { EntryProps, Kind } from './kind'
import { say } from '../../shared/vocabulary'

const ON_SCREEN = ['high', 'low', 'duty_low', 'frequency']

function Entry(props: EntryProps) {
  return <Figures of="scope" labels={Object.fromEntries(ON_SCREEN.map((name) => [name, say(name)]))} {...props} />
}

/** The figures of a scope's screen. */
export const scope: Kind = { Entry, twoPoints: true, value: (draft) => noted(draft.scope) }
