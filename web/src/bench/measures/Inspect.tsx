import { Segmented } from 'antd'
import { Picked } from '../Picked'
import type { EntryProps, Kind } from './kind'
import { say } from '../../shared/vocabulary'

function Entry(props: EntryProps) {
  return <Picked field="target" options={props.view.choices.looks} between={<Place {...props} />} {...props} />
}

/** Where it was looked at, for what is looked at in places. */
function Place({ view, draft, dispatch }: EntryProps) {
  const places: readonly string[] = view.choices.places[draft.target] ?? []
  if (places.length === 0) return null
  return (
    <Segmented
      aria-label="Where it was looked at"
      value={draft.place}
      options={[{ value: '', label: 'all of it' }, ...places.map((value) => ({ value, label: say(value) }))]}
      onChange={(place) => dispatch({ type: 'set', change: { place } })}
    />
  )
}

/** What was looked at. */
export const inspect: Kind = {
  Entry, byHand: true,
  from: (proposed) => ({ place: typeof proposed.at === 'string' ? proposed.at : '', at: '' }),
  own: (draft) => ({ target: draft.target, ...(draft.place ? { at: draft.place } : {}) }),
} // prettier-ignore
