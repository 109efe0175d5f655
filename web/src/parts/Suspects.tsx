import type { JobView } from '../api/client'

type Component = JobView['told']['components'][number]

/** What it could be, grouped by component; and what is proven so far. */
export function Suspects({ view }: { view: JobView }) {
  const { components, parts } = view.told
  return (
    <section className={view.behind ? 'suspects behind' : 'suspects'} aria-label="What it could be" aria-busy={view.behind === 'working'}>
      <h2>What it could be</h2>
      <ul className="plain">
        {components.filter(likely).map((item) => (
          <Suspect key={item.component} item={item} />
        ))}
      </ul>
      <p className="unlikely">{components.filter((item) => !likely(item)).map((item) => `${item.component} ${item.told}`).join(' · ')}</p>
      <p className="proofs">
        {parts.map((item) =>
          item.by.length > 0 ? (
            <span key={item.part} className="proof yes" title={`by reading ${item.by.map((place) => place + 1).join(', ')}`}>
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

/** Whether a fault of it is likely enough to be listed. */
const likely = (item: Component) => item.faults.length > 0

/** How far the newest reading moved the belief, in percentage points. */
function Moved({ points }: { points: number }) {
  if (points === 0) return null
  return (
    <span className={points > 0 ? 'moved up' : 'moved'} title="by the newest reading">
      {points > 0 ? '▲' : '▼'} {Math.abs(points)}
    </span>
  )
}

function Suspect({ item }: { item: Component }) {
  return (
    <li className="component">
      <span className="component-head">
        <strong>{item.component}</strong>
        <Moved points={item.moved} />
        <span className="figure">{item.told}</span>
      </span>
      <span className="bar" aria-hidden="true">
        <span style={{ width: `${Math.min(100, item.share * 100)}%` }} />
      </span>
      {item.faults.map((fault) => (
        <span key={fault.says} className="fault">
          {fault.says} <span className="figure">{fault.share}</span>
        </span>
      ))}
    </li>
  )
}
