import { type KeyboardEvent, memo } from 'react'
import type { Drawing } from '../api/client'

/** A place for a probe: a small ring in a large touch area. */
export const BoardPoint = memo(function BoardPoint(props: {
  point: Drawing['points'][number]
  lead: 'red' | 'black' | 'clamp' | null
  onTouch?: (point: string) => void
}) {
  const { point, lead } = props
  const touch = () => props.onTouch?.(point.id)
  const key = (event: KeyboardEvent) => {
    if (event.key !== 'Enter' && event.key !== ' ') return
    event.preventDefault()
    touch()
  }
  const named = lead ? `${point.words}, ${lead === 'clamp' ? 'clamp' : `${lead} lead`} here` : point.words
  if (!props.onTouch) return <circle cx={point.x} cy={point.y} r={4} className="ring still" />
  return (
    <g className={`point ${lead ?? ''}`} role="button" tabIndex={0} aria-label={named} onClick={touch} onKeyDown={key}>
      <title>{point.words}</title>
      <circle cx={point.x} cy={point.y} r={25} className="reach" />
      <circle cx={point.x} cy={point.y} r={lead ? 9 : 5.5} className="ring" />
    </g>
  )
})
