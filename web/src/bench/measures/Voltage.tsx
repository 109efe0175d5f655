import { Typed } from '../Typed'
import { LampSize, Toggle } from '../Toggle'
import type { EntryProps, Kind } from './kind'
import { vocabulary } from '../../shared/vocabulary'

function Entry(props: EntryProps) {
  return <Typed {...props} padded unit={vocabulary().units.voltage ?? ''} />
}

function Beside({ draft, lamps, set }: Parameters<NonNullable<Kind['Beside']>>[0]) {
  return (
    <>
      <Toggle label="lamp load" on={draft.load === 'lamp'} onChange={(on) => set({ load: on ? 'lamp' : null })} />
      {draft.load === 'lamp' && <LampSize draft={draft} lamps={lamps} set={set} />}
    </>
  )
}

/** Volts, or volts under a lamp. */
export const voltage: Kind = {
  Entry, Beside, twoPoints: true,
  lamp: (draft) => draft.load === 'lamp',
  mayMove: (draft, live) => [draft.red, draft.black].some((point) => (live.terminals as readonly string[]).includes(point.split('.').at(-1) ?? '')),
  own: (draft) => (draft.load ? { load: draft.load, watts: draft.watts } : {}),
} // prettier-ignore
