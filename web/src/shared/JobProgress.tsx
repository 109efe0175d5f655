import type { JobView } from '../api/client'

/** Where the job stands, from the code to the vehicle handed over. */
export function JobProgress({ view }: { view: JobView }) {
  return (
    <ol className="stands" aria-label="Where the job stands">
      {view.summary.steps.map((item) => (
        <li key={item.name} className={item.state} aria-current={item.state === 'now' ? 'step' : undefined}>
          {item.state === 'done' && <span aria-label="done">✓ </span>}
          {item.label}
        </li>
      ))}
    </ol>
  )
}
