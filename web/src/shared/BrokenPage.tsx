import { Button } from 'antd'
import { Link, useRouteError } from 'react-router'

/** A page that failed as a whole: what happened, and two ways on. */
export function BrokenPage() {
  const error = useRouteError()
  return (
    <main className="start">
      <div role="alert" className="problem broken-part">
        <p>
          <strong>This page cannot be shown.</strong> What was saved is safe.
        </p>
        <p className="muted">{error instanceof Error ? error.message : String(error)}</p>
        <Button onClick={() => window.location.reload()}>Load it anew</Button>
      </div>
      <Link to="/" className="quiet">
        Back to the jobs
      </Link>
    </main>
  )
}
