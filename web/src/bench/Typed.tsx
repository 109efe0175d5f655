import { Button } from 'antd'
import { type SubmitEvent, type ReactNode, useEffect, useRef } from 'react'
import { Live } from './Live'
import type { EntryProps } from './measures/kind'
import { writingElsewhere } from './writing'

/** A finger has the pad: the screen's own keyboard would cover half of the bench. */
const byFinger = () => window.matchMedia('(hover: none) and (pointer: coarse)').matches

/** A number typed as a person types it. before: what stands ahead of it; unit: behind it; padded: whether the number pad is there. */
export function Typed({
  view,
  draft,
  dispatch,
  onTake,
  busy,
  unit,
  before,
  padded,
}: EntryProps & { unit: string; before?: ReactNode; padded?: boolean }) {
  const input = useRef<HTMLInputElement>(null)
  const spot = `${draft.measure} ${draft.red} ${draft.black} ${draft.lead} ${draft.at} ${draft.pid}`
  useEffect(() => {
    if (!writingElsewhere(input.current)) input.current?.focus({ preventScroll: true })
  }, [spot, busy])
  const submit = (event: SubmitEvent) => {
    event.preventDefault()
    if (draft.value.trim()) onTake()
  }
  return (
    <>
      <form className="display" onSubmit={submit}>
        {before}
        <input
          ref={input}
          className="figure"
          inputMode={byFinger() && padded ? 'none' : 'text'}
          autoComplete="off"
          value={draft.value}
          onChange={(event) => dispatch({ type: 'type', value: event.target.value })}
          placeholder="reads…"
          aria-label="What the meter shows"
        />
        <span className="unit">{unit}</span>
        <Button type="primary" htmlType="submit" disabled={busy || !draft.value.trim()}>
          Take it ⏎
        </Button>
      </form>
      <Live view={view} draft={draft} dispatch={dispatch} onEnter={() => draft.value.trim() && onTake()} />
    </>
  )
}
