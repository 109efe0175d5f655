/** What a measurement is at the bench: one file each, listed in `index.ts`. */
import type { Dispatch, FC } from 'react'
import type { JobView } from '../../api/client'
import type { Action } from '../draft'
import type { Choices, Draft } from '../reading'

export interface EntryProps {
  view: JobView
  draft: Draft
  dispatch: Dispatch<Action>
  onTake: (value?: string) => void
  /** Nothing can be taken now: a second touch would note the same again. */
  busy: boolean
}

export interface Kind {
  /** Where the value is typed or picked. */
  Entry: FC<EntryProps>
  /** What only this measurement has beside the vehicle's state. */
  Beside?: FC<{ draft: Draft; lamps: Choices['lamps']; set: (change: Partial<Draft>) => void }>
  /** Two leads lie on two points. */
  twoPoints?: boolean
  /** A touch marks one place. */
  marksOne?: (draft: Draft) => boolean
  /** What is said of that place. */
  placeWords?: (draft: Draft, words: (point: string) => string) => string
  /** It lies at one point from the start. */
  clamps?: boolean
  /** It is read off the scan tool: plugged in unless said otherwise. */
  onTool?: boolean
  /** Nothing may be live. */
  asleep?: boolean
  /** Eyes or hands: nothing flows in the drawing. */
  byHand?: boolean
  /** A lamp lies across the leads. */
  lamp?: (draft: Draft) => boolean
  /** Whether what is read may be a span, or be said to stand still, drift or switch. */
  mayMove?: (draft: Draft, live: Choices['live']) => boolean
  /** Its own fields of the reading; the two points and the state come along. */
  own?: (draft: Draft) => Record<string, unknown>
  /** Fields of a proposed reading that the draft calls by another name. */
  from?: (proposed: Record<string, unknown>) => Partial<Draft>
  /** The value, where it is more than what was typed. */
  value?: (draft: Draft) => unknown
}
