import { Link } from 'react-router'
import type { Decoded, JobView } from '../api/client'
import { PlaceSketch } from './PlaceSketch'

export function CodeCard({ view }: { view: JobView }) {
  const primary = view.codes.find((code) => code.kind === 'oxygen' || code.kind === 'nox') ?? view.codes[0]
  if (!primary) return <p className="muted">No code: the sensor was chosen by hand.</p>
  return (
    <>
      <h2 className="figure code-name">{primary.code}</h2>
      <p>
        <strong>{primary.title}.</strong>
      </p>
      <Says code={primary} />
      {primary.kind === 'oxygen' && <PlaceSketch address={view.address} />}
      <p>
        <strong>{view.place}</strong>
      </p>
      <Link to={`/jobs/${view.id}/place`} className="quiet">
        Where it sits, plug and pins
      </Link>
      <Link to={`/jobs/${view.id}/figures`} className="quiet">
        This sensor’s figures
      </Link>
      {view.codes.length > 1 && (
        <>
          <h3>Order to work in</h3>
          <ol className="triage">
            {view.codes.map((code, index) => (
              <li key={`${code.code}${index}`}>
                <details>
                  <summary>
                    <span className="figure">{code.code}</span> {code.status ?? ''}
                  </summary>
                  {code.title}. {code.why_here}
                </details>
              </li>
            ))}
          </ol>
        </>
      )}
    </>
  )
}

function Says({ code }: { code: Decoded }) {
  return (
    <>
      <p>{code.says.replace(`${code.title}. `, '')}</p>
      <p className="not-said">{code.does_not_say}</p>
      {code.clear_and_see && (
        <details>
          <summary>Clear it and see?</summary>
          {code.clear_and_see} {code.severity}
        </details>
      )}
    </>
  )
}
