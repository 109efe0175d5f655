import { Refused } from '../api/client'
import { plainField } from './words'

/** What went wrong and what was expected instead. */
export function Problem({ error }: { error: Error }) {
  const findings = error instanceof Refused ? error.problem.findings : []
  if (findings.length === 0) {
    return (
      <p role="alert" className="problem">
        {error.message}
      </p>
    )
  }
  return (
    <div role="alert" className="problem">
      {findings.map((finding) => (
        <p key={`${finding.field}${finding.expected}`}>
          <strong>{plainField(finding.field)}</strong> Expected {finding.expected}.
          {finding.found ? ` You gave “${finding.found}”.` : ''}
        </p>
      ))}
    </div>
  )
}
