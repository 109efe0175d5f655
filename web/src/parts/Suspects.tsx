import type { JobView } from '../api/client'
import { PART, percent } from '../model/words'

const COMPONENTS = ['sensor', 'wiring', 'supply', 'module', 'exhaust', 'mixture', 'catalyst', 'dosing']

/** What it could be, grouped by component; and what is proven so far. */
export function Suspects({ view }: { view: JobView }) {
  const { verdict } = view
  return (
    <section className={view.behind ? 'suspects behind' : 'suspects'} aria-label="What it could be" aria-busy={view.behind === 'working'}>
      <h2>What it could be</h2>
      <ul className="plain">
        {COMPONENTS.filter((name) => name in verdict.by_component).map((name) => (
          <Component key={name} name={name} view={view} />
        ))}
      </ul>
      <p className="proofs">
        {verdict.proven.map((item) => (
          <span key={item.part} className="proof yes" title={`by reading ${item.by.map((place) => place + 1).join(', ')}`}>
            ✓ {PART[item.part] ?? item.part}
          </span>
        ))}
        {verdict.unproven.map((part) => (
          <span key={part} className="proof">
            {PART[part] ?? part}: open
          </span>
        ))}
      </p>
    </section>
  )
}

/** How far the newest reading moved the belief. */
function Moved({ name, view }: { name: string; view: JobView }) {
  const now = view.verdict.by_component[name]
  const before = view.before?.[name]
  if (now === undefined || before === undefined) return null
  const points = Math.round(100 * (now - before))
  if (points === 0) return null
  return (
    <span className={points > 0 ? 'moved up' : 'moved'} title="by the newest reading">
      {points > 0 ? '▲' : '▼'} {Math.abs(points)}
    </span>
  )
}

function Component({ name, view }: { name: string; view: JobView }) {
  const share = view.verdict.by_component[name] ?? 0
  const best = view.verdict.suspects.filter((item) => item.component === name && item.probability >= 0.05).slice(0, 2)
  return (
    <li className="component">
      <span className="component-head">
        <strong>{name}</strong>
        <Moved name={name} view={view} />
        <span className="figure">{percent(share)}</span>
      </span>
      <span className="bar" aria-hidden="true">
        <span style={{ width: `${Math.min(100, share * 100)}%` }} />
      </span>
      {best.map((item) => (
        <span key={item.fault} className="fault">
          {item.says} <span className="figure">{percent(item.probability)}</span>
        </span>
      ))}
    </li>
  )
}
