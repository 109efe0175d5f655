import { Select } from 'antd'
import type { ReactNode } from 'react'
import { Choices } from './Choices'
import type { EntryProps } from './measures/kind'
import { say } from '../shared/vocabulary'

/** What was looked at or done, and what came of it. */
export function Picked(
  props: EntryProps & { field: 'target' | 'action'; options: Record<string, string[]>; between?: ReactNode },
) {
  const { draft, dispatch, field, options } = props
  return (
    <div className="picked">
      <Select
        value={draft[field]}
        onChange={(name: string) => dispatch({ type: 'set', change: { [field]: name, place: '', at: '' } })}
        aria-label={field === 'target' ? 'What was looked at' : 'What was done'}
        options={Object.keys(options).map((name) => ({ value: name, label: say(name) }))}
      />
      {props.between}
      <Choices names={options[draft[field]] ?? []} onTake={props.onTake} busy={props.busy} />
    </div>
  )
}
