import { memo } from 'react'
import { Link } from 'react-router'
import type { Decoded } from '../api/client'
import { PlaceSketch } from './PlaceSketch'

export const CodeCard = memo(function CodeCard({ job, codes, address, place }: { job: number; codes: Decoded[]; address: string; place: string }) {
  const primary = codes.find((code) => code.kind === 'oxygen' || code.kind === 'nox') ?? codes[0]
  if (!primary) return <p className="muted">No code: the sensor was chosen by hand.</p>
  return (
    <>
      <h2 className="figure code-name">{primary.code}</h2>
      <p>
        <strong>{primary.title}.</strong>
      </p>
      <Says code={primary} />
      {primary.kind === 'oxygen' && <PlaceSketch address={address} />}
      <p>
        <strong>{place}</strong>
      </p>
      <Link to={`/jobs/${job}/place`} className="quiet">
        Where it sits, plug and pins
      </Link>
      <Link to={`/jobs/${job}/figures`} className="quiet">
        This sensor’s figures
      </Link>
      {codes.length > 1 && (
        <>
          <h3>Order to work in</h3>
          <ol className="triage">
            {codes.map((code, index) => (
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
})

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
