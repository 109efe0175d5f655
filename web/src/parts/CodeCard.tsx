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
      <PlaceSketch address={view.address} />
      {view.codes.length > 1 && (
        <>
          <h3>Listed with it</h3>
          <ul className="plain">
            {view.codes
              .filter((code) => code !== primary)
              .map((code, index) => (
                <li key={`${code.code}${index}`}>
                  <span className="figure">{code.code}</span> {code.title}
                </li>
              ))}
          </ul>
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
    </>
  )
}
