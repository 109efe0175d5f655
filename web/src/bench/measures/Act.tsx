import { Picked } from '../Picked'
import type { EntryProps, Kind } from './kind'

function Entry(props: EntryProps) {
  const caution = props.view.choices.act_cautions[props.draft.action]
  return (
    <>
      {caution && <p className="trap">{caution}</p>}
      <Picked field="action" options={props.view.choices.acts} {...props} />
    </>
  )
}

/** What was done. */
export const act: Kind = {
  Entry, byHand: true,
  marksOne: (draft) => draft.action === 'wiggle',
  placeWords: (draft, words) => `Moved at ${draft.at ? words(draft.at) : 'the plug and loom; touch a point to say where'}`,
  own: (draft) => ({ action: draft.action, ...(draft.action === 'wiggle' && draft.at ? { at: draft.at } : {}) }),
} // prettier-ignore
