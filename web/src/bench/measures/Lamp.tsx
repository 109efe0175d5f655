import { Choices } from '../Choices'
import { LampSize, Toggle } from '../Toggle'
import type { EntryProps, Kind } from './kind'
import { vocabulary } from '../../shared/vocabulary'

function Entry({ onTake, busy }: EntryProps) {
  return <Choices names={vocabulary().lights} onTake={onTake} busy={busy} />
}

function Beside({ draft, lamps, set }: Parameters<NonNullable<Kind['Beside']>>[0]) {
  return (
    <>
      <LampSize draft={draft} lamps={lamps} set={set} />
      <Toggle label="LED tester" on={draft.kind === 'led'} onChange={(on) => set({ kind: on ? 'led' : null })} />
      <Toggle
        label="in place of heater"
        on={draft.in_place_of === 'heater'}
        onChange={(on) => set({ in_place_of: on ? 'heater' : null })}
      />
    </>
  )
}

/** A test lamp's light. */
export const lamp: Kind = {
  Entry, Beside, twoPoints: true,
  lamp: () => true,
  own: (draft) => ({ watts: draft.watts, ...(draft.kind ? { kind: draft.kind } : {}), ...(draft.in_place_of ? { in_place_of: draft.in_place_of } : {}) }),
} // prettier-ignore
