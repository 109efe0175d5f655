import { useState } from 'react'
import type { JobView } from '../api/client'

type Component = JobView['summary']['components'][number]
type Why = Component['why']

/** What it could be, grouped by component; and what is proven so far. A chance that is touched says what made it. */
export function Suspects({ view }: { view: JobView }) {
  const { components, parts } = view.summary
  const [asked, setAsked] = useState<string | null>(null)
  const ask = (what: string) => setAsked((was) => (was === what ? null : what))
  return (
    <section
      className={view.behind ? 'suspects behind' : 'suspects'}
      aria-label="What it could be"
      aria-busy={view.behind === 'working'}
    >
      <h2>What it could be</h2>
      <ul className="plain">
        {components.filter(likely).map((item) => (
          <Suspect key={item.component} item={item} view={view} asked={asked} onAsk={ask} />
        ))}
      </ul>
      <p className="unlikely">
        {components
          .filter((item) => !likely(item))
          .map((item) => `${item.component} ${item.percent}`)
          .join(' · ')}
      </p>
      <p className="proofs">
        {parts.map((item) =>
          item.by.length > 0 ? (
            <span
              key={item.part}
              className="proof yes"
              title={`by reading ${item.by.map((place) => place + 1).join(', ')}`}
            >
              ✓ {item.label}
            </span>
          ) : (
            <span key={item.part} className="proof">
              {item.label}: not proven
            </span>
          ),
        )}
      </p>
    </section>
  )
}

/** Whether it, or a fault of it, is likely enough to be listed. */
const likely = (item: Component) => item.faults.length > 0 || item.share >= 0.1

/** How far the newest reading moved the belief, in percentage points. */
function Moved({ points }: { points: number }) {
  if (points === 0) return null
  return (
    <span className={points > 0 ? 'moved up' : 'moved'} title="by the newest reading">
      {points > 0 ? '▲' : '▼'} {Math.abs(points)}
    </span>
  )
}

interface Asking {
  view: JobView
  asked: string | null
  onAsk: (what: string) => void
}

function Suspect({ item, view, asked, onAsk }: Asking & { item: Component }) {
  return (
    <li className="component">
      <button
        type="button"
        className="component-head ask"
        aria-expanded={asked === item.component}
        onClick={() => onAsk(item.component)}
      >
        <strong>{item.component}</strong>
        <Moved points={item.moved} />
        <span className="figure">{item.percent}</span>
      </button>
      <span className="bar" aria-hidden="true">
        <span style={{ width: `${Math.min(100, item.share * 100)}%` }} />
      </span>
      {asked === item.component && <Told why={item.why} view={view} />}
      {item.faults.map((fault) => (
        <span key={fault.says}>
          <button
            type="button"
            className="fault ask"
            aria-expanded={asked === fault.says}
            onClick={() => onAsk(fault.says)}
          >
            {fault.says} <span className="figure">{fault.share}</span>
          </button>
          {asked === fault.says && <Told why={fault.why} view={view} />}
        </span>
      ))}
    </li>
  )
}

/** Why it has this chance: how common it is, and how far each reading speaks for it or against it. */
function Told({ why, view }: { why: Why; view: JobView }) {
  return (
    <ul className="plain why-told">
      <li>{why.before}</li>
      {why.readings.map((item) => (
        <li key={item.place}>
          <span className={item.speaks_for ? 'for' : 'against'}>{item.speaks_for ? '▲' : '▼'}</span> {item.place + 1} ·{' '}
          <span className="figure">{view.ledger[item.place]?.value}</span> {view.ledger[item.place]?.where}: {item.says}
        </li>
      ))}
      {why.readings.length === 0 && <li>No reading tells yet.</li>}
    </ul>
  )
}
