import { Input, Segmented, Select } from 'antd'
import type { Dispatch } from 'react'
import type { JobView } from '../api/client'
import { type Action, type Draft, mayMove } from './draft'
import { say } from '../shared/vocabulary'

/** What the value did while it was watched, and another sensor's beside it. */
export function Live({
  view,
  draft,
  dispatch,
  onEnter,
}: {
  view: JobView
  draft: Draft
  dispatch: Dispatch<Action>
  onEnter: () => void
}) {
  const { choices } = view
  if (!mayMove(draft, choices.live)) return null
  const set = (change: Partial<Draft>) => dispatch({ type: 'note', change })
  const beside = choices.others.filter((name) => /^B\dS\d$/.test(name) && name !== draft.of)
  return (
    <div className="live" role="group" aria-label="As it was seen">
      <Moves
        value={draft.moves}
        offered={choices.live.moves}
        onChange={(moves) => set({ moves })}
        label="What it did"
      />
      {beside.length > 0 && (
        <Select
          allowClear
          aria-label="Another sensor beside it"
          placeholder="+ beside it"
          value={draft.beside || undefined}
          className="beside"
          options={beside.map((value) => ({ value, label: say(value) }))}
          onChange={(name?: string) => set({ beside: name ?? '' })}
        />
      )}
      {draft.beside && (
        <span className="beside-entry">
          <Input
            className="figure"
            aria-label={`What ${draft.beside} shows`}
            placeholder={`${say(draft.beside)} reads…`}
            value={draft.beside_value}
            onChange={(event) => set({ beside_value: event.target.value })}
            onKeyDown={(event) => event.key === 'Enter' && onEnter()}
          />
          <Moves
            value={draft.beside_moves}
            offered={choices.live.moves}
            onChange={(beside_moves) => set({ beside_moves })}
            label={`What ${draft.beside} did`}
          />
        </span>
      )}
    </div>
  )
}

type Moving = Draft['moves']

/** One touch each; touched again it is not noted. */
function Moves({
  value,
  offered,
  onChange,
  label,
}: {
  value: Moving
  offered: readonly string[]
  onChange: (moves: Moving) => void
  label: string
}) {
  return (
    <Segmented<Moving>
      aria-label={label}
      value={value}
      onChange={onChange}
      options={[
        { value: '' as Moving, label: 'one look' },
        ...offered.map((name) => ({ value: name as Moving, label: name })),
      ]}
    />
  )
}
