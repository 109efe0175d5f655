import { Typed } from '../Typed'
import type { EntryProps, Kind } from './kind'

function Entry(props: EntryProps) {
  return <Typed {...props} padded unit={props.view.choices.units.current ?? ''} />
}

/** Amperes of a clamp round a wire. */
export const current: Kind = {
  label: 'A', key: 'a', Entry, clamps: true,
  marksOne: () => true,
  placeWords: (draft, words) => `Clamp at ${words(draft.at)}`,
  own: (draft) => ({ at: draft.at }),
} // prettier-ignore
