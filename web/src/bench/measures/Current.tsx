import { Typed } from '../Typed'
import type { EntryProps, Kind } from './kind'
import { vocabulary } from '../../shared/vocabulary'

function Entry(props: EntryProps) {
  return <Typed {...props} padded unit={vocabulary().units.current ?? ''} />
}

/** Amperes of a clamp round a wire. */
export const current: Kind = {
  Entry, clamps: true,
  marksOne: () => true,
  placeWords: (draft, words) => `Clamp at ${words(draft.at)}`,
  own: (draft) => ({ at: draft.at }),
} // prettier-ignore
