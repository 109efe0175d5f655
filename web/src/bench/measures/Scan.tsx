import { Select } from 'antd'
import { Choices } from '../Choices'
import { Typed } from '../Typed'
import type { EntryProps, Kind } from './kind'
import { say } from '../../shared/vocabulary'

function Entry(props: EntryProps) {
  const { view, draft, onTake, busy } = props
  const chosen = view.choices.scans.find((item) => item.pid === draft.pid)
  const names = chosen?.words ?? []
  if (names.length === 0) return <Typed {...props} unit={chosen?.unit ?? ''} before={<PidSelect {...props} />} />
  return (
    <div className="picked">
      <PidSelect {...props} />
      <Choices names={names} onTake={onTake} busy={busy} />
    </div>
  )
}

function PidSelect({ view, draft, dispatch }: EntryProps) {
  const listed = view.choices.scans.map((item) => item.pid as string)
  const pids = listed.includes(draft.pid) ? listed : [draft.pid, ...listed]
  return (
    <Select
      value={draft.pid}
      onChange={(pid: string) => dispatch({ type: 'set', change: { pid, value: '' } })}
      aria-label="Scan value"
      className="pid"
      options={pids.map((pid) => ({ value: pid, label: say(pid) }))}
    />
  )
}

/** One look at a scan value, or the span it ran through. */
export const scan: Kind = {
  Entry, onTool: true,
  mayMove: (draft, live) => (live.pids as readonly string[]).includes(draft.pid),
  own: (draft) => ({ pid: draft.pid }),
} // prettier-ignore
