import { memo } from 'react'
import { Link } from 'react-router'
import type { Decoded, JobView } from '../api/client'
import { PlaceSketch } from './PlaceSketch'

type Where = Pick<JobView, 'bank' | 'position' | 'address_help' | 'place'>

export const CodeCard = memo(function CodeCard({
  job,
  codes,
  primary,
  where,
  kind,
}: {
  job: number
  codes: Decoded[]
  primary: Decoded | null
  where: Where
  kind: string
}) {
  return (
    <>
      {primary ? (
        <Named code={primary} where={where} kind={kind} />
      ) : (
        <p className="muted">No code names this sensor: it was chosen by hand.</p>
      )}
      <p>
        <strong>{where.place}</strong>
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

function Named({ code, where, kind }: { code: Decoded; where: Where; kind: string }) {
  return (
    <>
      <h2 className="figure code-name">{code.code}</h2>
      <p>
        <strong>{code.title}.</strong>
      </p>
      {kind && <p className="not-said">{kind}</p>}
      <Says code={code} />
      {code.kind === 'oxygen' && <PlaceSketch bank={where.bank} position={where.position} help={where.address_help} />}
    </>
  )
}

function Says({ code }: { code: Decoded }) {
  return (
    <>
      <p>{code.explains}</p>
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
