import { Select } from 'antd'
import { Figures } from '../Figures'
import { noted } from '../noted'
import { EMPTY } from '../reading'
import type { EntryProps, Kind } from './kind'
import { say } from '../../shared/vocabulary'

/** The figures read off a recording of one scan value. */
function Entry(props: EntryProps) {
  const { view, draft, dispatch } = props
  const offered = view.choices.recordings
  const chosen = offered.find((item) => item.signal === draft.signal)
  const unit = chosen?.unit ? `, ${chosen.unit}` : ''
  const labels = Object.fromEntries(
    (chosen?.figures ?? (['min', 'max'] as const)).map((name) => [
      name,
      `${say(name)}${name === 'min' || name === 'max' ? unit : ''}`,
    ]),
  )
  return (
    <div className="picked">
      <Select
        value={draft.signal}
        onChange={(signal: string) => dispatch({ type: 'set', change: { signal, trace: EMPTY.trace } })}
        aria-label="What was recorded"
        options={[...new Set([...offered.map((item) => item.signal as string), draft.signal])].map((signal) => ({
          value: signal,
          label: say(signal),
        }))}
      />
      <Figures of="trace" labels={labels} {...props} />
    </div>
  )
}

/** The figures of a recorded scan value. */
export const trace: Kind = {
  Entry, onTool: true,
  own: (draft) => ({ signal: draft.signal }),
  value: (draft) => noted(draft.trace),
} // prettier-ignore
