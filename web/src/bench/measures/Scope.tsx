import { Figures } from '../Figures'
import { noted } from '../noted'
import type { EntryProps, Kind } from './kind'

const ON_SCREEN = ['high', 'low', 'duty_low', 'frequency']

function Entry(props: EntryProps) {
  const { words } = props.view.choices
  return <Figures of="scope" labels={Object.fromEntries(ON_SCREEN.map((name) => [name, words[name] ?? name]))} {...props} />
}

/** The figures of a scope's screen. */
export const scope: Kind = { label: 'Scope', key: 's', Entry, twoPoints: true, value: (draft) => noted(draft.scope) }
