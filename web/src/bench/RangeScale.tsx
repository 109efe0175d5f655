import type { Judged } from '../api/client'

/** The expected range as a small scale with the value on it. Resistances by ratio, everything else evenly. */
export function RangeScale({ judged }: { judged: Judged }) {
  const { low, high, value } = judged
  if (low === null || low === undefined || high === null || high === undefined || high <= low) return null
  const byRatio = judged.kind === 'resistance' && low > 0
  const at = (x: number) => (byRatio ? Math.log(Math.max(x, low / 1e3)) : x)
  const span = at(high) - at(low)
  const place = (x: number) => Math.max(2, Math.min(98, 25 + (50 * (at(x) - at(low))) / span))
  const shown = value === null || value === undefined ? 98 : place(value)
  return (
    <div className="scale" aria-hidden="true">
      <span className="scale-range" />
      <span className={`scale-value ${judged.result}`} style={{ left: `${shown}%` }} />
      <span className="scale-text">
        {judged.expected} {judged.against === 'spec' ? `(${judged.source ?? 'spec'})` : '(sound circuit)'}
      </span>
    </div>
  )
}
