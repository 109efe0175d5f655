import { Link } from 'react-router'
import type { JobView } from '../api/client'
import { Corner } from '../shared/Corner'
import { JobProgress } from '../shared/JobProgress'
import { JobTitle } from '../shared/JobTitle'
import { Intake } from './Intake'

/** The bench's head: which job it is, where it stands, and the ways from here. */
export function BenchHead({ view }: { view: JobView }) {
  return (
    <header className="bench-head">
      <Link to="/" className="quiet" aria-label="All jobs">
        ← Jobs
      </Link>
      <JobTitle view={view} />
      <JobProgress view={view} />
      <Intake view={view} />
      <Link to={`/jobs/${view.id}/curves`} className="quiet">
        Curves
      </Link>
      <Link to={`/jobs/${view.id}/mend`} className="quiet">
        Mend
      </Link>
      <Link to={`/jobs/${view.id}/sheet`} className="quiet">
        Sheet
      </Link>
      <Corner />
    </header>
  )
}
