import { Button, Input } from 'antd'
import { useEffect, useRef } from 'react'
import type { EntryProps } from './measures/kind'
import { writingElsewhere } from './writing'

/** Several figures of one picture: a scope's screen, a recording. */
export function Figures({
  of,
  labels,
  draft,
  dispatch,
  onTake,
  busy,
}: EntryProps & { of: 'scope' | 'trace'; labels: Record<string, string> }) {
  const typed = draft[of] as Record<string, string>
  const form = useRef<HTMLFormElement>(null)
  const spot = `${of} ${draft.red} ${draft.black} ${draft.signal}`
  useEffect(() => {
    const first = form.current?.querySelector('input') ?? null
    if (!writingElsewhere(first)) first?.focus({ preventScroll: true })
  }, [spot, busy])
  return (
    <form
      ref={form}
      className="display figures"
      onSubmit={(event) => {
        event.preventDefault()
        onTake()
      }}
    >
      {Object.entries(labels).map(([name, label]) => (
        <label key={name}>
          {label}
          <Input
            className="figure"
            value={typed[name] ?? ''}
            onChange={(event) => dispatch({ type: 'figure', of, name, value: event.target.value })}
          />
        </label>
      ))}
      <Button type="primary" htmlType="submit" disabled={busy}>
        Take it ⏎
      </Button>
    </form>
  )
}
