import { Refused } from '../api/client'

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
          <strong>{plainField(finding.field)}</strong> Expected {finding.expected}.{finding.found ? ` You gave “${finding.found}”.` : ''}
        </p>
      ))}
    </div>
  )
}

function plainField(field: string): string {
  const last = field.split('.').at(-1) ?? field
  const text = last.replace(/\[\d+\]/g, '').replace(/_/g, ' ')
  return text ? `${text.charAt(0).toUpperCase()}${text.slice(1)}:` : ''
}
